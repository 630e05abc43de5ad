//! What the record of a setup shows of causes.

use super::cause::{Level, Sign};
use crate::capacity::possible::possible;
use crate::judge::{CarrierDigest, DayPart, PageTimes, SetupEvidence, TestDoubt, test_doubts, visits};
use crate::metrics::limits;
use crate::model::{
    Activity, Carrier, Completion, ConnectionMode, LinkAssumptions, Run, Sample, SpeedFigure, SpeedTest,
};
use crate::stats::median;
use chrono::Timelike;
use std::collections::{BTreeMap, BTreeSet};

/// Edges of the signal of the strongest carrier, dBm, and of the signal-to-noise of the widest, dB (common practice, no source).
const SIGNAL_DBM: [f64; 2] = [-110.0, -95.0];
const CLEAN_DB: [f64; 2] = [3.0, 13.0];
/// Edges of the share of what the radio could carry (common practice, no source).
const SHARE: [f64; 2] = [0.3, 0.6];
/// Less than this share of what the radio could carry is next to nothing (common practice, no source).
const CRAWLS: f64 = 0.05;
/// Disturbance over the receiver's own noise from which it is other cells', dB.
const DISTURBED_DB: f64 = 4.0;
/// Evenings slower than this share of other hours are busy.
const BUSY_EVENING: f64 = 0.65;
/// Sittings whose averages scatter by less than this end at one ceiling: standard deviation of logarithms.
const CEILING_SCATTER: f64 = 0.04;
/// A plain wire, or other ports, help where they are this many times as fast.
const WIRE_HELPS: f64 = 1.5;
const SWAP_HELPS: f64 = 1.3;
/// Receive branches this far apart are not alike, dB.
const APART_DB: f64 = 8.0;
/// A fall of all carriers that is more than weather and load, dB; and what wet weather may not take.
const FALLEN_DB: f64 = 6.0;
const WET_DB: f64 = 3.0;
/// Visits before the newest one that tell what was usual.
const FEWEST_BEFORE: usize = 3;
/// Latency under load that is felt, ms, and times the idle one (common practice, no source).
const FELT_MS: f64 = 150.0;
const TIMES_IDLE: f64 = 4.0;
/// What people write of wet weather.
const WET: [&str; 8] = ["rain", "wet", "snow", "sleet", "fog", "drizzle", "shower", "thaw"];

/// What is known of a setup.
#[derive(Clone, Copy, Debug)]
pub struct Known<'a> {
    /// Everything recorded on it, on the network in use.
    pub evidence: &'a SetupEvidence,
    /// Its newest samples: layers and receive branches are kept in them only.
    pub samples: &'a [Sample],
    /// The same setup with its leads plugged otherwise.
    pub swapped: Option<&'a SetupEvidence>,
    /// Cells (PCI) of the mast it is aimed at; empty where not known.
    pub aimed_at: &'a [u16],
    /// What is assumed of the link where a reading does not say.
    pub link: &'a LinkAssumptions,
    /// How its carriers are bundled.
    pub mode: ConnectionMode,
    /// Tells the hours of the day.
    pub zone: chrono_tz::Tz,
}

/// Everything that can be seen, each kind once.
pub fn signs(known: &Known) -> Vec<Sign> {
    let carriers = carriers(known.evidence);
    let mut found = Vec::new();
    found.extend(of_radio(&carriers));
    found.extend(of_speed(known, &carriers));
    found.extend(of_surroundings(known));
    found.extend(of_leads(known));
    found.extend(of_time(known));
    found.extend(wrong_cell(known, &carriers));
    found
}

fn level(value: f64, [low, high]: [f64; 2]) -> Level {
    match value {
        _ if value < low => Level::Low,
        _ if value < high => Level::Middle,
        _ => Level::High,
    }
}

