//! What trials came to: measured against possible, winners by need and by hour, each with its doubt.

use super::choice::possible_of;
use super::offer::BandOffer;
use super::score::{loaded_latency_ms, score};
use crate::capacity::Estimate;
use crate::capacity::possible::{AchievableRate, measured_share};
use crate::kit::need::Need;
use crate::metrics::{Class, class_of_carrier};
use crate::model::{
    BandChoice, Carrier, ConnectionMode, LinkAssumptions, Metric, Reading, RoundId, SpeedFigures, Trial,
    TrialGoal, TrialOutcome,
};
use crate::stats::{
    BlockFit, BlockValue, Interval, Summary, block_fit, geometric_mean_interval, median, summarise,
};
use chrono::{DateTime, Timelike, Utc};
use chrono_tz::Tz;
use serde::{Deserialize, Serialize};

/// Coverage of the intervals that decide, share: a choice is looked at again and again, so each look is strict.
pub const DECIDING: f64 = 0.95;
/// Below this share of the best after one whole block a choice is given up at once (common practice, no source).
const FAR_BELOW: f64 = 0.4;
/// Measured below this share of the possible, where the signal is fine, is a crowded cell (common practice, no source).
const CROWDED_BELOW: f64 = 0.3;
/// Width of a part of the day, h.
const DAY_PART_H: u32 = 3;

/// What keeps a choice down.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum HeldBy {
    /// The signal: thin or worse.
    Weak,
    /// Others on the cell: much less was measured than the signal could carry.
    Crowded,
    /// Signal and load alike.
    Both,
    /// Neither signal nor load.
    Neither,
}

/// Why a choice is not visited any more.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Dropped {
    NoService,
    Ignored,
    Failed,
    /// Of the best: most likely, and at the most, share.
    Slower {
        ratio: f64,
        at_most: f64,
    },
}

/// One test as a dot.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestDot {
    /// When.
    pub at: DateTime<Utc>,
    /// Hour of the day at the site, 0..24.
    pub hour: f64,
    /// Download, Mbit/s.
    pub down_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<f64>,
    /// Latency on an idle line, ms.
    pub idle_latency_ms: Option<f64>,
    /// Latency under load, ms.
    pub loaded_latency_ms: Option<f64>,
}

/// How a choice stands against the best one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AgainstBest {
    /// Times the best one's figure, the hour's part taken out.
    pub ratio: f64,
    /// Interval meant to hold the true value.
    pub interval: Interval,
}

/// One choice with everything measured on it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Standing {
    /// Which bands are allowed.
    pub choice: BandChoice,
    /// Number of visits.
    pub visits: usize,
    /// The last one.
    pub last: Option<TrialOutcome>,
    /// How long attaching took, s.
    pub reattach_s: Option<f64>,
    /// How carriers are bundled.
    pub mode: Option<ConnectionMode>,
    /// Carriers obtained, medians of all samples.
    pub obtained: Vec<Carrier>,
    /// Speed tests.
    pub tests: Vec<TestDot>,
    /// Mbit/s
    pub down: Option<Summary>,
    /// Interval of the download.
    pub down_interval: Option<Interval>,
    /// Share of the uplink.
    pub up: Option<Summary>,
    /// Interval of the upload.
    pub up_interval: Option<Interval>,
    /// ms
    pub idle_latency: Option<Summary>,
    /// Latency under load.
    pub loaded_latency: Option<Summary>,
    /// Interval of the latency under load.
    pub latency_interval: Option<Interval>,
    /// Possible on an empty cell.
    pub possible: Option<AchievableRate>,
    /// Measured of the possible, share.
    pub down_share: Option<Estimate>,
    /// What holds it down.
    pub held_by: Option<HeldBy>,
    /// Why it is tried no more.
    pub dropped: Option<Dropped>,
    /// `None` for the best itself and where too little was measured.
    pub against_best: Option<AgainstBest>,
}

impl Standing {
    /// Median download, Mbit/s.
    pub fn down_mbps(&self) -> Option<f64> {
        self.down.map(|one| one.median)
    }
}

/// The best choice for one goal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Winner {
    /// What it is judged by.
    pub goal: TrialGoal,
    /// Which bands are allowed.
    pub choice: BandChoice,
    /// Geometric mean: Mbit/s, ms, or times the needs.
    pub value: f64,
    /// Medians of its tests: Mbit/s down and up, ms under load.
    pub down_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<f64>,
    /// Latency under load, ms.
    pub loaded_latency_ms: Option<f64>,
    /// The second best.
    pub runner_up: Option<BandChoice>,
    /// The winner over the runner-up, times.
    pub ratio: Option<f64>,
    /// Lower end of the ratio.
    pub ratio_low: Option<f64>,
    /// The interval leaves no doubt.
    pub sure: bool,
    /// Speed tests.
    pub tests: usize,
}

