//! The speed test on links that the system holds to a rate, in a release build.

use crate::tools::command;
use anyhow::bail;

/// Measures at these rates, Mbit/s, parted by commas. Needs root on Linux.
pub(crate) fn shaped(rates: &str) -> anyhow::Result<()> {
    let arguments = [
        "test",
        "--release",
        "--workspace",
        "--exclude",
        "e2e",
        "--test",
        "server",
        "--",
        "--exact",
        "shaped::figures_are_those_of_the_link",
        "--nocapture",
    ];
    let status = command("", "cargo", &arguments).env("OPEN_BEACON_SHAPED", rates).status()?;
    if !status.success() {
        bail!("a figure is not the link's");
    }
    Ok(())
}
