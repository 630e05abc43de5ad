//! What to know before a run: what is carried over or detected, what only the user knows, and what would spoil a comparison.

use super::{Built, ChangedPart, changes};
use crate::judge::SetupEvidence;
use crate::model::{
    Attach, Conditions, InterfaceKind, Mount, NetworkInterface, SiteEvent, SpeedTestSettings, without_token,
};
use chrono::{DateTime, Duration, Utc};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// What was noted is carried over for so long (common practice, no source).
const CARRIED: Duration = Duration::hours(3);
/// Tests of one press on the button that asks for several.
const TESTS: f64 = 3.0;
/// Rates down and up where nothing was measured yet, Mbit/s: what a good mobile line gives.
const UNKNOWN_MBPS: (f64, f64) = (100.0, 20.0);
/// Events that are named.
const EVENTS: usize = 3;

/// The newest run of a site and what it was made on.
#[derive(Clone, Copy, Debug)]
pub struct LastRun<'a> {
    /// The setup.
    pub built: Built<'a>,
    /// Its name.
    pub label: &'a str,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// What was noted of it.
    pub conditions: &'a Conditions,
}

/// What is looked at before a run.
#[derive(Clone, Copy, Debug)]
pub struct PreflightInput<'a> {
    /// What is to be measured.
    pub built: Built<'a>,
    /// The newest run of the site.
    pub last: Option<LastRun<'a>>,
    /// What others are compared with; none where this is it.
    pub baseline: Option<&'a SetupEvidence>,
    /// How speed is measured.
    pub speed_test: Option<&'a SpeedTestSettings>,
    /// The way out to the test address.
    pub interface: Option<&'a NetworkInterface>,
    /// What was noted at the house, in any order.
    pub events: &'a [SiteEvent],
    /// Data of this month so far, MB.
    pub used_mb: f64,
    /// Data that a month has, MB.
    pub cap_mb: Option<f64>,
    /// Now.
    pub now: DateTime<Utc>,
}

/// One thing to know before a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum PreflightItem {
    /// Something else was measured last: this is to be built first.
    BuildFirst { last: String, changed: Vec<ChangedPart> },
    /// Tests would go through a tunnel or over Wi-Fi.
    WayDoubtful { interface: NetworkInterface },
    /// Tests of the baseline went over another kind of interface.
    WayDiffers { interface: NetworkInterface, baseline: Vec<InterfaceKind> },
    /// Tests of the baseline went to another address.
    ServerDiffers { baseline: Vec<String> },
    /// Something happened since the baseline was tested.
    EventSince { at: DateTime<Utc>, text: String },
    /// Three tests move more than the month has left.
    DataShort { left_mb: f64, tests_mb: f64 },
    /// Which lead goes to which port is not noted.
    PortsUnknown,
    /// Whether the gateway stayed attached is not known.
    AskAttach,
    /// The weather is not known.
    AskWeather,
    /// The antenna stands as in the newest run.
    Stands { since: DateTime<Utc> },
    /// As it was noted shortly before.
    AttachCarried { attach: Attach },
    /// As it was noted shortly before.
    WeatherCarried { weather: String },
    /// The way that tests will take.
    Way { interface: NetworkInterface },
    /// Tests of the baseline went to the same address.
    SameServer,
}

/// What is to be done about it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PreflightState {
    /// It would spoil a comparison.
    Warn,
    /// Only the user knows.
    Ask,
    /// Nothing.
    Known,
}

impl PreflightItem {
    /// What is to be done about it.
    pub fn state(&self) -> PreflightState {
        match self {
            Self::BuildFirst { .. }
            | Self::WayDoubtful { .. }
            | Self::WayDiffers { .. }
            | Self::ServerDiffers { .. }
            | Self::EventSince { .. }
            | Self::DataShort { .. } => PreflightState::Warn,
            Self::PortsUnknown | Self::AskAttach | Self::AskWeather => PreflightState::Ask,
            _ => PreflightState::Known,
        }
    }
}

/// Everything to know before a run, what would spoil it first, then what is asked, then what is known.
pub fn preflight(of: &PreflightInput) -> Vec<PreflightItem> {
    let moved = of.last.map(|last| changes(last.built, of.built));
    let mut found = place(of, moved.as_deref());
    found.extend(way(of));
    found.extend(server(of));
    found.extend(events(of));
    found.extend(data(of));
    found.extend(attach(of, moved.as_deref()));
    found.extend(weather(of));
    found.sort_by_key(PreflightItem::state);
    found
}

