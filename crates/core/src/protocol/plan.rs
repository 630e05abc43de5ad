//! How many sittings the difference worth knowing takes, and what they cost.

use super::Built;
use super::order::{PlanStop, Standing, shortest_way, stops};
use super::schedule::{PlannedVisit, Schedule, VisitKind};
use crate::geo::GeoPoint;
use crate::judge::{DayPart, EVENING_HOURS, WorkRow};
use crate::model::{SetupId, SittingId, SpeedTestSettings, TestOrder};
use crate::stats::{BlockValue, COVERAGE, FEWEST_SITTINGS, FEWEST_TESTS, block_fit, blocks_planned};
use chrono::{DateTime, NaiveDate, Utc};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// More than this are not tried by turns in one sitting.
pub const MOST_CONTENDERS: usize = 6;
/// As many as are compared where nobody chose.
const USUAL_CONTENDERS: usize = 4;
/// Sittings that somebody makes at the most; beyond, what they would show is said (common practice, no source).
const MOST_SITTINGS: usize = 8;
/// Scatter of a setup's sittings about what the hour does to all setups: standard deviation of the logarithms (common practice, no
/// source).
const USUAL_SCATTER: f64 = 0.1;
/// Scatter as measured is taken between these: fewer sittings than a dozen know it badly.
const SCATTER: (f64, f64) = (0.05, 0.8);
/// Rates of a line of which nothing is known, Mbit/s down and up (common practice, no source).
const UNKNOWN_MBPS: (f64, f64) = (50.0, 10.0);
/// Latency probes and pauses of each test, s.
const ASIDE_S: f64 = 8.0;

/// A setup that may be compared.
#[derive(Clone, Copy, Debug)]
pub struct Contender<'a> {
    /// As it stands.
    pub built: Built<'a>,
    /// What was measured on it.
    pub row: &'a WorkRow,
    /// Last day on which its kit can be given back.
    pub return_by: Option<NaiveDate>,
}

/// Those that are compared: the ones that were chosen, six at the most; else the baseline, what was hardly tested, and what may be the
/// best, the fastest first, four at the most.
pub fn contenders<'a>(
    all: &[Contender<'a>],
    chosen: &[SetupId],
    baseline: Option<SetupId>,
) -> Vec<Contender<'a>> {
    let id = |one: &Contender| one.row.setup_id;
    let mut found: Vec<Contender<'a>> = if chosen.is_empty() {
        let stands = |one: &&Contender| !one.row.behind || Some(id(one)) == baseline;
        let mut found: Vec<Contender<'a>> = all.iter().filter(stands).copied().collect();
        let rank = |one: &Contender<'a>| {
            let untried = one.row.tests < FEWEST_TESTS;
            (
                Some(id(one)) != baseline,
                -if untried { f64::INFINITY } else { one.row.down_mbps.unwrap_or(0.0) },
            )
        };
        found.sort_by(|a, b| rank(a).partial_cmp(&rank(b)).unwrap_or(std::cmp::Ordering::Equal));
        found.truncate(USUAL_CONTENDERS);
        found
    } else {
        all.iter().filter(|one| chosen.contains(&id(one))).copied().collect()
    };
    found.truncate(MOST_CONTENDERS);
    found
}

/// Scatter of sittings about setup and hour, standard deviation of the logarithms: `means` are mean log rates of a setup in a sitting.
/// None where fewer than two degrees of freedom tell it.
pub fn sitting_scatter(means: &[(SetupId, SittingId, f64)]) -> Option<f64> {
    let mut setups: BTreeMap<SetupId, BTreeSet<SittingId>> = BTreeMap::new();
    for (setup, sitting, _) in means {
        setups.entry(*setup).or_default().insert(*sitting);
    }
    // Only sittings that two setups share say anything of the rest.
    let shared = |sitting: &SittingId| setups.values().filter(|of| of.contains(sitting)).count() > 1;
    let used: Vec<&(SetupId, SittingId, f64)> = means.iter().filter(|one| shared(&one.1)).collect();
    let rows: BTreeSet<SetupId> = used.iter().map(|one| one.0).collect();
    let columns: BTreeSet<SittingId> = used.iter().map(|one| one.1).collect();
    let place = |at: Option<usize>| at.unwrap_or_default();
    let values: Vec<BlockValue> = used
        .iter()
        .map(|(setup, sitting, value)| BlockValue {
            treatment: place(rows.iter().position(|one| one == setup)),
            block: place(columns.iter().position(|one| one == sitting)),
            value: *value,
        })
        .collect();
    let fit = block_fit(&values)?;
    (fit.freedom >= 2.0).then(|| fit.spread.clamp(SCATTER.0, SCATTER.1))
}

