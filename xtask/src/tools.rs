//! Running other programs.

use anyhow::{Context, bail};
use std::path::{Path, PathBuf};
use std::process::Command;

/// The repository's root.
pub(crate) fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().map(Path::to_path_buf).unwrap_or_default()
}

/// A program with arguments, run in a folder of the repository.
pub(crate) fn command(folder: &str, program: &str, arguments: &[&str]) -> Command {
    // On Windows npm and npx are scripts that only a shell starts.
    let mut command = if cfg!(windows) && matches!(program, "npm" | "npx") {
        let mut shell = Command::new("cmd");
        shell.args(["/C", program]);
        shell
    } else {
        Command::new(program)
    };
    command.args(arguments).current_dir(root().join(folder));
    command
}

/// Runs a program to its end.
pub(crate) fn run(folder: &str, program: &str, arguments: &[&str]) -> anyhow::Result<()> {
    eprintln!("→ {program} {}", arguments.join(" "));
    let status = command(folder, program, arguments)
        .status()
        .with_context(|| format!("{program} cannot be started; is it installed?"))?;
    if !status.success() {
        bail!("{program} {} ended with {status}", arguments.join(" "));
    }
    Ok(())
}

/// Runs a program and answers what it printed.
pub(crate) fn output(folder: &str, program: &str, arguments: &[&str]) -> anyhow::Result<String> {
    let output =
        command(folder, program, arguments).output().with_context(|| format!("starting {program}"))?;
    if !output.status.success() {
        bail!("{program} {}: {}", arguments.join(" "), String::from_utf8_lossy(&output.stderr));
    }
    Ok(String::from_utf8(output.stdout)?)
}

/// `npm ci` where the lock file is newer than what is installed.
pub(crate) fn npm_ci(folder: &str) -> anyhow::Result<()> {
    let changed =
        |name: &str| root().join(folder).join(name).metadata().and_then(|data| data.modified()).ok();
    let installed = changed("node_modules/.package-lock.json");
    if installed.is_none() || installed < changed("package-lock.json") {
        run(folder, "npm", &["ci", "--no-audit", "--no-fund"])?;
    }
    Ok(())
}

/// Builds the web application into web/dist.
pub(crate) fn build_web() -> anyhow::Result<()> {
    npm_ci("web")?;
    run("web", "npm", &["run", "--silent", "build"])
}

/// The path of a built program.
pub(crate) fn program(profile: &str, name: &str) -> PathBuf {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from);
    target.join(profile).join(format!("{name}{}", std::env::consts::EXE_SUFFIX))
}
