//! Which setup is best, how sure that is and what to test next, in words.

use super::{capital, in_cases, listed, number, share, times};
use crate::judge::{
    BestSetup, BestWord, Comparison, ComparisonRow, DayPart, SetupStanding, Versus, VersusVerdict, Weighing,
};
use crate::kit::need::Need;
use crate::model::SetupId;

/// "in the evening".
pub fn in_part(part: DayPart) -> &'static str {
    match part {
        DayPart::Night => "at night",
        DayPart::Morning => "in the morning",
        DayPart::Midday => "around midday",
        DayPart::Evening => "in the evening",
    }
}

fn first(weighing: Weighing) -> &'static str {
    match weighing {
        Weighing::Alike => "If all is weighed alike",
        Weighing::Download => "If download comes first",
        Weighing::Upload => "If upload comes first",
        Weighing::Latency => "If latency under load comes first",
        Weighing::Steadiness => "If steady hours come first",
        Weighing::Ease => "If price and effort come first",
    }
}

fn label(comparison: &Comparison, id: SetupId) -> &str {
    comparison.rows.iter().find(|row| row.setup_id == id).map_or("", |row| row.label.as_str())
}

/// "2.8 times the download of Kitchen sill (between 2.1 and 3.7)": the first rate that is probably higher; none for the baseline itself,
/// and where neither is.
fn by_how_much(row: &ComparisonRow, baseline: &str) -> Option<String> {
    let rates = row.figures.iter().filter(|figure| figure.figure.larger_is_better());
    let gained = rates
        .filter_map(|figure| Some((figure.figure, figure.versus?)))
        .find(|(_, versus)| matches!(versus.verdict, VersusVerdict::ClearGain | VersusVerdict::LikelyGain));
    let (figure, Versus { told_ratio, model, .. }) = gained?;
    Some(format!(
        "{} the {} of {baseline} (between {} and {})",
        times(told_ratio),
        super::figure_words(figure),
        number::plain_times(model.interval.low),
        number::plain_times(model.interval.high)
    ))
}

/// The sentence on top: the best setup, by how much, how sure.
pub fn title(comparison: &Comparison, best: &BestSetup) -> String {
    let name = label(comparison, best.setup_id);
    let Some(row) = comparison.rows.iter().find(|row| row.setup_id == best.setup_id) else {
        return String::new();
    };
    let baseline = comparison.rows.first().map_or("", |row| row.label.as_str());
    let by = by_how_much(row, baseline).map_or(String::new(), |by| format!(": {by}"));
    let rival = best.runner_up.map_or("", |id| label(comparison, id));
    match best.word {
        BestWord::Only => format!("Only {name} was speed-tested. Test another setup to compare it with."),
        BestWord::Clear if row.is_baseline => format!("Keep {name}: nothing else tested serves you better."),
        BestWord::Clear => format!("{name} is clearly the best{by}."),
        BestWord::Likely if row.is_baseline => {
            format!("Probably keep {name}: nothing else tested looks better.")
        }
        BestWord::Likely => format!("{name} is probably the best{by}."),
        BestWord::Alike => {
            format!("{name} and {rival} serve you equally well. Keep the one that is easier to keep.")
        }
        BestWord::Open => format!("Cannot tell yet: {name} leads, but {rival} may be as good or better."),
    }
}

/// Whether the best meets the need, what would turn the choice, and what to do next.
pub fn detail(comparison: &Comparison, best: &BestSetup, need: &Need) -> String {
    let named = matches!(best.word, BestWord::Alike | BestWord::Open);
    let row = comparison.rows.iter().find(|row| named && row.setup_id == best.setup_id);
    let baseline = comparison.rows.first().map_or("", |row| row.label.as_str());
    let by = row.and_then(|row| Some(format!("{} gives {}.", row.label, by_how_much(row, baseline)?)));
    let mut said: Vec<String> = by.into_iter().collect();
    said.push(of_need(comparison, best, need));
    said.extend(left_out(best));
    said.extend(turned(comparison, best));
    said.push(next(comparison, best));
    said.retain(|one| !one.is_empty());
    said.join(" ")
}

fn of_need(comparison: &Comparison, best: &BestSetup, need: &Need) -> String {
    let Some(standing) = best.standings.iter().find(|one| one.setup_id == best.setup_id) else {
        return String::new();
    };
    if need.down_mbps <= 0.0 && need.up_mbps <= 0.0 {
        return "What the household needs is not known: say it under Kit, and the choice is made by it."
            .into();
    }
    let name = label(comparison, best.setup_id);
    let needs =
        format!("{} down and {} up", super::rough_rate(need.down_mbps), super::rough_rate(need.up_mbps));
    let Some(chance) = standing.chance_of_need else {
        let missing: Vec<String> =
            standing.unmeasured.iter().map(|figure| super::figure_words(*figure).to_owned()).collect();
        return format!(
            "Whether {name} meets your need of {needs} is open: {} was not measured.",
            listed(&missing)
        );
    };
    let when = in_part(best.slowest);
    let how = in_cases(chance);
    let found = if how.starts_with("in about") {
        format!("{name} meets your need of {needs} {how}.")
    } else {
        format!("{name} {how} meets your need of {needs}.")
    };
    let rests = if best.slowest_measured {
        String::new()
    } else {
        format!(" It was not tested {when}; this rests on how busy cells usually are then.")
    };
    format!("{}, when it is slowest, {found}{rests}", capital(when))
}

/// Whether a setup meets the need, in short: "meets the need in the evening almost always, enough download at 96 % of waking hours".
pub fn standing(best: &BestSetup, standing: &SetupStanding, need: &Need) -> String {
    let hours = format!("enough download at {} of waking hours", share(standing.share_of_hours));
    match standing.chance_of_need {
        _ if need.down_mbps <= 0.0 && need.up_mbps <= 0.0 => String::new(),
        Some(chance) => format!("Meets the need {} {}; {hours}", in_part(best.slowest), in_cases(chance)),
        None => capital(&hours),
    }
}

/// "Upload was not measured of all setups, so it does not count between them."
fn left_out(best: &BestSetup) -> Option<String> {
    let figures: Vec<String> =
        best.left_out.iter().map(|figure| super::figure_words(*figure).to_owned()).collect();
    (!figures.is_empty())
        .then(|| format!("Not measured of all setups, so not counted between them: {}.", listed(&figures)))
}

/// What would turn the choice: "If upload comes first, B is better."
fn turned(comparison: &Comparison, best: &BestSetup) -> Option<String> {
    let other = best.other_by.first()?;
    Some(format!("{}, {} is better.", first(other.weighing), label(comparison, other.setup_id)))
}

/// What to test next, or that more tests are not worth it.
pub fn next(comparison: &Comparison, best: &BestSetup) -> String {
    let Some(next) = &best.next else {
        return match best.word {
            BestWord::Only => String::new(),
            _ if best.regret < 0.0005 => "More tests would not change the choice.".into(),
            _ => format!(
                "More tests are not worth their time: choosing now costs you about {} of your need on average.",
                share(best.regret.max(0.01))
            ),
        };
    };
    let names: Vec<String> = next.setups.iter().map(|id| label(comparison, *id).to_owned()).collect();
    let when = next.part.map_or(String::new(), |part| format!(" {}", in_part(part)));
    let tests = super::number_word(next.tests);
    if next.for_need {
        format!("Next, run {tests} tests of {}{when}: that tells whether it is enough.", listed(&names))
    } else {
        capital(&format!(
            "next, test {} within the same hour{when}, {tests} times each: no other sitting tells more.",
            listed(&names)
        ))
    }
}
