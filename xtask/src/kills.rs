//! The program killed without warning, as often as is wanted instead of the few times among the other tests.

use crate::tools::command;
use anyhow::bail;

/// Kills the program `times` times while runs, notes, settings, imports and recordings are written.
pub(crate) fn kills(times: u32) -> anyhow::Result<()> {
    let arguments = [
        "test",
        "--workspace",
        "--exclude",
        "e2e",
        "--test",
        "server",
        "--",
        "--exact",
        "kills::whatever_is_written_when_it_is_killed",
        "--nocapture",
    ];
    let status = command("", "cargo", &arguments).env("OPEN_BEACON_KILLS", times.to_string()).status()?;
    if !status.success() {
        bail!("something acknowledged was lost, or the database is not sound");
    }
    Ok(())
}
