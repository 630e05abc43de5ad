//! Go or no-go: is an outdoor antenna worth it at this house, how much would it bring, what would it not fix.

use super::Finding;
use super::outdoor::{OutdoorOutlook, outlooks};
use super::spot::SpotView;
use crate::bands::band_name;
use crate::capacity::Estimate;
use crate::link::environment::Environment;
use crate::link::landscape::AntennaLocation;
use crate::metrics::{Class, Limit};
use crate::model::{Instrument, SetupId, Technology};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// The answer in one word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Answer {
    /// Not enough measured to say.
    Measure,
    /// Worth it.
    Go,
    /// Little speed to gain; margin would grow.
    ForMargin,
    /// No antenna fixes what limits here.
    NotTheAntenna,
}

/// A reason, with the setup whose numbers it rests on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GoNoGoReason {
    /// What was found.
    pub finding: Finding,
    /// The setup.
    pub setup_id: Option<SetupId>,
}

/// Go or no-go with everything it rests on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GoNoGo {
    /// The answer, a sentence.
    pub answer: Answer,
    /// What is said on top.
    pub title: Finding,
    /// Why, one an entry.
    pub reasons: Vec<GoNoGoReason>,
    /// What each kind of antenna would do.
    pub outlooks: Vec<OutdoorOutlook>,
    /// What measurement would change this answer.
    pub would_change: Vec<Finding>,
    /// The spot that the outlooks start from.
    pub from_setup: Option<SetupId>,
}

/// Below this share of what the radio could carry, the rest is load, a bottleneck or the account (common practice, no
/// source). The upper end of the share's range must lie below it.
const LOAD_LIMITED_SHARE: f64 = 0.5;
/// An uplink this slow hampers calls and uploads, Mbit/s (common practice, no source).
const POOR_UPLOAD_MBPS: f64 = 5.0;
/// Signal this much better outside is the house's doing, dB (common practice, no source).
const INDOOR_LOSS_DB: f64 = 8.0;
/// Gains below this are not worth a ladder (common practice, no source).
const WORTH_TIMES: f64 = 1.3;

/// The spot that a household's outlook starts from: the best inside by the gateway; phones and modems are scouts, and serve
/// only where no gateway reading is.
pub fn start_of(spots: &[SpotView]) -> Option<&SpotView> {
    let inside = |spot: &&SpotView| spot.mount.is_indoors() && spot.widest().is_some();
    let by_gateway = |spot: &&SpotView| spot.instrument == Instrument::Gateway;
    let best = |candidates: Vec<&'_ SpotView>| -> Option<usize> {
        let best = candidates.into_iter().max_by(|a, b| worth(a).total_cmp(&worth(b)))?;
        spots.iter().position(|spot| std::ptr::eq(spot, best))
    };
    best(spots.iter().filter(inside).filter(by_gateway).collect())
        .or_else(|| best(spots.iter().filter(inside).collect()))
        .map(|at| &spots[at])
}

/// Judges by the spots of one network. `outside`: where an outdoor antenna would be.
pub fn go_no_go(spots: &[SpotView], env: &Environment, outside: AntennaLocation) -> GoNoGo {
    let from = start_of(spots).cloned();
    let Some(from) = from else {
        return GoNoGo {
            answer: Answer::Measure,
            title: Finding::BaselineMissing,
            reasons: Vec::new(),
            outlooks: Vec::new(),
            would_change: Vec::new(),
            from_setup: None,
        };
    };
    let outdoors =
        spots.iter().filter(|spot| !spot.mount.is_indoors()).max_by(|a, b| worth(a).total_cmp(&worth(b)));
    let gained_db = outdoors.and_then(|outside| outdoor_gain_db(outside, &from));
    let outlooks = outlooks(env, &from, outside);
    let mut reasons = Reasons { setup: from.setup_id, found: Vec::new() };
    reasons.gather(spots, &from, outdoors, gained_db);
    let busy = reasons.has(|finding| matches!(finding, Finding::LoadLimited { .. }));
    let ample = reasons.has(|finding| matches!(finding, Finding::AlreadyAmple { .. }));
    let slow_up = reasons.has(|finding| matches!(finding, Finding::UplinkLimited { .. }));
    let best_times = outlooks
        .iter()
        .flat_map(|outlook| [outlook.download_ratio, outlook.upload_ratio])
        .flatten()
        .map(|ratio| ratio.likely)
        .fold(0.0, f64::max);
    let answer = if best_times == 0.0 {
        Answer::Measure
    } else if busy && !slow_up {
        Answer::NotTheAntenna
    } else if ample && !slow_up || best_times < WORTH_TIMES {
        Answer::ForMargin
    } else {
        Answer::Go
    };
    GoNoGo {
        answer,
        title: title(answer, &from, &outlooks),
        would_change: would_change(&from, outdoors.is_some()),
        reasons: reasons.found,
        outlooks,
        from_setup: Some(from.setup_id),
    }
}

/// How good a spot is: measured download, else possible.
fn worth(spot: &SpotView) -> f64 {
    SpotView::typical(&spot.download).or(spot.possible.down_mbps.map(|range| range.likely)).unwrap_or(0.0)
}

/// RSRP outside less inside, dB: the middle of the bands heard at both.
fn outdoor_gain_db(outside: &SpotView, inside: &SpotView) -> Option<f64> {
    let gains: Vec<f64> = inside
        .carriers
        .iter()
        .filter_map(|here| {
            let same = |there: &&super::ExplainedCarrier| {
                there.cell.technology == here.cell.technology && there.cell.band == here.cell.band
            };
            let there = outside.carriers.iter().find(same)?;
            Some(there.carrier.rsrp_dbm? - here.carrier.rsrp_dbm?)
        })
        .collect();
    crate::stats::median(&gains)
}