/// The best choice in a part of the day.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HourWinner {
    /// Hours of the day at the site.
    pub from_hour: u32,
    /// First hour after it.
    pub to_hour: u32,
    /// The winner.
    pub winner: Winner,
    /// Days on which it was measured.
    pub days: usize,
}

/// What trials are judged by.
#[derive(Clone, Debug)]
pub struct ScoringContext<'a> {
    /// What it is judged by.
    pub goal: TrialGoal,
    /// What the household needs.
    pub need: Need,
    /// Bands on offer.
    pub offers: &'a [BandOffer],
    /// What is assumed of links.
    pub link: LinkAssumptions,
    /// Time zone.
    pub zone: Tz,
}

fn whole_tests(trial: &Trial) -> impl Iterator<Item = (&DateTime<Utc>, &SpeedFigures)> {
    trial.tests.iter().filter(|test| test.problem.is_none()).map(|test| (&test.started_at, &test.figures))
}

/// Mean logarithm of a visit's scores; `None` without a test.
fn visit_value(trial: &Trial, goal: TrialGoal, need: &Need) -> Option<f64> {
    let values: Vec<f64> =
        whole_tests(trial).filter_map(|(_, figures)| score(goal, need, figures)).map(f64::ln).collect();
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}

/// Scores of visits with the hour's part taken out.
#[derive(Clone, Debug)]
pub struct BlockComparison {
    /// Choices that were measured.
    pub choices: Vec<BandChoice>,
    /// Visits of each.
    pub visits: Vec<usize>,
    means: Vec<f64>,
    fit: Option<BlockFit>,
}

impl BlockComparison {
    /// Sets visits against each other; every block of every round is a block of its own.
    pub fn of(trials: &[Trial], goal: TrialGoal, need: &Need) -> Self {
        let mut choices: Vec<BandChoice> = Vec::new();
        let mut blocks: Vec<(RoundId, u16)> = Vec::new();
        let mut values: Vec<BlockValue> = Vec::new();
        for trial in trials {
            let Some(value) = visit_value(trial, goal, need) else { continue };
            let treatment = place_in(&mut choices, trial.choice.clone());
            let block = place_in(&mut blocks, (trial.round_id, trial.block));
            values.push(BlockValue { treatment, block, value });
        }
        let of = |at: usize| values.iter().filter(move |one| one.treatment == at);
        let visits: Vec<usize> = (0..choices.len()).map(|at| of(at).count()).collect();
        let means: Vec<f64> = (0..choices.len())
            .map(|at| of(at).map(|one| one.value).sum::<f64>() / visits[at] as f64)
            .collect();
        Self { fit: block_fit(&values), choices, visits, means }
    }

    fn effect(&self, at: usize) -> f64 {
        self.fit.as_ref().map_or(self.means[at], |fit| fit.effects[at])
    }

    /// The best of some choices.
    pub fn best(&self, among: impl Fn(&BandChoice) -> bool) -> Option<usize> {
        (0..self.choices.len())
            .filter(|at| among(&self.choices[*at]))
            .max_by(|a, b| self.effect(*a).total_cmp(&self.effect(*b)))
    }

    /// One choice over another, times.
    pub fn ratio(&self, one: usize, other: usize) -> f64 {
        (self.effect(one) - self.effect(other)).exp()
    }

    /// The same with its interval, where enough was measured.
    pub fn against(&self, one: usize, other: usize, coverage: f64) -> Option<AgainstBest> {
        let (difference, half) = self.fit.as_ref()?.difference(one, other, coverage)?;
        Some(AgainstBest {
            ratio: difference.exp(),
            interval: Interval { low: (difference - half).exp(), high: (difference + half).exp(), coverage },
        })
    }

    /// Scatter of single visits, share of the logarithm; `None` before it can be known.
    pub fn spread(&self) -> Option<f64> {
        self.fit.as_ref().filter(|fit| fit.freedom >= 3.0).map(|fit| fit.spread)
    }
}

fn place_in<T: PartialEq>(list: &mut Vec<T>, one: T) -> usize {
    list.iter().position(|other| *other == one).unwrap_or_else(|| {
        list.push(one);
        list.len() - 1
    })
}

