//! The program as both ends of a speed test, without the web application.

use super::PROGRAM;
use serde_json::Value;
use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

struct Serving(Child);

impl Drop for Serving {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn serve(options: &[&str]) -> (Serving, String) {
    let mut child = Command::new(PROGRAM)
        .args(["speed-server", "--listen", "127.0.0.1:0"])
        .args(options)
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let address = line.trim().strip_prefix("Speed tests can be run against ").unwrap().to_owned();
    (Serving(child), address)
}

fn test(arguments: &[&str]) -> (bool, String, String) {
    let short = ["--seconds", "1", "--warm-up", "0.2", "--connections", "2"];
    let out = Command::new(PROGRAM).arg("speedtest").args(arguments).args(short).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (out.status.success(), text(out.stdout), text(out.stderr))
}

#[test]
fn one_end_tests_against_the_other() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("token");
    std::fs::write(&file, "a-token-of-this-test\n").unwrap();
    let (_serving, address) = serve(&["--token-file", file.to_str().unwrap()]);
    let (fine, out, _) = test(&[&format!("{address}?token=a-token-of-this-test"), "--json"]);
    assert!(fine, "{out}");
    let told: Value = serde_json::from_str(&out).unwrap();
    assert!(told["figures"]["download_mbps"].as_f64().unwrap() > 1.0, "{told}");
    assert!(told["figures"]["upload_mbps"].as_f64().unwrap() > 1.0, "{told}");
    assert_eq!(told["surroundings"]["server_address"], "127.0.0.1");
    assert!(!told["course"]["down_mbps"].as_array().unwrap().is_empty());

    let (fine, out, _) = test(&[&format!("{address}/down?token=a-token-of-this-test")]);
    assert!(fine && out.contains("Upload                     not measured"), "{out}");
    assert!(out.contains("Download  ") && out.contains("Tested over "), "{out}");

    let (fine, _, why) = test(&[&address]);
    assert!(!fine && why.contains("401"), "{why}");
    let (fine, _, why) = test(&["no address"]);
    assert!(!fine && why.contains("http://"), "{why}");
}

#[test]
fn a_server_that_others_can_reach_needs_a_token() {
    let refused = |arguments: &[&str]| {
        let out = Command::new(PROGRAM).arg("speed-server").args(arguments).output().unwrap();
        assert!(!out.status.success());
        String::from_utf8(out.stderr).unwrap()
    };
    assert!(refused(&["--listen", "0.0.0.0:0"]).contains("--token-file"));
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("token");
    for token in ["short", "with spaces in it, long", "a&b=cdefghijklmnopq"] {
        std::fs::write(&file, token).unwrap();
        assert!(refused(&["--token-file", file.to_str().unwrap()]).contains("16 letters"), "{token}");
    }
}