/// What a plan is made from.
#[derive(Clone, Debug)]
pub struct PlanInput<'a> {
    /// What is compared, in the order shown; at most [`MOST_CONTENDERS`].
    pub contenders: &'a [Contender<'a>],
    /// The setup at which the antenna stands.
    pub stands: Option<SetupId>,
    /// Order within a sitting.
    pub order: TestOrder,
    /// Difference worth knowing, share.
    pub difference: f64,
    /// Of sittings about setup and hour, as measured; a tenth else.
    pub scatter: Option<f64>,
    /// Sittings in which each of them was tested.
    pub sittings_done: usize,
    /// How speed is measured.
    pub speed_test: &'a SpeedTestSettings,
    /// Data that may be used, MB.
    pub cap_mb: Option<f64>,
    /// Data that the tests so far have moved, MB.
    pub used_mb: f64,
    /// The house, for the light of the day.
    pub place: Option<GeoPoint>,
    /// Where hours are told.
    pub zone: chrono_tz::Tz,
    /// Now.
    pub now: DateTime<Utc>,
}

/// What to test, in which order, how often and when.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestPlan {
    /// What is compared: stops name them by their place here.
    pub setups: Vec<SetupId>,
    /// Stops of the next sitting.
    pub stops: Vec<PlanStop>,
    /// Speed tests of one sitting.
    pub tests_a_sitting: usize,
    /// Climbs of one sitting.
    pub climbs_a_sitting: usize,
    /// min
    pub minutes_a_sitting: f64,
    /// MB
    pub megabytes_a_sitting: f64,
    /// Longer than a sitting is open: the hour would be another one at its end.
    pub too_long: bool,
    /// Difference worth knowing, share.
    pub difference: f64,
    /// Scatter of sittings that is reckoned with, standard deviation of the logarithms.
    pub scatter: f64,
    /// Whether that was measured here.
    pub scatter_measured: bool,
    /// Sittings of all setups for that difference, four times in five.
    pub sittings_needed: usize,
    /// Those that are done.
    pub sittings_done: usize,
    /// Difference that as many sittings as are needed would show, share; none where it is the one worth knowing or less.
    pub difference_shown: Option<f64>,
    /// What is still to do, in order of time.
    pub visits: Vec<PlannedVisit>,
    /// Climbs of all visits.
    pub climbs: usize,
    /// Minutes of all visits.
    pub minutes: f64,
    /// Data of all visits, MB.
    pub megabytes: f64,
    /// MB by which data used and planned pass the cap; none within it or without one.
    pub over_cap_mb: Option<f64>,
    /// The first day on which a kit that is compared has to go back.
    pub return_by: Option<NaiveDate>,
    /// Whether the last visit comes too late for that.
    pub too_late: bool,
}

/// Sittings for a difference, and what the most that anybody makes would show where that is more.
fn sittings(setups: usize, difference: f64, scatter: f64) -> (usize, Option<f64>) {
    let needed = |difference: f64| usize::from(blocks_planned(setups, difference, scatter, COVERAGE));
    let all = needed(difference).max(FEWEST_SITTINGS);
    if all <= MOST_SITTINGS {
        return (all, None);
    }
    let steps = (1..=60).map(|step| f64::from(step) * 0.05);
    (MOST_SITTINGS, steps.into_iter().find(|share| *share > difference && needed(*share) <= MOST_SITTINGS))
}

