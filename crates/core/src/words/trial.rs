//! Words of trials.

use crate::bands::band_name;
use crate::model::{BandAccess, BandChoice, BandRound, LockRecipe, RoundEnd, Technology, TrialGoal};
use crate::trial::choice::{ChoiceOutlook, Hopeless};
use crate::trial::judge::{Dropped, HeldBy, HourWinner, Standing, Winner};
use crate::trial::order::LockOrder;
use crate::trial::plan::PlanCost;
use crate::words::{decibels, milliseconds, rate, rough_rate, share, times};

fn list(words: &[String]) -> String {
    match words.split_last() {
        Some((last, [])) => last.clone(),
        Some((last, before)) => format!("{} or {last}", before.join(", ")),
        None => String::new(),
    }
}

/// A choice in a few words: "NSA, anchor B20", "LTE only, B3", "SA, n78", "As it is, nothing locked".
pub fn choice_words(choice: &BandChoice) -> String {
    let names = |technology, bands: &[u16]| -> Vec<String> {
        bands.iter().map(|band| band_name(technology, *band)).collect()
    };
    let (lte, nr) = (names(Technology::Lte, &choice.lte), names(Technology::Nr, &choice.nr));
    let base = match choice.access {
        BandAccess::Any if choice.is_free() => return "Nothing locked".into(),
        BandAccess::Any => "Any way",
        BandAccess::Lte => "LTE only",
        BandAccess::Nsa => "NSA",
        BandAccess::Sa => "SA",
    };
    let mut parts = vec![base.to_owned()];
    if !lte.is_empty() {
        let anchor = if choice.access == BandAccess::Nsa { "anchor " } else { "" };
        parts.push(format!("{anchor}{}", list(&lte)));
    }
    if !nr.is_empty() {
        parts.push(list(&nr));
    }
    parts.join(", ")
}

/// What a goal is called.
pub fn goal_words(goal: TrialGoal) -> &'static str {
    match goal {
        TrialGoal::Household => "the household's needs",
        TrialGoal::Download => "download",
        TrialGoal::Upload => "upload",
        TrialGoal::Latency => "latency under load",
    }
}

fn worth(winner: &Winner) -> String {
    match winner.goal {
        TrialGoal::Download | TrialGoal::Upload => rate(winner.value),
        TrialGoal::Latency => milliseconds(winner.value),
        TrialGoal::Household => {
            let figures = [
                winner.down_mbps.map(|down| format!("{} down", rate(down))),
                winner.up_mbps.map(|up| format!("{} up", rate(up))),
                winner.loaded_latency_ms.map(|ms| format!("{} under load", milliseconds(ms))),
            ];
            let figures: Vec<String> = figures.into_iter().flatten().collect();
            format!("needs covered {}, with {}", times(winner.value), figures.join(", "))
        }
    }
}

/// A winner with the reason.
pub fn winner_words(winner: &Winner) -> String {
    let name = choice_words(&winner.choice);
    let value = worth(winner);
    let Some((runner_up, ratio)) = winner.runner_up.as_ref().zip(winner.ratio) else {
        return format!("{name}: {value}; nothing else was measured.");
    };
    let other = choice_words(runner_up);
    let tests = winner.tests;
    match (winner.sure, winner.ratio_low) {
        (true, Some(low)) => format!(
            "{name} ({tests} tests): {value}. That is {} as good as {other}, at least {}.",
            times(ratio),
            times(low)
        ),
        _ if ratio < 1.03 => {
            format!("{name} and {other} are alike so far ({tests} tests): {value}.")
        }
        _ => format!(
            "{name} so far ({tests} tests): {value}. That is {} as good as {other}, but chance could have made it.",
            times(ratio)
        ),
    }
}

/// The winner of a part of the day, and on how many days that was measured.
pub fn hour_words(one: &HourWinner) -> String {
    let days = match one.days {
        1 => "Measured on one day only.".to_owned(),
        days => format!("Measured on {days} days."),
    };
    format!("{} {days}", winner_words(&one.winner))
}

