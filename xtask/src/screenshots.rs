//! The pictures in docs/screenshots, from demo data.

use crate::tools::{build_web, npm_ci, run};

pub(crate) fn screenshots() -> anyhow::Result<()> {
    npm_ci("e2e")?;
    build_web()?;
    // As for the tests: the programs with the features that are built already.
    run("", "cargo", &["test", "--workspace", "--no-run"])?;
    run("e2e", "npx", &["playwright", "test", "--config", "screenshots.config.ts"])
}
