//! Starts the web application's unit tests: formatters, parsers, drafts, the queue of a phone without a network.

use anyhow::{Context, ensure};
use std::path::Path;
use std::process::Command;

#[test]
fn the_web_applications_own_functions() -> anyhow::Result<()> {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../web");
    ensure!(
        web.join("node_modules").exists(),
        "run `cargo xtask test`, which installs what these tests need"
    );
    let ended =
        Command::new("npx").args(["vitest", "run"]).current_dir(web).status().context("starting Vitest")?;
    ensure!(ended.success(), "unit tests of the web application failed; see above");
    Ok(())
}
