//! The program as a whole: killed, restarted, backed up, stopped.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod full;
mod kills;
mod shaped;
mod speed;

use open_beacon_exchange::to_json;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

const PROGRAM: &str = env!("CARGO_BIN_EXE_open-beacon");

struct Running {
    child: Child,
    address: String,
    client: reqwest::Client,
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn start(data: &Path) -> Running {
    start_with(data, &[]).0
}

/// Begun by a shell that first does `before`: limits are set there.
#[cfg(unix)]
fn start_under(before: &str, data: &Path) -> Running {
    let mut shell = Command::new("sh");
    shell.args(["-c", &format!("{before}; exec \"$0\" \"$@\""), PROGRAM]);
    ready(shell, data, &[]).0
}

/// With further options; answers the lines that it prints after it is ready, as they come.
fn start_with(data: &Path, options: &[&str]) -> (Running, BufReader<std::process::ChildStdout>) {
    ready(Command::new(PROGRAM), data, options)
}

fn ready(
    mut program: Command,
    data: &Path,
    options: &[&str],
) -> (Running, BufReader<std::process::ChildStdout>) {
    let mut child = program
        .arg("--data")
        .arg(data)
        .args(["--port", "0"])
        .args(options)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut line = String::new();
    let mut out = BufReader::new(child.stdout.take().unwrap());
    out.read_line(&mut line).unwrap();
    let address =
        line.trim().strip_prefix("Open Beacon is ready at ").unwrap().trim_end_matches('/').to_owned();
    // The program closes a connection on which it refused a body; a pooled one would be met half-closed.
    let client = reqwest::Client::builder().pool_max_idle_per_host(0).build().unwrap();
    (Running { child, address, client }, out)
}

impl Running {
    async fn get(&self, path: &str) -> Value {
        self.client.get(format!("{}{path}", self.address)).send().await.unwrap().json().await.unwrap()
    }

