//! Hours of measuring among faults that come and go, more than the tests take.

use crate::tools::command;
use anyhow::bail;

/// Lets `many` seeded hours pass in memory, then ten minutes over sockets.
pub(crate) fn hours(many: u32) -> anyhow::Result<()> {
    let test = ["test", "--workspace", "--exclude", "e2e", "--test", "api", "--", "--nocapture"];
    for which in [&["hours::seeded_hours_in_memory"][..], &["--ignored", "hours::ten_minutes_over_sockets"]] {
        let arguments = [&test[..], &["--exact"], which].concat();
        let status = command("", "cargo", &arguments).env("OPEN_BEACON_HOURS", many.to_string()).status()?;
        if !status.success() {
            bail!("a sample nobody showed, a lost lock, or a failure that was named wrongly");
        }
    }
    Ok(())
}