/// Which choices are given up by what was measured, and why. Two visits that got no service or were ignored settle it;
/// one does where nothing was ever measured on the choice.
pub fn dropped(trials: &[Trial], goal: TrialGoal, need: &Need) -> Vec<(BandChoice, Dropped)> {
    let contest = BlockComparison::of(trials, goal, need);
    let best = contest.best(|_| true);
    let mut choices: Vec<BandChoice> = Vec::new();
    for trial in trials {
        place_in(&mut choices, trial.choice.clone());
    }
    let verdict = |choice: &BandChoice| -> Option<Dropped> {
        let measured = contest.choices.iter().position(|one| one == choice);
        let bad = |outcome| {
            let count = trials.iter().filter(|one| one.choice == *choice && one.outcome == outcome).count();
            count >= 2 || (count == 1 && measured.is_none())
        };
        for (outcome, why) in [
            (TrialOutcome::NoService, Dropped::NoService),
            (TrialOutcome::Ignored, Dropped::Ignored),
            (TrialOutcome::Failed, Dropped::Failed),
        ] {
            if bad(outcome) {
                return Some(why);
            }
        }
        let (at, best) = (measured?, best?);
        let ratio = contest.ratio(at, best);
        let against = contest.against(at, best, DECIDING);
        if at == best {
            return None;
        }
        if let Some(found) = against.filter(|found| contest.visits[at] >= 2 && found.interval.high < 1.0) {
            return Some(Dropped::Slower { ratio: found.ratio, at_most: found.interval.high });
        }
        (ratio < FAR_BELOW).then_some(Dropped::Slower { ratio, at_most: FAR_BELOW })
    };
    choices
        .into_iter()
        .filter_map(|choice| Some((verdict(&choice)?, choice)))
        .map(|(why, one)| (one, why))
        .collect()
}

/// The winner for a goal.
pub fn winner(trials: &[Trial], goal: TrialGoal, need: &Need) -> Option<Winner> {
    let contest = BlockComparison::of(trials, goal, need);
    let best = contest.best(|_| true)?;
    let next = contest.best(|one| *one != contest.choices[best]);
    let against = next.and_then(|next| contest.against(best, next, DECIDING));
    let logs: Vec<f64> = trials
        .iter()
        .filter(|trial| trial.choice == contest.choices[best])
        .flat_map(whole_tests)
        .filter_map(|(_, figures)| score(goal, need, figures))
        .map(f64::ln)
        .collect();
    let mean = (logs.iter().sum::<f64>() / logs.len() as f64).exp();
    let middle = |of: fn(&SpeedFigures) -> Option<f64>| {
        let own = trials.iter().filter(|trial| trial.choice == contest.choices[best]);
        median(&own.flat_map(whole_tests).filter_map(|(_, figures)| of(figures)).collect::<Vec<f64>>())
    };
    Some(Winner {
        down_mbps: middle(|one| one.download_mbps),
        up_mbps: middle(|one| one.upload_mbps),
        loaded_latency_ms: middle(loaded_latency_ms),
        goal,
        choice: contest.choices[best].clone(),
        value: if goal == TrialGoal::Latency { 1e3 / mean } else { mean },
        runner_up: next.map(|next| contest.choices[next].clone()),
        ratio: next.map(|next| contest.ratio(best, next)),
        ratio_low: against.map(|found| found.interval.low),
        sure: against.is_some_and(|found| found.interval.low > 1.0),
        tests: logs.len(),
    })
}

/// Trials in a part of the day, 0..8, by the site's clock.
pub fn within(trials: &[Trial], part: u32, zone: Tz) -> Vec<Trial> {
    trials.iter().filter(|trial| part_of(trial.started_at, zone) == part).cloned().collect()
}

/// Which part of the day a time is in, 0..8: three hours each.
pub fn part_of(at: DateTime<Utc>, zone: Tz) -> u32 {
    at.with_timezone(&zone).hour() / DAY_PART_H
}

/// Winners by part of the day, where at least two choices were measured there.
pub fn by_hour(trials: &[Trial], ruler: &ScoringContext) -> Vec<HourWinner> {
    (0..24 / DAY_PART_H)
        .filter_map(|part| {
            let within = within(trials, part, ruler.zone);
            let winner = winner(&within, ruler.goal, &ruler.need)?;
            winner.runner_up.as_ref()?;
            let mut days: Vec<_> =
                within.iter().map(|one| one.started_at.with_timezone(&ruler.zone).date_naive()).collect();
            days.dedup();
            Some(HourWinner {
                from_hour: part * DAY_PART_H,
                to_hour: (part + 1) * DAY_PART_H,
                winner,
                days: days.len(),
            })
        })
        .collect()
}