/// Each cell once, as it was heard under the heaviest traffic; those of the newest run that heard any.
fn carriers(evidence: &SetupEvidence) -> Vec<Carrier> {
    let Some((_, newest)) = evidence.radio.iter().rev().find(|(_, heard)| !heard.carriers.is_empty()) else {
        return Vec::new();
    };
    let heaviness = |activity: Activity| match activity {
        Activity::Loaded => 3,
        Activity::Trickle => 2,
        Activity::Idle => 1,
        Activity::Unknown => 0,
    };
    let mut cells: BTreeMap<_, &CarrierDigest> = BTreeMap::new();
    for one in &newest.carriers {
        let key = (one.carrier.technology, one.carrier.channel, one.carrier.band, one.carrier.pci);
        let kept = cells.entry(key).or_insert(one);
        if heaviness(one.activity) > heaviness(kept.activity) {
            *kept = one;
        }
    }
    cells.into_values().map(CarrierDigest::typical).collect()
}

/// The carrier that most of the speed comes over.
fn main_carrier(carriers: &[Carrier]) -> Option<&Carrier> {
    let width = |one: &Carrier| one.bandwidth_mhz.unwrap_or(10.0);
    carriers.iter().filter(|one| one.sinr_db.is_some()).max_by(|a, b| width(a).total_cmp(&width(b)))
}

fn of_radio(carriers: &[Carrier]) -> Vec<Sign> {
    let mut found = Vec::new();
    let strongest = carriers.iter().filter_map(|one| one.rsrp_dbm).max_by(f64::total_cmp);
    found.extend(strongest.map(|dbm| Sign::Signal(level(dbm, SIGNAL_DBM))));
    let Some(main) = main_carrier(carriers) else { return found };
    let Some(sinr_db) = main.sinr_db else { return found };
    found.push(Sign::Cleanness(level(sinr_db, CLEAN_DB)));
    let limits = limits(main);
    if let (Some(disturbance_dbm), true) = (limits.disturbance_dbm, sinr_db < CLEAN_DB[1]) {
        found.push(Sign::Disturbance(disturbance_dbm - limits.noise_dbm >= DISTURBED_DB));
    }
    found
}

fn whole(evidence: &SetupEvidence) -> impl Iterator<Item = &SpeedTest> {
    evidence.tests.iter().filter(|test| test.completion == Completion::Complete)
}

/// Geometric mean; none of nothing, or where one is not positive.
fn mean<'a>(figure: SpeedFigure, tests: impl IntoIterator<Item = &'a SpeedTest>) -> Option<f64> {
    let logs: Vec<f64> = tests.into_iter().filter_map(|test| Some(figure.of(&test.figures)?.ln())).collect();
    let all = logs.iter().sum::<f64>() / logs.len() as f64;
    (!logs.is_empty() && all.is_finite()).then(|| all.exp())
}

fn part_of(test: &SpeedTest, zone: chrono_tz::Tz) -> DayPart {
    DayPart::of_hour(test.started_at.with_timezone(&zone).hour() as u8)
}

fn of_speed(known: &Known, carriers: &[Carrier]) -> Vec<Sign> {
    let Known { evidence, zone, .. } = *known;
    let could = possible(carriers, known.mode, known.link);
    let by_night = |test: &&SpeedTest| part_of(test, zone) == DayPart::Night;
    let in_evening = |test: &&SpeedTest| part_of(test, zone) == DayPart::Evening;
    let share = |measured: Option<f64>, could: Option<crate::capacity::Estimate>| {
        let could = could.map(|of| of.likely).filter(|likely| *likely > 0.0)?;
        Some(level(measured? / could, SHARE))
    };
    let down = SpeedFigure::Download;
    let by_day = || whole(evidence).filter(|test| !by_night(test));
    let mut found = Vec::new();
    found.extend(share(mean(down, by_day()), could.down_mbps).map(Sign::DownShare));
    found.extend(share(mean(down, whole(evidence).filter(by_night)), could.down_mbps).map(Sign::NightShare));
    found.extend(share(mean(SpeedFigure::Upload, whole(evidence)), could.up_mbps).map(Sign::UpShare));
    let part = |figure: SpeedFigure, could: Option<crate::capacity::Estimate>| {
        Some(mean(figure, whole(evidence))? / could.map(|of| of.likely).filter(|likely| *likely > 0.0)?)
    };
    let both = part(down, could.down_mbps).zip(part(SpeedFigure::Upload, could.up_mbps));
    found.extend(both.map(|(down, up)| Sign::Crawls(down < CRAWLS && up < CRAWLS)));
    let evening = mean(down, whole(evidence).filter(in_evening));
    let other = mean(down, by_day().filter(|test| !in_evening(test)));
    found.extend(evening.zip(other).map(|(evening, other)| Sign::Hours(evening < BUSY_EVENING * other)));
    found.extend(ceiling(evidence).map(Sign::Ceiling));
    let middle = |figure: SpeedFigure| {
        let values: Vec<f64> = whole(evidence).filter_map(|test| figure.of(&test.figures)).collect();
        median(&values)
    };
    let latency = middle(SpeedFigure::IdleLatency).zip(middle(SpeedFigure::DownloadLatency));
    found.extend(latency.map(|(idle_ms, loaded_ms)| {
        Sign::LoadedLatency(loaded_ms > FELT_MS && loaded_ms > TIMES_IDLE * idle_ms)
    }));
    found
}

