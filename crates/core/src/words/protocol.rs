//! Sentences on the test plan, on sittings, and on what was changed between two setups.

use super::number::{megabytes, share};
use super::{counted, listed};
use crate::model::{OPEN_SITTING_MIN, Sitting, TestOrder};
use crate::protocol::{ChangedPart, Held, PlannedVisit, SittingProgress, TestPlan, VisitKind};
use chrono::NaiveDate;

/// What was changed, as a noun.
pub fn changed(what: ChangedPart) -> &'static str {
    match what {
        ChangedPart::Position => "position",
        ChangedPart::Height => "height",
        ChangedPart::Antenna => "internal or external antennas",
        ChangedPart::Kit => "kit",
        ChangedPart::Bearing => "bearing",
        ChangedPart::Tilt => "tilt",
        ChangedPart::Polarisation => "polarisation",
        ChangedPart::Ports => "port map",
        ChangedPart::GatewayPlace => "gateway’s place",
        ChangedPart::Lock => "band lock",
    }
}

/// "Built differently from Sill in position, kit and band lock: which of them made a difference cannot be told." None where nothing
/// differs.
pub fn changes(from: &str, all: &[ChangedPart]) -> Option<String> {
    let names: Vec<String> = all.iter().map(|what| changed(*what).to_owned()).collect();
    Some(match names.as_slice() {
        [] => return None,
        [only] => format!("Only the {only} differs from {from}."),
        several => format!(
            "Differs from {from} in {}. Which of these {} changes made a difference cannot be told.",
            listed(several),
            super::number_word(several.len())
        ),
    })
}

/// The same in short: "Differs in position, kit and band lock."
pub fn changes_in_short(all: &[ChangedPart]) -> Option<String> {
    let names: Vec<String> = all.iter().map(|what| changed(*what).to_owned()).collect();
    (!names.is_empty()).then(|| format!("Differs in {}.", listed(&names)))
}

fn minutes(minutes: f64) -> String {
    // To five minutes: nobody climbs to the minute.
    format!("{:.0}\u{202f}min", (minutes / 5.0).ceil().max(1.0) * 5.0)
}

fn day(date: NaiveDate) -> String {
    date.format("%-d %B").to_string()
}

/// The sentence over the plan: what is still to do.
pub fn plan_title(plan: &TestPlan) -> String {
    let whole = plan.visits.iter().filter(|visit| visit.kind == VisitKind::Whole).count();
    if plan.visits.is_empty() {
        return "All sittings of this plan are done. Compare the setups.".into();
    }
    let evenings = plan.visits.len() - whole;
    let sittings = match whole {
        0 => String::new(),
        1 => "one more sitting".into(),
        more => format!("{} more sittings", super::number_word(more)),
    };
    let single = counted(evenings, "evening test");
    let what = match (whole, evenings) {
        (_, 0) => sittings,
        (0, _) => single,
        _ => format!("{sittings} and {single}"),
    };
    let climbs = match plan.climbs {
        0 => "nothing to climb for".into(),
        climbs => counted(climbs, "climb"),
    };
    format!(
        "Still to do: {what}, about {} in all, {climbs}, {} of data.",
        minutes(plan.minutes),
        megabytes(plan.megabytes)
    )
}

/// Why so many, and what stands in the way.
pub fn plan_reasons(plan: &TestPlan, order: TestOrder, cap_mb: Option<f64>, used_mb: f64) -> Vec<String> {
    let from = if plan.scatter_measured { "measured here" } else { "usual; not measured here yet" };
    let needed = counted(plan.sittings_needed, "sitting");
    let mut said = vec![match plan.difference_shown {
        None => format!(
            "A difference of {} shows in four of five cases after {needed} of all setups. Sittings differ by about {} beside what \
             the hour does to all ({from}).",
            share(plan.difference),
            share(plan.scatter)
        ),
        Some(shown) => format!(
            "A difference of {} would take more sittings than anyone makes: sittings differ by about {} beside what the hour does \
             to all ({from}). {needed} show a difference of {}.",
            share(plan.difference),
            share(plan.scatter),
            share(shown),
            needed = capitalised(&needed),
        ),
    }];
    said.push(match order {
        TestOrder::ThereAndBack => {
            "Each sitting goes there and back, so a load that rises or falls meanwhile favours no setup.".into()
        }
        TestOrder::OneWay => {
            "Each sitting goes one way and the next one comes back: fewer climbs, and only two sittings together cancel a load that rises or falls."
                .into()
        }
    });
    if plan.too_long {
        said.push(format!(
            "One sitting takes about {}, and after {} hours it is another hour of the network: choose fewer setups, or go one way.",
            minutes(plan.minutes_a_sitting),
            super::number_word(OPEN_SITTING_MIN as usize / 60)
        ));
    }
    if let Some(cap) = cap_mb {
        let all = format!(
            "Tests have moved {} this month and the plan adds {}; the cap is {}.",
            megabytes(used_mb),
            megabytes(plan.megabytes),
            megabytes(cap)
        );
        said.push(match plan.over_cap_mb {
            None => all,
            Some(over) => format!(
                "{all} That is {} too much: choose fewer setups, or shorten the tests in Settings.",
                megabytes(over)
            ),
        });
    }
    if let Some(by) = plan.return_by {
        said.push(if plan.too_late {
            format!(
                "A kit goes back by {}, before the last visit: choose fewer setups, or make visits sooner than planned.",
                day(by)
            )
        } else {
            format!("All visits come before a kit goes back by {}.", day(by))
        });
    }
    if plan.climbs > 0 {
        said.push(
            "Climb only in daylight, in dry and calm weather, and never alone; where unsure, leave it to a professional."
                .into(),
        );
    }
    said
}

