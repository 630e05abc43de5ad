//! What is on offer: bands heard, of the mast, of gateway, antenna and feed line, with what the kit gains and loses there.

use crate::bands::{BandPlace, band_name, band_place, carrier_frequency_mhz, overlaps_of};
use crate::capacity::Estimate;
use crate::hardware::budget::{Budget, budget};
use crate::hardware::ports::branches_on;
use crate::hardware::resolve::Resolved;
use crate::link::environment::Environment;
use crate::link::landscape::carrier_of;
use crate::link::predict::{CarrierPrediction, LinkPrediction};
use crate::model::{
    ArrestorSpec, BandName, Carrier, CarrierRole, MastCell, Neighbour, PartSpec, SiteSettings,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// All that is known of the bands at a setup.
#[derive(Clone, Debug)]
pub struct OfferInput<'a> {
    /// Carriers as heard on this setup, the newest last.
    pub heard: &'a [Carrier],
    /// Neighbour cells that the gateway lists.
    pub neighbours: &'a [Neighbour],
    /// Name and cells of the mast that serves.
    pub mast: Option<(&'a str, &'a [MastCell])>,
    /// The kit.
    pub kit: Option<&'a Resolved<'a>>,
    /// Settings of the site.
    pub settings: &'a SiteSettings,
    /// The house's radio environment, and what the setup would do with everything in it.
    pub radio: Option<(&'a Environment<'a>, &'a LinkPrediction<'a>)>,
}

/// Where a carrier's figures come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum HeardAs {
    /// In use on this setup.
    InUse,
    /// Listed as a neighbour: signal only, clean signal estimated.
    Neighbour,
    /// Not heard here: computed, and put right by what was.
    Estimated,
}

/// A carrier on offer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OfferedCarrier {
    /// The carrier.
    pub carrier: Carrier,
    /// Role it was heard in.
    pub heard_as: HeardAs,
    /// Middle of its downlink, MHz.
    pub frequency_mhz: f64,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: f64,
    /// Layers that gateway, leads and assumptions allow, 1..=4.
    pub layers: u8,
    /// Doubt of its signal either way, dB; 0 for what is heard.
    pub doubt_db: f64,
    /// Strong enough where others were taken, and never given beside them.
    pub passed_over: bool,
    /// Whether the network gives it where it is free to: of those never given beside one another some are.
    pub counts: bool,
}

/// A band that may be used here.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandOffer {
    /// Operating band.
    pub band: BandName,
    /// "B3", "n78".
    pub name: String,
    /// Where.
    pub place: BandPlace,
    /// Carriers, one an entry.
    pub carriers: Vec<OfferedCarrier>,
    /// In use now or in a trial.
    pub seen: bool,
    /// The mast that serves is known to have it.
    pub on_mast: bool,
    /// `None` where it is not known.
    pub gateway: Option<bool>,
    /// The antenna.
    pub antenna: Option<bool>,
    /// Whether the feed line carries it.
    pub feed_line: Option<bool>,
    /// Antenna gain in this band, dBi.
    pub antenna_gain_dbi: Option<f64>,
    /// Loss of the feed line in this band, dB.
    pub feed_loss_db: Option<f64>,
    /// Other bands on offer in the same spectrum.
    pub shares_with: Vec<String>,
}

impl BandOffer {
    /// True where nothing that is known forbids it.
    pub fn is_usable(&self) -> bool {
        [self.gateway, self.antenna, self.feed_line].iter().all(|one| *one != Some(false))
    }
}

/// A neighbour's clean signal is guessed from the serving one's, dB either way (common practice, no source).
const NEIGHBOUR_DOUBT_DB: f64 = 5.0;

