//! What the program is made of: licences and sources checked, and a list of its parts.

use crate::tools::{output, root, run};
use anyhow::{Context, bail};
use std::process::Command;

/// Checks licences, sources, duplicates and, where the list can be reached, advisories; writes the lists of parts beside the
/// package: `target/sbom/*.cdx.json` (CycloneDX).
pub(crate) fn supply() -> anyhow::Result<()> {
    installed("deny")?;
    run("", "cargo", &["deny", "check", "licenses", "sources", "bans"])?;
    if Command::new("cargo").args(["deny", "check", "advisories"]).current_dir(root()).status()?.success() {
        eprintln!("advisories: none");
    } else {
        eprintln!("advisories: found, or their list cannot be reached from here; see above");
    }
    let folder = root().join("target/sbom");
    std::fs::create_dir_all(&folder)?;
    installed("cyclonedx")?;
    run(
        "",
        "cargo",
        &[
            "cyclonedx",
            "--format",
            "json",
            "--manifest-path",
            "crates/server/Cargo.toml",
            "--override-filename",
            "program.cdx",
        ],
    )?;
    std::fs::rename(root().join("crates/server/program.cdx.json"), folder.join("program.cdx.json"))
        .context("the list of crates")?;
    // One is written beside every crate of the house; the program's names them all.
    let crates = std::fs::read_dir(root().join("crates"))?.collect::<Result<Vec<_>, _>>()?;
    let others = crates.iter().map(std::fs::DirEntry::path).chain([root().join("e2e"), root().join("xtask")]);
    for list in others.map(|folder| folder.join("program.cdx.json")).filter(|list| list.exists()) {
        std::fs::remove_file(list)?;
    }
    let web = output("web", "npm", &["sbom", "--sbom-format", "cyclonedx", "--omit", "dev"])?;
    std::fs::write(folder.join("web.cdx.json"), web)?;
    println!("Lists of parts: {}", folder.display());
    Ok(())
}

fn installed(tool: &str) -> anyhow::Result<()> {
    let there =
        Command::new("cargo").args([tool, "--version"]).output().is_ok_and(|out| out.status.success());
    if !there {
        bail!("cargo-{tool} is needed: cargo install --locked cargo-{tool}");
    }
    Ok(())
}
