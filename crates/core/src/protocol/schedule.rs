//! When the sittings of a plan are due.

use super::Built;
use super::order::{PlanStop, Standing};
use crate::geo::GeoPoint;
use crate::geo::sun::is_dark;
use crate::judge::DayPart;
use crate::model::{SpeedTestSettings, TestOrder};
use chrono::{DateTime, Datelike, Duration, NaiveTime, TimeZone, Timelike, Utc};
use serde::{Deserialize, Serialize};

/// Not sooner than this after now, min: somebody has to get ready.
const SOONEST_MIN: i64 = 30;
/// Whole sittings on one day at the most.
const WHOLE_A_DAY: usize = 2;
/// Days that are looked at.
const HORIZON_DAYS: i64 = 60;
/// Parts of the day that visits are planned in.
const PARTS: [DayPart; 3] = DayPart::USUAL;

/// What a visit is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum VisitKind {
    /// All setups by turns.
    Whole,
    /// One setup in the evening, in the dark: its antenna is put up while it is light, and nobody climbs.
    EveningOfOne,
}

/// A visit of the plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlannedVisit {
    /// When it begins.
    pub starts_at: DateTime<Utc>,
    /// Part of the day, site time.
    pub part: DayPart,
    /// What it is for.
    pub kind: VisitKind,
    /// Where tests are run, one after the other.
    pub stops: Vec<PlanStop>,
    /// Climbs, those before it too.
    pub climbs: usize,
    /// How long it takes, moves too, min.
    pub minutes: f64,
    /// Data, MB.
    pub megabytes: f64,
}

/// What visits are made of.
pub(super) struct Schedule<'a> {
    pub(super) setups: &'a [Built<'a>],
    /// The way of the next visit; the one after it comes back.
    pub(super) way: Vec<usize>,
    pub(super) order: TestOrder,
    /// Whole sittings still needed.
    pub(super) whole: usize,
    /// Setups that were not tested in the evening.
    pub(super) evening: Vec<usize>,
    /// Parts of the day in which all setups were tested.
    pub(super) covered: Vec<DayPart>,
    pub(super) test_min: f64,
    pub(super) rates_mbps: &'a [(f64, f64)],
    pub(super) speed_test: &'a SpeedTestSettings,
    pub(super) place: Option<GeoPoint>,
    pub(super) zone: chrono_tz::Tz,
}

impl Schedule<'_> {
    /// A visit that begins with the antennas as they stand; afterwards they stand at its last stop.
    pub(super) fn visit(
        &self,
        starts_at: DateTime<Utc>,
        kind: VisitKind,
        stops: Vec<PlanStop>,
        standing: &mut Standing,
    ) -> PlannedVisit {
        let (climbs, moving) = standing.walk(self.setups, &stops);
        let tests: f64 = stops.iter().map(|stop| f64::from(stop.tests)).sum();
        // One of the evening has its antenna put up before.
        let moving = if kind == VisitKind::Whole { moving } else { 0.0 };
        let hour = starts_at.with_timezone(&self.zone).hour() as u8;
        PlannedVisit {
            starts_at,
            part: DayPart::of_hour(hour),
            kind,
            climbs,
            minutes: moving + tests * self.test_min,
            megabytes: stops
                .iter()
                .map(|stop| f64::from(stop.tests) * self.speed_test.test_mb(self.rates_mbps[stop.at]))
                .sum(),
            stops,
        }
    }

    fn dark(&self, visit: &PlannedVisit) -> bool {
        let ends_at = visit.starts_at + Duration::seconds((visit.minutes * 60.0) as i64);
        self.place.is_some_and(|place| is_dark(place, visit.starts_at) || is_dark(place, ends_at))
    }

    /// Visits from `now` on, in order of time. Whole ones take turns between the parts of the day, the evening first, two a day at the
    /// most, and in the dark only where nothing has to be climbed for; there the evening is tested setup by setup.
    pub(super) fn visits(mut self, now: DateTime<Utc>, mut standing: Standing) -> Vec<PlannedVisit> {
        let mut visits = Vec::new();
        let earliest = now + Duration::minutes(SOONEST_MIN);
        let today = now.with_timezone(&self.zone).date_naive();
        for day in 0..HORIZON_DAYS {
            let date = today + Duration::days(day);
            let due = |part: DayPart| Some((part, self.at(date, part).filter(|at| *at >= earliest)?));
            let due: Vec<_> = PARTS.into_iter().filter_map(due).collect();
            let turns = self.turns(&due, &standing);
            for (part, at) in due {
                let untried = part == DayPart::Evening && !self.evening.is_empty();
                let possible = self.whole_visit(at, &standing);
                match possible {
                    Some((visit, after)) if (self.whole > 0 || untried) && turns.contains(&part) => {
                        self.whole = self.whole.saturating_sub(1);
                        self.covered.push(part);
                        if part == DayPart::Evening {
                            self.evening.clear();
                        }
                        standing = after;
                        if self.order == TestOrder::OneWay {
                            self.way.reverse();
                        }
                        visits.push(visit);
                    }
                    None if untried => {
                        let here = self.evening.iter().position(|one| Some(*one) == standing.at);
                        let one = self.evening.remove(here.unwrap_or(0));
                        let stops = vec![PlanStop { at: one, tests: 3 }];
                        visits.push(self.visit(at, VisitKind::EveningOfOne, stops, &mut standing));
                    }
                    _ => {}
                }
                if self.whole == 0 && self.evening.is_empty() {
                    return visits;
                }
            }
        }
        visits
    }

    /// The visit to all setups, and how the antennas stand after it; none where somebody would have to climb in the dark.
    fn whole_visit(&self, at: DateTime<Utc>, standing: &Standing) -> Option<(PlannedVisit, Standing)> {
        let mut after = standing.clone();
        let visit = self.visit(at, VisitKind::Whole, super::stops(&self.way, self.order), &mut after);
        (visit.climbs == 0 || !self.dark(&visit)).then_some((visit, after))
    }

    /// Parts of a day that have their turn: those covered least often, the evening first.
    fn turns(&self, due: &[(DayPart, DateTime<Utc>)], standing: &Standing) -> Vec<DayPart> {
        let covered = |part: DayPart| self.covered.iter().filter(|one| **one == part).count();
        let possible = due.iter().filter(|(_, at)| self.whole_visit(*at, standing).is_some());
        let mut parts: Vec<DayPart> = possible.map(|(part, _)| *part).collect();
        parts.sort_by_key(|part| (covered(*part), *part != DayPart::Evening));
        parts.truncate(WHOLE_A_DAY);
        parts
    }

    fn at(&self, date: chrono::NaiveDate, part: DayPart) -> Option<DateTime<Utc>> {
        let time = NaiveTime::from_hms_opt(part.visit_hour(), 0, 0)?;
        // An hour that a change of clocks leaves out, or has twice: the later one.
        let local = self.zone.from_local_datetime(&date.and_time(time)).latest()?;
        (local.year() < 2100).then(|| local.with_timezone(&Utc))
    }
}
