//! What an outdoor antenna would do here: from a reading indoors, the assumptions, and the physics of noise and
//! interference. Signal and interference are lifted alike by height, missing walls and gain; an antenna's direction
//! lowers the interference; the receiver's own noise stays.

use super::spot::SpotView;
use crate::capacity::Ranged;
use crate::capacity::possible::possible;
use crate::metrics::{db_to_linear, interference_dbm, limits, linear_to_db};
use crate::model::{Carrier, LinkAssumptions, Mount, OutdoorAntenna, OutdoorAssumptions, OutdoorKind};
use crate::propagation::p2109::building_entry_loss_db;
use serde::{Deserialize, Serialize};

/// What one kind of outdoor antenna is expected to do at this house.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutdoorOutlook {
    pub kind: OutdoorKind,
    /// On the widest carrier, dB.
    pub rsrp_change_db: Ranged,
    /// On the widest carrier, dB.
    pub sinr_change_db: Ranged,
    /// Mbit/s; from the measured median where there is one, else of the possible.
    pub download_mbps: Option<Ranged>,
    pub upload_mbps: Option<Ranged>,
    /// Times what is there now.
    pub download_ratio: Option<Ranged>,
    pub upload_ratio: Option<Ranged>,
}

/// No receiver reads cleaner than this: transmitter and receiver add their own error, dB (common practice, no
/// source).
const CLEANEST_SINR_DB: f64 = 30.0;

/// Loss between a spot and the open, dB, as a range over buildings (ITU-R P.2109; windows and attics, of which it
/// knows nothing, are taken from its lower half: common practice, no source). Nothing where the spot is outside.
pub fn entry_loss_db(mount: Mount, assumed: &OutdoorAssumptions, frequency_mhz: f64) -> Ranged {
    let at =
        |share| building_entry_loss_db(assumed.building, frequency_mhz, 0.0, share).unwrap_or(10.0).max(0.0);
    match mount {
        Mount::Indoor => Ranged { low: at(0.25), likely: at(0.5), high: at(0.75) },
        Mount::Window | Mount::Attic => Ranged { low: at(0.05), likely: at(0.25), high: at(0.5) },
        _ => Ranged::exactly(0.0),
    }
}

/// Signal change of an antenna against the stock ones at a spot, dB. `measured_outdoors_db`: RSRP outside less RSRP
/// at the spot, on stock antennas, where both were measured; it takes the place of wall loss and height.
pub fn signal_change_db(
    mount: Mount,
    antenna: &OutdoorAntenna,
    assumed: &OutdoorAssumptions,
    frequency_mhz: f64,
    measured_outdoors_db: Option<f64>,
) -> Ranged {
    let own = antenna.gain_dbi - assumed.stock_gain_dbi - assumed.feed_loss_db;
    match measured_outdoors_db {
        Some(outdoors) => {
            Ranged { low: outdoors - 3.0, likely: outdoors, high: outdoors + 3.0 }.map(|db| db + own)
        }
        None => {
            let wall = entry_loss_db(mount, assumed, frequency_mhz);
            let height =
                Ranged { low: 0.0, likely: assumed.height_gain_db, high: 2.0 * assumed.height_gain_db };
            wall.plus(height).map(|db| db + own)
        }
    }
}

/// The carrier as it would be heard with the signal changed by `change_db` and interference held back by
/// `rejection_db`.
pub fn heard_outdoors(carrier: &Carrier, change_db: f64, rejection_db: f64) -> Carrier {
    let mut moved = carrier.clone();
    moved.flags.clear();
    // A load that was implied by the old RSRQ says nothing of the new one.
    moved.rsrq_db = None;
    moved.rssi_dbm = None;
    moved.rank = None;
    moved.rsrp_dbm = carrier.rsrp_dbm.map(|rsrp| rsrp + change_db);
    let now = limits(carrier);
    if let (Some(rsrp_dbm), Some(disturbance_dbm)) = (moved.rsrp_dbm, now.disturbance_dbm) {
        // A receiver quieter than assumed: all of the disturbance is its noise.
        let noise_dbm = now.noise_dbm.min(disturbance_dbm);
        let interference = interference_dbm(disturbance_dbm, noise_dbm)
            .map_or(0.0, |dbm| db_to_linear(dbm + change_db - rejection_db));
        let sinr_db = rsrp_dbm - linear_to_db(db_to_linear(noise_dbm) + interference);
        moved.sinr_db = Some(sinr_db.min(CLEANEST_SINR_DB));
    }
    moved
}

