//! What a reading's carriers could move together if the cells were ours alone.

use super::duplex::{TimeShare, lte_tdd_share, nr_tdd_share};
use super::peak::{LTE_256QAM_OVER_64QAM, lte_peak_mbps, nr_peak_mbps};
use super::shannon::{Direction, layered_bps_hz};
use super::uplink::{Uplink, UplinkAssumptions, coupling_loss_db, uplink};
use super::{Estimate, cqi};
use crate::bands::{Duplex, UsualWidths, band_place, carrier_blocks, usual_widths_of};
use crate::metrics::careful_sinr_db;
use crate::model::{Carrier, CarrierRole, ConnectionMode, LinkAssumptions, Technology};
use serde::{Deserialize, Serialize};

/// What one carrier could move.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierRates {
    /// Mbit/s; `None` where SINR, or both width and band, are not known.
    pub down_mbps: Option<Estimate>,
    /// Mbit/s; `None` where RSRP or width is not known or the carrier has no uplink.
    pub up_mbps: Option<Estimate>,
    /// The same with half of the transmit power, where LTE and NR send at once.
    #[serde(default)]
    pub up_shared_mbps: Option<Estimate>,
    /// Layers taken for the likely figure.
    pub layers: u8,
    /// Widths taken where the carrier says none: the rates' ranges cover them.
    #[serde(default)]
    pub assumed_widths: Option<UsualWidths>,
    /// True where the gateway's transmit power limits the uplink.
    pub up_power_limited: bool,
}

/// What all carriers together could move.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AchievableRate {
    /// In the order of the reading.
    pub carriers: Vec<CarrierRates>,
    /// Sum of the carriers, Mbit/s.
    pub down_mbps: Option<Estimate>,
    /// One LTE and one NR carrier carry the uplink, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Carriers left out because their SINR, or both width and band, are not known.
    pub left_out: usize,
}

/// A reported SINR may be off by this much either way, dB: LTE's is vendor-made; NR's is of the synchronisation
/// block, not of the data (common practice, no source).
pub fn sinr_doubt_db(technology: Technology) -> f64 {
    match technology {
        Technology::Lte => 2.0,
        Technology::Nr => 3.0,
    }
}

/// Time share of a carrier by its band and the assumptions.
pub fn time_share(carrier: &Carrier, assumed: &LinkAssumptions) -> TimeShare {
    let place = carrier.band.and_then(|band| band_place(carrier.technology, band));
    let tdd = match (place.as_ref().map(|place| place.duplex), carrier.technology) {
        (Some(duplex), _) => duplex == Duplex::Tdd,
        // An NR carrier wider than any paired band's.
        (None, Technology::Nr) => carrier.bandwidth_mhz.is_some_and(|width| width > 50.0),
        (None, Technology::Lte) => false,
    };
    let share = match (tdd, carrier.technology) {
        (false, _) => TimeShare::FDD,
        (true, Technology::Lte) => lte_tdd_share(assumed.lte_configuration, assumed.lte_special)
            .unwrap_or(TimeShare { down: 0.74, up: 0.2 }),
        (true, Technology::Nr) => {
            nr_tdd_share(&assumed.nr_pattern, (assumed.nr_special_down, assumed.nr_special_up))
                .unwrap_or(TimeShare { down: 0.74, up: 0.23 })
        }
    };
    let has_uplink = place.is_none_or(|place| place.uplink.is_some());
    TimeShare { up: if has_uplink { share.up } else { 0.0 }, ..share }
}

/// A carrier as a pipe: what its likely rates depend on beside signal and clean signal.
#[derive(Clone, Copy, Debug)]
pub struct Channel {
    technology: Technology,
    blocks: u16,
    spacing_khz: u16,
    share: TimeShare,
    /// Spectrum in use, all the time.
    megahertz: f64,
    lte_peak_one_layer_mbps: f64,
}

