//! Which setup serves the household best, how sure that is, and which sitting would tell more.

use super::DayPart;
use super::compare::Comparison;
use super::speeds::SpeedModel;
use super::weighing::{Weighing, Weights};
use crate::capacity::Estimate;
use crate::kit::need::{LEAST_NEED_MBPS, Need, worth_of};
use crate::link::over_time::usual_day;
use crate::model::{SetupId, SpeedFigure};
use crate::stats::mixed::Scatters;
use crate::stats::{FEWEST_SITTINGS, quantile};
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

/// Draws of one figure for all setups compared.
#[derive(Clone, Debug, PartialEq)]
struct Drawn {
    /// Of each row its level, natural logarithm; none where it has no tests.
    setups: Vec<Option<Vec<f64>>>,
    /// Of each part of the day against the day.
    parts: Vec<Vec<f64>>,
    /// From hour to hour.
    hours: Vec<f64>,
    scatters: Scatters,
    tests_in: Vec<[usize; 4]>,
}

/// What a winner is chosen from: joint draws of all figures of all rows of a comparison.
#[derive(Clone, Debug, PartialEq)]
pub struct Standings {
    figures: Vec<Option<Drawn>>,
}

impl Standings {
    pub(super) fn of(models: &[Option<SpeedModel>]) -> Option<Self> {
        let figures = models.iter().zip(SpeedFigure::ALL);
        let figures: Vec<_> =
            figures.map(|(model, figure)| model.as_ref().map(|model| drawn(model, figure))).collect();
        figures.iter().any(Option::is_some).then_some(Self { figures })
    }

    fn figure(&self, figure: SpeedFigure) -> Option<&Drawn> {
        let at = SpeedFigure::ALL.iter().position(|one| *one == figure)?;
        self.figures[at].as_ref()
    }
}

fn drawn(model: &SpeedModel, figure: SpeedFigure) -> Drawn {
    let level = |place: &Option<usize>| place.map(|place| model.drawn.setups[place].clone());
    let mut parts = model.drawn.parts.clone();
    if matches!(figure, SpeedFigure::Download | SpeedFigure::Upload) {
        // A part of the day without tests: as usual against those with.
        let usual = |part: DayPart| usual_day(part.middle_hour());
        let all: usize = model.tests_in.iter().sum();
        let measured: f64 =
            DayPart::ALL.iter().map(|part| model.tests_in[*part as usize] as f64 * usual(*part)).sum::<f64>()
                / all.max(1) as f64;
        for part in DayPart::ALL.iter().filter(|part| model.tests_in[**part as usize] == 0) {
            parts[*part as usize].iter_mut().for_each(|ln| *ln += usual(*part) - measured);
        }
    }
    Drawn {
        setups: model.places.iter().map(level).collect(),
        parts,
        hours: model.drawn.hours.clone(),
        scatters: model.fit.scatters,
        tests_in: model.by_setup.clone(),
    }
}

/// How one setup stands.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetupStanding {
    /// The setup.
    pub setup_id: SetupId,
    /// Chance that it serves the household best of all that were tested.
    pub chance_of_best: f64,
    /// Chance that every need is met in an ordinary hour of the slowest part of the day; `None` where a needed figure was not measured.
    pub chance_of_need: Option<f64>,
    /// Share of the hours from 6 to 24 o'clock in which the download needed is there.
    pub share_of_hours: f64,
    /// Needed figures that were not measured.
    pub unmeasured: Vec<SpeedFigure>,
    /// What an hour of each part of the day brings, in the order of [`DayPart::ALL`].
    pub by_part: Vec<PartRate>,
}

/// Download in an hour of one part of the day.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartRate {
    /// Which part.
    pub part: DayPart,
    /// From 10 to 90 % of such hours, Mbit/s.
    pub down_mbps: Estimate,
    /// Whether the setup was tested then; else it rests on the other parts, and on how busy cells usually are.
    pub tested: bool,
}

/// How sure the choice is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum BestWord {
    /// Best in at least 95 % of what is possible, with the scatter of hours seen.
    Clear,
    /// Best in at least 80 %.
    Likely,
    /// Another may be better, but not by enough to matter.
    Alike,
    /// Cannot be told yet.
    Open,
    /// Nothing to choose from.
    Only,
}