/// Why a choice is not visited any more.
pub fn dropped_words(why: &Dropped) -> String {
    match why {
        Dropped::NoService => "No service under this lock: it is not tried again.".into(),
        Dropped::Ignored => "The gateway went on with other bands: it does not obey this lock.".into(),
        Dropped::Failed => "The gateway refused this lock or did not answer.".into(),
        Dropped::Slower { ratio, at_most } => {
            format!("Dropped: {} of the best, {} at the most.", share(*ratio), share(*at_most))
        }
    }
}

/// Why a choice is not tried at all.
pub fn hopeless_words(why: &Hopeless, goal: TrialGoal) -> String {
    match why {
        Hopeless::TooWeak { sinr_db } => {
            format!("Too weak to hold a connection: signal-to-noise (SINR) about {}.", decibels(*sinr_db))
        }
        Hopeless::TooSlow { at_most, best } => {
            let value = |value: f64| match goal {
                TrialGoal::Download | TrialGoal::Upload => rough_rate(value),
                TrialGoal::Latency => milliseconds(1e3 / value),
                TrialGoal::Household => times(value),
            };
            format!(
                "Not worth a visit: {} at the most where the best could reach {}.",
                value(*at_most),
                value(*best)
            )
        }
    }
}

/// What keeps a choice down, with its figures; `None` where nothing does.
pub fn held_words(standing: &Standing) -> Option<String> {
    let of = standing.down_share?.likely;
    let part = share(of.min(1.0));
    Some(match standing.held_by? {
        HeldBy::Crowded => format!("Crowded at this hour: {part} of what the signal allows."),
        HeldBy::Weak => format!("Weak: the signal is the limit; {part} of what it allows was measured."),
        HeldBy::Both => format!("Weak and crowded: {part} of the little the signal allows."),
        HeldBy::Neither => return None,
    })
}

/// What is expected of a choice, in a line.
pub fn outlook_words(one: &ChoiceOutlook) -> String {
    let found = &one.prediction;
    let bands: Vec<String> = found.bands.iter().map(|band| band_name(band.technology, band.band)).collect();
    if bands.is_empty() {
        return "No signal is known for this.".into();
    }
    let rates = found.down_mbps.zip(found.up_mbps).map_or_else(String::new, |(down, up)| {
        let alone = found.possible_down_mbps.map_or_else(String::new, |possible| {
            format!(" (up to {} on an empty cell)", rough_rate(possible.likely))
        });
        format!(": about {} down{alone}, {} up", rough_rate(down.likely), rough_rate(up.likely))
    });
    let clean =
        found.sinr_db.map_or_else(String::new, |db| format!(", SINR {} at best", decibels(db.round())));
    format!(
        "{}{rates}, idle latency about {}{clean}",
        bands.join(" + "),
        milliseconds(found.idle_latency_ms.likely)
    )
}

/// What a plan takes.
pub fn plan_words(plan: &PlanCost) -> String {
    let minutes = |minutes: f64| format!("{:.0}\u{202f}min", minutes.ceil());
    let data = super::number::megabytes;
    let sittings = match plan.sittings {
        1 => String::new(),
        count => format!(", over {count} sittings at the same hour of different days"),
    };
    format!(
        "{} choices, up to {} tests each: about {} and {}, at the most {} and {}{sittings}.",
        plan.choices,
        plan.tests_each,
        minutes(plan.likely_minutes),
        data(plan.likely_megabytes),
        minutes(plan.minutes),
        data(plan.megabytes)
    )
}

/// What to do about a plan that passes the cap; `None` within it.
pub fn cap_words(plan: &PlanCost, cap_mb: f64) -> Option<String> {
    let over = plan.over_cap_mb?;
    let buys = match (plan.tests_within_cap, plan.difference_within_cap) {
        (Some(tests), Some(difference)) => format!(
            " The cap allows {tests} tests of each choice, which show differences of {} and more.",
            share(difference)
        ),
        _ => " The cap does not allow two visits to each choice: try fewer choices, or shorten the tests."
            .into(),
    };
    Some(format!(
        "This plan may move {:.0}\u{202f}MB, {:.0}\u{202f}MB more than your cap of {cap_mb:.0}\u{202f}MB.{buys}",
        plan.megabytes, over
    ))
}