impl Channel {
    /// `None` where the carrier's width is not known.
    pub fn of(carrier: &Carrier, assumed: &LinkAssumptions) -> Option<Self> {
        let (blocks, spacing_khz) = carrier_blocks(carrier)?;
        Some(Self {
            technology: carrier.technology,
            blocks,
            spacing_khz,
            share: time_share(carrier, assumed),
            megahertz: f64::from(blocks) * 12.0 * f64::from(spacing_khz) / 1e3,
            lte_peak_one_layer_mbps: carrier
                .bandwidth_mhz
                .and_then(|width| lte_peak_mbps(width, 1))
                .unwrap_or(f64::INFINITY),
        })
    }

    fn down_mbps(&self, sinr_db: f64, layers: u8) -> f64 {
        layered_bps_hz(self.technology, Direction::Down, sinr_db, layers) * self.megahertz * self.share.down
    }

    /// The standard's peak for so many layers, Mbit/s.
    fn peak_mbps(&self, layers: u8) -> f64 {
        let all_time = match self.technology {
            Technology::Lte => self.lte_peak_one_layer_mbps * f64::from(layers) * LTE_256QAM_OVER_64QAM,
            Technology::Nr => nr_peak_mbps(Direction::Down, self.blocks, self.spacing_khz, layers, 8),
        };
        all_time * self.share.down
    }

    /// Likely download, Mbit/s, with as many of `layers` as the SINR feeds.
    pub fn likely_down_mbps(&self, sinr_db: f64, layers: u8) -> f64 {
        let most = layers.clamp(1, 4);
        let likely = (2..=most).fold(self.down_mbps(sinr_db, 1), |fewer_mbps, layers| {
            let (begins_db, fed) = (layer_fed_db(layers) - LAYER_COMES_DB, 2.0 * LAYER_COMES_DB);
            let often = ((sinr_db - begins_db) / fed).clamp(0.0, 1.0);
            fewer_mbps + often * (self.down_mbps(sinr_db, layers) - fewer_mbps).max(0.0)
        });
        likely.min(self.peak_mbps(most))
    }

    fn up(&self, rsrp_dbm: f64, transmit_power_dbm: f64, reference_dbm: f64, noise_db: f64) -> Uplink {
        uplink(
            self.technology,
            coupling_loss_db(reference_dbm, rsrp_dbm),
            self.blocks,
            self.spacing_khz,
            transmit_power_dbm,
            noise_db,
        )
    }

    /// Likely upload, Mbit/s; 0 where the band has no uplink.
    pub fn likely_up_mbps(&self, rsrp_dbm: f64, transmit_power_dbm: f64) -> f64 {
        let usual = UplinkAssumptions::usual(self.technology, self.share.up < 1.0);
        let noise_db = usual.mast_noise_figure_db + usual.noise_rise_db.likely;
        let up = self.up(rsrp_dbm, transmit_power_dbm, usual.reference_power_dbm.likely, noise_db);
        up.rate_mbps * self.share.up
    }
}

/// What one carrier could move down and up.
///
/// Down: the attenuated Shannon bound at the careful SINR for the likely figure; the range covers the SINR's doubt,
/// one layer more or less, and at its upper end the CQI table's efficiency where that is higher, never above the
/// standard's peak rate. Up: from the coupling loss that RSRP implies. A carrier that says no width is taken to be as
/// wide as is usual on its band: the likely width for the likely figure, the narrowest and the widest for the range.
pub fn carrier_rates(carrier: &Carrier, assumed: &LinkAssumptions) -> CarrierRates {
    let Some(widths) = usual_widths_of(carrier) else { return rates_at_known_width(carrier, assumed) };
    let at = |width_mhz: f64| {
        rates_at_known_width(&Carrier { bandwidth_mhz: Some(width_mhz), ..carrier.clone() }, assumed)
    };
    let (narrow, likely, wide) = (at(widths.low_mhz), at(widths.likely_mhz), at(widths.high_mhz));
    let spread = |of: fn(&CarrierRates) -> Option<Estimate>| {
        let (narrow, likely, wide) = (of(&narrow)?, of(&likely)?, of(&wide)?);
        let all = [narrow, likely, wide];
        Some(Estimate {
            low: all.iter().map(|one| one.low).fold(f64::INFINITY, f64::min),
            likely: likely.likely,
            high: all.iter().map(|one| one.high).fold(0.0, f64::max),
        })
    };
    CarrierRates {
        down_mbps: spread(|rates| rates.down_mbps),
        up_mbps: spread(|rates| rates.up_mbps),
        up_shared_mbps: spread(|rates| rates.up_shared_mbps),
        assumed_widths: Some(widths),
        ..likely
    }
}

