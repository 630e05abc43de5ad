//! The speed test on a link that the system itself holds to a rate: a router between two network namespaces, a token bucket each way. Needs root on
//! Linux with `ip` and `tc`; elsewhere it is skipped, and says so. `cargo xtask shaped` runs it at 2 to 600 Mbit/s.

use serde_json::Value;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

const PROGRAM: &str = env!("CARGO_BIN_EXE_open-beacon");
/// The server's host (RFC 1918).
const THERE: &str = "10.213.78.2";
/// The router's ends of both links.
const PORTS: [&str; 2] = ["obl0", "obl1"];
/// What a full queue holds back, ms.
const QUEUE_MS: f64 = 100.0;
/// Payload of a frame of 1514 bytes, the shaper's own count: TCP over IPv4 with timestamps (RFC 7323).
const PAYLOAD: f64 = 1448.0 / 1514.0;

/// Two hosts with a router between them, a namespace each; all are gone when it is dropped. The queue is the router's: a host holds itself back before its own.
struct Link {
    hosts: [String; 2],
    router: String,
}

/// Of the network of a host.
fn address(of: usize, at: u8) -> String {
    format!("10.213.{}.{at}", 77 + of)
}

fn run(program: &str, words: &[&str]) -> Result<String, String> {
    let done = Command::new(program).args(words).output().map_err(|error| format!("{program}: {error}"))?;
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    if done.status.success() { Ok(String::from_utf8_lossy(&done.stdout).into_owned()) } else { Err(told) }
}

impl Link {
    fn new() -> Result<Self, String> {
        let name = |place: &str| format!("ob{}{place}", std::process::id());
        let link = Self { hosts: [name("a"), name("b")], router: name("r") };
        for name in link.hosts.iter().chain([&link.router]) {
            run("ip", &["netns", "add", name])?;
            link.within(name, &["ip", "link", "set", "lo", "up"])?;
        }
        for (at, host) in link.hosts.iter().enumerate() {
            let port = PORTS[at];
            run(
                "ip",
                &[
                    "link",
                    "add",
                    "obl",
                    "netns",
                    host,
                    "type",
                    "veth",
                    "peer",
                    "name",
                    port,
                    "netns",
                    &link.router,
                ],
            )?;
            let (own, gateway) = (address(at, 2), address(at, 1));
            link.within(host, &["ip", "address", "add", &format!("{own}/30"), "dev", "obl"])?;
            link.within(&link.router, &["ip", "address", "add", &format!("{gateway}/30"), "dev", port])?;
            // Whole packets only: segments that the system joins would be too large for the bucket.
            link.within(host, &["ip", "link", "set", "obl", "gso_max_segs", "1", "up"])?;
            link.within(&link.router, &["ip", "link", "set", port, "up"])?;
            link.within(host, &["ip", "route", "add", "default", "via", &gateway])?;
            // A control that fills the queue (RFC 9438, else RFC 5681): one that paces itself leaves it empty, and its delay unseen.
            let with = |control: &str| {
                let setting = format!("net.ipv4.tcp_congestion_control={control}");
                link.within(host, &["sysctl", "-qw", &setting])
            };
            with("cubic").or_else(|_| with("reno"))?;
        }
        link.within(&link.router, &["sysctl", "-qw", "net.ipv4.ip_forward=1"])?;
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
        for port in PORTS {
            let _ = self.within(&self.router, &["tc", "qdisc", "del", "dev", port, "root"]);
            let (rate, limit, burst) = (format!("{mbps}mbit"), format!("{queue}b"), format!("{bucket}b"));
            let shaper = [
                "tc", "qdisc", "add", "dev", port, "root", "tbf", "rate", &rate, "burst", &burst, "limit",
                &limit,
            ];
            self.within(&self.router, &shaper)?;
        }
        Ok(())
    }

    fn start(&self, side: usize, words: &[&str]) -> Child {
        let words = [&["netns", "exec", self.hosts[side].as_str()], words].concat();
        Command::new("ip").args(words).stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap()
    }
}

