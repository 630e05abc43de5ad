//! Tests of several setups put into the model of a speed: [`crate::stats::mixed`].

use super::compare::{Versus, VersusVerdict};
use super::evidence::{SetupEvidence, cell_of};
use super::{CellName, DayPart, RadioDigest};
use crate::metrics::Metric;
use crate::model::{Activity, Completion, RunId, SittingId, SpeedFigure, SpeedTest};
use crate::stats::mixed::{MixedDraws, MixedFit, OF_LATENCIES, OF_RATES, Tested, joint_intervals};
use crate::stats::{COVERAGE, FEWEST_SITTINGS, Interval, SittingRatio, median};
use chrono::Timelike;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// One figure of one test, as the model wants it.
#[derive(Clone, Debug)]
pub(super) struct Logged<K> {
    pub(super) sitting: K,
    pub(super) part: DayPart,
    pub(super) server: String,
    /// Signal-to-noise of its run less what is usual at the setup, dB.
    pub(super) sinr_off_db: f64,
    pub(super) ln: f64,
    /// Tests that the figure is the average of.
    pub(super) tests: usize,
}

/// A setup's tests of one figure.
pub(super) type LoggedTests<K> = Vec<Logged<K>>;

/// A setup's whole tests of each figure, in the order of [`SpeedFigure::ALL`]. None of a figure where one value is not positive.
pub(super) fn logged(
    evidence: &SetupEvidence,
    heard: &RadioDigest,
    zone: chrono_tz::Tz,
) -> Vec<LoggedTests<Option<SittingId>>> {
    let off = sinr_off_db(evidence, heard);
    let of = |test: &SpeedTest, figure: SpeedFigure| {
        let value = figure.of(&test.figures)?;
        Some(Logged {
            sitting: test.sitting_id,
            part: DayPart::of_hour(test.started_at.with_timezone(&zone).hour() as u8),
            server: test.server.clone(),
            sinr_off_db: off.get(&test.run_id).copied().unwrap_or(0.0),
            ln: value.ln(),
            tests: test.figures.tests(),
        })
    };
    let whole = || evidence.tests.iter().filter(|test| test.completion == Completion::Complete);
    SpeedFigure::ALL
        .iter()
        .map(|figure| {
            let tests: LoggedTests<_> = whole().filter_map(|test| of(test, *figure)).collect();
            if tests.iter().all(|one| one.ln.is_finite()) { tests } else { Vec::new() }
        })
        .collect()
}

/// Values of which only the sitting is known.
pub(super) fn unplaced<K: Ord + Copy>(values: &crate::stats::BySitting<K>) -> LoggedTests<K> {
    let of = |(sitting, value): &(K, f64)| Logged {
        sitting: *sitting,
        part: DayPart::Midday,
        server: String::new(),
        sinr_off_db: 0.0,
        ln: value.ln(),
        tests: 1,
    };
    values.iter().map(of).collect()
}

/// More than this says that another cell served, not that the same one was heard better, dB (common practice, no source).
const MOST_OFF_DB: f64 = 10.0;

/// How much better each run heard its carriers than they are heard at the setup as a rule, dB.
fn sinr_off_db(evidence: &SetupEvidence, heard: &RadioDigest) -> BTreeMap<RunId, f64> {
    let of = |digest: &RadioDigest| -> BTreeMap<(CellName, Activity), f64> {
        let sinr = |one: &super::CarrierDigest| {
            Some(((cell_of(&one.carrier), one.activity), one.typical().value(Metric::Sinr)?))
        };
        digest.carriers.iter().filter_map(sinr).collect()
    };
    let usual = of(heard);
    let mut found = BTreeMap::new();
    for (run, digest) in &evidence.radio {
        let off: Vec<f64> = of(digest).iter().filter_map(|(key, db)| Some(db - usual.get(key)?)).collect();
        if !off.is_empty() {
            let mean = off.iter().sum::<f64>() / off.len() as f64;
            found.insert(*run, mean.clamp(-MOST_OFF_DB, MOST_OFF_DB));
        }
    }
    found
}

/// A figure of one setup against another's by the model.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ModelRatio {
    /// How many times the baseline's: the middle of what is possible, hour and server taken out.
    pub ratio: f64,
    /// Holds the true ratio in 90 %.
    pub interval: Interval,
    /// Holds all ratios of all setups and figures compared, at once, in 95 %: what "clear" rests on.
    pub joint: Interval,
    /// Chance that the figure is higher than the baseline's.
    pub chance_higher: f64,
}

/// Draws for each figure: 90 % limits are then known to about one percent.
const DRAWS: usize = 2000;
/// Coverage of the interval that "clear" rests on: so that it is wrong in less than 10 % of households where the model is not theirs.
const JOINT_COVERAGE: f64 = 0.95;
const SEED: u64 = 19;

/// One figure of several setups in the model.
#[derive(Clone, Debug)]
pub(super) struct SpeedModel {
    pub(super) fit: MixedFit,
    pub(super) drawn: MixedDraws,
    /// Where each setup stands in the model; none for one without tests.
    pub(super) places: Vec<Option<usize>>,
    /// Tests in each part of the day.
    pub(super) tests_in: [usize; 4],
    /// The same of each setup.
    pub(super) by_setup: Vec<[usize; 4]>,
}