/// Whether sittings at several hours end at the same rate; none of fewer than two.
fn ceiling(evidence: &SetupEvidence) -> Option<bool> {
    let means = crate::judge::sitting_means(evidence, SpeedFigure::Download);
    let logs: Vec<f64> = means.into_iter().map(|(_, log)| log).collect();
    if logs.len() < 2 {
        return None;
    }
    let middle = logs.iter().sum::<f64>() / logs.len() as f64;
    let squares: f64 = logs.iter().map(|log| (log - middle).powi(2)).sum();
    Some((squares / (logs.len() - 1) as f64).sqrt() < CEILING_SCATTER)
}

/// Whether something between the gateway and this program may have slowed a test.
pub(super) fn held_up(test: &SpeedTest) -> bool {
    let local = |doubt: &TestDoubt| {
        matches!(
            doubt,
            TestDoubt::Tunnel { .. }
                | TestDoubt::Wifi { .. }
                | TestDoubt::WireLimit { .. }
                | TestDoubt::ProcessorLimit { .. }
        )
    };
    test_doubts(test).iter().any(local)
}

fn of_surroundings(known: &Known) -> Vec<Sign> {
    let around: Vec<&SpeedTest> = whole(known.evidence).filter(|test| test.surroundings.is_some()).collect();
    let (held, plain): (Vec<&SpeedTest>, Vec<&SpeedTest>) = around.iter().partition(|test| held_up(test));
    let mut found = Vec::new();
    if !around.is_empty() {
        found.push(Sign::Local(held.len() * 2 > around.len()));
    }
    let rates = [plain, held].map(|tests| mean(SpeedFigure::Download, tests));
    if let [Some(plain), Some(held)] = rates {
        found.push(Sign::WireHelps(plain >= WIRE_HELPS * held));
    }
    found
        .extend(PageTimes::of(&known.evidence.tests).map(|times| Sign::Page(times.slow_because().is_some())));
    found
}

fn of_leads(known: &Known) -> Vec<Sign> {
    let clean = known.samples.iter().flat_map(|sample| &sample.reading.carriers);
    let clean: Vec<&Carrier> =
        clean.filter(|one| one.sinr_db.is_some_and(|sinr_db| sinr_db >= CLEAN_DB[1])).collect();
    let ranks: Vec<f64> = clean.iter().filter_map(|one| Some(f64::from(one.rank?))).collect();
    let branches = known.samples.iter().flat_map(|sample| &sample.reading.carriers).filter_map(|one| {
        let levels = || one.branch_rsrp_dbm.iter().copied();
        (levels().count() > 1).then(|| levels().fold(f64::MIN, f64::max) - levels().fold(f64::MAX, f64::min))
    });
    let mut found = Vec::new();
    found.extend(median(&ranks).map(|rank| Sign::Layers(rank < 1.5)));
    found.extend(median(&branches.collect::<Vec<_>>()).map(|db| Sign::Branches(db >= APART_DB)));
    let down = |evidence| mean(SpeedFigure::Download, whole(evidence));
    let swapped = known.swapped.and_then(down).zip(down(known.evidence));
    found.extend(swapped.map(|(other, here)| Sign::SwapHelps(other >= SWAP_HELPS * here)));
    found
}

