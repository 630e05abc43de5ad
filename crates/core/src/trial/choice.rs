//! Choices of bands, and what each could carry.

use super::offer::{BandOffer, OfferedCarrier};
use super::score::covered;
use crate::capacity::Estimate;
use crate::capacity::possible::{AchievableRate, CarrierRates, carrier_rates, carries_uplink, together};
use crate::capacity::shannon::LEAST_SINR_DB;
use crate::kit::need::Need;
use crate::link::predict::locked_mode;
use crate::link::receiver::Receiver;
use crate::metrics::careful_sinr_db;
use crate::model::{
    BandAccess, BandChoice, BandName, Carrier, CarrierRole, ConnectionMode, GatewaySpec, LinkAssumptions,
    Technology, TrialGoal,
};
use serde::{Deserialize, Serialize};

/// What the gateway can bundle.
#[derive(Clone, Debug, PartialEq)]
pub struct Bundling {
    /// Carriers at once at the most.
    pub most: usize,
    /// Combinations as its maker lists them; empty where not known.
    pub combinations: Vec<Vec<BandName>>,
    /// Whether NR works on its own.
    pub standalone: bool,
    /// Whether NR rides on an LTE anchor.
    pub non_standalone: bool,
}

impl Bundling {
    /// Of a gateway; four carriers in every way where it is not known (common practice, no source).
    pub fn of(gateway: Option<&GatewaySpec>, combinations: &[Vec<BandName>]) -> Self {
        Self {
            most: gateway.map_or(4, |one| usize::from(one.aggregated_carriers.max(1))),
            combinations: combinations.to_vec(),
            standalone: gateway.is_none_or(|one| one.standalone),
            non_standalone: gateway.is_none_or(|one| one.non_standalone),
        }
    }

    fn allows(&self, bands: &[BandName]) -> bool {
        bands.len() < 2
            || self.combinations.is_empty()
            || self.combinations.iter().any(|one| {
                // Every carrier needs a place of its own: two on one band need it listed twice.
                let mut left = one.clone();
                bands.iter().all(|band| {
                    left.iter().position(|other| other == band).map(|at| left.remove(at)).is_some()
                })
            })
    }
}

/// What a choice would do.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Prediction {
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Bands expected in use, the anchor or primary first.
    pub bands: Vec<BandName>,
    /// Expected here, Mbit/s; `None` where nothing is known of the signal.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// The cells ours alone, Mbit/s.
    pub possible_down_mbps: Option<Estimate>,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Option<Estimate>,
    /// Round trip on an idle line, ms.
    pub idle_latency_ms: Estimate,
    /// Signal-to-noise of the carrier that holds the connection with luck, dB.
    pub sinr_db: Option<f64>,
    /// How good it is for each goal at the likely figure; as [`score`](super::score::score) has it.
    pub score: Option<Estimate>,
}

/// A choice with what is expected of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChoiceOutlook {
    /// Which bands are allowed.
    pub choice: BandChoice,
    /// What it would carry.
    pub prediction: Prediction,
    /// Why it is not worth a visit.
    pub hopeless: Option<Hopeless>,
}

/// Why a choice is not tried.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Hopeless {
    /// Even with luck, and the best choice crowded, it stays below.
    TooSlow { at_most: f64, best: f64 },
    /// The signal is too weak to hold a connection.
    TooWeak { sinr_db: f64 },
}

/// Idle latency by how one is connected, ms (common practice, no source).
fn latency(mode: ConnectionMode) -> Estimate {
    match mode {
        ConnectionMode::Sa => Estimate { low: 12.0, likely: 20.0, high: 30.0 },
        ConnectionMode::Nsa => Estimate { low: 20.0, likely: 30.0, high: 45.0 },
        _ => Estimate { low: 25.0, likely: 40.0, high: 60.0 },
    }
}

/// Of what could be carried, a crowded cell may leave as little as this (common practice, no source): a choice is given up
/// unseen only where even that does not save it.
const CROWDED_LEAVES: f64 = 0.15;

/// Everything worth naming: as it is, LTE only, NSA with each anchor, SA, and each of them held to one band. Only bands on
/// offer that nothing known forbids are in.
pub fn choices(offers: &[BandOffer], bundling: &Bundling) -> Vec<BandChoice> {
    let of = |technology| -> Vec<u16> {
        let mut bands: Vec<u16> = offers
            .iter()
            .filter(|one| one.band.technology == technology && one.is_usable() && !one.carriers.is_empty())
            .map(|one| one.band.band)
            .collect();
        bands.sort_unstable();
        bands
    };
    let (lte, nr) = (of(Technology::Lte), of(Technology::Nr));
    let mut all = vec![BandChoice::default()];
    let mut add = |access, lte: &[u16], nr: &[u16]| {
        all.push(BandChoice { access, lte: lte.to_vec(), nr: nr.to_vec() });
    };
    let each = |bands: &[u16]| if bands.len() > 1 { bands.to_vec() } else { Vec::new() };
    if !lte.is_empty() {
        if !nr.is_empty() {
            add(BandAccess::Lte, &[], &[]);
        }
        for band in each(&lte) {
            add(BandAccess::Lte, &[band], &[]);
        }
    }
    if bundling.non_standalone && !lte.is_empty() && !nr.is_empty() {
        for anchor in each(&lte) {
            add(BandAccess::Nsa, &[anchor], &[]);
        }
        for band in each(&nr) {
            add(BandAccess::Nsa, &[], &[band]);
        }
    }
    if bundling.standalone && !nr.is_empty() {
        add(BandAccess::Sa, &[], &[]);
        for band in each(&nr) {
            add(BandAccess::Sa, &[], &[band]);
        }
    }
    all
}

