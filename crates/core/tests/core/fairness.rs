//! Whether a test measured the line or something slower than it.

use crate::samples::*;
use chrono_tz::Europe::Oslo;
use open_beacon_core::capacity::ethernet_payload_mbps;
use open_beacon_core::judge::{
    Finding, PageTimes, SlowPage, TestDoubt, compare, log_advice, test_doubts, tests_doubted,
};
use open_beacon_core::model::*;
use open_beacon_core::words::{self, Style};

fn over(kind: InterfaceKind, rate_mbps: Option<u32>) -> Surroundings {
    let name = if kind == InterfaceKind::Wifi { "wlan0" } else { "eth0" };
    Surroundings {
        interface: Some(NetworkInterface { name: name.into(), kind, rate_mbps }),
        server_address: Some("192.0.2.10".into()),
        ..Surroundings::default()
    }
}

fn tested(down_mbps: f64, surroundings: Surroundings) -> SpeedTest {
    SpeedTest { surroundings: Some(surroundings), ..test(1, morning(), down_mbps, down_mbps / 10.0) }
}

fn wire(link_mbps: u32) -> Surroundings {
    over(InterfaceKind::Wire, Some(link_mbps))
}

/// IEEE 802.3 frames with TCP over IPv4 and timestamps carry 1448 of 1538 bytes: 94.1 Mbit/s of Fast Ethernet, 941 of Gigabit
/// Ethernet, the figures that handbooks give (from memory).
#[test]
fn an_ethernet_link_carries_94_percent() {
    assert!((ethernet_payload_mbps(100.0) - 94.1).abs() < 0.1);
    assert!((ethernet_payload_mbps(1000.0) - 941.0).abs() < 1.0);
}

#[test]
fn a_test_near_what_the_cable_carries_is_doubted() {
    let limit = |mbps, link| test_doubts(&tested(mbps, wire(link)));
    assert!(matches!(&limit(91.0, 100)[..], [TestDoubt::WireLimit { link_mbps: 100, .. }]));
    assert_eq!(limit(70.0, 100), []);
    assert_eq!(limit(249.0, 1000), []);
    let unknown = tested(940.0, over(InterfaceKind::Wire, None));
    assert_eq!(test_doubts(&unknown), []);
    // Upload alone may be what meets it.
    let mut up = tested(20.0, wire(100));
    up.figures.upload_mbps = Some(92.0);
    assert_eq!(test_doubts(&up).len(), 1);
}

#[test]
fn every_kind_of_doubt_is_found_and_says_what_to_do() {
    let plain = || wire(1000);
    let cases = [
        (over(InterfaceKind::Tunnel, None), "Switch the VPN off"),
        (over(InterfaceKind::Wifi, None), "by cable"),
        (Surroundings { busiest_core: Some(0.99), ..plain() }, "Close other programs"),
        (Surroundings { other_down_mbps: Some(12.0), ..plain() }, "Stop downloads"),
        (Surroundings { other_up_mbps: Some(3.0), ..plain() }, "Stop downloads"),
        (Surroundings { packed_share: Some(0.02), ..plain() }, "random bytes"),
        (
            Surroundings { content_encoding: Some("gzip".into()), packed_share: Some(1.0), ..plain() },
            "(gzip)",
        ),
        (Surroundings { via: Some("1.1 attic-proxy".into()), ..plain() }, "https"),
    ];
    for (around, wanted) in cases {
        let found = tests_doubted(&[tested(40.0, around.clone())]);
        let said: Vec<String> =
            found.into_iter().map(|finding| words::said(finding, Style::default()).text).collect();
        assert!(said.len() == 1 && said[0].contains(wanted), "{around:?}: {said:?}");
        assert!(said[0].starts_with("This test ") && said[0].ends_with('.'), "{said:?}");
    }
    let fair = Surroundings {
        other_down_mbps: Some(0.3),
        other_up_mbps: Some(0.02),
        busiest_core: Some(0.6),
        packed_share: Some(1.0),
        ..plain()
    };
    assert_eq!(test_doubts(&tested(40.0, fair)), []);
    assert_eq!(test_doubts(&test(1, morning(), 40.0, 4.0)), [], "nothing is known of it");
    assert_eq!(
        test_doubts(&tested(400.0, Surroundings { other_down_mbps: Some(4.0), ..plain() })),
        [],
        "one percent"
    );
}

#[test]
fn each_doubt_is_said_once_with_the_tests_that_it_is_of() {
    let wifi = || tested(40.0, over(InterfaceKind::Wifi, None));
    let text = |tests: &[SpeedTest]| {
        let found = tests_doubted(tests);
        found.into_iter().map(|finding| words::said(finding, Style::default()).text).collect::<Vec<_>>()
    };
    let some = text(&[wifi(), tested(40.0, wire(1000)), wifi()]);
    assert!(some.len() == 1 && some[0].starts_with("Two of 3 tests went over Wi-Fi"), "{some:?}");
    assert!(text(&[wifi(), wifi()])[0].starts_with("Both tests "));
    assert!(text(&[wifi(), wifi(), wifi()])[0].starts_with("All three tests "));
    let over = words::fairness::tested_over(&[wifi(), tested(1.0, wire(2500)), wifi()]);
    assert_eq!(
        over.as_deref(),
        Some("Tested over Wi-Fi (wlan0), IPv4; a cable connection of 2.5\u{202f}Gbit/s (eth0), IPv4.")
    );
    assert_eq!(words::fairness::tested_over(&[test(1, morning(), 1.0, 1.0)]), None);
}

