//! Why a test may not have measured the line, and what to do about it.

use super::number::{milliseconds, rate, share};
use super::{capital, listed, number_word};
use crate::judge::{PageTimes, SlowPage, TestDoubt};
use crate::model::{InterfaceKind, NetworkInterface, PageLoad, SpeedTest};

/// What makes `tests` of `of` doubtful, and what to do.
pub(super) fn doubted(doubt: &TestDoubt, tests: usize, of: usize) -> String {
    let who = match (tests, of) {
        (_, 1) => "This test".to_owned(),
        (2, 2) => "Both tests".to_owned(),
        (tests, of) if tests == of => format!("All {} tests", number_word(of)),
        (tests, of) => capital(&format!("{} of {of} tests", number_word(tests))),
    };
    match doubt {
        TestDoubt::Tunnel { interface } => format!(
            "{who} went through a tunnel ({interface}), so the figures are the VPN's. Switch the VPN off and test again."
        ),
        TestDoubt::Wifi { interface } => format!(
            "{who} went over Wi-Fi ({interface}), which may be slower than the line. Connect this computer to the gateway by cable and test again."
        ),
        TestDoubt::WireLimit { interface, link_mbps, payload_mbps } => format!(
            "{who} came near the most that this cable connection ({interface}, {}) carries, {}: the line may be faster. Use a faster port or adapter and test again.",
            link(*link_mbps),
            rate(*payload_mbps)
        ),
        TestDoubt::ProcessorLimit { busy } => format!(
            "{who} ran while this computer was fully busy ({} of a core), so the figures may be its own. Close other programs and test again.",
            share(*busy)
        ),
        TestDoubt::OtherTraffic { down_mbps, up_mbps } => format!(
            "{who} began while this computer used the line for something else ({} down, {} up). Stop downloads, updates and backups and test again.",
            rate(*down_mbps),
            rate(*up_mbps)
        ),
        TestDoubt::Compressible { packed_share } => format!(
            "{who} moved data that can be compressed to {}: where something on the way compresses, the figures are too high. Use a test address that sends random bytes.",
            share(*packed_share)
        ),
        TestDoubt::Encoded { coding } => format!(
            "{who} got compressed data ({coding}) although plain data was asked for. Use a test address that sends random bytes as they are."
        ),
        TestDoubt::OnTheWay { via } => format!(
            "{who} may have been answered on the way ({via}), not by the server. Use a test address that begins with https."
        ),
    }
}

/// "Tested over Wi-Fi (wlan0), IPv6." of every way that tests took; nothing where none is known.
pub fn tested_over(tests: &[SpeedTest]) -> Option<String> {
    let mut ways: Vec<String> = Vec::new();
    for around in tests.iter().filter_map(|test| test.surroundings.as_ref()) {
        let interface = around.interface.as_ref().map(way);
        let version = around
            .server_address
            .as_ref()
            .map(|address| if address.contains(':') { "IPv6".to_owned() } else { "IPv4".to_owned() });
        let way: Vec<String> = interface.into_iter().chain(version).collect();
        let way = way.join(", ");
        if !way.is_empty() && !ways.contains(&way) {
            ways.push(way);
        }
    }
    (!ways.is_empty()).then(|| format!("Tested over {}.", ways.join("; ")))
}

/// Over what tests were made, where it differs from the baseline's.
pub(super) fn differ(setup: &[InterfaceKind], baseline: &[InterfaceKind]) -> String {
    format!("Tests here went over {}, the baseline's over {}.", over(setup), over(baseline))
}

/// "a cable and Wi-Fi".
pub(super) fn over(kinds: &[InterfaceKind]) -> String {
    let words: Vec<String> = kinds.iter().map(|kind| kind_words(*kind).to_owned()).collect();
    listed(&words)
}

/// "a cable connection of 1 Gbit/s (eth0)".
pub(super) fn way(interface: &NetworkInterface) -> String {
    let kind = match (interface.kind, interface.rate_mbps) {
        (InterfaceKind::Wire, Some(mbps)) => format!("a cable connection of {}", link(mbps)),
        (kind, _) => kind_words(kind).to_owned(),
    };
    format!("{kind} ({})", interface.name)
}

/// Which version of the Internet Protocol tests went over, where it differs from the baseline's.
pub(super) fn versions_differ(setup_v6: bool) -> String {
    let (setup, baseline) = if setup_v6 { ("IPv6", "IPv4") } else { ("IPv4", "IPv6") };
    format!(
        "Tests here went over {setup}, the baseline's over {baseline}: operators may treat the two differently."
    )
}

/// "A page of twenty small parts takes 0.8 s to load: 20 ms for the server's name, 60 ms for a connection, 140 ms until the first byte."
pub fn page_load(tests: &[SpeedTest]) -> Option<String> {
    PageTimes::of(tests).map(|times| times_told(&times))
}

fn times_told(times: &PageTimes) -> String {
    let whole = match times.all_ms {
        Some(all_ms) => format!("takes {} to load", seconds(all_ms)),
        None => "does not load completely".to_owned(),
    };
    let name = times.name_ms.map(|ms| format!("{} for the server's name", milliseconds(ms)));
    let parts = name.into_iter().chain([
        format!("{} for a connection", milliseconds(times.connect_ms)),
        format!("{} until the first byte", milliseconds(times.first_byte_ms)),
    ]);
    let parts: Vec<String> = parts.collect();
    format!("A page of {} small parts {whole}: {}.", number_word(PageLoad::PARTS as usize), parts.join(", "))
}

/// That pages load slowly, and what to do.
pub(super) fn page_slow(times: &PageTimes, because: SlowPage) -> String {
    let advice = match because {
        SlowPage::PartsMissing => {
            return format!(
                "{} In {} of {} tests not all parts came: the line or the server drops connections. Test again, and with another server.",
                times_told(times),
                times.incomplete,
                times.tests
            );
        }
        SlowPage::Name => {
            "Resolving the server's name takes most of it. Enter another DNS server in the gateway's settings."
        }
        SlowPage::RoundTrips => {
            "Round trips take most of it: the cell is busy, or the server is far away. Test at another hour, and with a nearer server."
        }
        SlowPage::Server => "The server takes most of it. Test with another one.",
        SlowPage::Parts => {
            "The parts come slowly: data are lost on the way, or the line is in use. Test again while nothing else uses it."
        }
    };
    format!("{} {advice}", times_told(times))
}

/// "0.8 s".
fn seconds(ms: f64) -> String {
    format!("{:.1}\u{202f}s", ms / 1e3)
}

fn kind_words(kind: InterfaceKind) -> &'static str {
    match kind {
        InterfaceKind::Wire => "a cable",
        InterfaceKind::Wifi => "Wi-Fi",
        InterfaceKind::Tunnel => "a tunnel",
        InterfaceKind::Mobile => "a modem in this computer",
        InterfaceKind::Loopback => "this computer itself",
        InterfaceKind::Other => "another interface",
    }
}

/// "100 Mbit/s", "1 Gbit/s", "2.5 Gbit/s".
fn link(mbps: u32) -> String {
    if mbps < 1000 { rate(f64::from(mbps)) } else { format!("{}\u{202f}Gbit/s", f64::from(mbps) / 1e3) }
}
