//! The readers' damage tests, for as long as is wanted instead of the moment they take among the other tests.

use crate::tools::{command, run};
use anyhow::{Context, bail};
use std::time::{Duration, Instant};

/// Each reader's test: its crate, the test's name, what is read.
const READERS: [(&str, &str, &str); 8] = [
    ("open_beacon_exchange", "damaged::a_damaged_export_is_refused_or_whole", "exports: JSON, CSV in zip"),
    ("open_beacon_exchange", "damaged::a_damaged_mast_file_gives_masts_on_earth", "masts: CSV, GeoJSON, KML"),
    (
        "open_beacon_exchange",
        "damaged::a_damaged_terrain_file_has_heights_or_a_reason",
        "terrain: GeoTIFF, HGT, ASCII grid",
    ),
    ("open_beacon_exchange", "damaged::a_damaged_page_gives_no_impossible_number", "pasted pages"),
    ("open_beacon_exchange", "damaged::a_damaged_pattern_is_in_order_or_refused", "antenna patterns"),
    ("open_beacon_exchange", "damaged::noise_is_refused_by_every_reader", "noise, to every reader"),
    (
        "open_beacon_gateway",
        "damaged::a_torn_page_gives_numbers_or_a_reason",
        "gateway pages: JSON, XML, HTML",
    ),
    ("open_beacon_gateway", "damaged::any_line_of_a_modem_is_read_or_refused", "modem answers"),
];

/// Cases of one start of a test; another start follows with other seeds until the time is over.
const CASES: &str = "20000";

/// Runs every reader's test again and again for `minutes` each; a case that fails is kept beside the test by proptest.
pub(crate) fn fuzz(minutes: u64) -> anyhow::Result<()> {
    run(
        "",
        "cargo",
        &["test", "--workspace", "--exclude", "e2e", "--profile", "demo", "--no-run", "--tests"],
    )?;
    let mut table = Vec::new();
    for (package, test, what) in READERS {
        let until = Instant::now() + Duration::from_secs(60 * minutes);
        let mut starts = 0_u32;
        while Instant::now() < until {
            let ended = command(
                "",
                "cargo",
                &["test", "--quiet", "--workspace", "--exclude", "e2e", "--profile", "demo"],
            )
            .args(["--test", package.trim_start_matches("open_beacon_"), "--", "--exact", test])
            .env("OPEN_BEACON_CASES", CASES)
            .stdout(std::process::Stdio::null())
            .status()
            .context("starting cargo")?;
            if !ended.success() {
                bail!("{what}: a case failed; it is kept in the proptest-regressions folder of {package}");
            }
            starts += 1;
        }
        table.push(format!("{what}: {starts} × {CASES} cases in {minutes} min, none failed"));
        eprintln!("  {}", table.last().map_or("", String::as_str));
    }
    println!("\nReaders under damage:");
    for line in table {
        println!("  {line}");
    }
    Ok(())
}
