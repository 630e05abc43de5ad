//! The document as a contract, tried from outside by Schemathesis (PyPI) against the release program with demo data.

use crate::tools::{build_web, command, program, root, run};
use anyhow::{Context, bail};
use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};

/// Calls that go out, listen for ever or start servers: their answers depend on who is there.
const LEFT_OUT: &str = "(/events|/link/stream|/speed|/rehears|/stand-in|/gateway/test|/jobs|/lan)";
const CHECKS: &str =
    "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance";

/// Runs all phases, the stateful one too, with `examples` calls of each operation at the most.
pub(crate) fn contract(examples: u32) -> anyhow::Result<()> {
    if Command::new("schemathesis").arg("--version").output().is_err() {
        bail!("schemathesis is needed: pip install schemathesis");
    }
    build_web()?;
    run(
        "",
        "cargo",
        &["build", "--release", "--package", "open-beacon", "--package", "open_beacon_simulator"],
    )?;
    let folder = root().join("target/contract");
    if folder.exists() {
        std::fs::remove_dir_all(&folder).context("clearing the last run's data")?;
    }
    std::fs::create_dir_all(&folder)?;
    let (site, data) = (folder.join("site.json"), folder.join("data"));
    let nowhere = "http://127.0.0.1:1/";
    let written = Command::new(program("release", "open-beacon-stand-in"))
        .args(["demo-site", "--status-url", nowhere, "--speed-url", nowhere, "--control-url", nowhere])
        .arg(&site)
        .status()?;
    let imported = Command::new(program("release", "open-beacon"))
        .arg("--data")
        .arg(&data)
        .arg("import")
        .arg(&site)
        .status()?;
    if !(written.success() && imported.success()) {
        bail!("the demo site could not be brought in");
    }
    let mut running = Command::new(program("release", "open-beacon"))
        .arg("--data")
        .arg(&data)
        .args(["--port", "0"])
        .stdout(Stdio::piped())
        .spawn()?;
    let mut line = String::new();
    BufReader::new(running.stdout.take().context("its address")?).read_line(&mut line)?;
    let address = line.split_whitespace().last().unwrap_or_default().trim_end_matches('/');
    let (document, most) = (format!("{address}/api/openapi.json"), examples.to_string());
    let tried = command("", "schemathesis", &["run", &document, "--checks", CHECKS])
        .args(["--max-examples", &most, "--phases", "examples,coverage,fuzzing,stateful"])
        .args(["--exclude-path-regex", LEFT_OUT, "--request-timeout", "15", "--continue-on-failure"])
        .status();
    let ended = running.try_wait()?;
    running.kill().ok();
    running.wait()?;
    if ended.is_some() {
        bail!("the program ended while it was tried");
    }
    if !tried?.success() {
        bail!("the program and its document differ; see above");
    }
    Ok(())
}
