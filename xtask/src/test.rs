//! All tests, with what they need installed first.

use crate::tools::{build_web, command, npm_ci, run};
use anyhow::bail;
use std::path::Path;

/// Where proptest looks for the seed of its random cases.
const PROPERTY_SEED: &str = "PROPTEST_RNG_SEED";

pub(crate) fn test() -> anyhow::Result<()> {
    install_chromium()?;
    npm_ci("e2e")?;
    npm_ci("xtask/openapi")?;
    build_web()?;
    // This builds the two programs that the end-to-end tests start as well: their own integration tests need them. A
    // build of them alone would compile all dependencies once more, with fewer of their features.
    // The same random cases every time, so that a change is judged by what it changed: other cases are tried by
    // `cargo xtask properties`, and what fails there is kept beside the tests and tried here from then on.
    let mut tests = command("", "cargo", &["test", "--workspace", "--no-fail-fast"]);
    if std::env::var_os(PROPERTY_SEED).is_none() {
        tests.env(PROPERTY_SEED, "20260101");
    }
    if !tests.status()?.success() {
        bail!("a test failed");
    }
    Ok(())
}

/// Tries the property tests `times` times over, with other random cases every time.
pub(crate) fn properties(times: u32) -> anyhow::Result<()> {
    let mut arguments = vec!["test", "--quiet", "--workspace", "--exclude", "e2e"];
    for program in ["core", "domain", "exchange", "gateway"] {
        arguments.extend(["--test", program]);
    }
    for time in 1..=times {
        eprintln!("→ property tests, time {time} of {times}");
        if !command("", "cargo", &arguments).env_remove(PROPERTY_SEED).status()?.success() {
            bail!("a case failed; it stands in a proptest-regressions folder beside the test");
        }
    }
    Ok(())
}

/// Debian's Chromium, which the end-to-end tests drive.
fn install_chromium() -> anyhow::Result<()> {
    if std::env::var_os("OPEN_BEACON_CHROMIUM").is_some() || Path::new("/usr/bin/chromium").exists() {
        return Ok(());
    }
    run("", "apt-get", &["update"])?;
    run("", "apt-get", &["install", "--yes", "--no-install-recommends", "chromium"])
}
