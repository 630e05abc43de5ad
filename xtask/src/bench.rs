//! Start time, memory, sizes and the log of a large site, each against its target.

use crate::tools::{build_web, root, run};
use anyhow::Context;
use std::process::{Command, Stdio};

/// Target for the first page's own script, compressed, bytes.
const SCRIPT_TARGET: u64 = 200_000;

pub(crate) fn bench() -> anyhow::Result<()> {
    build_web()?;
    let mut total = 0;
    for entry in std::fs::read_dir(root().join("web/dist/assets"))? {
        let path = entry?.path();
        if path.extension().is_some_and(|ending| ending == "js") {
            total += compressed(&path)?;
        }
    }
    println!(
        "scripts, compressed: {total} bytes, target {SCRIPT_TARGET}, {:.2} of it",
        total as f64 / SCRIPT_TARGET as f64
    );
    run(
        "",
        "cargo",
        &[
            "bench",
            "--workspace",
            "--bench",
            "targets",
            "--bench",
            "suggest",
            "--bench",
            "survey",
            "--bench",
            "roof",
        ],
    )
}

/// Size after gzip, measured with the gzip of Node.js, which is here for the build anyway.
fn compressed(path: &std::path::Path) -> anyhow::Result<u64> {
    let script = "process.stdout.write(String(require('zlib').gzipSync(require('fs').readFileSync(process.argv[1])).length))";
    let output = Command::new("node").args(["-e", script]).arg(path).stderr(Stdio::inherit()).output()?;
    String::from_utf8(output.stdout)?.parse().context("the size of a compressed script")
}
