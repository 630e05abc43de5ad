//! Two or more setups side by side against a baseline.

use super::classical::{Classical, classical, correct};
use super::differed::{Circumstances, Tested, what_else_differed};
use super::evidence::{CarrierSummary, RadioSummary, SetupEvidence};
use super::over_time::visits;
use super::radio_differences::{CarrierDifference, Visits, carrier_differences, speed_against_radio};
use super::speeds::{LoggedTests, ModelRatio, SpeedModel, logged, ratios, word};
use super::{CellName, Finding};
use crate::metrics::Metric;
use crate::model::{Completion, SetupId, SittingId, SpeedFigure, SpeedTestId};
use crate::stats::{
    BySitting, COVERAGE, FEWEST_SITTINGS, Interval, SittingMeans, SittingRatio, Summary, summarise,
};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// How a setup's figure stands against the baseline's.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum VersusVerdict {
    /// Better, whichever of all that is compared is looked at: the joint interval excludes equality.
    ClearGain,
    /// Better by its own interval, but not by the joint one, or tested in too few sittings to be clear.
    LikelyGain,
    /// Worse by its own interval only, or tested in too few sittings to be clear.
    LikelyLoss,
    /// Worse: the joint interval excludes equality.
    ClearLoss,
    /// The interval holds equality.
    CannotTell,
    /// The whole interval lies within what does not matter.
    Same,
    /// It holds equality, with fewer than three sittings on one side, and not tested in the same ones.
    TooFew,
}

/// A figure against the baseline's.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Versus {
    /// What the verdict is of.
    #[serde(flatten)]
    pub of: SittingRatio,
    /// The same by the model of a speed.
    pub model: ModelRatio,
    /// The ratio to tell: that of the averages where the model's interval holds it, else the model's own. They differ where one side was
    /// tested at busier hours.
    pub told_ratio: f64,
    /// Textbook figures beside it.
    pub classical: Option<Classical>,
    /// What it comes to.
    pub verdict: VersusVerdict,
}

/// One dot of the ledger.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FigureValue {
    /// The speed test.
    pub test_id: SpeedTestId,
    /// The visit to one hour it was taken in.
    pub sitting_id: Option<SittingId>,
    /// When.
    pub at: DateTime<Utc>,
    /// Mbit/s for rates, ms for latencies.
    pub value: f64,
}

/// One figure of one setup.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FigureRow {
    /// Which figure it is.
    pub figure: SpeedFigure,
    /// Complete tests that found it; an average counts as those that it is of.
    pub tests: usize,
    /// Every complete test; of more than thirty-two, as many chosen evenly, the least and the greatest among them.
    pub values: Vec<FigureValue>,
    /// How many, their median and spread.
    pub summary: Option<Summary>,
    /// The figure shown and compared: geometric mean over sittings.
    pub geometric_mean: Option<f64>,
    /// Visits to one hour that the tests are of.
    pub sittings: usize,
    /// Interval of the geometric mean, from three sittings up.
    pub interval: Option<Interval>,
    /// `None` for the baseline itself or where one side has no tests.
    pub versus: Option<Versus>,
}

/// One setup of a comparison.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ComparisonRow {
    /// The setup.
    pub setup_id: SetupId,
    /// Name as the user knows it.
    pub label: String,
    /// Whether the others are compared with it.
    pub is_baseline: bool,
    /// Samples.
    pub samples: usize,
    /// Speed tests.
    pub tests: usize,
    /// When; none without a test.
    pub tested: Option<Tested>,
    /// What was measured.
    pub figures: Vec<FigureRow>,
    /// Carriers, one an entry.
    pub carriers: Vec<CarrierSummary>,
    /// Differences of carriers that both sides heard.
    pub carrier_differences: Vec<CarrierDifference>,
    /// What the numbers say against the baseline.
    pub findings: Vec<Finding>,
    /// What else was different: reasons for doubt.
    pub differed: Vec<Finding>,
}

