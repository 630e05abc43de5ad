//! Killed without warning while everything that can be written is being written: what was acknowledged is there afterwards. A few
//! kills here; `cargo xtask kills` makes as many as it is told.

use super::{Running, start};
use open_beacon_exchange::to_json;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::StandIn;
use serde_json::{Value, json};
use std::path::Path;
use std::sync::{Arc, Mutex};
use std::time::Duration;
use uuid::Uuid;

/// What is being written while it happens.
#[derive(Clone, Copy, Debug)]
enum Work {
    TypedRuns,
    Notes,
    Settings,
    Corrections,
    Tables,
    Import,
    Recording,
}

const ALL: [Work; 7] = [
    Work::TypedRuns,
    Work::Notes,
    Work::Settings,
    Work::Corrections,
    Work::Tables,
    Work::Import,
    Work::Recording,
];

/// Rows of each table, each with a test.
const ROWS: u64 = 20;

fn id(n: u128) -> String {
    Uuid::from_u128(n).to_string()
}

/// What the program said it has: filled while it lives, compared after it was killed.
#[derive(Clone, Debug, Default)]
struct Acknowledged {
    runs: Vec<String>,
    /// The last number noted at the position, and in the settings.
    noted: u64,
    set: u64,
    /// Corrections of the one run that is corrected, and tables brought in.
    corrected: u64,
    tables: u64,
    /// Sites brought in.
    imported: Vec<String>,
    /// Of these, those that were found whole before.
    looked_at: Vec<String>,
    /// The recording, and samples it was seen to have.
    recording: Option<(String, u64)>,
}

type Seen = Arc<Mutex<Acknowledged>>;

/// A client that goes on until the program is gone.
struct Writer {
    client: reqwest::Client,
    address: String,
    seen: Seen,
}

impl Writer {
    async fn send(&self, method: &str, path: &str, body: Value) -> Option<Value> {
        let method = method.parse().ok()?;
        let asked = self.client.request(method, format!("{}{path}", self.address)).json(&body);
        let answer = asked.send().await.ok()?;
        let good = answer.status().is_success();
        let body = answer.json().await.unwrap_or(Value::Null);
        good.then_some(body)
    }

    async fn write(self, work: Work, kill: u128, file: Arc<Vec<u8>>) {
        match work {
            Work::TypedRuns => self.typed_runs(kill).await,
            Work::Notes => self.notes().await,
            Work::Corrections => self.corrections().await,
            Work::Tables => self.tables().await,
            Work::Settings => self.settings().await,
            Work::Import => self.imports(&file).await,
            Work::Recording => self.recording(kill).await,
        }
    }

    async fn typed_runs(&self, kill: u128) {
        for n in 1.. {
            let run = id(kill << 64 | n << 8);
            let carrier = json!({"technology": "lte", "role": "primary", "band": 3, "rsrp_dbm": -90.0});
            let body = json!({"id": run, "measured_at": "2026-11-20T10:00:00Z", "readings":
                [{"id": id(kill << 64 | n << 8 | 1), "mode": "lte", "activity": "unknown", "carriers": [carrier]}]});
            let Some(_) = self.send("POST", &format!("/api/setups/{}/typed-runs", id(3)), body).await else {
                return;
            };
            self.seen.lock().unwrap().runs.push(run);
        }
    }

    async fn notes(&self) {
        let from = self.seen.lock().unwrap().noted;
        for n in from + 1.. {
            let body = json!({"name": "Gable", "mount": "gable", "notes": n.to_string()});
            let Some(_) = self.send("PUT", &format!("/api/positions/{}", id(2)), body).await else { return };
            self.seen.lock().unwrap().noted = n;
        }
    }

    async fn settings(&self) {
        let path = format!("/api/sites/{}", id(1));
        let from = self.seen.lock().unwrap().set;
        for n in from + 1.. {
            let Some(site) = self.send("GET", &path, Value::Null).await else { return };
            let seen = site["settings_versions"]["network"].as_u64().unwrap_or(0);
            let body = json!({"sections": {"network": {"seen": seen, "value": format!("Carrier {n}")}}});
            let Some(_) = self.send("PATCH", &format!("{path}/settings"), body).await else { return };
            self.seen.lock().unwrap().set = n;
        }
    }

    async fn corrections(&self) {
        let from = self.seen.lock().unwrap().corrected;
        for n in from + 1.. {
            let run = corrected_run(n);
            let body = json!({"id": id(u128::from(n) << 32 | 7), "why": "a slip", "seen": n - 1, "run": run});
            let Some(_) = self.send("PUT", &format!("/api/runs/{}/typed", id(4)), body).await else { return };
            self.seen.lock().unwrap().corrected = n;
        }
    }