/// What each choice could do. `mode`: how the gateway is connected when nothing is locked.
pub fn outlooks(
    offers: &[BandOffer],
    choices: &[BandChoice],
    mode: ConnectionMode,
    bundling: &Bundling,
    ask: &Asked,
) -> Vec<ChoiceOutlook> {
    let mut all: Vec<ChoiceOutlook> = choices
        .iter()
        .map(|choice| ChoiceOutlook {
            choice: choice.clone(),
            prediction: predict(offers, choice, mode, bundling, ask),
            hopeless: None,
        })
        .collect();
    let best = all.iter().filter_map(|one| one.prediction.score).map(|one| one.likely).fold(0.0, f64::max);
    for one in &mut all {
        one.hopeless = hopeless(&one.prediction, best).filter(|_| !one.choice.is_free());
    }
    all
}

/// What a prediction is asked for.
#[derive(Clone, Debug)]
pub struct Asked<'a> {
    /// The setup's gateway as the house's prediction has it; assumptions where none is known.
    pub receiver: Option<Receiver<'a>>,
    /// What it is judged by.
    pub goal: TrialGoal,
    /// What the household needs.
    pub need: Need,
    /// What is assumed of links.
    pub link: LinkAssumptions,
    /// Likely shares of the possible that are measured on this setup, down and up.
    pub shares: (f64, f64),
}

fn hopeless(one: &Prediction, best: f64) -> Option<Hopeless> {
    if let Some(sinr_db) = one.sinr_db.filter(|sinr_db| *sinr_db < LEAST_SINR_DB - 2.0) {
        return Some(Hopeless::TooWeak { sinr_db });
    }
    let at_most = one.score?.high;
    (at_most < best * CROWDED_LEAVES).then_some(Hopeless::TooSlow { at_most, best })
}

struct Candidate<'a> {
    band: BandName,
    one: &'a OfferedCarrier,
    rates: CarrierRates,
}

/// The carriers that a choice would bring together: the best anchor or primary, then the best of the others as far as the
/// gateway bundles them.
fn bundle<'a>(
    offers: &'a [BandOffer],
    choice: &BandChoice,
    mode: ConnectionMode,
    bundling: &Bundling,
    ask: &Asked,
    shift: f64,
) -> Vec<Candidate<'a>> {
    let used = |technology| match mode {
        ConnectionMode::Lte => technology == Technology::Lte,
        ConnectionMode::Sa => technology == Technology::Nr,
        _ => true,
    };
    let mut left: Vec<Candidate> = offers
        .iter()
        .filter(|one| one.is_usable() && choice.allows(one.band) && used(one.band.technology))
        .flat_map(|offer| offer.carriers.iter().map(move |one| (offer.band, one)))
        .filter(|(_, one)| one.carrier.sinr_db.is_some())
        .map(|(band, one)| {
            let moved = shifted(&one.carrier, shift * one.doubt_db);
            Candidate { band, one, rates: rates(&moved, band, one, ask) }
        })
        .collect();
    let down = |one: &Candidate| one.rates.down_mbps.map_or(0.0, |range| range.likely);
    left.sort_by(|a, b| down(b).total_cmp(&down(a)));
    // What the network does not give where it is free comes only where the others are shut out.
    left.sort_by_key(|one| !one.one.counts);
    let first = match mode {
        ConnectionMode::Sa => Technology::Nr,
        _ if left.iter().any(|one| one.band.technology == Technology::Lte) => Technology::Lte,
        _ => Technology::Nr,
    };
    let mut together: Vec<Candidate> = Vec::new();
    if let Some(at) = left.iter().position(|one| one.band.technology == first) {
        together.push(left.remove(at));
    }
    // What NSA is for comes before further LTE carriers.
    if mode == ConnectionMode::Nsa {
        left.sort_by_key(|one| one.band.technology == Technology::Lte);
    }
    for one in left {
        let bands: Vec<BandName> = together.iter().map(|had| had.band).chain([one.band]).collect();
        let never_beside = |had: &Candidate| {
            had.band.technology == one.band.technology && had.one.passed_over != one.one.passed_over
        };
        let fits = together.len() < bundling.most && bundling.allows(&bands);
        if fits && !together.iter().any(never_beside) {
            together.push(one);
        }
    }
    together
}