fn place(of: &PreflightInput, moved: Option<&[ChangedPart]>) -> Vec<PreflightItem> {
    let mut found = Vec::new();
    match (of.last, moved) {
        (Some(last), Some([])) => found.push(PreflightItem::Stands { since: last.started_at }),
        (Some(last), Some(changed)) => {
            found.push(PreflightItem::BuildFirst { last: last.label.to_owned(), changed: changed.to_vec() });
        }
        _ => {}
    }
    if of.built.is_external() && of.built.setup.spec.ports.is_empty() {
        found.push(PreflightItem::PortsUnknown);
    }
    found
}

fn way(of: &PreflightInput) -> Option<PreflightItem> {
    // A test server on this computer itself is a stand-in: no way leads to it.
    let leaves = |interface: &&NetworkInterface| interface.kind != InterfaceKind::Loopback;
    let interface = of.interface.filter(leaves).filter(|_| of.speed_test.is_some())?.clone();
    let tests = of.baseline.into_iter().flat_map(|baseline| &baseline.tests);
    let kinds: BTreeSet<InterfaceKind> =
        tests.filter_map(|test| Some(test.surroundings.as_ref()?.interface.as_ref()?.kind)).collect();
    let doubtful = matches!(interface.kind, InterfaceKind::Wifi | InterfaceKind::Tunnel);
    Some(match () {
        () if doubtful => PreflightItem::WayDoubtful { interface },
        () if !kinds.is_empty() && !kinds.contains(&interface.kind) => {
            PreflightItem::WayDiffers { interface, baseline: kinds.into_iter().collect() }
        }
        () => PreflightItem::Way { interface },
    })
}

fn server(of: &PreflightInput) -> Option<PreflightItem> {
    let own = without_token(&of.speed_test?.download_url);
    let named: BTreeSet<&str> = of.baseline?.tests.iter().map(|test| test.server.as_str()).collect();
    let named: Vec<String> = named.into_iter().filter(|name| !name.is_empty()).map(str::to_owned).collect();
    match named.contains(&own) {
        true => Some(PreflightItem::SameServer),
        false if named.is_empty() => None,
        false => Some(PreflightItem::ServerDiffers { baseline: named }),
    }
}

fn events(of: &PreflightInput) -> Vec<PreflightItem> {
    let Some(tested) = of.baseline.and_then(|one| one.tests.iter().map(|test| test.started_at).max()) else {
        return Vec::new();
    };
    let since = |event: &&SiteEvent| {
        event.archived_at.is_none() && event.happened_at > tested && event.happened_at <= of.now
    };
    let mut since: Vec<&SiteEvent> = of.events.iter().filter(since).collect();
    since.sort_by_key(|event| std::cmp::Reverse(event.happened_at));
    let named = since.into_iter().take(EVENTS);
    named.map(|one| PreflightItem::EventSince { at: one.happened_at, text: one.text.clone() }).collect()
}

fn data(of: &PreflightInput) -> Option<PreflightItem> {
    let tests = of.baseline.into_iter().flat_map(|baseline| &baseline.tests);
    let moved_mb = tests.map(|test| (test.figures.bytes_down + test.figures.bytes_up) as f64 / 1e6);
    let usual_mb = of.speed_test?.test_mb(UNKNOWN_MBPS);
    let tests_mb = TESTS * moved_mb.reduce(f64::max).filter(|moved| *moved > 0.0).unwrap_or(usual_mb);
    let left_mb = (of.cap_mb? - of.used_mb).max(0.0);
    (tests_mb > left_mb).then_some(PreflightItem::DataShort { left_mb, tests_mb })
}

fn lately<'a>(of: &PreflightInput<'a>) -> Option<&'a Conditions> {
    of.last.filter(|last| of.now - last.started_at <= CARRIED).map(|last| last.conditions)
}

/// Asked only where the antenna was moved: a gateway that stands as it did stayed attached or did not, and nothing follows from it.
fn attach(of: &PreflightInput, moved: Option<&[ChangedPart]>) -> Option<PreflightItem> {
    match (moved, lately(of)) {
        (Some([]), Some(noted)) if noted.attach != Attach::NotRecorded => {
            Some(PreflightItem::AttachCarried { attach: noted.attach })
        }
        // A lock alone moves nothing.
        (Some(changed), _) if changed.iter().any(|what| *what != ChangedPart::Lock) => {
            Some(PreflightItem::AskAttach)
        }
        _ => None,
    }
}

/// Asked only out of doors: rain on a lead and leaves in the path change nothing at a sill.
fn weather(of: &PreflightInput) -> Option<PreflightItem> {
    if let Some(noted) = lately(of).filter(|noted| !noted.weather.is_empty()) {
        return Some(PreflightItem::WeatherCarried { weather: noted.weather.clone() });
    }
    let indoors = matches!(of.built.position.mount, Mount::Indoor | Mount::Window | Mount::Attic);
    (!indoors).then_some(PreflightItem::AskWeather)
}
