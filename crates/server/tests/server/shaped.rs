//! The speed test on a link that the system itself holds to a rate: two network namespaces, a token bucket on each side. Needs root on
//! Linux with `ip` and `tc`; elsewhere it is skipped, and says so. `cargo xtask shaped` runs it at 2 to 600 Mbit/s.

use serde_json::Value;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

const PROGRAM: &str = env!("CARGO_BIN_EXE_open-beacon");
/// Addresses for documentation are not routed; these are for links (RFC 1918).
const HERE: &str = "10.213.77.1";
const THERE: &str = "10.213.77.2";
/// What a full queue holds back, ms.
const QUEUE_MS: f64 = 100.0;
/// Payload of a frame of 1514 bytes, the shaper's own count: TCP over IPv4 with timestamps (RFC 7323).
const PAYLOAD: f64 = 1448.0 / 1514.0;

/// Two namespaces with a link between them; both are gone when it is dropped.
struct Link {
    names: [String; 2],
}

fn run(program: &str, words: &[&str]) -> Result<String, String> {
    let done = Command::new(program).args(words).output().map_err(|error| format!("{program}: {error}"))?;
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    if done.status.success() { Ok(String::from_utf8_lossy(&done.stdout).into_owned()) } else { Err(told) }
}

impl Link {
    fn new() -> Result<Self, String> {
        let name = |side: &str| format!("ob{}{side}", std::process::id());
        let link = Self { names: [name("a"), name("b")] };
        for name in &link.names {
            run("ip", &["netns", "add", name])?;
        }
        let [a, b] = &link.names;
        run("ip", &["link", "add", "obl", "netns", a, "type", "veth", "peer", "name", "obl", "netns", b])?;
        for (name, address) in [(a, HERE), (b, THERE)] {
            link.within(name, &["ip", "address", "add", &format!("{address}/30"), "dev", "obl"])?;
            for device in ["lo", "obl"] {
                link.within(name, &["ip", "link", "set", device, "up"])?;
            }
        }
        Ok(link)
    }

    fn within(&self, name: &str, words: &[&str]) -> Result<String, String> {
        run("ip", &[&["netns", "exec", name], words].concat())
    }

    /// Holds both ways to a rate, with a queue of [`QUEUE_MS`].
    fn shape(&self, mbps: f64) -> Result<(), String> {
        let queue = (mbps * 1e6 / 8.0 * QUEUE_MS / 1e3) as u64;
        // A bucket of 2 ms, two frames at least: what passes at once is not seen by the rate.
        let bucket = ((mbps * 1e6 / 8.0 * 0.002) as u64).max(2 * 1514);
        for name in &self.names {
            let _ = self.within(name, &["tc", "qdisc", "del", "dev", "obl", "root"]);
            // Whole packets only: segments that the system joins would be too large for the bucket.
            self.within(name, &["ip", "link", "set", "obl", "gso_max_segs", "1"])?;
            let (rate, limit, burst) = (format!("{mbps}mbit"), format!("{queue}b"), format!("{bucket}b"));
            let shaper = [
                "tc", "qdisc", "add", "dev", "obl", "root", "tbf", "rate", &rate, "burst", &burst, "limit",
                &limit,
            ];
            self.within(name, &shaper)?;
        }
        Ok(())
    }

    fn start(&self, side: usize, words: &[&str]) -> Child {
        let words = [&["netns", "exec", self.names[side].as_str()], words].concat();
        Command::new("ip").args(words).stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap()
    }
}

impl Drop for Link {
    fn drop(&mut self) {
        for name in &self.names {
            let _ = run("ip", &["netns", "del", name]);
        }
    }
}

/// What one rate brought, with the errors against what it should be.
#[derive(Debug)]
struct Found {
    mbps: f64,
    down: f64,
    up: f64,
    loaded_ms: f64,
    tool: Option<f64>,
}

impl Found {
    fn error(of: f64, wanted: f64) -> f64 {
        of / wanted - 1.0
    }

