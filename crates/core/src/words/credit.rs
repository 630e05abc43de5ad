//! What a gain is owed to, in words, and the one test that would tell.

use super::protocol::changed;
use super::{capital, figure_words, listed};
use crate::protocol::{Confounder, Credit, SettlingTest};

fn confounder(what: Confounder) -> &'static str {
    match what {
        Confounder::Hours => "hours of the day",
        Confounder::Weeks => "times of the year",
        Confounder::Weather => "weather",
        Confounder::Events => "what was noted between them",
        Confounder::Server => "test server",
        Confounder::Wire => "wire or Wi-Fi",
        Confounder::AddressVersion => "IPv4 or IPv6",
        Confounder::Instrument => "instrument",
        Confounder::Source => "measured or typed in",
    }
}

/// What the difference between a setup and the baseline is owed to: "The gain in download is owed to the bearing: nothing else that matters
/// differed."
pub fn credit(label: &str, baseline: &str, of: &Credit) -> String {
    let what = if of.gain { "gain" } else { "loss" };
    let figure = figure_words(of.figure);
    let parts: Vec<String> = of.changed.iter().map(|part| changed(*part).to_owned()).collect();
    let built = listed(&parts);
    let Some(settle) = of.settle else {
        let together = if parts.len() > 1 { " together" } else { "" };
        return format!(
            "The {what} in {figure} is owed to the {built}{together}: nothing else that matters differed."
        );
    };
    let noted: Vec<String> =
        of.noted.iter().map(|text| format!("“{}”", text.trim_end_matches('.'))).collect();
    let noted =
        if noted.is_empty() { String::new() } else { format!(" Noted between them: {}.", listed(&noted)) };
    match settle {
        SettlingTest::SameHour => {
            let others: Vec<String> = of.confounders.iter().map(|one| confounder(*one).to_owned()).collect();
            format!(
                "Whether the {what} in {figure} is owed to the {built} is open, because this differed too: {}.{noted} To tell, test {label} and {baseline} within the same hour, one after the other and back, over the same wire and server.",
                listed(&others)
            )
        }
        SettlingTest::BaselineLock => format!(
            "{} were changed together, so which of them brought the {what} is open. To tell, test {label} with the band lock of {baseline}: nobody has to climb.",
            capital(&built)
        ),
        SettlingTest::BaselinePorts => format!(
            "{} were changed together, so which of them brought the {what} is open. To tell, plug the leads in as at {baseline} and test {label} again.",
            capital(&built)
        ),
        SettlingTest::BaselineGatewayPlace => format!(
            "{} were changed together, so which of them brought the {what} is open. To tell, put the gateway where it stood at {baseline} and test {label} again.",
            capital(&built)
        ),
    }
}
