//! Formatters and linters.

use crate::client::client;
use crate::tools::{npm_ci, run};

pub(crate) fn lint() -> anyhow::Result<()> {
    run("", "cargo", &["fmt", "--all", "--check"])?;
    run("", "cargo", &["clippy", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    npm_ci("web")?;
    npm_ci("e2e")?;
    run("web", "npx", &["biome", "ci", "--error-on-warnings", ".", "../e2e"])?;
    run("web", "npx", &["tsc", "--noEmit"])?;
    run("e2e", "npx", &["tsc", "--noEmit"])?;
    client(true)
}