    async fn post(&self, path: &str, body: Value) -> reqwest::StatusCode {
        self.client.post(format!("{}{path}", self.address)).json(&body).send().await.unwrap().status()
    }
}

fn run(data: &Path, arguments: &[&str]) -> std::process::Output {
    Command::new(PROGRAM).arg("--data").arg(data).args(arguments).output().unwrap()
}

/// Posts sites as fast as they are acknowledged, kills the program in the middle of it without warning, and looks
/// for every acknowledged one after a restart.
#[tokio::test]
async fn nothing_acknowledged_is_lost_to_kill_9() {
    let data = tempfile::tempdir().unwrap();
    for round in 0..3_u128 {
        let mut running = start(data.path());
        let mut acknowledged = Vec::new();
        let client = running.client.clone();
        let address = running.address.clone();
        let posting = tokio::spawn(async move {
            for n in 0..10_000_u128 {
                let id = uuid::Uuid::from_u128(round << 64 | n).to_string();
                let body = json!({"id": id, "name": format!("Site {n}"), "time_zone": "UTC"});
                match client.post(format!("{address}/api/sites")).json(&body).send().await {
                    Ok(answer) if answer.status().is_success() => acknowledged.push(id),
                    _ => break,
                }
            }
            acknowledged
        });
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
        // SIGKILL on Unix, TerminateProcess on Windows.
        running.child.kill().unwrap();
        running.child.wait().unwrap();
        let acknowledged = posting.await.unwrap();
        assert!(acknowledged.len() > 3, "only {} were acknowledged", acknowledged.len());
        let again = start(data.path());
        let kept: Vec<String> = again
            .get("/api/sites")
            .await
            .as_array()
            .unwrap()
            .iter()
            .map(|site| site["id"].as_str().unwrap().to_owned())
            .collect();
        for id in &acknowledged {
            assert!(kept.contains(id), "{id} was acknowledged and is gone");
        }
    }
}

/// Masts and a terrain file that were acknowledged, and the ranking that follows from them, outlive a kill.
#[tokio::test]
async fn an_acknowledged_survey_outlives_a_kill() {
    let data = tempfile::tempdir().unwrap();
    let mut running = start(data.path());
    let id = |n: u128| uuid::Uuid::from_u128(n).to_string();
    let house = json!({"latitude_deg": 61.42, "longitude_deg": 8.2});
    let site = json!({"id": id(1), "name": "Croft", "time_zone": "UTC", "place": house});
    assert!(running.post("/api/sites", site).await.is_success());
    let position = json!({"id": id(2), "name": "Gable", "mount": "gable", "height_above_ground_m": 6.0});
    assert!(running.post(&format!("/api/sites/{}/positions", id(1)), position).await.is_success());
    let mast = json!({"name": "Ridge", "place": {"latitude_deg": 61.45, "longitude_deg": 8.2},
        "cells": [{"technology": "lte", "band": 3}]});
    let put = running.client.put(format!("{}/api/sites/{}/masts/{}", running.address, id(1), id(3)));
    assert!(put.json(&mast).send().await.unwrap().status().is_success());
    let grid = "ncols 3\nnrows 3\nxllcenter 8.1\nyllcenter 61.4\ncellsize 0.1\n500 500 500 400 400 400 400 400 400\n";
    let tile =
        format!("{}/api/sites/{}/tiles?id={}&file_name=a.asc&surface=ground", running.address, id(1), id(4));
    let post = running.client.post(tile).header("content-type", "application/octet-stream").body(grid);
    assert!(post.send().await.unwrap().status().is_success());
    let survey = format!("/api/sites/{}/survey", id(1));
    let before = running.get(&survey).await;
    assert!(before["ranking"]["choices"].as_array().is_some_and(|all| !all.is_empty()), "{before}");
    assert_eq!(before["ranking"]["choices"][0]["source"]["by"], "terrain");
    running.child.kill().unwrap();
    running.child.wait().unwrap();
    assert_eq!(start(data.path()).get(&survey).await, before);
}

#[tokio::test]
async fn import_backup_wipe_and_restore_from_the_command_line() {
    let folder = tempfile::tempdir().unwrap();
    let (data, file) = (folder.path().join("data"), folder.path().join("demo.json"));
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    let demo = demo_site(7, &Addresses { status_url: at("a"), speed_url: at("b"), control_url: at("c") });
    std::fs::write(&file, to_json(&demo)).unwrap();
    assert!(run(&data, &["import", file.to_str().unwrap()]).status.success());
    let copy = folder.path().join("copy.sqlite");
    let compare = format!("/api/sites/{}/compare", demo.site.id);
    let before = {
        let running = start(&data);
        // While the program runs.
        assert!(run(&data, &["backup", copy.to_str().unwrap()]).status.success());
        running.get(&compare).await
    };
    std::fs::remove_dir_all(&data).unwrap();
    assert!(run(&data, &["restore", copy.to_str().unwrap()]).status.success());
    assert_eq!(start(&data).get(&compare).await, before);
    let refused = run(&data, &["import", copy.to_str().unwrap()]);
    assert!(
        !refused.status.success() && String::from_utf8_lossy(&refused.stderr).contains("cannot be taken")
    );
}

#[tokio::test]
async fn another_free_port_is_taken_and_said() {
    let data = tempfile::tempdir().unwrap();
    let first = start(data.path());
    let port = first.address.rsplit(':').next().unwrap().to_owned();
    let other = tempfile::tempdir().unwrap();
    let mut child = Command::new(PROGRAM)
        .arg("--data")
        .arg(other.path())
        .args(["--port", &port])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut lines = BufReader::new(child.stdout.take().unwrap()).lines().map(Result::unwrap);
    assert!(lines.next().unwrap().contains(&format!("Port {port} is in use")));
    assert!(!lines.next().unwrap().contains(&format!(":{port}/")));
    child.kill().unwrap();
    child.wait().unwrap();
}

/// A page elsewhere cannot post, whatever it calls this address; tried against the real program.
#[tokio::test]
async fn requests_from_elsewhere_are_refused() {
    let data = tempfile::tempdir().unwrap();
    let running = start(data.path());
    let body = json!({"id": uuid::Uuid::from_u128(1), "name": "A", "time_zone": "UTC"});
    let with = async |name: &str, value: &str| {
        let request =
            running.client.post(format!("{}/api/sites", running.address)).header(name, value).json(&body);
        request.send().await.unwrap().status()
    };
    assert_eq!(with("origin", "http://evil.example").await, 403);
    assert_eq!(with("host", "evil.example").await, 403);
    assert_eq!(with("sec-fetch-site", "cross-site").await, 403);
    let huge = json!({"id": uuid::Uuid::from_u128(2), "name": "x".repeat(3 << 20), "time_zone": "UTC"});
    let answer = running.client.post(format!("{}/api/sites", running.address)).json(&huge).send().await;
    // Refused, or cut off while the rest was still being sent.
    assert!(answer.is_err() || answer.is_ok_and(|answer| answer.status() == 413));
    assert_eq!(running.get("/api/sites").await, json!([]));
    assert_eq!(running.post("/api/sites", body).await, 201);
}

/// Asked to stop, it ends soon and by itself, open event streams or not.
#[cfg(unix)]
#[tokio::test]
async fn it_stops_cleanly_when_asked() {
    let data = tempfile::tempdir().unwrap();
    let mut running = start(data.path());
    let id = uuid::Uuid::from_u128(1);
    running.post("/api/sites", json!({"id": id, "name": "A", "time_zone": "UTC"})).await;
    let stream =
        running.client.get(format!("{}/api/sites/{id}/events", running.address)).send().await.unwrap();
    let asked = Command::new("kill").args(["-TERM", &running.child.id().to_string()]).status().unwrap();
    assert!(asked.success());
    let began = std::time::Instant::now();
    let ended = loop {
        if let Some(ended) = running.child.try_wait().unwrap() {
            break ended;
        }
        assert!(began.elapsed() < std::time::Duration::from_secs(10), "it does not stop");
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    };
    assert!(ended.success(), "{ended}");
    drop(stream);
}

/// The origin on the local network, as it is printed.
fn lan_origin(out: &mut impl BufRead) -> String {
    let mut line = String::new();
    while out.read_line(&mut line).unwrap() > 0 {
        if let Some(origin) = line.trim().strip_prefix("Open to the local network at ") {
            return origin.trim_end_matches('/').to_owned();
        }
        line.clear();
    }
    panic!("it did not open");
}

/// A phone that trusts the authority in the data folder and nobody else, and finds the name where it is.
fn phone(data: &Path, origin: &str) -> reqwest::Client {
    let authority = std::fs::read(data.join("lan/authority.pem")).unwrap();
    let (name, port) = origin.strip_prefix("https://").unwrap().rsplit_once(':').unwrap();
    reqwest::Client::builder()
        .tls_built_in_root_certs(false)
        .add_root_certificate(reqwest::Certificate::from_pem(&authority).unwrap())
        .resolve(name, format!("127.0.0.1:{port}").parse().unwrap())
        .pool_max_idle_per_host(0)
        .build()
        .unwrap()
}

#[tokio::test]
async fn the_local_network_is_served_over_tls_by_the_computers_own_authority_and_let_in_by_code() {
    let data = tempfile::tempdir().unwrap();
    let (running, mut out) = start_with(data.path(), &["--lan", "--lan-port", "0"]);
    let origin = lan_origin(&mut out);
    let client = phone(data.path(), &origin);
    let stranger = client.get(format!("{origin}/api/sites")).send().await.unwrap();
    assert_eq!(stranger.status(), 401);
    assert_eq!(client.get(format!("{origin}/pair")).send().await.unwrap().status(), 200);
    let code = running.get("/api/lan").await["code"]["code"].as_str().unwrap().to_owned();
    let body = json!({"code": code, "name": "Phone"});
    let paired = client.post(format!("{origin}/api/pair")).json(&body).send().await.unwrap();
    assert_eq!(paired.status(), 201);
    let cookie = paired.headers()["set-cookie"].to_str().unwrap().split(';').next().unwrap().to_owned();
    let sites = |client: reqwest::Client, origin: String, cookie: String| async move {
        client.get(format!("{origin}/api/sites")).header("cookie", cookie).send().await.unwrap().status()
    };
    assert_eq!(sites(client, origin.clone(), cookie.clone()).await, 200);
    #[cfg(unix)]
    {
        let mode = |file: &str| {
            let kept = std::fs::metadata(data.path().join("lan").join(file)).unwrap();
            std::os::unix::fs::PermissionsExt::mode(&kept.permissions()) & 0o777
        };
        assert_eq!(mode("authority.key.pem"), 0o600);
    }
    // After a restart: the same name, the same authority, the same phone.
    drop(running);
    let authority = std::fs::read(data.path().join("lan/authority.pem")).unwrap();
    let (_running, mut out) = start_with(data.path(), &["--lan", "--lan-port", "0"]);
    let again = lan_origin(&mut out);
    assert_eq!(again.rsplit_once(':').unwrap().0, origin.rsplit_once(':').unwrap().0);
    assert_eq!(std::fs::read(data.path().join("lan/authority.pem")).unwrap(), authority);
    assert_eq!(sites(phone(data.path(), &again), again, cookie).await, 200);
}

#[tokio::test]
async fn without_being_asked_nothing_listens_on_the_network() {
    let data = tempfile::tempdir().unwrap();
    let running = start(data.path());
    assert_eq!(running.get("/api/lan").await["on"], false);
    assert!(!data.path().join("lan").exists());
}

/// The pairing code is for the computer's own screen: a recipe that asks the program's own address for it gets nothing.
#[tokio::test]
async fn the_program_does_not_ask_itself() {
    let data = tempfile::tempdir().unwrap();
    let running = start(&data.path().join("data"));
    let site = uuid::Uuid::from_u128(1);
    running.post("/api/sites", json!({"id": site, "name": "North farm", "time_zone": "Europe/Oslo"})).await;
    let port = running.address.rsplit(':').next().unwrap();
    for host in ["127.0.0.1", "localhost", "127.0.0.2", "[::ffff:127.0.0.1]"] {
        let gateway = json!({"status_url": format!("http://{host}:{port}/api/lan/code"), "poll_interval_ms": 1000,
            "recipe": {"method": "post", "body": "{}"}});
        let path = format!("{}/api/sites/{site}/gateway/test", running.address);
        let answer = running.client.post(path).json(&json!({ "gateway": gateway })).send().await.unwrap();
        let answer: Value = answer.json().await.unwrap();
        let problem = answer["look"]["problem"].as_str().unwrap_or_default();
        assert!(problem.contains("leads back to Open Beacon"), "{host}: {answer}");
    }
}

/// A connection that begins a header and does not go on is closed; one that says nothing, too.
#[tokio::test]
async fn half_open_connections_do_not_stay() {
    use tokio::io::{AsyncReadExt, AsyncWriteExt};
    let data = tempfile::tempdir().unwrap();
    let running = start(&data.path().join("data"));
    let address = running.address.strip_prefix("http://").unwrap().to_owned();
    let mut half = tokio::net::TcpStream::connect(&address).await.unwrap();
    half.write_all(b"GET /api/sites HTTP/1.1\r\nHost: ").await.unwrap();
    let mut silent = tokio::net::TcpStream::connect(&address).await.unwrap();
    for (what, stream) in [("half a header", &mut half), ("nothing", &mut silent)] {
        let mut answer = Vec::new();
        let ended =
            tokio::time::timeout(std::time::Duration::from_secs(120), stream.read_to_end(&mut answer));
        assert!(ended.await.is_ok(), "{what}: it stays open");
    }
    assert!(running.get("/api/sites").await.is_array(), "others are served");
}