/// The one sitting that tells most.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextSitting {
    /// What to test within the same hour.
    pub setups: Vec<SetupId>,
    /// When.
    pub part: Option<DayPart>,
    /// Tests of each.
    pub tests: usize,
    /// Expected loss by a wrong choice that it takes away, as a share of the need.
    pub removes: f64,
    /// True where it is to tell whether the need is met, not which setup is best.
    pub for_need: bool,
}

/// The choice.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BestSetup {
    /// The setup.
    pub setup_id: SetupId,
    /// The one that comes closest.
    pub runner_up: Option<SetupId>,
    /// How sure it is.
    pub word: BestWord,
    /// What is lost on average by choosing now, as a share of the need.
    pub regret: f64,
    /// When it is slowest.
    pub slowest: DayPart,
    /// Whether the winner was tested then.
    pub slowest_measured: bool,
    /// All that were tested, in order of the comparison.
    pub standings: Vec<SetupStanding>,
    /// Figures that were measured of some setups only, and so decide nothing between them.
    pub left_out: Vec<SpeedFigure>,
    /// What another winner would come from.
    pub other_by: Vec<OtherBest>,
    /// The next sitting worth its time; none where more tests are worth less than they cost.
    pub next: Option<NextSitting>,
}

/// Another winner by another weighing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OtherBest {
    /// What would come first.
    pub weighing: Weighing,
    /// What would win then.
    pub setup_id: SetupId,
}

/// Best in this share of what is possible is clear, in that likely (common practice, no source).
const CLEAR: f64 = 0.95;
const LIKELY: f64 = 0.80;
/// An expected loss below this share of the need is no loss to speak of: nor is a sitting worth it (common practice, no source).
const WORTH_A_SITTING: f64 = 0.01;
/// A setup that meets the need is better than any that does not: as much as two needs.
const MEETING: f64 = 2.0;
/// Latency under load where no use minds, ms (common practice, no source).
const USUAL_LATENCY_MS: f64 = 150.0;
/// Tests of each setup in a sitting.
const TESTS_A_SITTING: usize = 3;
/// Rivals looked at.
const MOST_RIVALS: usize = 8;

/// Steps of the golden section fill an interval evenly.
const GOLDEN_SHARE: f64 = 0.618_033_988_75;
/// Latency under load: whichever direction was measured.
const LOADED: [SpeedFigure; 2] = [SpeedFigure::DownloadLatency, SpeedFigure::UploadLatency];

struct Weighed<'a> {
    need: &'a Need,
    download: &'a Drawn,
    upload: Option<&'a Drawn>,
    loaded: Vec<&'a Drawn>,
    /// Figures that were measured of some only, and so decide nothing between them.
    left_out: Vec<SpeedFigure>,
    slowest: DayPart,
    /// Rows that were tested.
    rows: Vec<usize>,
    /// Of each of these its share of hours in each draw.
    steady: Vec<Vec<f64>>,
    /// Of every row of the comparison how easily it is had.
    ease: &'a [f64],
    normal: Normal,
}

impl<'a> Weighed<'a> {
    fn of(comparison: &'a Comparison, need: &'a Need) -> Option<Self> {
        let standings = comparison.standings.as_ref()?;
        let download = standings.figure(SpeedFigure::Download)?;
        let rows: Vec<usize> =
            (0..download.setups.len()).filter(|row| download.setups[*row].is_some()).collect();
        // Only what was measured of all of them can decide between them.
        let others = [SpeedFigure::Upload, LOADED[0], LOADED[1]];
        let of_all = |drawn: &Drawn| rows.iter().all(|row| drawn.setups[*row].is_some());
        let left_out = others.into_iter().filter(|figure| {
            standings
                .figure(*figure)
                .is_some_and(|drawn| rows.iter().any(|row| drawn.setups[*row].is_some()) && !of_all(drawn))
        });
        let left_out = left_out.collect();
        let upload = standings.figure(SpeedFigure::Upload);
        let loaded = LOADED.iter().filter_map(|figure| standings.figure(*figure)).collect();
        let mean = |part: DayPart| {
            let draws = &download.parts[part as usize];
            draws.iter().sum::<f64>() / draws.len().max(1) as f64
        };
        let slowest = DayPart::USUAL.into_iter().min_by(|a, b| mean(*a).total_cmp(&mean(*b)))?;
        let steady = Vec::new();
        let mut weighed = Self {
            need,
            download,
            upload,
            loaded,
            left_out,
            slowest,
            rows,
            steady,
            ease: &comparison.ease,
            normal: Normal::standard(),
        };
        let of_row =
            |row: &usize| (0..weighed.draws()).map(|draw| weighed.share_of_hours(*row, draw)).collect();
        weighed.steady = weighed.rows.iter().map(of_row).collect();
        Some(weighed)
    }

