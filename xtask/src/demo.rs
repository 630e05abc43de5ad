//! The demo: stand-in devices, application, invented data.

use crate::tools::{build_web, program, root, run};
use anyhow::Context;
use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

/// Ends the stand-in with the demo.
struct Ended(Child);

impl Drop for Ended {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

pub(crate) fn demo(port: u16, keep: bool, lan: bool) -> anyhow::Result<()> {
    build_web()?;
    run(
        "",
        "cargo",
        &["build", "--release", "--package", "open-beacon", "--package", "open_beacon_simulator"],
    )?;
    let data = root().join("demo/data");
    if !keep && data.exists() {
        std::fs::remove_dir_all(&data).context("clearing the last demo's data")?;
    }
    let (_stand_in, addresses) = start_stand_in(&["serve", "--port", "7421"])
        .or_else(|_| start_stand_in(&["serve"]))
        .context("the stand-in devices did not start")?;
    if !keep || !data.exists() {
        let story = data.join("demo-site.json");
        std::fs::create_dir_all(&data)?;
        let of = |key: &str| address(&addresses, key);
        let told = Command::new(program("release", "open-beacon-stand-in"))
            .args(["story", "--status-url", &of("status_url"), "--speed-url", &of("speed_url")])
            .args(["--control-url", &of("control_url")])
            .arg(&story)
            .status()?;
        anyhow::ensure!(told.success(), "the demo site could not be written");
        let imported = Command::new(program("release", "open-beacon"))
            .arg("--data")
            .arg(&data)
            .arg("import")
            .arg(&story)
            .status()?;
        anyhow::ensure!(imported.success(), "the demo site could not be imported");
    }
    let mut application = Command::new(program("release", "open-beacon"))
        .arg("--data")
        .arg(&data)
        .args(["--port", &port.to_string()])
        .args(lan.then_some("--lan"))
        .spawn()
        .context("starting the application")?;
    application.wait()?;
    Ok(())
}

/// Starts the stand-in and reads the line with its addresses.
fn start_stand_in(arguments: &[&str]) -> anyhow::Result<(Ended, String)> {
    let mut child = Command::new(program("release", "open-beacon-stand-in"))
        .args(arguments)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()?;
    let out = child.stdout.take().context("no output")?;
    let child = Ended(child);
    let mut line = String::new();
    BufReader::new(out).read_line(&mut line)?;
    anyhow::ensure!(line.contains("status_url"), "it ended at once");
    Ok((child, line))
}

/// One address of the stand-in's line of JSON: plain keys, plain strings.
fn address(line: &str, key: &str) -> String {
    let after = line.split(&format!("\"{key}\":\"")).nth(1).unwrap_or_default();
    after.split('"').next().unwrap_or_default().to_owned()
}