/// Medians over all samples, carrier by carrier, in the order of the newest sample; the connection as it was last.
pub fn obtained(samples: &[&Reading]) -> (Option<ConnectionMode>, Vec<Carrier>) {
    let Some(last) = samples.last() else { return (None, Vec::new()) };
    let key = |one: &Carrier| (one.technology, one.band, one.channel);
    let carriers = last.carriers.iter().map(|carrier| {
        let same: Vec<&Carrier> = samples
            .iter()
            .flat_map(|sample| &sample.carriers)
            .filter(|other| key(other) == key(carrier))
            .collect();
        let of =
            |metric: Metric| median(&same.iter().filter_map(|one| one.value(metric)).collect::<Vec<f64>>());
        let mut typical = carrier.clone();
        typical.flags.clear();
        typical.rsrp_dbm = of(Metric::Rsrp);
        typical.rsrq_db = of(Metric::Rsrq);
        typical.sinr_db = of(Metric::Sinr);
        typical.rssi_dbm = of(Metric::Rssi);
        typical
    });
    (Some(last.mode), carriers.collect())
}

/// All choices as they stand, in the order given. Trials of other choices are left out.
pub fn standings(choices: &[BandChoice], trials: &[Trial], ruler: &ScoringContext) -> Vec<Standing> {
    let contest = BlockComparison::of(trials, ruler.goal, &ruler.need);
    let best = contest.best(|_| true);
    let given_up = dropped(trials, ruler.goal, &ruler.need);
    choices
        .iter()
        .map(|choice| {
            let own: Vec<&Trial> = trials.iter().filter(|one| one.choice == *choice).collect();
            let mut made = standing(choice, &own, ruler);
            made.dropped = given_up.iter().find(|(one, _)| one == choice).map(|(_, why)| *why);
            let at = contest.choices.iter().position(|one| one == choice);
            if let (Some(at), Some(best)) = (at, best)
                && at != best
            {
                made.against_best = contest.against(at, best, DECIDING);
            }
            made
        })
        .collect()
}

fn standing(choice: &BandChoice, own: &[&Trial], ruler: &ScoringContext) -> Standing {
    let samples: Vec<&Reading> = own.iter().flat_map(|one| &one.samples).collect();
    let (mode, carriers) = obtained(&samples);
    let tests: Vec<TestDot> = own
        .iter()
        .flat_map(|one| whole_tests(one))
        .map(|(at, figures)| {
            let local = at.with_timezone(&ruler.zone);
            TestDot {
                at: *at,
                hour: f64::from(local.hour()) + f64::from(local.minute()) / 60.0,
                down_mbps: figures.download_mbps,
                up_mbps: figures.upload_mbps,
                idle_latency_ms: figures.idle_latency_ms,
                loaded_latency_ms: loaded_latency_ms(figures),
            }
        })
        .collect();
    let values = |of: fn(&TestDot) -> Option<f64>| tests.iter().filter_map(of).collect::<Vec<f64>>();
    let (down, up) = (values(|dot| dot.down_mbps), values(|dot| dot.up_mbps));
    let loaded = values(|dot| dot.loaded_latency_ms);
    let interval = |values: &[f64]| geometric_mean_interval(values, crate::stats::COVERAGE);
    let possible = mode
        .filter(|_| !carriers.is_empty())
        .map(|mode| possible_of(&carriers, mode, ruler.offers, &ruler.link));
    let down_share = measured_share(median(&down), possible.as_ref().and_then(|one| one.down_mbps));
    Standing {
        choice: choice.clone(),
        visits: own.len(),
        last: own.last().map(|one| one.outcome),
        reattach_s: median(&own.iter().filter_map(|one| one.reattach_s).collect::<Vec<f64>>()),
        mode,
        held_by: held_by(&carriers, down_share),
        obtained: carriers,
        down_interval: interval(&down),
        up_interval: interval(&up),
        latency_interval: interval(&loaded),
        down: summarise(&down),
        up: summarise(&up),
        idle_latency: summarise(&values(|dot| dot.idle_latency_ms)),
        loaded_latency: summarise(&loaded),
        tests,
        possible,
        down_share,
        dropped: None,
        against_best: None,
    }
}

/// Weak or crowded. The widest carrier decides on weakness: it moves the most bits.
fn held_by(carriers: &[Carrier], share: Option<Estimate>) -> Option<HeldBy> {
    let share = share?;
    let width = |one: &&Carrier| one.bandwidth_mhz.unwrap_or(0.0);
    let widest = carriers.iter().max_by(|a, b| width(a).total_cmp(&width(b)))?;
    let weak = class_of_carrier(widest).is_some_and(|found| found.class <= Class::Thin);
    Some(match (weak, share.likely < CROWDED_BELOW) {
        (true, true) => HeldBy::Both,
        (true, false) => HeldBy::Weak,
        (false, true) => HeldBy::Crowded,
        (false, false) => HeldBy::Neither,
    })
}