    fn draws(&self) -> usize {
        self.download.hours.len()
    }

    /// A figure in an ordinary hour of the slowest part of the day.
    fn slow(&self, drawn: &Drawn, row: usize, draw: usize) -> f64 {
        let level = drawn.setups[row].as_ref().map_or(f64::NEG_INFINITY, |draws| draws[draw]);
        (level + drawn.parts[self.slowest as usize][draw]).exp()
    }

    /// Download in an hour of a part of the day: how sure the setup's level is, and how hours differ.
    fn in_part(&self, row: usize, part: DayPart) -> PartRate {
        let levels = self.download.setups[row].as_deref().unwrap_or_default();
        let hour = |(draw, level): (usize, &f64)| {
            // Hours evenly over their distribution, in an order that has nothing to do with the draws'.
            let place = (0.5 + draw as f64 * GOLDEN_SHARE).fract().clamp(1e-3, 1.0 - 1e-3);
            let hour = self.download.hours[draw] * self.normal.inverse_cdf(place);
            (level + self.download.parts[part as usize][draw] + hour).exp()
        };
        let hours: Vec<f64> = levels.iter().enumerate().map(hour).collect();
        let at = |share: f64| quantile(&hours, share).unwrap_or(0.0);
        PartRate {
            part,
            down_mbps: Estimate { low: at(0.1), likely: at(0.5), high: at(0.9) },
            tested: self.download.tests_in[row][part as usize] > 0,
        }
    }

    /// Upload; `None` where it was not measured.
    fn up_mbps(&self, row: usize, draw: usize) -> Option<f64> {
        let upload = self.upload.filter(|drawn| drawn.setups[row].is_some())?;
        Some(self.slow(upload, row, draw))
    }

    /// Latency under load, of the worse direction; `None` where none was measured.
    fn latency_ms(&self, row: usize, draw: usize) -> Option<f64> {
        let measured = self.loaded.iter().filter(|drawn| drawn.setups[row].is_some());
        measured.map(|drawn| self.slow(drawn, row, draw)).max_by(f64::total_cmp)
    }

    fn decides(&self, figure: SpeedFigure) -> bool {
        !self.left_out.contains(&figure)
    }

    fn latency_decides(&self) -> bool {
        LOADED.iter().all(|figure| self.decides(*figure))
    }

    /// Share of waking hours in which the download needed is there.
    fn share_of_hours(&self, row: usize, draw: usize) -> f64 {
        let Some(levels) = &self.download.setups[row] else { return 0.0 };
        let needed = self.need.down_mbps.max(LEAST_NEED_MBPS).ln();
        let in_part = |part: &DayPart| {
            let above = levels[draw] + self.download.parts[*part as usize][draw] - needed;
            self.normal.cdf(above / self.download.hours[draw])
        };
        DayPart::USUAL.iter().map(in_part).sum::<f64>() / DayPart::USUAL.len() as f64
    }

    /// Whether what was measured of a setup meets the need; between setups only what was measured of all.
    fn meets(&self, row: usize, draw: usize, between: bool) -> bool {
        let up = self.up_mbps(row, draw).filter(|_| !between || self.decides(SpeedFigure::Upload));
        let latency_ms = self.latency_ms(row, draw).filter(|_| !between || self.latency_decides());
        let bound = self.need.loaded_latency_ms;
        up.is_none_or(|has| has >= self.need.up_mbps)
            && bound.zip(latency_ms).is_none_or(|(bound, has)| has <= bound)
            && self.slow(self.download, row, draw) >= self.need.down_mbps
    }

