//! When there is no room left: connections, file handles, disk. The program says so, goes on, and recovers by itself.

use super::{Running, start, start_under};
use serde_json::json;
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

/// Connections of this computer, `server::room::MOST_LOCAL`.
const MOST: usize = 256;

/// Asks over a connection of its own; the answer's text, empty where the connection was closed.
async fn ask(running: &Running) -> String {
    let address = running.address.strip_prefix("http://").unwrap();
    let Ok(mut stream) = TcpStream::connect(address).await else { return String::new() };
    let request = format!("GET /api/sites HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n");
    if stream.write_all(request.as_bytes()).await.is_err() {
        return String::new();
    }
    let mut answer = Vec::new();
    let _ = tokio::time::timeout(Duration::from_secs(10), stream.read_to_end(&mut answer)).await;
    String::from_utf8_lossy(&answer).into_owned()
}

/// Asks until it is answered well; a busy machine takes its time.
async fn answered_again(running: &Running) -> bool {
    for _ in 0..100 {
        if ask(running).await.starts_with("HTTP/1.1 200") {
            return true;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    false
}

async fn open(running: &Running, count: usize) -> Vec<TcpStream> {
    let address = running.address.strip_prefix("http://").unwrap();
    let mut held = Vec::new();
    for _ in 0..count {
        held.extend(TcpStream::connect(address).await);
    }
    held
}

#[tokio::test]
async fn one_connection_too_many_is_told_and_room_comes_back() {
    let data = tempfile::tempdir().unwrap();
    let running = start(&data.path().join("data"));
    let mut held = open(&running, MOST).await;
    assert_eq!(held.len(), MOST);
    // Each was answered once: a connection that only seems open, because the system has not handed it over, takes no place.
    let address = running.address.strip_prefix("http://").unwrap();
    let request = format!("GET /api/sites HTTP/1.1\r\nHost: {address}\r\n\r\n");
    for stream in &mut held {
        stream.write_all(request.as_bytes()).await.unwrap();
        let mut answer = [0u8; 512];
        assert!(stream.read(&mut answer).await.unwrap() > 0);
    }
    let refused = ask(&running).await;
    assert!(refused.contains("Too many connections are open. Close some pages"), "{refused}");
    drop(held);
    assert!(answered_again(&running).await, "no room came back");
}

/// With 80 file handles in all, most of them taken by connections that say nothing.
#[cfg(unix)]
#[tokio::test]
async fn without_file_handles_it_waits_and_recovers() {
    let data = tempfile::tempdir().unwrap();
    let running = start_under("ulimit -n 80", &data.path().join("data"));
    let held = open(&running, 120).await;
    tokio::time::sleep(Duration::from_secs(1)).await;
    drop(held);
    assert!(answered_again(&running).await, "it did not recover");
    let site = json!({"id": uuid::Uuid::from_u128(1), "name": "North farm", "time_zone": "UTC"});
    assert!(running.post("/api/sites", site).await.is_success());
}

/// No file may grow beyond 3 MB, as on a disk that is full: what is refused says why, what was acknowledged stays, and once there
/// is room again the program takes more.
#[cfg(unix)]
#[tokio::test]
async fn a_full_disk_is_named_and_nothing_acknowledged_is_lost() {
    let data = tempfile::tempdir().unwrap();
    let folder = data.path().join("data");
    drop(start(&folder));
    // The signal of a file grown too large would end the program; ignored, the write fails as on a full disk.
    let running = start_under("trap '' XFSZ; ulimit -f 6144", &folder);
    let notes = "n".repeat(3_900);
    let (mut taken, mut refused) = (Vec::new(), None);
    for n in 1..5_000_u128 {
        let site =
            json!({"id": uuid::Uuid::from_u128(n), "name": "North farm", "time_zone": "UTC", "notes": notes});
        let answer =
            running.client.post(format!("{}/api/sites", running.address)).json(&site).send().await.unwrap();
        if answer.status().is_success() {
            taken.push(uuid::Uuid::from_u128(n).to_string());
        } else {
            refused = Some((answer.status().as_u16(), answer.text().await.unwrap()));
            break;
        }
    }
    let (status, text) = refused.unwrap_or_else(|| panic!("{} sites and no end", taken.len()));
    assert_eq!(status, 507, "{text}");
    assert!(text.to_lowercase().contains("disk"), "{text}");
    assert!(running.get("/api/sites").await.is_array(), "what is there can be read");
    drop(running);
    let again = start(&folder);
    let kept = again.get("/api/sites").await;
    let ids: Vec<&str> = kept.as_array().unwrap().iter().filter_map(|site| site["id"].as_str()).collect();
    assert!(taken.iter().all(|id| ids.contains(&id.as_str())), "{} of {}", ids.len(), taken.len());
    let site = json!({"id": uuid::Uuid::from_u128(5_000), "name": "South farm", "time_zone": "UTC"});
    assert!(again.post("/api/sites", site).await.is_success());
}
