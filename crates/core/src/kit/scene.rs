//! What is known of the air at a site: carriers as they were heard, brought to the open at the planned height; where
//! nothing was heard, an estimate of the path.

use super::finding::KitFinding;
use super::need::need;
use crate::bands::{band_place, carrier_frequency_mhz};
use crate::capacity::Ranged;
use crate::capacity::uplink::UplinkAssumptions;
use crate::judge::{SpotView, entry_loss_db};
use crate::model::{
    BandName, Carrier, CarrierRole, ConnectionMode, Instrument, KitSettings, Mount, Position, PositionId,
    SiteSettings, Technology,
};
use crate::propagation::tr38901::{Rural, rural_loss};
use serde::{Deserialize, Serialize};

/// What a prediction starts from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "from", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Origin {
    /// Heard on stock antennas at a spot.
    Heard { spot: String, mount: Mount, height_m: Option<f64> },
    /// By the rural model from the mast's distance.
    Path { distance_m: f64, beyond_model: bool },
}

/// One carrier of the site.
#[derive(Clone, Debug, PartialEq)]
pub struct SceneCarrier {
    /// As heard with the stock antennas at the spot; for a path estimate, with an isotropic antenna in the open at
    /// 1.5 m.
    pub carrier: Carrier,
    pub band: BandName,
    pub frequency_mhz: f64,
    pub uplink_mhz: f64,
    pub origin: Origin,
    /// Gain of the antenna it was heard with, dBi.
    pub heard_gain_dbi: f64,
    /// Uncertainty of a path estimate, dB either way; 0 for a reading.
    pub path_doubt_db: Ranged,
}

/// Everything a prediction needs of the site.
#[derive(Clone, Debug, PartialEq)]
pub struct Scene {
    pub carriers: Vec<SceneCarrier>,
    pub mode: ConnectionMode,
    /// Name of the spot that speeds were measured at.
    pub base_spot: Option<String>,
    /// What its carriers could carry on stock antennas, Mbit/s.
    pub base_down_mbps: Option<f64>,
    pub base_up_mbps: Option<f64>,
    /// What was measured there, Mbit/s.
    pub measured_down_mbps: Option<f64>,
    pub measured_up_mbps: Option<f64>,
    pub settings: SiteSettings,
}

impl Scene {
    /// Said where what was measured today meets the household's need.
    pub fn met_today(&self) -> Option<KitFinding> {
        let (down_mbps, up_mbps) = (self.measured_down_mbps?, self.measured_up_mbps?);
        let need = need(&self.settings.kit.uses);
        let spot = self.base_spot.clone()?;
        (down_mbps >= need.down_mbps && up_mbps >= need.up_mbps).then_some(KitFinding::MetToday {
            spot,
            down_mbps,
            up_mbps,
        })
    }
}

/// Height of a spot that says none: on a sill of the ground floor, m.
const SILL_M: f64 = 1.5;

/// Brings spots and settings together. `spots`: of the network in use, as the Baseline stage shows them; `base`:
/// the setup whose speeds stand for the house.
pub fn scene(
    spots: &[SpotView],
    positions: &[Position],
    base: Option<crate::model::SetupId>,
    settings: &SiteSettings,
) -> Scene {
    let by_gateway: Vec<&SpotView> =
        spots.iter().filter(|spot| spot.instrument == Instrument::Gateway).collect();
    let heard = if by_gateway.is_empty() { spots.iter().collect() } else { by_gateway };
    let height = |id: PositionId| {
        positions.iter().find(|position| position.id == id).and_then(|one| one.height_above_ground_m)
    };
    let mut carriers: Vec<SceneCarrier> = Vec::new();
    for spot in &heard {
        for explained in &spot.carriers {
            if let Some(made) = heard_carrier(spot, &explained.carrier, height(spot.position_id), settings) {
                keep_better(&mut carriers, made);
            }
        }
    }
    for expected in &settings.kit.expected {
        if carriers.iter().all(|carrier| carrier.band != expected.band)
            && let Some(made) = path_carrier(expected.band, expected.bandwidth_mhz, settings)
        {
            carriers.push(made);
        }
    }
    let width = |one: &SceneCarrier| one.carrier.bandwidth_mhz.unwrap_or(0.0);
    carriers.sort_by(|a, b| width(b).total_cmp(&width(a)));
    let base = heard.iter().find(|spot| Some(spot.setup_id) == base).or(heard.first());
    let mode = base.map_or(ConnectionMode::Unknown, |spot| spot.mode);
    Scene {
        carriers,
        mode,
        base_spot: base.map(|spot| spot.name.clone()),
        base_down_mbps: base.and_then(|spot| spot.possible.down_mbps).map(|range| range.likely),
        base_up_mbps: base.and_then(|spot| spot.possible.up_mbps).map(|range| range.likely),
        measured_down_mbps: base.and_then(|spot| SpotView::typical(&spot.download)),
        measured_up_mbps: base.and_then(|spot| SpotView::typical(&spot.upload)),
        settings: settings.clone(),
    }
}