struct Reasons {
    setup: SetupId,
    found: Vec<GoNoGoReason>,
}

impl Reasons {
    fn add(&mut self, finding: Finding) {
        self.found.push(GoNoGoReason { finding, setup_id: Some(self.setup) });
    }

    fn has(&self, kind: impl Fn(&Finding) -> bool) -> bool {
        self.found.iter().any(|reason| kind(&reason.finding))
    }

    fn gather(
        &mut self,
        spots: &[SpotView],
        from: &SpotView,
        outdoors: Option<&SpotView>,
        gained_db: Option<f64>,
    ) {
        let heard_nr =
            |spot: &SpotView| spot.carriers.iter().any(|one| one.cell.technology == Technology::Nr);
        if !spots.iter().any(heard_nr) {
            self.add(Finding::NoNrHeard { spots: spots.len() });
        }
        self.found.extend(more_bands(spots, from));
        if let Some(widest) = from.widest() {
            match widest.limits.limit {
                Limit::Interference => self.add(Finding::InterferenceHere { cell: widest.cell }),
                Limit::Noise => self.add(Finding::NoiseHere { cell: widest.cell }),
                _ => {}
            }
            if widest.class.is_some_and(|class| class.class >= Class::Ample) {
                self.add(Finding::AlreadyAmple { cell: widest.cell });
            }
        }
        if let Some(share) = from.download_share.filter(|share| share.high < LOAD_LIMITED_SHARE) {
            let times = Estimate { low: 1.0 / share.high, likely: 1.0 / share.likely, high: 1.0 / share.low };
            self.add(Finding::LoadLimited { times, tests: from.download.values.len() });
        }
        let upload = SpotView::typical(&from.upload).or(from.possible.up_mbps.map(|range| range.likely));
        let power_limited = from.carriers.iter().any(|one| one.rates.up_power_limited);
        if let Some(upload_mbps) = upload.filter(|rate| *rate < POOR_UPLOAD_MBPS && power_limited) {
            self.add(Finding::UplinkLimited { upload_mbps });
        }
        if let (Some(gained_db), Some(outside)) = (gained_db.filter(|gain| *gain >= INDOOR_LOSS_DB), outdoors)
        {
            let finding =
                Finding::IndoorLoss { inside: from.name.clone(), outside: outside.name.clone(), gained_db };
            self.found.push(GoNoGoReason { finding, setup_id: Some(outside.setup_id) });
        }
    }
}

/// Bands that only other spots hear: outside they would come on top of what the outlooks count.
fn more_bands(spots: &[SpotView], from: &SpotView) -> Option<GoNoGoReason> {
    let bands_of = |spot: &SpotView| -> BTreeSet<String> {
        let name = |one: &super::ExplainedCarrier| Some(band_name(one.cell.technology, one.cell.band?));
        spot.carriers.iter().filter_map(name).collect()
    };
    let own = bands_of(from);
    let mut bands = BTreeSet::new();
    let mut hearing: Vec<&SpotView> = Vec::new();
    for spot in spots {
        let more: Vec<String> = bands_of(spot).difference(&own).cloned().collect();
        if !more.is_empty() {
            bands.extend(more);
            hearing.push(spot);
        }
    }
    let setup_id = hearing.first().map(|spot| spot.setup_id);
    (!bands.is_empty()).then(|| GoNoGoReason {
        finding: Finding::MoreBandsElsewhere {
            bands: bands.into_iter().collect(),
            spots: hearing.iter().map(|spot| spot.name.clone()).collect(),
            from: from.name.clone(),
        },
        setup_id,
    })
}

fn title(answer: Answer, from: &SpotView, outlooks: &[OutdoorOutlook]) -> Finding {
    // The middle kind is what most households would put up.
    let middle = outlooks.get(outlooks.len() / 2);
    match (answer, middle) {
        (Answer::Measure, _) | (_, None) => Finding::BaselineThin { spot: from.name.clone() },
        (Answer::Go, Some(outlook)) => Finding::WorthIt {
            rsrp_change_db: outlook.rsrp_change_db,
            download_ratio: outlook.download_ratio,
            upload_ratio: outlook.upload_ratio,
        },
        (Answer::ForMargin, Some(outlook)) => Finding::ForMargin {
            rsrp_change_db: outlook.rsrp_change_db,
            download_ratio: outlook.download_ratio,
        },
        (Answer::NotTheAntenna, Some(_)) => {
            let times = from.download_share.map_or(1.0, |share| 1.0 / share.likely);
            Finding::NotTheAntenna { times }
        }
    }
}

fn would_change(from: &SpotView, has_outdoor_spot: bool) -> Vec<Finding> {
    let mut findings = Vec::new();
    if from.tests < crate::stats::FEWEST_TESTS {
        findings.push(Finding::WantsTests { spot: from.name.clone(), have: from.tests });
    }
    if !has_outdoor_spot {
        findings.push(Finding::WantsOutdoorSpot);
    }
    let without_width = from
        .carriers
        .iter()
        .filter(|one| one.carrier.bandwidth_mhz.is_none() && one.careful_sinr_db.is_some())
        .count();
    if without_width > 0 {
        findings.push(Finding::WantsBandwidth { carriers: without_width });
    }
    if from.download_share.is_some_and(|share| share.likely < LOAD_LIMITED_SHARE) {
        findings.push(Finding::WantsOtherHour);
    }
    findings
}