/// A comparison; the baseline's row stands first.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Comparison {
    /// Rows, one an entry.
    pub rows: Vec<ComparisonRow>,
    /// Which of them serves the household best, once its need is known; in the order of the rows.
    #[serde(skip)]
    pub standings: Option<super::best::Standings>,
    /// How easily each row's setup is had, 0 to 1; empty where that is not known.
    #[serde(skip)]
    pub ease: Vec<f64>,
}

/// Differences of medians below this are not worth a sentence, dB (common practice, no source).
const DECIBELS_THAT_MATTER: f64 = 2.0;

fn by_sitting(values: &[FigureValue]) -> Vec<(Option<SittingId>, f64)> {
    values.iter().map(|one| (one.sitting_id, one.value)).collect()
}

/// Compares two lists of one figure. `None` where a list is empty or a value is not positive.
pub fn compare_figure<K: Ord + Copy>(
    figure: SpeedFigure,
    here: &BySitting<K>,
    there: &BySitting<K>,
) -> Option<Versus> {
    let lists = [there, here].map(|list| -> LoggedTests<K> { super::speeds::unplaced(list) });
    let model = SpeedModel::of(figure, &[&lists[0], &lists[1]]);
    let means = (SittingMeans::of(here)?, SittingMeans::of(there)?);
    let ratio = ratios(&[model], 2).pop()?.pop()??;
    Some(versus(figure, &means.0, &means.1, ratio))
}

fn versus<K: Ord + Copy>(
    figure: SpeedFigure,
    here: &SittingMeans<K>,
    there: &SittingMeans<K>,
    model: ModelRatio,
) -> Versus {
    let of = here.ratio_to(there, COVERAGE);
    let classical = classical(here, there, of.estimate.map(|estimate| estimate.interval));
    Versus { classical, ..word(figure, of, model, there.geometric_mean()) }
}

/// A setup's figure with its dots, summary and interval. Partial tests are left out: their phases were cut short.
pub fn figure_row(evidence: &SetupEvidence, figure: SpeedFigure) -> FigureRow {
    row_and_means(evidence, figure).0
}

/// Mean logarithm of a figure in each sitting, of whole tests; none where a value is not positive.
pub fn sitting_means(evidence: &SetupEvidence, figure: SpeedFigure) -> Vec<(SittingId, f64)> {
    let means = row_and_means(evidence, figure).1;
    means.iter().flat_map(SittingMeans::means).filter_map(|(sitting, log)| Some((sitting?, log))).collect()
}

type Means = Option<SittingMeans<Option<SittingId>>>;

fn row_and_means(evidence: &SetupEvidence, figure: SpeedFigure) -> (FigureRow, Means) {
    let whole = || evidence.tests.iter().filter(|test| test.completion == Completion::Complete);
    let values: Vec<FigureValue> = whole()
        .filter_map(|test| {
            let value = figure.of(&test.figures)?;
            Some(FigureValue { test_id: test.id, sitting_id: test.sitting_id, at: test.started_at, value })
        })
        .collect();
    let numbers: Vec<f64> = values.iter().map(|dot| dot.value).collect();
    let grouped = by_sitting(&values);
    let means = SittingMeans::of(&grouped);
    let found = whole().filter(|test| figure.of(&test.figures).is_some());
    let row = FigureRow {
        figure,
        tests: found.map(|test| test.figures.tests()).sum(),
        summary: summarise(&numbers),
        geometric_mean: means.as_ref().map(SittingMeans::geometric_mean),
        sittings: grouped.iter().map(|(sitting, _)| sitting).collect::<BTreeSet<_>>().len(),
        interval: means.as_ref().and_then(|means| means.interval(COVERAGE)),
        versus: None,
        values,
    };
    (row, means)
}

/// Dots drawn of a figure at the most; more lie on top of each other.
const MOST_DOTS: usize = 32;

/// Leaves the dots that a drawing needs: all of few; of many, evenly chosen by size, the least and the greatest among them.
fn thinned(values: Vec<FigureValue>) -> Vec<FigureValue> {
    if values.len() <= MOST_DOTS {
        return values;
    }
    let mut by_size = values;
    by_size.sort_by(|a, b| a.value.total_cmp(&b.value));
    let last = by_size.len() - 1;
    let mut kept: Vec<FigureValue> = (0..MOST_DOTS).map(|at| by_size[at * last / (MOST_DOTS - 1)]).collect();
    kept.sort_by_key(|one| (one.at, one.test_id));
    kept
}