fn heard_carrier(
    spot: &SpotView,
    carrier: &Carrier,
    height_m: Option<f64>,
    settings: &SiteSettings,
) -> Option<SceneCarrier> {
    let band = BandName { technology: carrier.technology, band: carrier.band? };
    carrier.rsrp_dbm?;
    let (middle_mhz, uplink_mhz) = middles(band)?;
    let frequency_mhz = carrier_frequency_mhz(carrier).unwrap_or(middle_mhz);
    Some(SceneCarrier {
        carrier: carrier.clone(),
        band,
        frequency_mhz,
        uplink_mhz: frequency_mhz + uplink_mhz - middle_mhz,
        origin: Origin::Heard { spot: spot.name.clone(), mount: spot.mount, height_m },
        heard_gain_dbi: settings.outdoor.stock_gain_dbi,
        path_doubt_db: Ranged::exactly(0.0),
    })
}

/// Middles of a band's downlink and uplink, MHz; the downlink's twice where it has no uplink of its own.
fn middles(band: BandName) -> Option<(f64, f64)> {
    let place = band_place(band.technology, band.band)?;
    let middle = |span: crate::bands::FrequencySpan| f64::midpoint(span.low_mhz, span.high_mhz);
    let down = middle(place.downlink?);
    Some((down, place.uplink.map_or(down, middle)))
}

/// The same cell heard at two spots is taken from the one outside, else from the stronger.
fn keep_better(carriers: &mut Vec<SceneCarrier>, made: SceneCarrier) {
    let rank = |one: &SceneCarrier| {
        let outside = matches!(&one.origin, Origin::Heard { mount, .. } if !mount.is_indoors());
        (outside, one.carrier.rsrp_dbm.unwrap_or(-200.0))
    };
    let same = |one: &SceneCarrier| one.band == made.band && one.carrier.channel == made.carrier.channel;
    match carriers.iter_mut().find(|one| same(one)) {
        Some(there) if rank(&made) > rank(there) => *there = made,
        Some(_) => {}
        None => carriers.push(made),
    }
}

/// Gain of a mast's sector antenna, dBi (common practice, no source).
const MAST_GAIN_DBI: f64 = 17.0;
/// Interference over noise where nothing was heard, dB (common practice, no source).
const ASSUMED_INTERFERENCE_OVER_NOISE_DB: f64 = 3.0;

