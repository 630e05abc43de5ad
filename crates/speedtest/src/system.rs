//! What the system tells of its interfaces, of what goes through them, and of its processor: by `/proc` and `/sys` on Linux, nothing
//! elsewhere.

use open_beacon_core::model::{InterfaceKind, NetworkInterface};
use std::fs::read_to_string;
use std::path::{Path, PathBuf};
use tokio::time::Instant;

/// Hardware types of interfaces (Linux, `if_arp.h`): `ARPHRD_ETHER`, `ARPHRD_LOOPBACK`, `ARPHRD_NONE`.
const ETHERNET: &str = "1";
const LOOPBACK: &str = "772";
const NO_HARDWARE: &str = "65534";

/// Where the system tells about itself.
#[derive(Clone, Debug)]
pub(crate) struct System {
    root: PathBuf,
}

/// Counters at one moment.
#[derive(Clone, Debug)]
pub(crate) struct Look {
    at: Instant,
    /// Bytes that an interface received and sent so far.
    bytes: Option<(u64, u64)>,
    /// Ticks that each core was busy, and all of its ticks, so far.
    cores: Vec<(u64, u64)>,
}

impl System {
    pub(crate) fn here() -> Self {
        Self { root: PathBuf::from("/") }
    }

    #[cfg(test)]
    pub(crate) fn at(root: &Path) -> Self {
        Self { root: root.to_owned() }
    }

    /// What is told of an interface.
    pub(crate) fn interface(&self, name: &str) -> NetworkInterface {
        let folder = self.folder(name);
        let kind = kind(&folder);
        let rate = trimmed(&folder.join("speed")).and_then(|speed| speed.parse::<i64>().ok());
        // Minus one, or nothing, where no link was agreed on.
        let rate_mbps = rate.and_then(|rate| u32::try_from(rate).ok()).filter(|rate| *rate > 0);
        let rate_mbps = rate_mbps.filter(|_| kind == InterfaceKind::Wire);
        NetworkInterface { name: name.to_owned(), kind, rate_mbps }
    }

    pub(crate) fn look(&self, interface: Option<&str>) -> Look {
        let counter = |folder: &Path, way: &str| {
            trimmed(&folder.join("statistics").join(way)).and_then(|bytes| bytes.parse::<u64>().ok())
        };
        let bytes = interface
            .map(|name| self.folder(name))
            .and_then(|folder| Some((counter(&folder, "rx_bytes")?, counter(&folder, "tx_bytes")?)));
        let told = read_to_string(self.root.join("proc/stat")).unwrap_or_default();
        Look { at: Instant::now(), bytes, cores: told.lines().filter_map(core).collect() }
    }

    fn folder(&self, name: &str) -> PathBuf {
        self.root.join("sys/class/net").join(name)
    }
}

fn trimmed(file: &Path) -> Option<String> {
    read_to_string(file).ok().map(|text| text.trim().to_owned())
}

fn kind(folder: &Path) -> InterfaceKind {
    let told = read_to_string(folder.join("uevent")).unwrap_or_default();
    let device = told.lines().find_map(|line| line.strip_prefix("DEVTYPE="));
    let hardware = trimmed(&folder.join("type"));
    match (device, hardware.as_deref()) {
        (Some("wlan"), _) => InterfaceKind::Wifi,
        (Some("wwan"), _) => InterfaceKind::Mobile,
        (Some("wireguard"), _) | (_, Some(NO_HARDWARE)) => InterfaceKind::Tunnel,
        _ if folder.join("tun_flags").exists() => InterfaceKind::Tunnel,
        (_, Some(LOOPBACK)) => InterfaceKind::Loopback,
        // A bridge's or a virtual machine's interface has no device behind it.
        (None, Some(ETHERNET)) if folder.join("device").exists() => InterfaceKind::Wire,
        _ => InterfaceKind::Other,
    }
}

/// Busy and all ticks of a line `cpu0 user nice system idle iowait irq softirq steal …` (Linux, `proc(5)`).
fn core(line: &str) -> Option<(u64, u64)> {
    let mut words = line.split_whitespace();
    let name = words.next()?.strip_prefix("cpu")?;
    name.parse::<u32>().ok()?;
    let ticks: Vec<u64> = words.take(8).map_while(|word| word.parse().ok()).collect();
    let all: u64 = ticks.iter().sum();
    let idle = ticks.get(3)? + ticks.get(4)?;
    Some((all - idle, all))
}

impl Look {
    /// Rates of what was received and sent until `later`, Mbit/s.
    pub(crate) fn rates_until(&self, later: &Self) -> Option<(f64, f64)> {
        let (before, after) = (self.bytes?, later.bytes?);
        let time_s = (later.at - self.at).as_secs_f64();
        let rate = |before: u64, after: u64| after.saturating_sub(before) as f64 * 8.0 / time_s / 1e6;
        (time_s > 0.0).then(|| (rate(before.0, after.0), rate(before.1, after.1)))
    }

