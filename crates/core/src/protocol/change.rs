//! What differs between two setups as they stand, and what it takes to get from one to the other.

use crate::geo::turn_deg;
use crate::model::{AntennaSwitch, KitId, Position, PositionId, Setup};
use serde::{Deserialize, Serialize};

/// Up, undo, move, tighten, down: min a climb (common practice, no source).
const CLIMB_MIN: f64 = 15.0;
/// Moving an antenna or the gateway inside the house, min (common practice, no source).
const INDOORS_MIN: f64 = 4.0;
/// Leads to other ports, or the gateway to its other antennas, min (common practice, no source).
const LEADS_MIN: f64 = 2.0;
/// Telling the gateway another lock, and waiting until it is attached again, min (common practice, no source).
const LOCK_MIN: f64 = 1.0;
/// Turned by less than this is not turned, degrees: nobody reads a compass finer.
const TURNED_DEG: f64 = 1.0;
/// Higher by less than this is not higher, m.
const HIGHER_M: f64 = 0.2;

/// What was changed between two setups.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ChangedPart {
    /// The place.
    Position,
    /// The height at one place.
    Height,
    /// The gateway's own antennas or external ones.
    Antenna,
    /// The kit.
    Kit,
    /// The direction.
    Bearing,
    /// The elevation.
    Tilt,
    /// The polarisation.
    Polarisation,
    /// Leads to ports.
    Ports,
    /// Where the gateway stands, or which way it faces.
    GatewayPlace,
    /// The lock.
    Lock,
}

/// A setup with its position.
#[derive(Clone, Copy, Debug)]
pub struct Built<'a> {
    /// The setup.
    pub setup: &'a Setup,
    /// Where it stands.
    pub position: &'a Position,
}

impl Built<'_> {
    pub(super) fn is_external(&self) -> bool {
        self.setup.spec.antenna == AntennaSwitch::External
    }

    fn height_m(&self) -> Option<f64> {
        self.setup.spec.height_above_ground_m.or(self.position.height_above_ground_m)
    }
}

/// A gateway turned by less hears the same: its own antennas look all round, more or less (common practice, no source).
const GATEWAY_TURNED_DEG: f64 = 20.0;

/// Whether two values are known and differ by more than `least`.
fn apart(a: Option<f64>, b: Option<f64>, distance: impl Fn(f64, f64) -> f64, least: f64) -> bool {
    a.zip(b).is_some_and(|(a, b)| distance(a, b).abs() > least)
}

/// All that differs between two setups. What is not known of one of them does not count; the height goes with the place.
pub fn changes(from: Built, to: Built) -> Vec<ChangedPart> {
    let (a, b) = (&from.setup.spec, &to.setup.spec);
    let place = from.position.id != to.position.id;
    let external = from.is_external() && to.is_external();
    let straight = |a: f64, b: f64| a - b;
    let all = [
        (ChangedPart::Position, place),
        (ChangedPart::Height, !place && apart(from.height_m(), to.height_m(), straight, HIGHER_M)),
        (ChangedPart::Antenna, a.antenna != b.antenna),
        (ChangedPart::Kit, external && a.kit_id.zip(b.kit_id).is_some_and(|(a, b)| a != b)),
        (ChangedPart::Bearing, apart(a.azimuth_deg, b.azimuth_deg, turn_deg, TURNED_DEG)),
        (ChangedPart::Tilt, apart(a.tilt_deg, b.tilt_deg, straight, TURNED_DEG)),
        (ChangedPart::Polarisation, a.polarisation.zip(b.polarisation).is_some_and(|(a, b)| a != b)),
        (ChangedPart::Ports, !a.ports.is_empty() && !b.ports.is_empty() && a.ports != b.ports),
        (
            ChangedPart::GatewayPlace,
            apart(a.gateway_azimuth_deg, b.gateway_azimuth_deg, turn_deg, GATEWAY_TURNED_DEG)
                || !a.gateway_place.is_empty()
                    && !b.gateway_place.is_empty()
                    && a.gateway_place.trim() != b.gateway_place.trim(),
        ),
        (ChangedPart::Lock, a.lock != b.lock),
    ];
    all.into_iter().filter(|(_, differs)| *differs).map(|(what, _)| what).collect()
}

/// What it takes to get to a setup.
#[derive(Clone, Copy, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Move {
    /// Whether somebody has to go up.
    pub climb: bool,
    /// min
    pub minutes: f64,
}

/// How an external antenna stands.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Stands {
    position: PositionId,
    indoors: bool,
    height_m: Option<f64>,
    azimuth_deg: Option<f64>,
    tilt_deg: Option<f64>,
    polarisation: Option<crate::model::Polarisation>,
}

/// Where each kit's antenna stands: what was put up stays up until that kit is wanted elsewhere.
#[derive(Clone, Debug, Default)]
pub struct Antennas {
    stand: Vec<(Option<KitId>, Stands)>,
}

impl Antennas {
    /// Puts a setup's antenna up, without a move.
    pub fn put(&mut self, setup: Built) {
        if !setup.is_external() {
            return;
        }
        let spec = &setup.setup.spec;
        let stands = Stands {
            position: setup.position.id,
            indoors: setup.position.mount.is_indoors(),
            height_m: setup.height_m(),
            azimuth_deg: spec.azimuth_deg,
            tilt_deg: spec.tilt_deg,
            polarisation: spec.polarisation,
        };
        self.stand.retain(|(kit, _)| *kit != spec.kit_id);
        self.stand.push((spec.kit_id, stands));
    }

    /// What it takes to get from a setup to another one; afterwards the antenna stands there.
    pub fn go(&mut self, from: Option<Built>, to: Built) -> Move {
        let Some(from) = from else {
            self.put(to);
            return Move::default();
        };
        let changed = changes(from, to);
        let kit = to.setup.spec.kit_id;
        let here = |stand: &[(Option<KitId>, Stands)]| stand.iter().find(|one| one.0 == kit).map(|one| one.1);
        let before = here(&self.stand);
        self.put(to);
        let after = here(&self.stand);
        let moved = to.is_external() && before != after;
        let outside =
            |stands: Option<Stands>| to.is_external() && stands.is_some_and(|stands| !stands.indoors);
        let climb = moved && (outside(before) || outside(after));
        let about = |what: ChangedPart| changed.contains(&what);
        let indoors = moved && !climb
            || !to.is_external() && (about(ChangedPart::Position) || about(ChangedPart::Bearing))
            || about(ChangedPart::GatewayPlace);
        let leads = about(ChangedPart::Ports) || about(ChangedPart::Antenna) || about(ChangedPart::Kit);
        let minutes = [
            (climb, CLIMB_MIN),
            (indoors, INDOORS_MIN),
            (leads, LEADS_MIN),
            (about(ChangedPart::Lock), LOCK_MIN),
        ];
        Move { climb, minutes: minutes.iter().filter(|(counts, _)| *counts).map(|(_, min)| min).sum() }
    }
}