/// Rates of a carrier, by the rule that all predictions share.
fn rates(carrier: &Carrier, band: BandName, one: &OfferedCarrier, ask: &Asked) -> CarrierRates {
    let branches = ask.receiver.as_ref().map(|receiver| receiver.branches(band, one.frequency_mhz));
    match (&ask.receiver, branches.filter(|branches| branches.layers > 0)) {
        (Some(receiver), Some(branches)) => receiver.rates(carrier, branches),
        _ => carrier_rates(carrier, &LinkAssumptions { layers: one.layers, ..ask.link.clone() }),
    }
}

fn shifted(carrier: &Carrier, by_db: f64) -> Carrier {
    let mut moved = carrier.clone();
    moved.rsrp_dbm = moved.rsrp_dbm.map(|rsrp| rsrp + by_db);
    moved.sinr_db = moved.sinr_db.map(|sinr| sinr + by_db);
    moved.rank = None;
    moved
}

fn sum(bundle: &[Candidate], mode: ConnectionMode) -> AchievableRate {
    let carriers: Vec<Carrier> = bundle
        .iter()
        .enumerate()
        .map(|(at, one)| {
            let mut carrier = one.one.carrier.clone();
            let first_of_kind = bundle[..at].iter().all(|had| had.band.technology != one.band.technology);
            carrier.role = match (at, first_of_kind) {
                (0, _) if mode == ConnectionMode::Nsa => CarrierRole::Anchor,
                (_, true) => CarrierRole::Primary,
                _ => CarrierRole::Secondary,
            };
            carrier
        })
        .collect();
    together(&carriers, bundle.iter().map(|one| one.rates).collect(), mode)
}

fn predict(
    offers: &[BandOffer],
    choice: &BandChoice,
    mode: ConnectionMode,
    bundling: &Bundling,
    ask: &Asked,
) -> Prediction {
    let mode = locked_mode(choice, mode);
    let likely = bundle(offers, choice, mode, bundling, ask, 0.0);
    let [low, middle, high] =
        [-1.0, 0.0, 1.0].map(|shift| sum(&bundle(offers, choice, mode, bundling, ask, shift), mode));
    // Doubt of what was not heard and doubt of what a carrier carries: the ends of both.
    let range = |of: fn(&AchievableRate) -> Option<Estimate>| {
        Some(Estimate { low: of(&low)?.low, likely: of(&middle)?.likely, high: of(&high)?.high })
    };
    let (down_mbps, up_mbps) = (range(|sum| sum.down_mbps), range(|sum| sum.up_mbps));
    let idle_latency_ms = latency(mode);
    let sinr_db =
        likely.first().and_then(|one| careful_sinr_db(&shifted(&one.one.carrier, one.one.doubt_db)));
    let expected = |range: Option<Estimate>, share: f64| range.map(|range| range.map(|mbps| mbps * share));
    let (possible_down_mbps, possible_up_mbps) = (down_mbps, up_mbps);
    let (down_mbps, up_mbps) = (expected(down_mbps, ask.shares.0), expected(up_mbps, ask.shares.1));
    let score = score_of(ask, down_mbps, up_mbps, idle_latency_ms);
    let bands = likely.iter().map(|one| one.band).collect();
    Prediction {
        mode,
        bands,
        down_mbps,
        up_mbps,
        possible_down_mbps,
        possible_up_mbps,
        idle_latency_ms,
        sinr_db,
        score,
    }
}

fn score_of(
    ask: &Asked,
    down: Option<Estimate>,
    up: Option<Estimate>,
    latency: Estimate,
) -> Option<Estimate> {
    match ask.goal {
        TrialGoal::Download => down,
        TrialGoal::Upload => up,
        TrialGoal::Latency => {
            Some(Estimate { low: 1e3 / latency.high, likely: 1e3 / latency.likely, high: 1e3 / latency.low })
        }
        TrialGoal::Household => {
            let (down, up) = (down?, up?);
            let of = |down, up| covered(&ask.need, down, up, None);
            Some(Estimate {
                low: of(down.low, up.low).unwrap_or(0.0),
                likely: of(down.likely, up.likely)?,
                high: of(down.high, up.high)?,
            })
        }
    }
}

/// Rates that were possible with what a trial obtained, for setting against what was measured.
pub fn possible_of(
    carriers: &[Carrier],
    mode: ConnectionMode,
    offers: &[BandOffer],
    link: &LinkAssumptions,
) -> AchievableRate {
    let rates = carriers
        .iter()
        .map(|carrier| {
            let offer = offers
                .iter()
                .find(|one| one.band.technology == carrier.technology && Some(one.band.band) == carrier.band);
            let layers = offer.and_then(|offer| offer.carriers.first()).map_or(link.layers, |one| one.layers);
            carrier_rates(carrier, &LinkAssumptions { layers, ..link.clone() })
        })
        .collect();
    let mut roles = carriers.to_vec();
    // Pages that say nothing of roles: the first of each technology bears the uplink.
    for technology in [Technology::Lte, Technology::Nr] {
        if !roles.iter().any(|one| one.technology == technology && carries_uplink(one, mode))
            && let Some(first) = roles.iter_mut().find(|one| one.technology == technology)
        {
            first.role = CarrierRole::Primary;
        }
    }
    together(&roles, rates, mode)
}
