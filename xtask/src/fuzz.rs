//! The readers' damage tests, for as long as is wanted instead of the moment they take among the other tests.

use crate::tools::{command, root};
use anyhow::{Context, anyhow, bail};
use std::collections::VecDeque;
use std::process::{Command, Stdio};
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// Damage tests of one kind: their test program, the test's name, what is read, and how many readers that are.
struct Damage {
    program: &'static str,
    test: &'static str,
    what: &'static str,
    readers: u64,
}

const fn damage(program: &'static str, test: &'static str, what: &'static str, readers: u64) -> Damage {
    Damage { program, test, what, readers }
}

const DAMAGE: [Damage; 10] = [
    damage("exchange", "damaged::a_damaged_export_is_refused_or_whole", "exports: JSON, CSV in zip", 3),
    damage("exchange", "damaged::a_damaged_mast_file_gives_masts_on_earth", "masts: CSV, GeoJSON, KML", 3),
    damage(
        "exchange",
        "damaged::a_damaged_terrain_file_has_heights_or_a_reason",
        "terrain: GeoTIFF, HGT, ASCII grid",
        3,
    ),
    damage("gateway", "damaged::a_torn_page_gives_numbers_or_a_reason", "gateway pages: JSON, XML, HTML", 3),
    damage("gateway", "damaged::any_line_of_a_modem_is_read_or_refused", "modem answers", 1),
    damage("exchange", "damaged::a_damaged_page_gives_no_impossible_number", "pasted pages", 1),
    damage("exchange", "damaged::a_damaged_notebook_gives_no_impossible_number", "lines of a notebook", 1),
    damage("exchange", "results::any_text_is_read_or_refused", "tables of results", 1),
    damage("exchange", "damaged::a_damaged_pattern_is_in_order_or_refused", "antenna patterns", 1),
    damage("exchange", "damaged::noise_is_refused_by_every_reader", "noise, to every reader", 1),
];

/// Cases of one start of a test; another start follows with other seeds until the time is over.
const CASES: u64 = 5000;

/// Runs every damage test again and again for `minutes` a reader, as many side by side as there are processors; a case that
/// fails is kept beside the test by proptest.
pub(crate) fn fuzz(minutes: u64) -> anyhow::Result<()> {
    let built = built_tests()?;
    let waiting: Mutex<VecDeque<&Damage>> = Mutex::new(DAMAGE.iter().collect());
    let done: Mutex<Vec<String>> = Mutex::default();
    let failed: Mutex<Vec<String>> = Mutex::default();
    std::thread::scope(|scope| {
        for _ in 0..std::thread::available_parallelism().map_or(1, usize::from) {
            scope.spawn(|| {
                while let Some(one) = waiting.lock().ok().and_then(|mut waiting| waiting.pop_front()) {
                    let (list, line) = match run_for(&built, one, 60 * minutes * one.readers) {
                        Ok(cases) => (&done, format!("{}: {cases} cases, none failed", one.what)),
                        Err(error) => (&failed, format!("{}: {error}", one.what)),
                    };
                    eprintln!("  {line}");
                    if let Ok(mut list) = list.lock() {
                        list.push(line);
                    }
                }
            });
        }
    });
    println!("\nReaders under damage, {minutes} min a reader:");
    for line in done.into_inner().unwrap_or_default() {
        println!("  {line}");
    }
    let failed = failed.into_inner().unwrap_or_default();
    if failed.is_empty() { Ok(()) } else { Err(anyhow!(failed.join("\n"))) }
}

fn run_for(built: &[(String, String)], one: &Damage, seconds: u64) -> anyhow::Result<u64> {
    let (_, path) =
        built.iter().find(|(name, _)| name == one.program).context("its test program was not built")?;
    let until = Instant::now() + Duration::from_secs(seconds);
    let mut cases = 0;
    while Instant::now() < until {
        let ended = Command::new(path)
            .args(["--quiet", "--exact", one.test])
            .env("OPEN_BEACON_CASES", CASES.to_string())
            .current_dir(root().join("crates").join(one.program))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .status()?;
        if !ended.success() {
            bail!("a case failed; it is kept in a proptest-regressions folder of crates/{}", one.program);
        }
        cases += CASES;
    }
    Ok(cases)
}

/// Builds the test programs; answers each with its path, as cargo tells it: `Executable tests/x/main.rs (target/…/x-1234)`.
fn built_tests() -> anyhow::Result<Vec<(String, String)>> {
    let arguments = ["test", "--workspace", "--exclude", "e2e", "--profile", "demo", "--no-run", "--tests"];
    let built = command("", "cargo", &arguments).stderr(Stdio::piped()).output()?;
    let told = String::from_utf8_lossy(&built.stderr);
    if !built.status.success() {
        bail!("the tests were not built:\n{told}");
    }
    let path = |line: &str| Some(line.rsplit_once('(')?.1.trim_end_matches(')').to_owned());
    let named = |path: String| {
        let file = path.rsplit(['/', '\\']).next()?.to_owned();
        let name = file.rsplit_once('-')?.0.to_owned();
        Some((name, root().join(path).to_string_lossy().into_owned()))
    };
    Ok(told.lines().filter(|line| line.contains("Executable")).filter_map(path).filter_map(named).collect())
}