    fn down_error(&self) -> f64 {
        Self::error(self.down, self.mbps * PAYLOAD)
    }

    fn up_error(&self) -> f64 {
        Self::error(self.up, self.mbps * PAYLOAD)
    }

    fn latency_error(&self) -> f64 {
        Self::error(self.loaded_ms, QUEUE_MS)
    }
}

fn measure(link: &Link, mbps: f64, seconds: &str) -> Found {
    link.shape(mbps).unwrap();
    let mut server =
        link.start(1, &[PROGRAM, "speed-server", "--open", "--listen", &format!("{THERE}:7430")]);
    std::thread::sleep(Duration::from_millis(1500));
    let address = format!("http://{THERE}:7430");
    let words = [PROGRAM, "speedtest", &address, "--seconds", seconds, "--connections", "4", "--json"];
    let told = link.within(&link.names[0], &words);
    let _ = (server.kill(), server.wait());
    let told: Value = serde_json::from_str(&told.unwrap()).unwrap();
    let figure = |name: &str| told["figures"][name].as_f64().unwrap_or_else(|| panic!("{name} in {told}"));
    let tool = throughput_tool(link, seconds);
    Found {
        mbps,
        down: figure("download_mbps"),
        up: figure("upload_mbps"),
        loaded_ms: figure("download_latency_ms"),
        tool,
    }
}

/// Download by a general-purpose throughput tool in the same namespaces, Mbit/s; none where it is not installed.
fn throughput_tool(link: &Link, seconds: &str) -> Option<f64> {
    run("iperf3", &["--version"]).ok()?;
    let mut server = link.start(1, &["iperf3", "-s", "-1"]);
    std::thread::sleep(Duration::from_secs(1));
    let told = link
        .within(&link.names[0], &["iperf3", "-c", THERE, "-R", "-P", "4", "-O", "2", "-t", seconds, "-J"]);
    let _ = (server.kill(), server.wait());
    let told: Value = serde_json::from_str(&told.ok()?).ok()?;
    Some(told["end"]["sum_received"]["bits_per_second"].as_f64()? / 1e6)
}

/// On a link of 20 Mbit/s the figures are the link's: rates within a twentieth of its payload, latency under load within a third of what
/// its full queue holds back. `OPEN_BEACON_SHAPED` names other rates, and the closer bounds then hold.
#[test]
fn figures_are_those_of_the_link() {
    let link = match Link::new() {
        Ok(link) => link,
        Err(why) => return eprintln!("SKIPPED: no network namespaces here ({}).", why.trim()),
    };
    if let Err(why) = link.shape(20.0) {
        return eprintln!("SKIPPED: no token bucket here ({}).", why.trim());
    }
    let asked = std::env::var("OPEN_BEACON_SHAPED").ok();
    let (rates, seconds, most, most_latency) = match &asked {
        Some(rates) => (rates.split(',').map(|rate| rate.parse().unwrap()).collect(), "10", 0.03, 0.15),
        None => (vec![20.0], "3", 0.05, 0.33),
    };
    println!("Mbit/s  down          up            loaded, ms    tool, down");
    let mut off = Vec::new();
    for mbps in rates {
        let found = measure(&link, mbps, seconds);
        println!(
            "{mbps:6}  {:6.2} {:+5.1} %  {:6.2} {:+5.1} %  {:5.0} {:+5.0} %  {}",
            found.down,
            found.down_error() * 100.0,
            found.up,
            found.up_error() * 100.0,
            found.loaded_ms,
            found.latency_error() * 100.0,
            found.tool.map_or("not installed".into(), |tool| {
                format!("{tool:.2} ({:+.1} %)", Found::error(found.down, tool) * 100.0)
            }),
        );
        let rate = found.down_error().abs().max(found.up_error().abs());
        if rate > most || found.latency_error().abs() > most_latency {
            off.push(format!("{found:?}"));
        }
    }
    assert!(off.is_empty(), "off the link: {off:#?}");
}