impl Drop for Link {
    fn drop(&mut self) {
        for name in self.hosts.iter().chain([&self.router]) {
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
    /// 95 of 100 round trips under load took no longer.
    fullest_ms: f64,
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

    /// Of a full queue: a control that fills it lets it drain by up to three tenths after each loss (RFC 9438), so that the median lies
    /// below what is full; the 95th percentile is what is there when it is.
    fn latency_error(&self) -> f64 {
        Self::error(self.fullest_ms, QUEUE_MS)
    }
}

fn measure(link: &Link, mbps: f64, seconds: &str) -> Found {
    link.shape(mbps).unwrap();
    let mut server =
        link.start(1, &[PROGRAM, "speed-server", "--open", "--listen", &format!("{THERE}:7430")]);
    std::thread::sleep(Duration::from_millis(1500));
    let address = format!("http://{THERE}:7430");
    let words = [PROGRAM, "speedtest", &address, "--seconds", seconds, "--connections", "4", "--json"];
    let told = link.within(&link.hosts[0], &words);
    let _ = (server.kill(), server.wait());
    let told: Value = serde_json::from_str(&told.unwrap()).unwrap();
    let figure = |name: &str| told["figures"][name].as_f64().unwrap_or_else(|| panic!("{name} in {told}"));
    let tool = throughput_tool(link, seconds);
    Found {
        mbps,
        down: figure("download_mbps"),
        up: figure("upload_mbps"),
        loaded_ms: figure("download_latency_ms"),
        fullest_ms: told["course"]["while_down"]["p95_ms"]
            .as_f64()
            .unwrap_or_else(|| panic!("p95_ms in {told}")),
        tool,
    }
}

/// Download by a general-purpose throughput tool in the same namespaces, Mbit/s; none where it is not installed.
fn throughput_tool(link: &Link, seconds: &str) -> Option<f64> {
    run("iperf3", &["--version"]).ok()?;
    let mut server = link.start(1, &["iperf3", "-s", "-1"]);
    std::thread::sleep(Duration::from_secs(1));
    let told = link
        .within(&link.hosts[0], &["iperf3", "-c", THERE, "-R", "-P", "4", "-O", "2", "-t", seconds, "-J"]);
    let _ = (server.kill(), server.wait());
    let told: Value = serde_json::from_str(&told.ok()?).ok()?;
    Some(told["end"]["sum_received"]["bits_per_second"].as_f64()? / 1e6)
}

/// On a link of 20 Mbit/s the figures are the link's: rates within a twelfth of its payload, latency under load, 95th percentile, no less than two thirds of
/// what its full queue holds back. `OPEN_BEACON_SHAPED` names other rates, and the closer bounds then hold.
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
    // A busy machine may disturb one measurement; what is off three times is off.
    let tries = if asked.is_some() { 1 } else { 3 };
    let (rates, seconds, most, latency) = match &asked {
        Some(rates) => {
            (rates.split(',').map(|rate| rate.parse().unwrap()).collect(), "10", 0.03, -0.15..=0.15)
        }
        // A busy machine answers late; it does not make a link faster.
        None => (vec![20.0], "3", 0.08, -0.33..=2.0),
    };
    println!("Mbit/s  down          up            loaded, median and full, ms    tool, down");
    let mut off = Vec::new();
    for mbps in rates {
        let is_off = |found: &Found| {
            let rate = found.down_error().abs().max(found.up_error().abs());
            rate > most || !latency.contains(&found.latency_error())
        };
        let mut found = measure(&link, mbps, seconds);
        for _ in 1..tries {
            if is_off(&found) {
                println!("off: {found:?}");
                found = measure(&link, mbps, seconds);
            }
        }
        println!(
            "{mbps:6}  {:6.2} {:+5.1} %  {:6.2} {:+5.1} %  {:5.0} {:5.0} {:+5.0} %  {}",
            found.down,
            found.down_error() * 100.0,
            found.up,
            found.up_error() * 100.0,
            found.loaded_ms,
            found.fullest_ms,
            found.latency_error() * 100.0,
            found.tool.map_or("not installed".into(), |tool| {
                format!("{tool:.2} ({:+.1} %)", Found::error(found.down, tool) * 100.0)
            }),
        );
        if is_off(&found) {
            off.push(format!("{found:?}"));
        }
    }
    assert!(off.is_empty(), "off the link: {off:#?}");
}
