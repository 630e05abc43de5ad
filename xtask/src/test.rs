//! All tests, with what they need installed first.

use crate::tools::{build_web, npm_ci, run};
use std::path::Path;

pub(crate) fn test() -> anyhow::Result<()> {
    install_chromium()?;
    npm_ci("e2e")?;
    npm_ci("xtask/openapi")?;
    build_web()?;
    // This builds the two programs that the end-to-end tests start as well: their own integration tests need them. A
    // build of them alone would compile all dependencies once more, with fewer of their features.
    run("", "cargo", &["test", "--workspace", "--no-fail-fast"])
}

/// Debian's Chromium, which the end-to-end tests drive.
fn install_chromium() -> anyhow::Result<()> {
    if std::env::var_os("OPEN_BEACON_CHROMIUM").is_some() || Path::new("/usr/bin/chromium").exists() {
        return Ok(());
    }
    run("", "apt-get", &["update"])?;
    run("", "apt-get", &["install", "--yes", "--no-install-recommends", "chromium"])
}
