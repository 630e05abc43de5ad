//! One carrier explained: what each number is, which class, what limits it, what would move it.

use super::evidence::cell_of;
use super::{CellName, Finding};
use crate::bands::{BandPlace, band_name, band_place, bands_of_channel, carrier_frequency_mhz};
use crate::capacity::constellation::{ModulationMargin, buys};
use crate::capacity::possible::CarrierRates;
use crate::metrics::{
    CarrierClass, Class, Limits, Metric, careful_sinr_db, class_edges, class_of_carrier, class_of_value,
    limits, oddities,
};
use crate::model::Carrier;
use serde::{Deserialize, Serialize};

/// A carrier with everything its numbers say.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExplainedCarrier {
    /// The cell.
    pub cell: CellName,
    /// The carrier.
    pub carrier: Carrier,
    /// Frequency, MHz.
    pub frequency_mhz: Option<f64>,
    /// The band's ranges and names.
    pub band: Option<BandPlace>,
    /// Bands the channel number may belong to, where the page names none.
    pub band_guess: Vec<String>,
    /// How good it is.
    pub class: Option<CarrierClass>,
    /// What limits it, and by how much.
    pub limits: Limits,
    /// What it can carry.
    pub rates: CarrierRates,
    /// What the SINR buys; judged by the careful one.
    pub buys: Option<ModulationMargin>,
    /// SINR that the carrier is judged by, dB.
    pub careful_sinr_db: Option<f64>,
    /// In the order to be read.
    pub findings: Vec<Finding>,
}

/// Explains one carrier whose rates are known.
pub fn explain(carrier: &Carrier, rates: CarrierRates) -> ExplainedCarrier {
    let cell = cell_of(carrier);
    let limits = limits(carrier);
    let careful = careful_sinr_db(carrier);
    let guess = match (carrier.band, carrier.channel) {
        (None, Some(channel)) => bands_of_channel(carrier.technology, channel),
        _ => Vec::new(),
    };
    let band_guess: Vec<String> = guess.iter().map(|band| band_name(carrier.technology, *band)).collect();
    let mut findings = Vec::new();
    if let (false, Some(channel)) = (band_guess.is_empty(), carrier.channel) {
        findings.push(Finding::BandGuessed { channel, fits: band_guess.clone() });
    }
    findings.extend(rates.assumed_widths.map(|widths| Finding::WidthAssumed { cell, widths }));
    findings.extend(oddities(carrier).into_iter().map(|oddity| Finding::Odd { cell, oddity }));
    for metric in [Metric::Rsrp, Metric::Sinr] {
        findings.extend(carrier.value(metric).and_then(|value| metric_means(metric, value)));
    }
    findings.push(Finding::LimitedBy {
        limit: limits.limit,
        over_noise_db: limits.disturbance_dbm.map(|disturbance| disturbance - limits.noise_dbm),
    });
    findings.extend(limits.load.map(|load| Finding::LoadHeard { load }));
    if let Some(down_mbps) = rates.down_mbps {
        findings.push(Finding::CouldCarry {
            down_mbps,
            up_mbps: rates.up_mbps,
            layers: rates.layers,
            up_power_limited: rates.up_power_limited,
        });
    }
    ExplainedCarrier {
        cell,
        frequency_mhz: carrier_frequency_mhz(carrier),
        band: carrier.band.and_then(|band| band_place(carrier.technology, band)),
        band_guess,
        class: class_of_carrier(carrier),
        limits,
        rates,
        buys: careful.map(|sinr_db| buys(carrier.technology, sinr_db)),
        careful_sinr_db: careful,
        findings,
        carrier: carrier.clone(),
    }
}

/// A value's class, and how far it is to the next one.
fn metric_means(metric: Metric, value: f64) -> Option<Finding> {
    let class = class_of_value(metric, value)?;
    let edges = class_edges(metric)?;
    let next = match class {
        Class::Starved => Some((Class::Thin, edges.thin)),
        Class::Thin => Some((Class::Usable, edges.usable)),
        Class::Usable => Some((Class::Solid, edges.solid)),
        Class::Solid => Some((Class::Ample, edges.ample)),
        Class::Ample => None,
    };
    Some(Finding::MetricMeans {
        metric,
        value,
        class,
        next: next.map(|(class, _)| class),
        missing_db: next.map(|(_, edge)| edge - value),
    })
}
