//! Whether a speed test measured the line, or something slower than it.

use super::Finding;
use crate::capacity::ethernet_payload_mbps;
use crate::model::{InterfaceKind, NetworkInterface, SpeedFigure, SpeedTest};
use serde::{Deserialize, Serialize};

/// A rate this near to what a wire carries is the wire's, share of it (common practice, no source).
const NEAR_THE_WIRE: f64 = 0.85;
/// A core this busy is the limit, share (common practice, no source).
const BUSY: f64 = 0.97;
/// Other traffic counts from this rate on, Mbit/s, and from this share of what was measured (common practice, no source).
const OTHER_MBPS: f64 = 0.5;
const OTHER_SHARE: f64 = 0.05;
/// A body of random bytes keeps its length; one that is packed to less than this share of it is not random.
const PACKED: f64 = 0.9;

/// Why a test may not have measured the line.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "doubt", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum TestDoubt {
    /// It went through a VPN or another tunnel.
    Tunnel { interface: String },
    /// It went over Wi-Fi.
    Wifi { interface: String },
    /// It reached what the wire can carry.
    WireLimit { interface: String, link_mbps: u32, payload_mbps: f64 },
    /// This computer had nothing left to give.
    ProcessorLimit { busy: f64 },
    /// This computer used the line for something else just before.
    OtherTraffic { down_mbps: f64, up_mbps: f64 },
    /// The body can be compressed: what compresses on the way makes it look faster.
    Compressible { packed_share: f64 },
    /// The body came compressed although it was asked for plain.
    Encoded { coding: String },
    /// Something else than the server may have answered.
    OnTheWay { via: String },
}

impl TestDoubt {
    /// Whether both doubt the same, whatever the values.
    fn is_like(&self, other: &Self) -> bool {
        std::mem::discriminant(self) == std::mem::discriminant(other)
    }
}

/// Everything that lets doubt whether `test` measured the line; nothing where its surroundings are not known.
pub fn test_doubts(test: &SpeedTest) -> Vec<TestDoubt> {
    let Some(around) = &test.surroundings else { return Vec::new() };
    let figure = |figure: SpeedFigure| figure.of(&test.figures).unwrap_or(0.0);
    let (down, up) = (figure(SpeedFigure::Download), figure(SpeedFigure::Upload));
    let mut doubts = Vec::new();
    doubts.extend(around.interface.as_ref().and_then(|interface| of_interface(interface, down.max(up))));
    if let Some(busy) = around.busiest_core.filter(|busy| *busy >= BUSY) {
        doubts.push(TestDoubt::ProcessorLimit { busy });
    }
    let counts = |other: f64, measured: f64| other >= OTHER_MBPS && other >= OTHER_SHARE * measured;
    let (other_down, other_up) = (around.other_down_mbps.unwrap_or(0.0), around.other_up_mbps.unwrap_or(0.0));
    if counts(other_down, down) || counts(other_up, up) {
        doubts.push(TestDoubt::OtherTraffic { down_mbps: other_down, up_mbps: other_up });
    }
    match (&around.content_encoding, around.packed_share) {
        (Some(coding), _) => doubts.push(TestDoubt::Encoded { coding: coding.clone() }),
        (None, Some(packed_share)) if packed_share < PACKED => {
            doubts.push(TestDoubt::Compressible { packed_share });
        }
        _ => {}
    }
    doubts.extend(around.via.clone().map(|via| TestDoubt::OnTheWay { via }));
    doubts
}

fn of_interface(interface: &NetworkInterface, rate_mbps: f64) -> Option<TestDoubt> {
    let name = || interface.name.clone();
    match interface.kind {
        InterfaceKind::Tunnel => Some(TestDoubt::Tunnel { interface: name() }),
        InterfaceKind::Wifi => Some(TestDoubt::Wifi { interface: name() }),
        InterfaceKind::Wire => {
            let link_mbps = interface.rate_mbps?;
            let payload_mbps = ethernet_payload_mbps(f64::from(link_mbps));
            (rate_mbps >= NEAR_THE_WIRE * payload_mbps).then(|| TestDoubt::WireLimit {
                interface: name(),
                link_mbps,
                payload_mbps,
            })
        }
        _ => None,
    }
}

/// What lets doubt several tests, each kind once with the number of tests that it is of; the values are the last test's.
pub fn tests_doubted(tests: &[SpeedTest]) -> Vec<Finding> {
    let mut found: Vec<(TestDoubt, usize)> = Vec::new();
    for doubt in tests.iter().flat_map(test_doubts) {
        match found.iter_mut().find(|(known, _)| known.is_like(&doubt)) {
            Some((known, times)) => (*known, *times) = (doubt, *times + 1),
            None => found.push((doubt, 1)),
        }
    }
    let of = tests.len();
    found.into_iter().map(|(doubt, tests)| Finding::TestsDoubted { doubt, tests, of }).collect()
}
