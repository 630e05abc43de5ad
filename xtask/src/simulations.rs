//! Tests in their full size, instead of the small one among the other tests.

use crate::tools::command;
use anyhow::bail;

/// Runs one test of a crate by itself, told how much by a variable; `blame` is what it means where it fails.
fn alone(
    (options, of): (&[&str], &str),
    test: &str,
    (variable, value): (&str, &str),
    blame: &str,
) -> anyhow::Result<()> {
    let which = ["--workspace", "--exclude", "e2e", "--test", of, "--", "--exact", test, "--nocapture"];
    let arguments = [&["test"], options, &which].concat();
    let status = command("", "cargo", &arguments).env(variable, value).status()?;
    if !status.success() {
        bail!("{blame}");
    }
    Ok(())
}

fn simulate(test: &str, variable: &str, each: u32) -> anyhow::Result<()> {
    alone((&[], "core"), test, (variable, &each.to_string()), "something ends worse than its bounds")
}

/// Takes `each` sweeps of each kind and prints a line a kind.
pub(crate) fn sweeps(each: u32) -> anyhow::Result<()> {
    simulate("aim_field::sweeps_by_the_tools_own_advice_end_well", "OPEN_BEACON_SWEEPS", each)
}

/// Foretells `each` hidden households for each way of knowing and prints how often the truth lay in the ranges.
pub(crate) fn households(each: u32) -> anyhow::Result<()> {
    simulate("households::the_truth_lies_in_the_ranges_as_often_as_they_say", "OPEN_BEACON_HOUSEHOLDS", each)
}

/// Compares setups of `each` made households for each design and prints a line a design; then ends the measuring of as many by advice.
pub(crate) fn verdicts(each: u32) -> anyhow::Result<()> {
    simulate("stopping::measuring_ends_in_time", "OPEN_BEACON_VERDICTS", each)?;
    simulate(
        "verdicts::a_difference_that_is_none_is_seldom_called_clear_in_any_design",
        "OPEN_BEACON_VERDICTS",
        each,
    )
}

/// Kills the program `times` times while runs, notes, settings, imports and recordings are written.
pub(crate) fn kills(times: u32) -> anyhow::Result<()> {
    alone(
        (&[], "server"),
        "kills::whatever_is_written_when_it_is_killed",
        ("OPEN_BEACON_KILLS", &times.to_string()),
        "something acknowledged was lost, or the database is not sound",
    )
}

/// Measures links that the system holds to these rates, Mbit/s, parted by commas, in a release build. Needs root on Linux.
pub(crate) fn shaped(rates: &str) -> anyhow::Result<()> {
    alone(
        (&["--release"], "server"),
        "shaped::figures_are_those_of_the_link",
        ("OPEN_BEACON_SHAPED", rates),
        "a figure is not the link's",
    )
}
