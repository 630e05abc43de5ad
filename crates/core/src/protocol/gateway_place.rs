//! The gateway's own place: where bands stay on its own antennas, which ways of standing are worth a test with the antenna left alone.

use crate::geo::normalise_bearing_deg;
use crate::hardware::ports::branches_on;
use crate::hardware::resolve::Resolved;
use crate::model::{AntennaSwitch, BandName, PortSwitch, Setup, SetupSpec};

/// Ways that a gateway faces, a quarter turn apart, degrees.
const QUARTERS: [f64; 4] = [0.0, 90.0, 180.0, 270.0];

/// Bands of those `heard` that a kit's gateway receives with its own antennas, wholly or in part: fewer leads reach it on them than it has
/// layers. None without an antenna, or where the gateway cuts its own antennas off.
pub fn inner_bands(kit: &Resolved, heard: &[BandName]) -> Vec<BandName> {
    let Some((_, gateway)) = kit.gateway.filter(|_| kit.antenna.is_some()) else { return Vec::new() };
    if gateway.outdoor.is_some() || gateway.switch == PortSwitch::Permanent {
        return Vec::new();
    }
    let inside = |band: &&BandName| branches_on(kit, **band) < gateway.layers_on(**band);
    heard.iter().filter(inside).copied().collect()
}

/// A setup with the gateway turned by quarters, and at another place if one is named; the antenna and all else as they are. Ways that
/// are among `others` already are left out.
pub fn gateway_turns(setup: &Setup, place: Option<&str>, others: &[&Setup]) -> Vec<SetupSpec> {
    if setup.spec.antenna != AntennaSwitch::External {
        return Vec::new();
    }
    let place = place.map(str::trim).filter(|place| !place.is_empty());
    let moved = place.is_some_and(|place| place != setup.spec.gateway_place);
    let here = setup.spec.gateway_azimuth_deg;
    let turned = |quarter: f64| SetupSpec {
        gateway_azimuth_deg: Some(normalise_bearing_deg(here.unwrap_or(0.0) + quarter)),
        gateway_place: place.unwrap_or(&setup.spec.gateway_place).to_owned(),
        ..setup.spec.clone()
    };
    // As it stands it is known already, where it is known which way it faces.
    let first = usize::from(!moved && here.is_some());
    let made = |spec: &SetupSpec| {
        let same = |other: &&&Setup| {
            other.position_id == setup.position_id
                && other.archived_at.is_none()
                && other.spec.stands_like(spec)
        };
        others.iter().find(same).is_some()
    };
    QUARTERS[first..].iter().map(|quarter| turned(*quarter)).filter(|spec| !made(spec)).collect()
}
