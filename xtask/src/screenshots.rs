//! The pictures in docs/screenshots, from demo data.

use crate::tools::{build_web, npm_ci, run};

pub(crate) fn screenshots() -> anyhow::Result<()> {
    npm_ci("e2e")?;
    build_web()?;
    run("", "cargo", &["build", "--package", "open-beacon", "--package", "open_beacon_simulator"])?;
    run("e2e", "npx", &["playwright", "test", "--config", "screenshots.config.ts"])
}