    async fn tables(&self) {
        let from = self.seen.lock().unwrap().tables;
        for n in from + 1.. {
            let begins: chrono::DateTime<chrono::Utc> = "2020-01-01T00:00:00Z".parse().unwrap();
            let row = |at: u64| {
                let at = begins + chrono::Duration::minutes((n * ROWS + at) as i64 * 5);
                format!("{},{}\n", at.to_rfc3339(), 10 + n % 50)
            };
            let text: String =
                std::iter::once("time,download\n".to_owned()).chain((0..ROWS).map(row)).collect();
            let body = json!({"file_name": "notes.csv", "text": text, "chosen": id(3)});
            let path = format!("/api/sites/{}/result-tables/import", id(1));
            let Some(_) = self.send("POST", &path, body).await else { return };
            self.seen.lock().unwrap().tables = n;
        }
    }

    async fn imports(&self, file: &[u8]) {
        while let Some(site) = self.import(file).await {
            self.seen.lock().unwrap().imported.push(site);
        }
    }

    /// Brings a copy in: the new site.
    async fn import(&self, file: &[u8]) -> Option<String> {
        let asked = self.client.post(format!("{}/api/import?copy=true", self.address));
        let asked = asked.header("content-type", "application/json").body(file.to_vec());
        let report: Value = asked.send().await.ok()?.json().await.ok()?;
        Some(report["site_id"].as_str()?.to_owned())
    }

    async fn recording(&self, kill: u128) {
        let run = id(kill << 64);
        let body = json!({"id": run, "samples": 200, "speed_tests": 0});
        let Some(_) = self.send("POST", &format!("/api/setups/{}/jobs", id(3)), body).await else { return };
        while let Some(answer) = self.send("GET", &format!("/api/runs/{run}"), Value::Null).await {
            let taken = answer["samples"].as_array().map_or(0, Vec::len) as u64;
            self.seen.lock().unwrap().recording = Some((run.clone(), taken));
        }
    }
}

/// The run that is corrected, as the `n`th correction has it; 0 is what was typed first.
fn corrected_run(n: u64) -> Value {
    let carrier =
        json!({"technology": "lte", "role": "primary", "band": 3, "rsrp_dbm": -60.0 - (n % 40) as f64});
    json!({"id": id(4), "measured_at": "2026-11-20T09:00:00Z", "readings":
        [{"id": id(u128::from(n) << 32 | 5), "mode": "lte", "activity": "unknown", "carriers": [carrier]}]})
}

async fn prepare(running: &Running, status_url: &str) {
    let site = json!({"id": id(1), "name": "Croft", "time_zone": "UTC"});
    assert!(running.post("/api/sites", site).await.is_success());
    let position = json!({"id": id(2), "name": "Gable", "mount": "gable"});
    assert!(running.post(&format!("/api/sites/{}/positions", id(1)), position).await.is_success());
    let setup = json!({"id": id(3), "antenna": "internal"});
    assert!(running.post(&format!("/api/positions/{}/setups", id(2)), setup).await.is_success());
    let path = format!("/api/setups/{}/typed-runs", id(3));
    assert!(running.post(&path, corrected_run(0)).await.is_success());
    let gateway = json!({"seen": 0, "value": {"status_url": status_url, "poll_interval_ms": 200}});
    let patch = running.client.patch(format!("{}/api/sites/{}/settings", running.address, id(1)));
    let answer = patch.json(&json!({"sections": {"gateway": gateway}})).send().await.unwrap();
    assert!(answer.status().is_success(), "{}", answer.text().await.unwrap());
}

fn sound(data: &Path) {
    let raw = rusqlite::Connection::open(data.join("open-beacon.sqlite")).unwrap();
    let said: String = raw.pragma_query_value(None, "integrity_check", |row| row.get(0)).unwrap();
    assert_eq!(said, "ok");
    assert!(!raw.prepare("PRAGMA foreign_key_check").unwrap().exists([]).unwrap());
}

async fn samples_of(running: &Running, site: &str) -> usize {
    let export = running.get(&format!("/api/sites/{site}/export.json")).await;
    export["samples"].as_array().map_or(0, Vec::len)
}