/// What the newest visit and visits in other weather and at night show against the rest.
fn of_time(known: &Known) -> Vec<Sign> {
    let Known { evidence, zone, .. } = *known;
    let cells = visits(evidence);
    let mut found = Vec::new();
    let times: BTreeSet<i64> = cells.values().flatten().map(|(at, _)| *at).collect();
    let newest = times.last().copied();
    // What was usual at first: what has come about since may have been visited many times.
    let early = times.iter().nth((times.len() / 2).max(FEWEST_BEFORE)).copied();
    let at_first = |at: i64| early.is_some_and(|early| at < early) && Some(at) != newest;
    let fall = |one: &dyn Fn(i64) -> bool, other: &dyn Fn(i64) -> bool, fewest: usize| {
        let of_cell = |heard: &Vec<(i64, Carrier)>| {
            let middle = |wanted: &dyn Fn(i64) -> bool, fewest: usize| {
                let own = heard.iter().filter(|(at, _)| wanted(*at));
                let dbm: Vec<f64> = own.filter_map(|(_, carrier)| carrier.rsrp_dbm).collect();
                median(&dbm).filter(|_| dbm.len() >= fewest)
            };
            Some(middle(one, 1)? - middle(other, fewest)?)
        };
        median(&cells.values().filter_map(of_cell).collect::<Vec<_>>())
    };
    let power = fall(&|at| Some(at) == newest, &at_first, FEWEST_BEFORE);
    found.extend(power.map(|db| Sign::Power(db <= -FALLEN_DB)));
    // Rain is noted, dry weather seldom: what was read after rain without a word was read dry. What was read before may be of other times.
    let weather = |at: i64| evidence.runs.iter().find(|run| run.started_at.timestamp() == at).map(is_wet);
    let first_wet = times.iter().copied().find(|at| weather(*at) == Some(Some(true)));
    let dry = |at: i64| match weather(at) {
        Some(Some(wet)) => !wet,
        Some(None) => first_wet.is_some_and(|first| at > first),
        None => false,
    };
    let wet = fall(&|at| weather(at) == Some(Some(true)), &dry, 1);
    found.extend(wet.map(|db| Sign::Wet(db <= -WET_DB)));

    let heard_at = |at: i64| {
        let here = cells.iter().filter(|(_, heard)| heard.iter().any(|(time, _)| *time == at));
        here.map(|((technology, band, channel, pci, _), _)| (*technology, *band, *channel, *pci))
            .collect::<BTreeSet<_>>()
    };
    let counts = |wanted: &dyn Fn(i64) -> bool| -> Vec<f64> {
        times.iter().filter(|at| wanted(**at)).map(|at| heard_at(*at).len() as f64).collect()
    };
    let hour_of = |at: i64| {
        let time = chrono::DateTime::from_timestamp(at, 0)?;
        Some(DayPart::of_hour(time.with_timezone(&zone).hour() as u8))
    };
    let by_night = |at: i64| hour_of(at) == Some(DayPart::Night);
    let day = counts(&|at| !by_night(at));
    let (nights, days) = (median(&counts(&by_night)), median(&day));
    found.extend(nights.zip(days).map(|(night, day)| Sign::NightCarriers(night < day)));
    let first = counts(&|at| at_first(at) && !by_night(at));
    if let (Some(newest), true) = (day.last(), first.len() >= FEWEST_BEFORE) {
        found.extend(median(&first).map(|usual| Sign::Carriers(*newest < usual)));
    }
    found
}

/// Whether wet weather was noted; none where no weather was.
fn is_wet(run: &Run) -> Option<bool> {
    let noted = run.conditions.weather.to_lowercase();
    (!noted.trim().is_empty()).then(|| WET.iter().any(|word| noted.contains(word)))
}

fn wrong_cell(known: &Known, carriers: &[Carrier]) -> Option<Sign> {
    let pci = main_carrier(carriers)?.pci?;
    (!known.aimed_at.is_empty()).then(|| Sign::Cell(!known.aimed_at.contains(&pci)))
}