    /// How busy the busiest core was until `later`, share 0..=1.
    pub(crate) fn busiest_core_until(&self, later: &Self) -> Option<f64> {
        let busy = self.cores.iter().zip(&later.cores).filter_map(|(before, after)| {
            let all = after.1.checked_sub(before.1).filter(|all| *all > 0)?;
            Some(after.0.saturating_sub(before.0) as f64 / all as f64)
        });
        busy.max_by(f64::total_cmp)
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use super::*;
    use std::time::Duration;

    /// Files of a system, each with what it holds.
    fn system(files: &[(&str, &str)]) -> (tempfile::TempDir, System) {
        let root = tempfile::tempdir().unwrap();
        for (name, text) in files {
            let file = root.path().join(name);
            std::fs::create_dir_all(file.parent().unwrap()).unwrap();
            std::fs::write(file, text).unwrap();
        }
        let system = System::at(root.path());
        (root, system)
    }

    #[test]
    fn interfaces_are_told_apart() {
        let net = |name: &str, file: &str| format!("sys/class/net/{name}/{file}");
        let files = [
            (net("eth0", "type"), "1\n"),
            (net("eth0", "speed"), "100\n"),
            (net("eth0", "device/vendor"), "0x0000\n"),
            (net("wlan0", "type"), "1\n"),
            (net("wlan0", "device/vendor"), "0x0000\n"),
            (net("wlan0", "uevent"), "DEVTYPE=wlan\nINTERFACE=wlan0\n"),
            (net("wg0", "type"), "65534\n"),
            (net("tap0", "type"), "1\n"),
            (net("tap0", "tun_flags"), "0x1002\n"),
            (net("wwan0", "uevent"), "DEVTYPE=wwan\n"),
            (net("lo", "type"), "772\n"),
            (net("br0", "type"), "1\n"),
            (net("br0", "speed"), "10000\n"),
            (net("eth1", "type"), "1\n"),
            (net("eth1", "device/vendor"), "0x0000\n"),
            (net("eth1", "speed"), "-1\n"),
        ];
        let files: Vec<(&str, &str)> = files.iter().map(|(name, text)| (name.as_str(), *text)).collect();
        let (_root, system) = system(&files);
        let found = |name: &str| {
            let found = system.interface(name);
            (found.kind, found.rate_mbps)
        };
        assert_eq!(found("eth0"), (InterfaceKind::Wire, Some(100)));
        assert_eq!(found("wlan0"), (InterfaceKind::Wifi, None));
        assert_eq!(found("wg0"), (InterfaceKind::Tunnel, None));
        assert_eq!(found("tap0"), (InterfaceKind::Tunnel, None));
        assert_eq!(found("wwan0"), (InterfaceKind::Mobile, None));
        assert_eq!(found("lo"), (InterfaceKind::Loopback, None));
        assert_eq!(found("br0"), (InterfaceKind::Other, None));
        assert_eq!(found("eth1"), (InterfaceKind::Wire, None));
        assert_eq!(found("gone"), (InterfaceKind::Other, None));
    }

    #[tokio::test(start_paused = true)]
    async fn counters_give_rates_and_the_busiest_core() {
        let stat = |ticks: [u64; 2]| {
            format!(
                "cpu 9 9 9 9 9\ncpu0 {} 0 0 {} 0 0 0 0 0 0\ncpu1 100 0 0 900 50 0 0 0 0 0\nintr 5\n",
                ticks[0], ticks[1]
            )
        };
        let before = stat([0, 0]);
        let (root, system) = system(&[
            ("sys/class/net/eth0/statistics/rx_bytes", "1000\n"),
            ("sys/class/net/eth0/statistics/tx_bytes", "0\n"),
            ("proc/stat", &before),
        ]);
        let first = system.look(Some("eth0"));
        tokio::time::advance(Duration::from_secs(2)).await;
        std::fs::write(root.path().join("sys/class/net/eth0/statistics/rx_bytes"), "251000\n").unwrap();
        std::fs::write(root.path().join("proc/stat"), stat([98, 2])).unwrap();
        let second = system.look(Some("eth0"));
        assert_eq!(first.rates_until(&second), Some((1.0, 0.0)));
        assert_eq!(first.busiest_core_until(&second), Some(0.98));
        let (_root, silent) = self::system(&[]);
        let (first, second) = (silent.look(Some("eth0")), silent.look(None));
        assert_eq!((first.rates_until(&second), first.busiest_core_until(&second)), (None, None));
    }
}
