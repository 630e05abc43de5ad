//! Start time, memory, sizes, and how long the heavy answers take, each against its target.

use crate::tools::{build_web, output, root};
use anyhow::Context;
use std::process::{Command, Stdio};

/// Target for the first page's own script, compressed, bytes.
const SCRIPT_TARGET: u64 = 200_000;

/// Every bench that stands against a target, by its crate's name for it.
const BENCHES: [&str; 7] = ["targets", "predict", "suggest", "survey", "roof", "aim", "verdict"];

/// Runs every bench and prints one table of what was measured against its target.
pub(crate) fn bench() -> anyhow::Result<()> {
    build_web()?;
    let mut total = 0;
    for entry in std::fs::read_dir(root().join("web/dist/assets"))? {
        let path = entry?.path();
        if path.extension().is_some_and(|ending| ending == "js") {
            total += compressed(&path)?;
        }
    }
    let ratio = total as f64 / SCRIPT_TARGET as f64;
    let mut table =
        vec![format!("scripts, compressed: {total} bytes, target {SCRIPT_TARGET}, {ratio:.2} of it")];
    for name in BENCHES {
        eprintln!("→ cargo bench --workspace --bench {name}");
        let printed = output("", "cargo", &["bench", "--workspace", "--bench", name])?;
        print!("{printed}");
        table.extend(printed.lines().filter(|line| line.contains("target")).map(str::to_owned));
    }
    println!("\nMeasured against targets:");
    for line in &table {
        println!("  {line}");
    }
    Ok(())
}

/// Size after gzip, measured with the gzip of Node.js, which is here for the build anyway.
fn compressed(path: &std::path::Path) -> anyhow::Result<u64> {
    let script = "process.stdout.write(String(require('zlib').gzipSync(require('fs').readFileSync(process.argv[1])).length))";
    let output = Command::new("node").args(["-e", script]).arg(path).stderr(Stdio::inherit()).output()?;
    String::from_utf8(output.stdout)?.parse().context("the size of a compressed script")
}