/// How a round ended.
pub fn end_words(end: RoundEnd) -> &'static str {
    match end {
        RoundEnd::Clear => "The winner is clear: further tests would change nothing that matters.",
        RoundEnd::Planned => "All planned tests are done.",
        RoundEnd::HourOver => {
            "The hour is over. Go on at the same hour of another day: what was measured counts."
        }
        RoundEnd::CapReached => "The data cap is reached.",
        RoundEnd::Ignored => {
            "The gateway ignores locks: it went on with other bands twice. Check the lock's recipe, or lock by hand."
        }
        RoundEnd::NothingLeft => "No choice is left to try.",
        RoundEnd::Cancelled => "Cancelled; the gateway goes back to how it was.",
        RoundEnd::Failed => "It had to stop; the gateway goes back to how it was.",
        RoundEnd::Interrupted => {
            "The program ended meanwhile; the gateway was put back first thing when it started again."
        }
    }
}

/// How a lock is undone, in the order of trying.
pub fn undo_steps(recipe: Option<&LockRecipe>, kept: &BandChoice) -> Vec<String> {
    let good = if kept.is_free() {
        "with no band locked".to_owned()
    } else {
        format!("at “{}”, which you kept", choice_words(kept))
    };
    let mut steps = Vec::new();
    match recipe {
        Some(recipe) => {
            steps.push(format!(
                "Leave this program running: after every trial, on “Cancel”, and when anything fails it puts the gateway back {good}. If the program or the computer stops, it does so first thing when it starts again."
            ));
            steps.push("Or press “Take every lock away” on the Bands page.".into());
            if recipe.volatile {
                steps.push("Or pull the gateway's power plug for ten seconds: this one forgets locks when it restarts.".into());
            } else {
                steps
                    .push("This gateway keeps a lock over a restart: pulling its plug does not help.".into());
            }
            if let Some(request) = &recipe.request {
                let path = if request.undo_path.is_empty() { &request.path } else { &request.undo_path };
                steps.push(format!(
                    "Or, from any computer on the gateway's network, sign in to its page and send to {path}: {}",
                    request.undo_body
                ));
            }
            for command in &recipe.undo_commands {
                steps.push(format!("Or, on the modem's own line: {command}"));
            }
            if !recipe.by_hand.is_empty() {
                steps.push(format!("On the device itself: {}", recipe.by_hand));
            }
        }
        None => {
            steps.push(format!(
                "You set the locks in the gateway's own pages, so you take them away there too: “{}”. Find that place before the first trial.",
                hand_step(kept).trim_end_matches('.')
            ));
            steps.push(
                "If its pages do not open any more over Wi-Fi: a cable to one of its LAN ports still does."
                    .into(),
            );
        }
    }
    steps.push("Last of all: a reset to factory settings (write down name, password and APN first) takes every lock away.".into());
    steps
}

/// What to know before the first lock.
pub const BEFORE_A_LOCK: &str = "While a lock tries to attach, nothing goes out of the house, emergency calls over this line included: keep a phone with a SIM of its own at hand.";

/// The exact step for hands.
pub fn hand_step(choice: &BandChoice) -> String {
    if choice.is_free() {
        return "In the gateway's pages, set the network mode to automatic and allow all bands; save.".into();
    }
    let mode = match choice.access {
        BandAccess::Any => "leave the network mode at automatic",
        BandAccess::Lte => "set the network mode to LTE only (4G only)",
        BandAccess::Nsa => "set the network mode to 5G NSA (LTE with NR)",
        BandAccess::Sa => "set the network mode to 5G SA (NR only)",
    };
    let bands = |technology, name: &str, list: &[u16]| {
        let names: Vec<String> = list.iter().map(|band| band_name(technology, *band)).collect();
        match list {
            [] => format!("allow all {name} bands"),
            _ => format!("allow of the {name} bands only {}", names.join(", ")),
        }
    };
    let mut parts = vec![mode.to_owned()];
    if choice.access != BandAccess::Sa {
        parts.push(bands(Technology::Lte, "LTE", &choice.lte));
    }
    if choice.access != BandAccess::Lte {
        parts.push(bands(Technology::Nr, "NR", &choice.nr));
    }
    format!("In the gateway's pages, {}; save.", parts.join(", "))
}