/// Everything on offer, by technology and rising frequency.
pub fn offer(input: &OfferInput) -> Vec<BandOffer> {
    let mut found: BTreeMap<BandName, Vec<OfferedCarrier>> = BTreeMap::new();
    for carrier in input.heard {
        if let Some(made) = offered(input, carrier.clone(), HeardAs::InUse, 0.0) {
            let list = found.entry(name_of(&made.carrier)).or_default();
            list.retain(|one| one.carrier.channel != made.carrier.channel);
            list.push(made);
        }
    }
    let seen: Vec<BandName> = found.keys().copied().collect();
    let cells = input.mast.map_or(&[][..], |(_, cells)| cells);
    let on_mast: Vec<BandName> = cells.iter().filter_map(MastCell::band_name).collect();
    for cell in cells {
        let Some(carrier) = carrier_of(cell) else { continue };
        let band = name_of(&carrier);
        let channels = |list: &Vec<OfferedCarrier>| {
            list.iter().any(|one| one.carrier.channel == carrier.channel || carrier.channel.is_none())
        };
        if found.get(&band).is_some_and(channels) {
            continue;
        }
        if let Some(made) = estimated(input, carrier, cell) {
            found.entry(band).or_default().push(made);
        }
    }
    for band in bands_of_gateway(input) {
        found.entry(band).or_default();
    }
    let names: Vec<BandName> = found.keys().copied().collect();
    let mut offers: Vec<BandOffer> = found
        .into_iter()
        .filter_map(|(band, carriers)| one(input, band, carriers, (&seen, &on_mast, &names)))
        .collect();
    let low = |one: &BandOffer| one.place.downlink.map_or(0.0, |span| span.low_mhz);
    offers.sort_by(|a, b| {
        (a.band.technology, low(a))
            .partial_cmp(&(b.band.technology, low(b)))
            .unwrap_or(std::cmp::Ordering::Equal)
    });
    offers
}

fn name_of(carrier: &Carrier) -> BandName {
    BandName { technology: carrier.technology, band: carrier.band.unwrap_or(0) }
}

fn bands_of_gateway(input: &OfferInput) -> Vec<BandName> {
    let gateway = input.kit.and_then(|kit| kit.gateway);
    gateway.map_or_else(Vec::new, |(_, gateway)| gateway.bands.iter().map(|one| one.band).collect())
}

/// A carrier whose band and middle are known.
fn offered(input: &OfferInput, carrier: Carrier, heard_as: HeardAs, doubt_db: f64) -> Option<OfferedCarrier> {
    let band = BandName { technology: carrier.technology, band: carrier.band? };
    let middle = || {
        let span = band_place(band.technology, band.band)?.downlink?;
        Some(f64::midpoint(span.low_mhz, span.high_mhz))
    };
    let frequency_mhz = carrier_frequency_mhz(&carrier).or_else(middle)?;
    let bandwidth_mhz = carrier.bandwidth_mhz.unwrap_or(10.0);
    Some(OfferedCarrier {
        passed_over: computed(input, &carrier).is_some_and(|one| one.passed_over),
        counts: computed(input, &carrier).is_none_or(|one| one.counts),
        layers: layers(input, band),
        carrier,
        heard_as,
        frequency_mhz,
        bandwidth_mhz,
        doubt_db,
    })
}

/// Layers that gateway, leads and assumptions allow.
fn layers(input: &OfferInput, band: BandName) -> u8 {
    let assumed = input.settings.link.layers;
    let Some(kit) = input.kit else { return assumed };
    let has = kit.gateway.map_or(assumed, |(_, gateway)| gateway.layers_on(band));
    let reached = if kit.antenna.is_some() { branches_on(kit, band) } else { has };
    has.min(reached).clamp(1, 4)
}

fn kit_budget(input: &OfferInput, frequency_mhz: f64) -> Option<Budget> {
    let settings = input.settings;
    let stock = settings.outdoor.stock_gain_dbi;
    Some(budget(input.kit?, frequency_mhz, settings.kit.cable_temperature_c, stock))
}

/// A carrier in the house's prediction.
fn computed<'a>(input: &OfferInput<'a>, carrier: &Carrier) -> Option<&'a CarrierPrediction> {
    let (env, found) = input.radio?;
    let same = |own: &Carrier| {
        (own.technology, own.band, own.channel) == (carrier.technology, carrier.band, carrier.channel)
    };
    found.carriers.iter().find(|one| same(&env.cells[one.cell].carrier))
}