fn rates_at_known_width(carrier: &Carrier, assumed: &LinkAssumptions) -> CarrierRates {
    let mut rates = CarrierRates {
        down_mbps: None,
        up_mbps: None,
        up_shared_mbps: None,
        layers: 1,
        assumed_widths: None,
        up_power_limited: false,
    };
    let Some(channel) = Channel::of(carrier, assumed) else { return rates };
    let share = channel.share;
    if let Some(sinr_db) = careful_sinr_db(carrier) {
        let (low, likely, high) = layer_choices(carrier, sinr_db, assumed.layers);
        let doubt = sinr_doubt_db(carrier.technology);
        let best_code = cqi::row_at(
            cqi::CqiTable::To256Qam,
            sinr_db + doubt - 10.0 * f64::from(high).log10(),
        )
        .map_or(0.0, |row| {
            // A quarter of the elements go to control and reference signals (common practice, no source).
            let elements = 0.75 * channel.megahertz * (14.0 / 15.0);
            row.efficiency * elements * f64::from(high) * share.down
        });
        let peak = channel.peak_mbps(high);
        rates.layers = likely;
        let likely_mbps = match carrier.rank {
            Some(_) => channel.down_mbps(sinr_db, likely).min(peak),
            None => channel.likely_down_mbps(sinr_db, high),
        };
        // At the edge fewer layers carry more: the upper end takes the best number.
        let best =
            (1..=high).map(|layers| channel.down_mbps(sinr_db + doubt, layers)).fold(best_code, f64::max);
        rates.down_mbps = Some(Estimate {
            low: channel.down_mbps(sinr_db - doubt, low).min(likely_mbps),
            likely: likely_mbps,
            high: best.min(peak).max(likely_mbps),
        });
    }
    if let (Some(rsrp_dbm), true) = (carrier.rsrp_dbm, share.up > 0.0) {
        let usual = UplinkAssumptions::usual(carrier.technology, share.up < 1.0);
        let at = |reference_dbm: f64, noise_rise_db: f64, power_dbm: f64| {
            let noise_db = usual.mast_noise_figure_db + noise_rise_db;
            channel.up(rsrp_dbm, power_dbm, reference_dbm, noise_db)
        };
        // A stronger reference signal means a longer path for the same RSRP: the uplink's low end.
        let (reference, rise) = (usual.reference_power_dbm, usual.noise_rise_db);
        let with = |power_dbm: f64| Estimate {
            low: at(reference.high, rise.low, power_dbm).rate_mbps * share.up,
            likely: at(reference.likely, rise.likely, power_dbm).rate_mbps * share.up,
            high: at(reference.low, rise.high, power_dbm).rate_mbps * share.up,
        };
        let power_dbm = assumed.transmit_power_dbm;
        rates.up_power_limited = at(reference.likely, rise.likely, power_dbm).power_limited;
        rates.up_mbps = Some(with(power_dbm));
        rates.up_shared_mbps = Some(with(power_dbm - SHARED_POWER_DB));
    }
    rates
}

/// Fewest, likeliest and most layers. A reported rank is taken; else as many as the SINR feeds, each with at least
/// its share of the power worth having.
fn layer_choices(carrier: &Carrier, sinr_db: f64, most: u8) -> (u8, u8, u8) {
    if let Some(rank) = carrier.rank.filter(|rank| (1..=4).contains(rank)) {
        return (rank.max(2) - 1, rank, rank.max(most));
    }
    let most = most.clamp(1, 4);
    (1, likely_layers(carrier.technology, sinr_db, most), most)
}