/// The plan. None where there is nothing to compare, or more than can be tried by turns.
pub fn plan(input: &PlanInput) -> Option<TestPlan> {
    let count = input.contenders.len();
    if !(2..=MOST_CONTENDERS).contains(&count) {
        return None;
    }
    let built: Vec<Built> = input.contenders.iter().map(|one| one.built).collect();
    let at = |id: SetupId| input.contenders.iter().position(|one| one.row.setup_id == id);
    let stands = input.stands.and_then(at);
    let way = shortest_way(&built, stands, input.order);
    let scatter = input.scatter.unwrap_or(USUAL_SCATTER);
    let (sittings_needed, difference_shown) = sittings(count, input.difference, scatter);
    let known = |of: fn(&WorkRow) -> Option<f64>, else_mbps: f64| {
        let best = input.contenders.iter().filter_map(|one| of(one.row)).fold(0.0, f64::max);
        if best > 0.0 { best } else { else_mbps }
    };
    let (down, up) = (known(|row| row.down_mbps, UNKNOWN_MBPS.0), known(|row| row.up_mbps, UNKNOWN_MBPS.1));
    let rate = |one: &Contender| (one.row.down_mbps.unwrap_or(down), one.row.up_mbps.unwrap_or(up));
    let rates: Vec<(f64, f64)> = input.contenders.iter().map(rate).collect();
    let test = input.speed_test;
    let ways = if test.upload_url.is_some() { 2.0 } else { 1.0 };
    let schedule = Schedule {
        setups: &built,
        way: way.clone(),
        order: input.order,
        whole: sittings_needed.saturating_sub(input.sittings_done),
        evening: (0..count).filter(|at| !in_part(input.contenders[*at].row, DayPart::Evening)).collect(),
        covered: [DayPart::Morning, DayPart::Midday, DayPart::Evening]
            .into_iter()
            .filter(|part| input.contenders.iter().all(|one| in_part(one.row, *part)))
            .collect(),
        test_min: ((test.warm_up_s + test.phase_s) * ways + ASIDE_S) / 60.0,
        rates_mbps: &rates,
        speed_test: test,
        place: input.place,
        zone: input.zone,
    };
    let first = stops(&way, input.order);
    let mut standing = Standing::at(&built, stands.or(way.first().copied()));
    let usual = schedule.visit(input.now, VisitKind::Whole, first.clone(), &mut standing);
    let visits = schedule.visits(input.now, Standing::at(&built, stands));
    let megabytes = visits.iter().map(|visit| visit.megabytes).sum::<f64>();
    let return_by = input.contenders.iter().filter_map(|one| one.return_by).min();
    let last_day = visits.last().map(|visit| visit.starts_at.with_timezone(&input.zone).date_naive());
    Some(TestPlan {
        setups: input.contenders.iter().map(|one| one.row.setup_id).collect(),
        tests_a_sitting: first.iter().map(|stop| usize::from(stop.tests)).sum(),
        climbs_a_sitting: usual.climbs,
        stops: first,
        minutes_a_sitting: usual.minutes,
        megabytes_a_sitting: usual.megabytes,
        too_long: usual.minutes > crate::model::OPEN_SITTING_MIN as f64,
        difference: input.difference,
        scatter,
        scatter_measured: input.scatter.is_some(),
        sittings_needed,
        sittings_done: input.sittings_done,
        difference_shown,
        climbs: visits.iter().map(|visit| visit.climbs).sum(),
        minutes: visits.iter().map(|visit| visit.minutes).sum(),
        over_cap_mb: input.cap_mb.map(|cap| input.used_mb + megabytes - cap).filter(|over| *over > 0.0),
        megabytes,
        return_by,
        too_late: return_by.zip(last_day).is_some_and(|(by, last)| last > by),
        visits,
    })
}

fn in_part(row: &WorkRow, part: DayPart) -> bool {
    match part {
        DayPart::Evening => row.hours.iter().any(|hour| EVENING_HOURS.contains(hour)),
        part => row.hours.iter().any(|hour| DayPart::of_hour(*hour) == part),
    }
}