/// A cell of the mast that was not heard on this setup: as the house's prediction has it; its signal as the gateway lists it
/// among the neighbours, if it does.
fn estimated(input: &OfferInput, mut carrier: Carrier, cell: &MastCell) -> Option<OfferedCarrier> {
    let listed = input.neighbours.iter().find(|one| {
        one.technology == carrier.technology
            && one.pci.is_some()
            && one.pci == cell.pci
            && (one.channel == cell.channel || one.band == carrier.band)
    });
    let computed = computed(input, &carrier);
    let computed_dbm = computed.map(|one| one.rsrp_dbm().likely);
    let spread_db = |of: Estimate| 0.5 * (of.high - of.low);
    let (heard_as, doubt_db) = match listed.and_then(|one| one.rsrp_dbm) {
        Some(rsrp) => {
            carrier.rsrp_dbm = Some(rsrp);
            (HeardAs::Neighbour, NEIGHBOUR_DOUBT_DB)
        }
        None => {
            carrier.rsrp_dbm = computed_dbm;
            (HeardAs::Estimated, computed.map_or(0.0, |one| spread_db(one.sinr_db())))
        }
    };
    let stronger_db = carrier.rsrp_dbm.zip(computed_dbm).map_or(0.0, |(rsrp, computed)| rsrp - computed);
    carrier.sinr_db = computed.map(|one| one.sinr_db().likely + stronger_db);
    if carrier.role == CarrierRole::Unknown {
        carrier.role = CarrierRole::Secondary;
    }
    offered(input, carrier, heard_as, doubt_db)
}

fn one(
    input: &OfferInput,
    band: BandName,
    carriers: Vec<OfferedCarrier>,
    (seen, on_mast, all): (&[BandName], &[BandName], &[BandName]),
) -> Option<BandOffer> {
    let place = band_place(band.technology, band.band)?;
    let middle = place.downlink.map(|span| f64::midpoint(span.low_mhz, span.high_mhz))?;
    let frequency_mhz = carriers.first().map_or(middle, |one| one.frequency_mhz);
    let figures = kit_budget(input, frequency_mhz);
    let gateway = input.kit.and_then(|kit| kit.gateway).map(|(_, gateway)| gateway.layers_on(band) > 0);
    let outdoor = input.kit.filter(|kit| kit.antenna_spec().is_some());
    let antenna = outdoor.map(|_| figures.as_ref().is_some_and(|one| one.antenna_gain_dbi.is_some()));
    let feed_line = input.kit.filter(|kit| kit.antenna.is_some()).map(|kit| {
        let passes = kit.chain.iter().all(|link| match &link.part.spec {
            PartSpec::Arrestor(ArrestorSpec::Coax { lowest_mhz, highest_mhz, .. }) => {
                (*lowest_mhz..=*highest_mhz).contains(&frequency_mhz)
            }
            _ => true,
        });
        passes && (gateway == Some(false) || branches_on(kit, band) > 0)
    });
    let shares_with = overlaps_of(band.technology, band.band)
        .into_iter()
        .map(|other| BandName { technology: band.technology, band: other.band })
        .chain(same_spectrum(band, all))
        .filter(|other| all.contains(other))
        .map(|other| band_name(other.technology, other.band))
        .collect();
    Some(BandOffer {
        band,
        name: band_name(band.technology, band.band),
        place,
        carriers,
        seen: seen.contains(&band),
        on_mast: on_mast.contains(&band),
        gateway,
        antenna,
        feed_line,
        antenna_gain_dbi: figures.as_ref().and_then(|one| one.antenna_gain_dbi),
        feed_loss_db: figures.filter(|_| outdoor.is_some()).map(|one| one.feed_loss_db),
        shares_with,
    })
}

/// Bands of the other technology in the same downlink spectrum: B28 and n28 are one piece of air.
fn same_spectrum(band: BandName, all: &[BandName]) -> Vec<BandName> {
    let span = |one: &BandName| band_place(one.technology, one.band).and_then(|place| place.downlink);
    let Some(here) = span(&band) else { return Vec::new() };
    all.iter()
        .filter(|other| other.technology != band.technology)
        .filter(|other| {
            span(other).is_some_and(|there| there.low_mhz < here.high_mhz && here.low_mhz < there.high_mhz)
        })
        .copied()
        .collect()
}