    fn value(&self, at: usize, draw: usize, weights: &Weights) -> f64 {
        let row = self.rows[at];
        let down = self.slow(self.download, row, draw) / self.need.down_mbps.max(LEAST_NEED_MBPS);
        let mut value = weights.download * worth_of(down)
            + weights.steadiness * self.steady[at][draw]
            + weights.ease * self.ease.get(row).copied().unwrap_or(0.0);
        if let Some(has) = self.up_mbps(row, draw).filter(|_| self.decides(SpeedFigure::Upload)) {
            value += weights.upload * worth_of(has / self.need.up_mbps.max(LEAST_NEED_MBPS));
        }
        if let Some(has) = self.latency_ms(row, draw).filter(|_| self.latency_decides()) {
            value +=
                weights.latency * worth_of(self.need.loaded_latency_ms.unwrap_or(USUAL_LATENCY_MS) / has);
        }
        value + MEETING * f64::from(u8::from(self.meets(row, draw, true)))
    }

    /// Of each tested row its values.
    fn values(&self, weighing: Weighing) -> Vec<Vec<f64>> {
        let weights = weighing.weights();
        let of = |at: usize| (0..self.draws()).map(|draw| self.value(at, draw, &weights)).collect();
        (0..self.rows.len()).map(of).collect()
    }
}

fn mean(values: &[f64]) -> f64 {
    values.iter().sum::<f64>() / values.len().max(1) as f64
}

fn greatest(values: &[Vec<f64>]) -> Option<usize> {
    (0..values.len()).max_by(|a, b| mean(&values[*a]).total_cmp(&mean(&values[*b])).then(b.cmp(a)))
}

/// Of each setup the share of draws in which it is the best, and the mean of the best in each draw.
fn per_draw(values: &[Vec<f64>], draws: usize) -> (Vec<f64>, f64) {
    let mut wins = vec![0.0; values.len()];
    let mut most = 0.0;
    for draw in 0..draws {
        let each = values.iter().map(|of_setup| of_setup[draw]).enumerate();
        if let Some((first, value)) = each.max_by(|a, b| a.1.total_cmp(&b.1)) {
            wins[first] += 1.0 / draws as f64;
            most += value / draws as f64;
        }
    }
    (wins, most)
}

/// The winner of a comparison. All needs must be met first, in an ordinary hour of the slowest part of the day; then what the
/// household weighs. `None` where no download was measured.
pub fn best_setup(comparison: &Comparison, need: &Need, weighing: Weighing) -> Option<BestSetup> {
    let weighed = Weighed::of(comparison, need)?;
    let values = weighed.values(weighing);
    let best = greatest(&values)?;
    let (rows, draws) = (&weighed.rows, weighed.draws());
    let id = |at: usize| comparison.rows[rows[at]].setup_id;
    let (wins, most) = per_draw(&values, draws);
    let regret = if rows.len() > 1 { (most - mean(&values[best])).max(0.0) } else { 0.0 };
    let others = (0..rows.len()).filter(|at| *at != best);
    let runner_up = others.max_by(|a, b| mean(&values[*a]).total_cmp(&mean(&values[*b])));
    let word = match runner_up {
        None => BestWord::Only,
        Some(_) if wins[best] >= CLEAR && seen(comparison, rows[best]) => BestWord::Clear,
        Some(_) if wins[best] >= LIKELY => BestWord::Likely,
        Some(_) if regret < WORTH_A_SITTING => BestWord::Alike,
        Some(_) => BestWord::Open,
    };
    let standings: Vec<SetupStanding> =
        (0..rows.len()).map(|at| standing(&weighed, id(at), at, wins[at])).collect();
    let slowest_measured = weighed.download.tests_in[rows[best]][weighed.slowest as usize] > 0;
    let other_by = Weighing::ALL.iter().filter(|other| **other != weighing).filter_map(|other| {
        let first = greatest(&weighed.values(*other))?;
        (first != best).then(|| OtherBest { weighing: *other, setup_id: id(first) })
    });
    let next = next_sitting(&weighed, &values, best).map(|(rival, removes)| NextSitting {
        setups: vec![id(best), id(rival)],
        part: (!slowest_measured).then_some(weighed.slowest),
        tests: TESTS_A_SITTING,
        removes,
        for_need: false,
    });
    let unsure = standings[best].chance_of_need.is_some_and(|chance| (0.1..0.9).contains(&chance));
    let for_need = (unsure && !slowest_measured).then(|| NextSitting {
        setups: vec![id(best)],
        part: Some(weighed.slowest),
        tests: TESTS_A_SITTING,
        removes: 0.0,
        for_need: true,
    });
    Some(BestSetup {
        setup_id: id(best),
        runner_up: runner_up.map(id),
        word,
        regret,
        slowest: weighed.slowest,
        slowest_measured,
        other_by: other_by.collect(),
        left_out: weighed.left_out.clone(),
        next: next.or(for_need),
        standings,
    })
}