fn capitalised(text: &str) -> String {
    super::capital(text)
}

/// The letter by which the setups of a plan are named, in the order they are compared in: A, B, C.
pub fn letter(at: usize) -> String {
    u8::try_from(at).ok().filter(|at| *at < 26).map_or_else(|| "?".into(), |at| char::from(b'A' + at).into())
}

/// Stops of a visit by letters, each with its tests: "A 2, B 4, A 2".
pub fn stops_by_letter(visit: &PlannedVisit) -> String {
    let all: Vec<String> =
        visit.stops.iter().map(|stop| format!("{}\u{00a0}{}", letter(stop.at), stop.tests)).collect();
    all.join(", ")
}

/// Stops of a visit by name: "Two tests at Sill, then four tests at Gable".
pub fn stops(visit: &PlannedVisit, labels: &[String]) -> String {
    let label = |at: usize| labels.get(at).map_or("?", String::as_str);
    let all: Vec<String> = visit
        .stops
        .iter()
        .map(|stop| format!("{} at {}", counted(usize::from(stop.tests), "test"), label(stop.at)))
        .collect();
    super::capital(&all.join(", then "))
}

/// What a visit takes: "35 min, two climbs, 1.2 GB"; what to mind of one in the dark.
pub fn visit(visit: &PlannedVisit) -> String {
    let climbs = match visit.climbs {
        0 => String::new(),
        climbs => format!(", {}", counted(climbs, "climb")),
    };
    let takes = format!("{}{climbs}, {}", minutes(visit.minutes), megabytes(visit.megabytes));
    match (visit.kind, visit.climbs) {
        (VisitKind::EveningOfOne, 0) => format!("{takes}. It is dark then: test only what stands."),
        (VisitKind::EveningOfOne, _) => {
            format!("{takes}. It is dark then: put the antenna up while it is light.")
        }
        (VisitKind::Whole, _) => takes,
    }
}

/// What a sitting is called: its name, else its day and hour in the zone of the site.
pub fn sitting(sitting: &Sitting, zone: chrono_tz::Tz) -> String {
    let at = sitting.started_at.with_timezone(&zone).format("%a %-d %b, %H:%M").to_string();
    if sitting.name.is_empty() { at } else { format!("{} ({at})", sitting.name) }
}

/// What comes next in the sitting that is open.
pub fn in_sitting(progress: &SittingProgress, labels: &[String], tests: usize) -> String {
    let so_far = match tests {
        0 => "No test yet.".to_owned(),
        tests => format!("{} so far.", super::capital(&counted(tests, "test"))),
    };
    let Some((next, at)) = progress.next.zip(progress.next_stop) else {
        return format!("{so_far} Every stop of this sitting is done: close it.");
    };
    let label = labels.get(next.at).map_or("?", String::as_str);
    format!(
        "{so_far} Stop {} of {}: {} at {label}.",
        at + 1,
        progress.done.len(),
        counted(usize::from(next.tests), "test")
    )
}

/// Why no test runs by itself now.
pub fn held(why: Held) -> String {
    match why {
        Held::NoAddress => "Waiting: no speed-test address is set.".into(),
        Held::NothingStands => {
            "Waiting: nothing was measured yet, so it is not known where the antenna stands.".into()
        }
        Held::SittingOpen => "Waiting: a sitting is open.".into(),
        Held::Measuring => "Waiting: something else is being measured.".into(),
        Held::Budget { used_mb, monthly_mb } => format!(
            "Waiting for next month: tests have moved {} of {}.",
            megabytes(used_mb),
            megabytes(monthly_mb)
        ),
        Held::LineInUse { mbps } => {
            format!("Waiting: this computer uses the line, {}.", super::rate(mbps))
        }
    }
}

/// What the program does by itself: "Next at Fri 4 Dec, 14:20, on Gable."
pub fn next_repeat(at: chrono::DateTime<chrono::Utc>, zone: chrono_tz::Tz, setup: Option<&str>) -> String {
    let at = at.with_timezone(&zone).format("%a %-d %b, %H:%M");
    setup.map_or_else(
        || format!("Next at {at}."),
        |setup| format!("Next at {at}, with the antenna as it stands: {setup}."),
    )
}