/// The stage says it before it asks for more tests of the same kind, and a comparison names the difference.
#[test]
fn doubts_reach_the_log_and_the_comparison() {
    let mut here = evidence("B", &[20.0, 22.0, 24.0]);
    let mut base = evidence("A", &[10.0, 11.0, 12.0]);
    for test in &mut here.tests {
        test.surroundings = Some(over(InterfaceKind::Wifi, None));
    }
    let first = log_advice(Some(&here)).detail.remove(0);
    assert!(matches!(first, Finding::TestsDoubted { doubt: TestDoubt::Wifi { .. }, tests: 3, of: 3 }));
    let differs = |base: &_, here: &_| {
        let row = compare(base, std::slice::from_ref(here), Oslo).rows.remove(1);
        let doubted = row.findings.iter().any(|one| matches!(one, Finding::TestsDoubted { .. }));
        (doubted, row.differed.iter().any(|one| matches!(one, Finding::InterfaceDiffers { .. })))
    };
    assert_eq!(differs(&base, &here), (true, false), "of the baseline nothing is known");
    for test in &mut base.tests {
        test.surroundings = Some(wire(1000));
    }
    assert_eq!(differs(&base, &here), (true, true));
    let said = words::said(
        Finding::InterfaceDiffers { setup: vec![InterfaceKind::Wifi], baseline: vec![InterfaceKind::Wire] },
        Style::default(),
    );
    assert_eq!(said.text, "Tests here went over Wi-Fi, the baseline's over a cable.");
}

fn loaded(page: PageLoad) -> SpeedTest {
    tested(50.0, Surroundings { page: Some(page), ..wire(1000) })
}

/// Which part makes a page slow is told apart, and a quick page is no finding.
#[test]
fn a_slow_page_says_what_makes_it_slow() {
    let page = |name: f64, connect_ms: f64, first_byte_ms: f64, all: f64| PageLoad {
        name_ms: Some(name),
        connect_ms,
        first_byte_ms,
        all_ms: Some(all),
        parts_came: PageLoad::PARTS,
    };
    let cases = [
        (page(20.0, 60.0, 150.0, 600.0), None, "0.6\u{202f}s"),
        (page(2800.0, 60.0, 2950.0, 3400.0), Some(SlowPage::Name), "another DNS server"),
        (page(20.0, 600.0, 1250.0, 5000.0), Some(SlowPage::RoundTrips), "busy"),
        (page(20.0, 60.0, 2500.0, 4000.0), Some(SlowPage::Server), "another one"),
        (page(20.0, 60.0, 200.0, 9000.0), Some(SlowPage::Parts), "lost on the way"),
        (
            PageLoad { all_ms: None, parts_came: 14, ..page(20.0, 60.0, 200.0, 0.0) },
            Some(SlowPage::PartsMissing),
            "drops connections",
        ),
    ];
    for (page, because, says) in cases {
        let tests = [loaded(page)];
        let times = PageTimes::of(&tests).unwrap();
        assert_eq!(times.slow_because(), because, "{page:?}");
        let told = match because {
            Some(because) => words::said(Finding::PageSlow { times, because }, Style::default()).text,
            None => words::fairness::page_load(&tests).unwrap(),
        };
        assert!(told.contains(says), "{told}");
    }
    assert_eq!(words::fairness::page_load(&[test(1, morning(), 1.0, 1.0)]), None);
}

/// It stands among the setup's findings; tests over the other version of the protocol are among what differed.
#[test]
fn slow_pages_and_protocol_versions_reach_the_comparison() {
    let mut here = evidence("B", &[20.0, 22.0, 24.0]);
    let mut base = evidence("A", &[10.0, 11.0, 12.0]);
    let slow = PageLoad {
        name_ms: None,
        connect_ms: 900.0,
        first_byte_ms: 1900.0,
        all_ms: Some(7000.0),
        parts_came: 20,
    };
    for test in &mut here.tests {
        let v6 = Some("2001:db8::10".to_owned());
        test.surroundings = Some(Surroundings { page: Some(slow), server_address: v6, ..wire(1000) });
    }
    for test in &mut base.tests {
        test.surroundings = Some(wire(1000));
    }
    let rows = compare(&base, std::slice::from_ref(&here), Oslo).rows;
    let slow = |at: usize| rows[at].findings.iter().any(|one| matches!(one, Finding::PageSlow { .. }));
    assert_eq!((slow(0), slow(1)), (false, true));
    assert_eq!(
        rows[1]
            .differed
            .iter()
            .filter(|one| matches!(one, Finding::AddressVersionDiffers { setup_v6: true }))
            .count(),
        1
    );
    let same = compare(&base, std::slice::from_ref(&base), Oslo).rows.remove(1);
    assert!(!same.differed.iter().any(|one| matches!(one, Finding::AddressVersionDiffers { .. })));
}
