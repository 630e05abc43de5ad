//! Formatters and linters.

use crate::client::client;
use crate::tools::{command, npm_ci, run};
use anyhow::ensure;

pub(crate) fn lint() -> anyhow::Result<()> {
    run("", "cargo", &["fmt", "--all", "--check"])?;
    run("", "cargo", &["clippy", "--workspace", "--all-targets", "--", "-D", "warnings"])?;
    documentation()?;
    npm_ci("web")?;
    npm_ci("e2e")?;
    run("web", "npx", &["biome", "ci", "--error-on-warnings", ".", "../e2e"])?;
    run("web", "npx", &["tsc", "--noEmit"])?;
    run("e2e", "npx", &["tsc", "--noEmit"])?;
    client(true)
}

/// The documentation of every crate, in which every link leads somewhere.
fn documentation() -> anyhow::Result<()> {
    eprintln!("→ cargo doc");
    let arguments = ["doc", "--quiet", "--workspace", "--exclude", "e2e", "--no-deps"];
    let status = command("", "cargo", &arguments).env("RUSTDOCFLAGS", "-D warnings").status()?;
    ensure!(status.success(), "cargo doc ended with {status}");
    Ok(())
}