/// What each kind of antenna would do, in the order of the assumptions. Empty where the spot has no reading.
pub fn outlooks(
    spot: &SpotView,
    assumed: &OutdoorAssumptions,
    link: &LinkAssumptions,
    measured_outdoors_db: Option<f64>,
) -> Vec<OutdoorOutlook> {
    let carriers: Vec<Carrier> = spot.carriers.iter().map(|explained| explained.carrier.clone()).collect();
    if carriers.iter().all(|carrier| carrier.rsrp_dbm.is_none()) {
        return Vec::new();
    }
    assumed
        .kinds
        .iter()
        .map(|antenna| outlook(spot, &carriers, antenna, assumed, link, measured_outdoors_db))
        .collect()
}

fn outlook(
    spot: &SpotView,
    carriers: &[Carrier],
    antenna: &OutdoorAntenna,
    assumed: &OutdoorAssumptions,
    link: &LinkAssumptions,
    measured_outdoors_db: Option<f64>,
) -> OutdoorOutlook {
    let frequency = |carrier: &Carrier| crate::bands::carrier_frequency_mhz(carrier).unwrap_or(1800.0);
    let change = |carrier: &Carrier| {
        signal_change_db(spot.mount, antenna, assumed, frequency(carrier), measured_outdoors_db)
    };
    let moved = |pick: fn(Ranged) -> f64, rejection_db: f64| -> Vec<Carrier> {
        carriers.iter().map(|carrier| heard_outdoors(carrier, pick(change(carrier)), rejection_db)).collect()
    };
    // An unlucky direction rejects half, a lucky one half as much again.
    let cases = Ranged { low: 0.5, likely: 1.0, high: 1.5 }.map(|share| share * antenna.rejection_db);
    let low = moved(|range| range.low, cases.low);
    let likely = moved(|range| range.likely, cases.likely);
    let high = moved(|range| range.high, cases.high);
    let rates = |carriers: &[Carrier]| possible(carriers, spot.mode, link);
    let (now, low_rates, likely_rates, high_rates) =
        (rates(carriers), rates(&low), rates(&likely), rates(&high));
    let ratio = |of: fn(&crate::capacity::possible::Possible) -> Option<Ranged>| -> Option<Ranged> {
        let base = of(&now)?.likely;
        let times = |there: Option<Ranged>| there.map(|range| range.likely / base);
        (base > 0.0)
            .then(|| {
                Some(Ranged {
                    low: times(of(&low_rates))?,
                    likely: times(of(&likely_rates))?,
                    high: times(of(&high_rates))?,
                })
            })
            .flatten()
    };
    let download_ratio = ratio(|rates| rates.down_mbps);
    let upload_ratio = ratio(|rates| rates.up_mbps);
    let expected = |measured: Option<f64>, there: Option<Ranged>, ratio: Option<Ranged>| match measured {
        Some(measured) => ratio.map(|ratio| ratio.map(|times| times * measured)),
        None => there,
    };
    let sinr = |carriers: &[Carrier]| carriers.first().and_then(|carrier| carrier.sinr_db);
    let sinr_now = carriers.first().and_then(crate::metrics::careful_sinr_db).unwrap_or(0.0);
    let sinr_change = |carriers: &[Carrier]| sinr(carriers).map_or(0.0, |there| there - sinr_now);
    OutdoorOutlook {
        kind: antenna.kind,
        rsrp_change_db: carriers.first().map_or(Ranged::exactly(0.0), change),
        sinr_change_db: Ranged {
            low: sinr_change(&low),
            likely: sinr_change(&likely),
            high: sinr_change(&high),
        },
        download_mbps: expected(SpotView::typical(&spot.download), likely_rates.down_mbps, download_ratio),
        upload_mbps: expected(SpotView::typical(&spot.upload), likely_rates.up_mbps, upload_ratio),
        download_ratio,
        upload_ratio,
    }
}