/// The words of a lock's masks that are not empty, with their names.
pub fn masks(order: &LockOrder) -> Vec<(String, u64)> {
    [
        ("LTE bands 1 to 64", order.lte_mask.low),
        ("LTE bands 65 to 128", order.lte_mask.high),
        ("NR bands 1 to 64", order.nr_mask.low),
        ("NR bands 65 to 128", order.nr_mask.high),
    ]
    .into_iter()
    .filter(|(_, word)| *word != 0)
    .map(|(name, word)| (name.to_owned(), word))
    .collect()
}

/// Choices that are tried where the user says nothing: how it is, then the most promising that are not hopeless, one of
/// each kind: the same anchor with the same widest NR carrier is no second kind. What load does is not foreseen, so
/// variety is worth more than the last megabit.
pub fn proposed(found: &[ChoiceOutlook]) -> Vec<bool> {
    let kind = |one: &ChoiceOutlook| {
        let bands = &one.prediction.bands;
        let nr = bands.iter().find(|band| band.technology == Technology::Nr).copied();
        (one.prediction.mode, bands.first().copied(), nr)
    };
    let mut kinds = Vec::new();
    found
        .iter()
        .map(|one| {
            let new = !kinds.contains(&kind(one));
            let take = one.choice.is_free() || one.hopeless.is_none() && new && kinds.len() <= PROPOSED;
            if take {
                kinds.push(kind(one));
            }
            take
        })
        .collect()
}

/// Choices beside how it is now: more take longer than an hour stays the same.
const PROPOSED: usize = 5;

/// Title and detail of the stage.
pub fn headline(best: Option<&Winner>, rows: &[Standing], offers: usize, running: bool) -> (String, String) {
    match best {
        None if offers == 0 => (
            "Which bands are there is not known yet.".into(),
            "Connect the gateway, or record a reading: what it uses is the beginning. A mast with its cells on Survey tells what else it has.".into(),
        ),
        None if running => ("The first choice is being tried.".into(), "Nothing else may change or load the line until it is done.".into()),
        None => (
            "Test the bands alternately, at the hour that matters.".into(),
            "Low bands reach, mid bands carry, and the busy one is slow at dusk: only tests at the same hour tell which is best.".into(),
        ),
        Some(best) => {
            let crowded: Vec<String> = rows
                .iter()
                .filter(|one| matches!(one.held_by, Some(HeldBy::Crowded | HeldBy::Both)))
                .map(|one| choice_words(&one.choice))
                .collect();
            let crowd = match crowded.as_slice() {
                [] => String::new(),
                [one] => format!(" Crowded at this hour: {one}."),
                many if many.len() == rows.iter().filter(|one| one.held_by.is_some()).count() => " Every choice is crowded at this hour.".into(),
                many => format!(" Crowded at this hour: {}.", many.join("; ")),
            };
            let title = match (best.sure, &best.runner_up) {
                (true, _) => format!("{} is best for {}.", choice_words(&best.choice), goal_words(best.goal)),
                (false, Some(_)) => format!("{} leads for {}, not yet for sure.", choice_words(&best.choice), goal_words(best.goal)),
                (false, None) => format!("{} is all that was measured yet.", choice_words(&best.choice)),
            };
            (title, format!("{}{crowd}", winner_words(best)))
        }
    }
}

/// When to repeat.
pub fn repeat_words(measured_hour: u32, now_hour: u32) -> String {
    let same = if measured_hour == now_hour { "this hour" } else { "the same hour" };
    format!(
        "One day may have been an odd one: repeat on another day at {same}, about {measured_hour} o'clock. What was measured counts."
    )
}

/// That a gateway came later than it was waited for, and what was learned of it.
pub fn late_words(took_s: f64, wait_s: f64, learned_s: f64) -> String {
    format!(
        "The gateway was attached {took_s:.0}\u{202f}s after it was told; {wait_s:.0}\u{202f}s were set. From now on {learned_s:.0}\u{202f}s are waited for."
    )
}

/// A round in a line.
pub fn round_words(round: &BandRound) -> String {
    let kept = round.kept.as_ref().map_or_else(String::new, |kept| format!(" Kept: {}.", choice_words(kept)));
    let reason =
        round.reason.as_ref().map_or_else(String::new, |why| format!(" {}.", why.trim_end_matches('.')));
    let end = round.end.map_or("Going on.", end_words);
    format!("{} choices tested alternately. {end}{reason}{kept}", round.choices.len())
}
