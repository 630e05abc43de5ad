//! Simulations of the core in their full size, instead of the small one among the other tests.

use crate::tools::command;
use anyhow::bail;

fn simulate(test: &str, variable: &str, each: u32) -> anyhow::Result<()> {
    let arguments =
        ["test", "--workspace", "--exclude", "e2e", "--test", "core", "--", "--exact", test, "--nocapture"];
    let status = command("", "cargo", &arguments).env(variable, each.to_string()).status()?;
    if !status.success() {
        bail!("something ends worse than its bounds");
    }
    Ok(())
}

/// Takes `each` sweeps of each kind and prints a line a kind.
pub(crate) fn sweeps(each: u32) -> anyhow::Result<()> {
    simulate("aim_field::sweeps_by_the_tools_own_advice_end_well", "OPEN_BEACON_SWEEPS", each)
}

/// Foretells `each` hidden households for each way of knowing and prints how often the truth lay in the ranges.
pub(crate) fn households(each: u32) -> anyhow::Result<()> {
    simulate("households::the_truth_lies_in_the_ranges_as_often_as_they_say", "OPEN_BEACON_HOUSEHOLDS", each)
}