/// A carrier by the rural model, from the known mast's distance; `None` without one.
fn path_carrier(band: BandName, bandwidth_mhz: f64, settings: &SiteSettings) -> Option<SceneCarrier> {
    let distance_m = settings.known_mast.as_ref()?.distance_m?;
    let (frequency_mhz, uplink_mhz) = middles(band)?;
    let (loss_db, beyond_model) = path_loss_db(&settings.kit, distance_m, SILL_M, frequency_mhz)?;
    let tdd = (frequency_mhz - uplink_mhz).abs() < 1.0;
    let reference = UplinkAssumptions::usual(band.technology, tdd).reference_power_dbm.likely;
    let mut carrier = Carrier::empty(band.technology, CarrierRole::Unknown);
    carrier.band = Some(band.band);
    carrier.bandwidth_mhz = Some(bandwidth_mhz);
    let rsrp_dbm = reference + MAST_GAIN_DBI - loss_db.likely;
    carrier.rsrp_dbm = Some(rsrp_dbm);
    let noise_dbm = crate::metrics::limits(&carrier).noise_dbm;
    carrier.sinr_db = Some(
        rsrp_dbm
            - crate::metrics::linear_to_db(
                crate::metrics::db_to_linear(noise_dbm)
                    + crate::metrics::db_to_linear(noise_dbm + ASSUMED_INTERFERENCE_OVER_NOISE_DB),
            ),
    );
    Some(SceneCarrier {
        carrier,
        band,
        frequency_mhz,
        uplink_mhz,
        origin: Origin::Path { distance_m, beyond_model },
        heard_gain_dbi: 0.0,
        path_doubt_db: Ranged {
            low: loss_db.likely - loss_db.high,
            likely: 0.0,
            high: loss_db.likely - loss_db.low,
        },
    })
}

/// Path loss in the open at a height, dB, as a range, and whether it lies beyond the model. Within 5 km from line of
/// sight to one spread beyond the obstructed loss of TR 38.901; farther, line of sight and up to 30 dB of excess.
pub fn path_loss_db(
    kit: &KitSettings,
    distance_m: f64,
    height_m: f64,
    frequency_mhz: f64,
) -> Option<(Ranged, bool)> {
    let scene = Rural {
        mast_height_m: kit.mast_height_m.clamp(10.0, 150.0),
        terminal_height_m: height_m.clamp(1.0, 10.0),
        ..Rural::default()
    };
    let mhz = frequency_mhz.max(500.0);
    let within = rural_loss(&scene, distance_m.clamp(10.0, 10_000.0), mhz).ok()?;
    let beyond = distance_m > 10_000.0;
    // Beyond the table: free space's 20 dB a decade on top.
    let farther_db = if beyond { 20.0 * (distance_m / 10_000.0).log10() } else { 0.0 };
    let clear = within.line_of_sight_db + farther_db;
    Some(match within.obstructed_db {
        Some(obstructed) => {
            let likely = f64::midpoint(clear, obstructed);
            (Ranged { low: clear, likely, high: obstructed + within.obstructed_spread_db }, false)
        }
        None => (Ranged { low: clear, likely: clear + 12.0, high: clear + 30.0 }, true),
    })
}

/// What height brings from `from_m` to `to_m`, dB: the obstructed rural loss's own term, TR 38.901 table 7.4.1-1, for
/// 1 to 10 m; nothing is promised above. As a range: none of it to twice.
pub fn height_gain_db(from_m: f64, to_m: f64) -> Ranged {
    let term = |height_m: f64| 3.2 * (11.75 * height_m.clamp(1.0, 10.0)).log10().powi(2);
    let likely = term(to_m) - term(from_m);
    Ranged { low: (2.0 * likely).min(0.0), likely, high: (2.0 * likely).max(0.0) }
}

/// What changes from where a carrier was heard to where the antenna is to stand, dB, antennas apart.
pub fn open_change_db(one: &SceneCarrier, to: Mount, to_height_m: f64, settings: &SiteSettings) -> Ranged {
    let entry = |mount| entry_loss_db(mount, &settings.outdoor, one.frequency_mhz);
    let there = entry(to);
    let lost_there = Ranged { low: -there.high, likely: -there.likely, high: -there.low };
    match &one.origin {
        Origin::Heard { mount, height_m, .. } => {
            let from_height_m = height_m.unwrap_or(SILL_M);
            let height = height_gain_db(from_height_m, to_height_m);
            // Walls of the same kind on both sides: nothing is known to change.
            if *mount == to { height } else { entry(*mount).plus(lost_there).plus(height) }
        }
        Origin::Path { .. } => one.path_doubt_db.plus(lost_there).plus(height_gain_db(SILL_M, to_height_m)),
    }
}

/// True where a technology is part of the connection.
pub(super) fn is_used(technology: Technology, mode: ConnectionMode) -> bool {
    match mode {
        ConnectionMode::Lte => technology == Technology::Lte,
        ConnectionMode::Sa => technology == Technology::Nr,
        _ => true,
    }
}