/// A layer more is fed from this SINR on, dB: 12 for two, 16 for three (common practice, no source).
fn layer_fed_db(layers: u8) -> f64 {
    8.0 + 4.0 * f64::from(layers - 1)
}

/// Networks switch to one layer more within this either side, dB, more and more of the time: no step in what is foretold (common practice,
/// no source).
const LAYER_COMES_DB: f64 = 2.0;

/// Layers interfere with one another on a real path: a further one is likely only where it clearly pays.
fn likely_layers(technology: Technology, sinr_db: f64, most: u8) -> u8 {
    (1..=most.clamp(1, 4))
        .filter(|layers| *layers == 1 || sinr_db >= layer_fed_db(*layers))
        .map(|layers| (layers, layered_bps_hz(technology, Direction::Down, sinr_db, layers)))
        .max_by(|(_, a), (_, b)| a.total_cmp(b))
        .map_or(1, |(layers, _)| layers)
}

/// Where LTE and NR send at once they share one transmitter's power (TS 38.213 clause 7.6.1 bounds their sum); half of it each, dB less
/// (common practice, no source: how it is split is the network's choice).
pub const SHARED_POWER_DB: f64 = 3.010_3;

/// What all carriers could move together. Aggregation adds downlinks. The uplink rides on one LTE and, where NR is
/// connected, one NR carrier, with half the power each where both send: the primary ones for the likely figure; at the upper end the
/// network has moved it to the carrier that carries it best.
pub fn possible(carriers: &[Carrier], mode: ConnectionMode, assumed: &LinkAssumptions) -> AchievableRate {
    together(carriers, carriers.iter().map(|carrier| carrier_rates(carrier, assumed)).collect(), mode)
}

/// Sums up carriers whose rates are known: `rates` in the order of `carriers`.
pub fn together(carriers: &[Carrier], rates: Vec<CarrierRates>, mode: ConnectionMode) -> AchievableRate {
    let down_mbps = rates.iter().filter_map(|rates| rates.down_mbps).reduce(Estimate::plus);
    let best_up = |technology, up_mbps: fn(&CarrierRates) -> Option<Estimate>| {
        let of = |wanted: &dyn Fn(&Carrier) -> bool| {
            carriers
                .iter()
                .zip(&rates)
                .filter(|(carrier, _)| carrier.technology == technology && wanted(carrier))
                .filter_map(|(_, rates)| up_mbps(rates))
                .max_by(|a, b| a.likely.total_cmp(&b.likely))
        };
        let primary = of(&|carrier| carries_uplink(carrier, mode))?;
        let best = of(&|_| true)?;
        Some(Estimate { high: best.high.max(primary.high), ..primary })
    };
    let both = |up_mbps| [Technology::Lte, Technology::Nr].map(|technology| best_up(technology, up_mbps));
    let up_mbps = match both(|rates| rates.up_mbps) {
        [Some(_), Some(_)] => both(|rates| rates.up_shared_mbps),
        alone => alone,
    };
    let up_mbps = up_mbps.into_iter().flatten().reduce(Estimate::plus);
    let left_out = rates.iter().filter(|rates| rates.down_mbps.is_none()).count();
    AchievableRate { carriers: rates, down_mbps, up_mbps, left_out }
}

/// The uplink of a connection is on its primary cell; NSA adds the NR leg.
pub fn carries_uplink(carrier: &Carrier, mode: ConnectionMode) -> bool {
    match (carrier.role, mode) {
        (CarrierRole::Secondary, _) => false,
        (_, ConnectionMode::Sa) => carrier.technology == Technology::Nr,
        _ => true,
    }
}

/// How much of what the radio could carry was measured, with what that says of load: 1 is all of it. `None` where
/// either is missing or nothing is possible.
pub fn measured_share(measured_mbps: Option<f64>, possible_mbps: Option<Estimate>) -> Option<Estimate> {
    let (measured, possible) = (measured_mbps?, possible_mbps?);
    (possible.low > 0.0).then(|| Estimate {
        low: measured / possible.high,
        likely: measured / possible.likely,
        high: measured / possible.low,
    })
}