/// Puts setups side by side. `baseline` is compared with each of `others`; `zone` tells the hours of the day.
pub fn compare(baseline: &SetupEvidence, others: &[SetupEvidence], zone: chrono_tz::Tz) -> Comparison {
    let others = others.iter().map(|other| Described::of(other, zone));
    compare_described(Described::of(baseline, zone), others)
}

/// [`compare`] of setups that were described each by itself.
pub fn compare_described(base: Described, others: impl IntoIterator<Item = Described>) -> Comparison {
    let others: Vec<Described> = others.into_iter().collect();
    let models = models(&base, &others);
    let ratios = ratios(&models, others.len() + 1);
    let standing = super::best::Standings::of(&models);
    let mut rows = vec![ComparisonRow { is_baseline: true, ..base.row }];
    for (other, ratios) in others.into_iter().zip(&ratios[1..]) {
        let Described { mut row, means, circumstances, visits, .. } = other;
        let pairs = means.iter().zip(&base.means).zip(ratios);
        for (figure, ((here, there), ratio)) in row.figures.iter_mut().zip(pairs) {
            let sides = here.as_ref().zip(there.as_ref()).zip(*ratio);
            figure.versus = sides.map(|((here, there), ratio)| versus(figure.figure, here, there, ratio));
        }
        row.carrier_differences =
            carrier_differences((&row.carriers, &visits), (&rows[0].carriers, &base.visits));
        row.findings.extend(findings_against(&row, &rows[0]));
        row.differed = what_else_differed(&circumstances, &base.circumstances);
        rows.push(row);
    }
    correct(&mut rows);
    for figure in rows.iter_mut().flat_map(|row| &mut row.figures) {
        figure.values = thinned(std::mem::take(&mut figure.values));
    }
    Comparison { rows, standings: standing, ease: Vec::new() }
}

/// A setup by itself, with what a comparison asks of it again and again.
#[derive(Clone, Debug)]
pub struct Described {
    row: ComparisonRow,
    /// Of each figure, in the order of the row's.
    means: Vec<Means>,
    circumstances: Circumstances,
    /// Of each figure, in the order of the row's.
    tests: Vec<LoggedTests<Option<SittingId>>>,
    visits: Visits,
}

/// The model of each figure over all setups, the baseline first.
fn models(base: &Described, others: &[Described]) -> Vec<Option<SpeedModel>> {
    let of = |at: usize| {
        let each = std::iter::once(base).chain(others).map(|one| &one.tests[at]);
        SpeedModel::of(SpeedFigure::ALL[at], &each.collect::<Vec<_>>())
    };
    let tests: usize = std::iter::once(base).chain(others).map(|one| one.tests[0].len()).sum();
    let figures = 0..SpeedFigure::ALL.len();
    if tests < WORTH_A_THREAD {
        return figures.map(of).collect();
    }
    let (own, beside) = std::thread::scope(|scope| {
        let beside = scope.spawn(|| (2..figures.end).map(of).collect::<Vec<_>>());
        (
            (0..2).map(of).collect::<Vec<_>>(),
            beside.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)),
        )
    });
    own.into_iter().chain(beside).collect()
}

/// So many tests take long enough that their figures are worked out two at once.
const WORTH_A_THREAD: usize = 1000;

impl Described {
    /// The setup.
    pub fn setup_id(&self) -> SetupId {
        self.row.setup_id
    }

