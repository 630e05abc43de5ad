//! What kinds of outdoor antennas would do at this house: [`crate::link::predict`] against what is there now.

use super::spot::SpotView;
use crate::capacity::Estimate;
use crate::link::antenna::AimAntenna;
use crate::link::environment::Environment;
use crate::link::landscape::AntennaLocation;
use crate::link::predict::{CarrierPrediction, LinkSetup, predict};
use crate::link::why::Why;
use crate::metrics::careful_sinr_db;
use crate::model::{Carrier, OutdoorAntenna, OutdoorKind};
use serde::{Deserialize, Serialize};

/// What one kind of outdoor antenna is expected to do at this house.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutdoorOutlook {
    /// Kind.
    pub kind: OutdoorKind,
    /// On the widest carrier of the spot that it is received of, dB.
    pub rsrp_change_db: Estimate,
    /// On the same carrier, dB.
    pub sinr_change_db: Estimate,
    /// Expected, Mbit/s.
    pub download_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub upload_mbps: Option<Estimate>,
    /// Times what is there now: measured, else expected there.
    pub download_ratio: Option<Estimate>,
    /// How many times today’s upload.
    pub upload_ratio: Option<Estimate>,
    /// Where these figures come from.
    pub why: Option<Why>,
}

/// What each kind of antenna would do outside, in the order of the assumptions, against a spot. Empty where the spot has no
/// reading.
pub fn outlooks(env: &Environment, spot: &SpotView, outside: AntennaLocation) -> Vec<OutdoorOutlook> {
    if spot.carriers.iter().all(|one| one.carrier.rsrp_dbm.is_none()) {
        return Vec::new();
    }
    let kinds = &env.settings.outdoor.kinds;
    kinds.iter().filter_map(|kind| outlook(env, spot, kind, outside)).collect()
}

fn outlook(
    env: &Environment,
    spot: &SpotView,
    kind: &OutdoorAntenna,
    outside: AntennaLocation,
) -> Option<OutdoorOutlook> {
    let found = predict(env, &LinkSetup::new(outside, AimAntenna::Assumed(kind)))?;
    let now = |measured: Option<f64>, possible: Option<Estimate>, share: f64| {
        measured.or(possible.map(|range| range.likely * share)).filter(|mbps| *mbps > 0.0)
    };
    let down = now(SpotView::typical(&spot.download), spot.possible.down_mbps, found.down_share);
    let up = now(SpotView::typical(&spot.upload), spot.possible.up_mbps, found.up_share);
    let ratio = |there: Option<Estimate>, now: Option<f64>| {
        let (there, now) = (there?, now?);
        Some(there.map(|mbps| mbps / now))
    };
    let same = |carrier: &Carrier| -> Option<&CarrierPrediction> {
        found.carriers.iter().find(|one| {
            let cell = &env.cells[one.cell];
            cell.carrier.technology == carrier.technology && cell.carrier.band == carrier.band
        })
    };
    let widest = spot.carriers.iter().find_map(|one| Some((&one.carrier, same(&one.carrier)?)));
    let nothing = Estimate::exactly(0.0);
    let (rsrp_change_db, sinr_change_db) = widest.map_or((nothing, nothing), |(carrier, there)| {
        let from =
            |there: Estimate, here: Option<f64>| here.map_or(nothing, |here| there.map(|db| db - here));
        (from(there.rsrp_dbm(), carrier.rsrp_dbm), from(there.sinr_db(), careful_sinr_db(carrier)))
    });
    Some(OutdoorOutlook {
        kind: kind.kind,
        rsrp_change_db,
        sinr_change_db,
        download_mbps: found.down_mbps,
        upload_mbps: found.up_mbps,
        download_ratio: ratio(found.down_mbps, down),
        upload_ratio: ratio(found.up_mbps, up),
        why: found.why(env),
    })
}
