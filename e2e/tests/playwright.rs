//! Starts the end-to-end tests: they drive the built program in Debian's Chromium.

use anyhow::{Context, ensure};
use std::path::Path;
use std::process::Command;

#[test]
fn the_interface_works_end_to_end() -> anyhow::Result<()> {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    ensure!(
        here.join("node_modules").exists(),
        "run `cargo xtask test`, which installs what the end-to-end tests need"
    );
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| here.join("../target"), Into::into);
    let ended = Command::new("npx")
        .args(["playwright", "test"])
        .current_dir(here)
        .env("OPEN_BEACON_BUILT", target.join("debug"))
        .status()
        .context("starting Playwright")?;
    ensure!(ended.success(), "end-to-end tests failed; see above, and e2e/test-results for traces");
    Ok(())
}