impl SpeedModel {
    /// `None` where there is not a single test.
    pub(super) fn of<K: Ord + Copy>(figure: SpeedFigure, setups: &[&LoggedTests<K>]) -> Option<Self> {
        let all = || setups.iter().flat_map(|tests| tests.iter());
        let sittings: BTreeSet<K> = all().map(|one| one.sitting).collect();
        let sittings: Vec<K> = sittings.into_iter().collect();
        let servers: BTreeSet<&str> = all().map(|one| one.server.as_str()).collect();
        let servers: Vec<&str> = servers.into_iter().collect();
        let (mut places, mut tests, mut by_setup) = (Vec::new(), Vec::new(), vec![[0; 4]; setups.len()]);
        let mut next = 0;
        for (list, tests_in) in setups.iter().zip(&mut by_setup) {
            places.push((!list.is_empty()).then_some(next));
            for one in *list {
                tests_in[one.part as usize] += one.tests;
                tests.push(Tested {
                    setup: next,
                    sitting: sittings.partition_point(|other| *other < one.sitting),
                    part: one.part as usize,
                    server: servers.partition_point(|other| *other < one.server.as_str()),
                    covariate: one.sinr_off_db,
                    ln: one.ln,
                    tests: one.tests as f64,
                });
            }
            next += usize::from(!list.is_empty());
        }
        let priors = if figure.larger_is_better() { &OF_RATES } else { &OF_LATENCIES };
        let fit = MixedFit::of(&tests, DayPart::ALL.len(), priors)?;
        let drawn = fit.draws(DRAWS, SEED);
        let tests_in = std::array::from_fn(|part| by_setup.iter().map(|one: &[usize; 4]| one[part]).sum());
        Some(Self { fit, drawn, places, tests_in, by_setup })
    }

    /// Draws of the logarithm of a setup's figure over the first one's. `None` where one of them has no tests.
    fn against_first(&self, setup: usize) -> Option<Vec<f64>> {
        Some(self.drawn.difference((*self.places.get(setup)?)?, (*self.places.first()?)?))
    }
}

/// Every setup's figures against the first one's: for each setup its figures, in the order of `models`.
pub(super) fn ratios(models: &[Option<SpeedModel>], setups: usize) -> Vec<Vec<Option<ModelRatio>>> {
    let mut found = vec![vec![None; models.len()]; setups];
    let (mut lists, mut whose) = (Vec::new(), Vec::new());
    for setup in 1..setups {
        for (figure, model) in models.iter().enumerate() {
            if let Some(draws) = model.as_ref().and_then(|model| model.against_first(setup)) {
                lists.push(draws);
                whose.push((setup, figure));
            }
        }
    }
    for ((draws, joint), (setup, figure)) in
        lists.iter().zip(joint_intervals(&lists, JOINT_COVERAGE)).zip(whose)
    {
        let times = |of: Interval| Interval { low: of.low.exp(), high: of.high.exp(), ..of };
        let own = joint_intervals(std::slice::from_ref(draws), COVERAGE)[0];
        found[setup][figure] = Some(ModelRatio {
            ratio: median(draws).unwrap_or(0.0).exp(),
            interval: times(own),
            joint: times(joint),
            chance_higher: draws.iter().filter(|one| **one > 0.0).count() as f64 / draws.len() as f64,
        });
    }
    found
}

/// Differences of rates below this share do not matter (common practice, no source).
const RATE_SHARE_THAT_MATTERS: f64 = 0.05;
/// Differences of latency do not matter below this, or below a tenth ("a 1 ms latency change is nothing"; common practice).
const LATENCY_THAT_MATTERS_MS: f64 = 3.0;
const LATENCY_SHARE_THAT_MATTERS: f64 = 0.10;

/// The word for a figure. "Clear" is of the joint interval, "no practical difference" of the figure's own (two one-sided tests at 5 %:
/// Schuirmann 1987), and both only where the scatter between hours was seen: three sittings a side, or two that both were tested in. Else it comes from what is assumed, and the word is
/// "likely" at the most.
pub(super) fn word(figure: SpeedFigure, of: SittingRatio, model: ModelRatio, baseline: f64) -> Versus {
    let seen = of.sittings.min(of.baseline_sittings) >= FEWEST_SITTINGS || of.shared >= 2;
    let (least, most) = if figure.larger_is_better() {
        (1.0 / (1.0 + RATE_SHARE_THAT_MATTERS), 1.0 + RATE_SHARE_THAT_MATTERS)
    } else {
        let share = (LATENCY_THAT_MATTERS_MS / baseline).max(LATENCY_SHARE_THAT_MATTERS);
        (1.0 - share, 1.0 + share)
    };
    let within = |interval: Interval| interval.low >= least && interval.high <= most;
    let apart = |interval: Interval| interval.low > 1.0 || interval.high < 1.0;
    let gain = (model.ratio > 1.0) == figure.larger_is_better();
    let verdict = if seen && within(model.interval) {
        VersusVerdict::Same
    } else if seen && apart(model.joint) {
        if gain { VersusVerdict::ClearGain } else { VersusVerdict::ClearLoss }
    } else if apart(model.interval) {
        if gain { VersusVerdict::LikelyGain } else { VersusVerdict::LikelyLoss }
    } else if seen {
        VersusVerdict::CannotTell
    } else {
        VersusVerdict::TooFew
    };
    let held = (model.interval.low..=model.interval.high).contains(&of.ratio);
    let told_ratio = if held { of.ratio } else { model.ratio };
    Versus { of, model, told_ratio, classical: None, verdict }
}