    /// Describes a setup; `zone` tells the hours of the day.
    pub fn of(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> Self {
        let heard = evidence.whole_radio();
        let (figures, means) = SpeedFigure::ALL.iter().map(|figure| row_and_means(evidence, *figure)).unzip();
        let circumstances = Circumstances::of(evidence, &heard, zone);
        let tests = logged(evidence, &heard, zone);
        let row = describe(evidence, heard.summary(), figures);
        Self {
            row: ComparisonRow { tested: circumstances.tested, ..row },
            means,
            circumstances,
            tests,
            visits: visits(evidence),
        }
    }
}

fn describe(evidence: &SetupEvidence, radio: RadioSummary, figures: Vec<FigureRow>) -> ComparisonRow {
    let mut findings = radio.findings;
    let whole = evidence.tests.iter().filter(|test| test.completion == Completion::Complete);
    let partial = evidence.tests.len() - whole.clone().count();
    if partial > 0 {
        findings.push(Finding::PartialLeftOut { tests: partial });
    }
    findings.extend(super::tests_doubted(&evidence.tests));
    findings.extend(super::page::page_slow(&evidence.tests));
    ComparisonRow {
        setup_id: evidence.setup_id,
        label: evidence.label.clone(),
        is_baseline: false,
        samples: radio.samples,
        tests: whole.map(|test| test.figures.tests()).sum(),
        tested: None,
        figures,
        carriers: radio.carriers,
        carrier_differences: Vec::new(),
        findings,
        differed: Vec::new(),
    }
}

fn findings_against(row: &ComparisonRow, base: &ComparisonRow) -> Vec<Finding> {
    let mut findings = Vec::new();
    for figure in &row.figures {
        let base_figure = base.figures.iter().find(|other| other.figure == figure.figure);
        findings.extend(figure_finding(row, figure, base, base_figure.map_or(0, |other| other.sittings)));
    }
    let widest = row
        .carrier_differences
        .iter()
        .filter(|difference| matches!(difference.metric, Metric::Rsrp | Metric::Sinr))
        .filter(|difference| difference.difference_db.abs() >= DECIBELS_THAT_MATTER);
    let mut told: Vec<(CellName, Metric)> = Vec::new();
    for difference in widest {
        // Idle, trickle and loaded samples of one carrier say the same thing; it is told once.
        if !told.contains(&(difference.cell, difference.metric)) {
            told.push((difference.cell, difference.metric));
            findings.push(Finding::CarrierDiffers {
                cell: difference.cell,
                metric: difference.metric,
                difference_db: difference.difference_db,
                baseline: base.label.clone(),
            });
        }
    }
    findings.extend(speed_against_radio(row));
    findings
}

fn figure_finding(
    row: &ComparisonRow,
    figure: &FigureRow,
    base: &ComparisonRow,
    baseline_has: usize,
) -> Option<Finding> {
    let (setup, baseline, kind) = (row.label.clone(), base.label.clone(), figure.figure);
    let main = matches!(kind, SpeedFigure::Download | SpeedFigure::Upload);
    let Some(versus) = figure.versus else {
        let missing = if figure.values.is_empty() { setup } else { baseline };
        return main.then_some(Finding::NotMeasured { setup: missing, figure: kind });
    };
    let ratio = versus.told_ratio;
    let interval = versus.model.interval;
    let sittings = figure.sittings.min(baseline_has);
    match versus.verdict {
        VersusVerdict::ClearGain => {
            Some(Finding::ClearGain { setup, baseline, figure: kind, ratio, interval })
        }
        VersusVerdict::ClearLoss => {
            Some(Finding::ClearLoss { setup, baseline, figure: kind, ratio, interval })
        }
        VersusVerdict::LikelyGain => {
            Some(Finding::LikelyGain { setup, baseline, figure: kind, ratio, interval, sittings })
        }
        VersusVerdict::LikelyLoss => {
            Some(Finding::LikelyLoss { setup, baseline, figure: kind, ratio, interval, sittings })
        }
        VersusVerdict::CannotTell if main => {
            Some(Finding::CannotTell { setup, baseline, figure: kind, ratio, interval })
        }
        VersusVerdict::Same if main => Some(Finding::Same { setup, baseline, figure: kind, ratio }),
        VersusVerdict::TooFew if main => Some(Finding::TooFew {
            setup,
            baseline,
            figure: kind,
            have: figure.sittings,
            baseline_has,
            need: FEWEST_SITTINGS,
            ratio: ratio.is_finite().then_some(ratio),
        }),
        _ => None,
    }
}