/// Everything acknowledged is there, and nothing that was never asked for. A site that was brought in has `whole` samples.
async fn compare(running: &Running, seen: &Acknowledged, whole: usize) {
    for run in seen.runs.iter().rev().take(200) {
        let kept = running.get(&format!("/api/runs/{run}")).await;
        assert_eq!(kept["samples"].as_array().map(Vec::len), Some(1), "{run}: {kept}");
    }
    let site = running.get(&format!("/api/sites/{}", id(1))).await;
    let number = |text: &Value| {
        let digits: String = text.as_str().unwrap_or_default().chars().filter(char::is_ascii_digit).collect();
        digits.parse().unwrap_or(0)
    };
    // One more than acknowledged may have been written when the answer was cut off.
    let noted: u64 = number(&site["positions"][0]["position"]["notes"]);
    assert!((seen.noted..=seen.noted + 1).contains(&noted), "{noted} noted, {} acknowledged", seen.noted);
    let set: u64 = number(&site["settings"]["network"]);
    assert!((seen.set..=seen.set + 1).contains(&set), "{set} set, {} acknowledged", seen.set);
    // A correction is there with what stood there before it, a table with all its rows.
    let run = running.get(&format!("/api/runs/{}", id(4))).await;
    let corrected = run["amendments"].as_array().map_or(0, Vec::len) as u64;
    assert!((seen.corrected..=seen.corrected + 1).contains(&corrected), "{corrected} of {}", seen.corrected);
    let rsrp = run["samples"][0]["carriers"][0]["rsrp_dbm"].as_f64();
    assert_eq!(rsrp, Some(-60.0 - (corrected % 40) as f64), "as the last correction has it");
    let export = running.get(&format!("/api/sites/{}/export.json", id(1))).await;
    let tests = export["speed_tests"].as_array().map_or(0, Vec::len) as u64;
    assert_eq!(tests % ROWS, 0, "half a table");
    assert!((seen.tables..=seen.tables + 1).contains(&(tests / ROWS)), "{tests} tests of {}", seen.tables);
    let all = running.get("/api/sites").await;
    let there: Vec<&str> = all.as_array().unwrap().iter().filter_map(|site| site["id"].as_str()).collect();
    assert!(seen.imported.iter().all(|site| there.contains(&site.as_str())));
    // A site that came in is there whole or not at all, also the one that was coming in.
    let new = there.iter().filter(|site| **site != id(1) && !seen.looked_at.contains(&site.to_string()));
    for site in new {
        assert_eq!(samples_of(running, site).await, whole, "{site}");
    }
    if let Some((run, taken)) = &seen.recording {
        let kept = running.get(&format!("/api/runs/{run}")).await;
        let has = kept["samples"].as_array().map_or(0, Vec::len) as u64;
        assert!(has >= *taken, "{has} kept of {taken} that were shown");
        assert_eq!(kept["run"]["completion"], "partial", "{kept}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn whatever_is_written_when_it_is_killed() {
    let kills = std::env::var("OPEN_BEACON_KILLS").ok().and_then(|n| n.parse().ok()).unwrap_or(ALL.len());
    let stand_in = StandIn::new(7, Duration::from_millis(250));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let status_url = format!("http://{}/status.json", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, gateway_router(stand_in)).await });
    let nowhere = |path: &str| format!("http://127.0.0.1:1/{path}");
    let addresses = Addresses {
        status_url: nowhere("status"),
        speed_url: nowhere("speed"),
        control_url: nowhere("control"),
    };
    let file = Arc::new(to_json(&demo_site(7, &addresses)));

    let data = tempfile::tempdir().unwrap();
    let mut running = start(data.path());
    prepare(&running, &status_url).await;
    let seen = Seen::default();
    let writer = |running: &Running| Writer {
        client: running.client.clone(),
        address: running.address.clone(),
        seen: Arc::clone(&seen),
    };
    let first = writer(&running).import(&file).await.unwrap();
    let whole = samples_of(&running, &first).await;
    assert!(whole > 100, "{whole}");
    let mut random = fastrand::Rng::with_seed(7);
    for kill in 0..kills {
        let work = ALL[kill % ALL.len()];
        let writing = tokio::spawn(writer(&running).write(work, kill as u128 + 10, Arc::clone(&file)));
        let least = if matches!(work, Work::Import | Work::Recording) { 600 } else { 30 };
        tokio::time::sleep(Duration::from_millis(random.u64(least..least + 500))).await;
        running.child.kill().unwrap();
        running.child.wait().unwrap();
        writing.await.unwrap();
        sound(data.path());
        running = start(data.path());
        let so_far = seen.lock().unwrap().clone();
        compare(&running, &so_far, whole).await;
        seen.lock().unwrap().looked_at.clone_from(&so_far.imported);
    }
    let seen = seen.lock().unwrap();
    let written = [seen.runs.len() as u64, seen.noted, seen.set, seen.corrected, seen.tables];
    let sites = seen.imported.len();
    println!(
        "{kills} kills; runs, notes, settings, corrections, tables acknowledged: {written:?}; sites: {sites}"
    );
    assert!(written.iter().all(|one| *one > 0), "{written:?}");
}
