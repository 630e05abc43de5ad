//! Spots of the record as observations of the radio environment.

use super::spot::SpotView;
use crate::geo::GeoPoint;
use crate::link::antenna::{Aim, AimAntenna};
use crate::link::cells::{Observation, SILL_M};
use crate::link::landscape::AntennaLocation;
use crate::model::{Instrument, Position, SetupSpec};

/// A spot with the setup that it was heard on.
#[derive(Clone, Copy, Debug)]
pub struct HeardOn<'a> {
    /// The spot.
    pub spot: &'a SpotView,
    /// The setup.
    pub setup: &'a SetupSpec,
    /// The position.
    pub position: &'a Position,
    /// What the setup has.
    pub antenna: AimAntenna<'a>,
    /// At a point of a sweep, with `setup` as it was turned there.
    pub turned: bool,
}

/// Where a setup's antenna is; without coordinates of its own it is at the house.
pub fn location_of(setup: &SetupSpec, position: &Position, house: Option<GeoPoint>) -> AntennaLocation {
    let height_m = setup.height_above_ground_m.or(position.height_above_ground_m);
    AntennaLocation {
        place: position.place.or(house),
        height_m: height_m.unwrap_or(SILL_M),
        mount: position.mount,
        position: Some(position.id),
    }
}

/// Where a setup's antenna points; `None` where it says nothing, or hears all round.
pub fn aim_of(setup: &SetupSpec, antenna: &AimAntenna) -> Option<Aim> {
    let azimuth_deg = setup.azimuth_deg.filter(|_| antenna.is_pointed())?;
    Some(Aim { azimuth_deg, elevation_deg: setup.tilt_deg.unwrap_or(0.0) })
}

/// Everything heard as observations. What a phone or modem heard is another antenna's, and serves only where nothing was heard
/// by the gateway.
pub fn observations<'a>(heard: &[HeardOn<'a>], house: Option<GeoPoint>) -> Vec<Observation<'a>> {
    let by_gateway = |one: &&HeardOn| one.spot.instrument == Instrument::Gateway;
    let any_gateway = heard.iter().any(|one| by_gateway(&one));
    heard
        .iter()
        .filter(|one| by_gateway(one) || !any_gateway)
        .map(|HeardOn { spot, setup, position, antenna, turned }| Observation {
            spot: spot.name.clone(),
            location: location_of(setup, position, house),
            antenna: *antenna,
            aim: aim_of(setup, antenna),
            turned: *turned,
            carriers: spot.carriers.iter().map(|one| one.carrier.clone()).collect(),
            mode: spot.mode,
            lock: setup.lock.clone(),
            samples: spot.samples,
            download_mbps: SpotView::typical(&spot.download),
            upload_mbps: SpotView::typical(&spot.upload),
        })
        .collect()
}
