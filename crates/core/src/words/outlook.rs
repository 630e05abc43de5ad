//! What is expected of a setup, in words.

use super::number::{rate, rate_range};
use crate::judge::SetupOutlook;

/// Where nothing is known of what a setup would receive.
pub const NOTHING_KNOWN: &str = "Nothing can be expected of this setup yet: read the gateway once on Baseline, or enter a mast with its cells on Survey.";

/// "Expect 52 to 130 Mbit/s down and 9 to 20 Mbit/s up. Measured with it: 84.0 Mbit/s down and 14.2 Mbit/s up."
pub fn title(of: &SetupOutlook) -> String {
    let both = |down: Option<String>, up: Option<String>| {
        let parts = [down.map(|rate| format!("{rate} down")), up.map(|rate| format!("{rate} up"))];
        let parts: Vec<String> = parts.into_iter().flatten().collect();
        (!parts.is_empty()).then(|| parts.join(" and "))
    };
    let expected = both(of.down_mbps.map(rate_range), of.up_mbps.map(rate_range));
    let measured = both(of.measured_down_mbps.map(rate), of.measured_up_mbps.map(rate));
    let expected = expected
        .map_or_else(|| "What it would carry is not known.".into(), |rates| format!("Expect {rates}."));
    match measured {
        Some(rates) => format!("{expected} Measured with it: {rates}."),
        None => format!("{expected} Not tested yet."),
    }
}