/// Whether the scatter of hours was seen, not only assumed: of every comparison of the winner with the baseline, or of all others
/// where it is the baseline.
fn seen(comparison: &Comparison, best: usize) -> bool {
    let enough = |row: &super::ComparisonRow| {
        let download = row.figures.iter().find(|figure| figure.figure == SpeedFigure::Download);
        download.and_then(|figure| figure.versus).is_none_or(|versus| {
            versus.of.sittings.min(versus.of.baseline_sittings) >= FEWEST_SITTINGS || versus.of.shared >= 2
        })
    };
    if best > 0 { enough(&comparison.rows[best]) } else { comparison.rows.iter().all(enough) }
}

fn standing(weighed: &Weighed, setup_id: SetupId, at: usize, chance_of_best: f64) -> SetupStanding {
    let row = weighed.rows[at];
    let draws = weighed.draws();
    let mut unmeasured = Vec::new();
    if weighed.need.up_mbps > 0.0 && weighed.up_mbps(row, 0).is_none() {
        unmeasured.push(SpeedFigure::Upload);
    }
    if weighed.need.loaded_latency_ms.is_some() && weighed.latency_ms(row, 0).is_none() {
        unmeasured.push(SpeedFigure::DownloadLatency);
    }
    let met = (0..draws).filter(|draw| weighed.meets(row, *draw, false)).count() as f64 / draws as f64;
    SetupStanding {
        setup_id,
        chance_of_best,
        chance_of_need: unmeasured.is_empty().then_some(met),
        share_of_hours: mean(&weighed.steady[at]),
        unmeasured,
        by_part: DayPart::ALL.map(|part| weighed.in_part(row, part)).to_vec(),
    }
}

/// The rival that one more sitting with the winner tells most about, and the expected loss that it takes away: the expected value of
/// sample information, by regression of the difference in worth on what the sitting would find (Strong, Oakley, Brennan and Breeze 2015,
/// Medical Decision Making 35; here by groups of alike findings).
fn next_sitting(weighed: &Weighed, values: &[Vec<f64>], best: usize) -> Option<(usize, f64)> {
    let Scatters { test, within, .. } = weighed.download.scatters;
    let noise = (2.0 * (within.powi(2) + test.powi(2) / TESTS_A_SITTING as f64)).sqrt();
    let mut rivals: Vec<usize> = (0..values.len()).filter(|at| *at != best).collect();
    rivals.sort_by(|a, b| mean(&values[*b]).total_cmp(&mean(&values[*a])));
    let level = |at: usize| weighed.download.setups[weighed.rows[at]].as_deref().unwrap_or_default();
    let removes = |rival: usize| {
        let draws = weighed.draws();
        // What would be found, in even steps of a normal distribution so that no dice are needed, and what it would be worth.
        let error = |draw: usize| {
            let share = (draw as f64 * GOLDEN).fract();
            noise * weighed.normal.inverse_cdf(share.clamp(1e-4, 1.0 - 1e-4))
        };
        let mut found: Vec<(f64, f64)> = (0..draws)
            .map(|draw| {
                let apart = level(rival)[draw] - level(best)[draw];
                (apart + error(draw), values[rival][draw] - values[best][draw])
            })
            .collect();
        found.sort_by(|a, b| a.0.total_cmp(&b.0));
        let gain = |group: &[(f64, f64)]| group.iter().map(|one| one.1).sum::<f64>().max(0.0);
        found.chunks(draws.div_ceil(GROUPS)).map(gain).sum::<f64>() / draws as f64
    };
    let each = rivals.into_iter().take(MOST_RIVALS).map(|rival| (rival, removes(rival)));
    each.max_by(|a, b| a.1.total_cmp(&b.1)).filter(|(_, removes)| *removes >= WORTH_A_SITTING)
}

/// Multiples of it fill a unit interval evenly.
const GOLDEN: f64 = 0.618_033_988_749_895;
/// Groups of alike findings.
const GROUPS: usize = 20;
