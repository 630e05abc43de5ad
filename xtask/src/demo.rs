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

/// As fast as a release where it matters, without its minutes of link-time optimisation.
const PROFILE: &str = "demo";

/// Builds the web application beside the programs, on the cores that cargo leaves. The programs take the web application in when
/// they are built last, so that is asked for once more: nothing, or a few seconds where the web was the slower.
fn build() -> anyhow::Result<()> {
    let programs = || {
        let packages = ["--package", "open-beacon", "--package", "open_beacon_simulator"];
        run("", "cargo", &[&["build", "--profile", PROFILE][..], &packages].concat())
    };
    std::thread::scope(|scope| {
        let web = scope.spawn(build_web);
        programs()?;
        web.join().map_err(|_| anyhow::anyhow!("building the web application ended early"))?
    })?;
    programs()
}

pub(crate) fn demo(port: u16, keep: bool, lan: bool) -> anyhow::Result<()> {
    build()?;
    let data = root().join("demo/data");
    if !keep && data.exists() {
        std::fs::remove_dir_all(&data).context("clearing the last demo's data")?;
    }
    let (_stand_in, addresses) = start_stand_in(&["serve", "--port", "7421"])
        .or_else(|_| start_stand_in(&["serve"]))
        .context("the stand-in devices did not start")?;
    if !keep || !data.exists() {
        // Beside the data's own folder, which the program makes for its owner alone.
        let demo_site = root().join("target/demo-site.json");
        let of = |key: &str| address(&addresses, key);
        let written = Command::new(program(PROFILE, "open-beacon-stand-in"))
            .args(["demo-site", "--status-url", &of("status_url"), "--speed-url", &of("speed_url")])
            .args(["--control-url", &of("control_url")])
            .arg(&demo_site)
            .status()?;
        anyhow::ensure!(written.success(), "the demo site could not be written");
        let imported = Command::new(program(PROFILE, "open-beacon"))
            .arg("--data")
            .arg(&data)
            .args(["import", "--allow-requests"])
            .arg(&demo_site)
            .status()?;
        anyhow::ensure!(imported.success(), "the demo site could not be imported");
    }
    let mut application = Command::new(program(PROFILE, "open-beacon"))
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
    let mut child = Command::new(program(PROFILE, "open-beacon-stand-in"))
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
