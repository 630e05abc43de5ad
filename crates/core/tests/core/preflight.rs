//! What to know before a run: what matters is said, what is known is not asked.

use crate::samples::*;
use chrono::{DateTime, Duration, Utc};
use chrono_tz::Europe::Oslo;
use open_beacon_core::model::*;
use open_beacon_core::protocol::*;
use open_beacon_core::words;

struct House {
    sill: (Position, Setup),
    gable: (Position, Setup),
    baseline: open_beacon_core::judge::SetupEvidence,
    test: SpeedTestSettings,
    wire: NetworkInterface,
}

fn interface(kind: InterfaceKind) -> NetworkInterface {
    let (name, rate_mbps) = if kind == InterfaceKind::Wire { ("eth0", Some(1000)) } else { ("wlan0", None) };
    NetworkInterface { name: name.into(), kind, rate_mbps }
}

fn now() -> DateTime<Utc> {
    morning() + Duration::days(10)
}

fn house() -> House {
    let of = |n: u128, name: &str, mount, antenna| {
        let position = plain_position(n, name, mount);
        let setup = crate::protocol::setup(n, &position, antenna);
        (position, setup)
    };
    let test = crate::protocol::speed_test();
    let mut baseline = evidence("A", &[40.0, 42.0, 41.0]);
    for one in &mut baseline.tests {
        one.server.clone_from(&test.download_url);
        one.surroundings =
            Some(Surroundings { interface: Some(interface(InterfaceKind::Wire)), ..Surroundings::default() });
    }
    let mut gable = of(2, "Gable", Mount::Gable, AntennaSwitch::External);
    gable.1.spec.ports = vec![PortLink { lead: 1, port: "1".into() }];
    House {
        sill: of(1, "Sill", Mount::Window, AntennaSwitch::Internal),
        gable,
        baseline,
        test,
        wire: interface(InterfaceKind::Wire),
    }
}

fn built(of: &(Position, Setup)) -> Built<'_> {
    Built { setup: &of.1, position: &of.0 }
}

impl House {
    fn input<'a>(&'a self, last: Option<LastRun<'a>>) -> PreflightInput<'a> {
        PreflightInput {
            built: built(&self.gable),
            last,
            baseline: Some(&self.baseline),
            speed_test: Some(&self.test),
            interface: Some(&self.wire),
            events: &[],
            used_mb: 0.0,
            cap_mb: None,
            now: now(),
        }
    }
}

fn last<'a>(of: &'a (Position, Setup), ago: Duration, conditions: &'a Conditions) -> LastRun<'a> {
    LastRun { built: built(of), label: &of.0.name, started_at: now() - ago, conditions }
}

fn states(of: &PreflightInput) -> Vec<PreflightState> {
    preflight(of).iter().map(PreflightItem::state).collect()
}

#[test]
fn what_was_noted_an_hour_ago_is_not_asked_again() {
    let house = house();
    let noted = Conditions {
        attach: Attach::KeptAttached,
        weather: "dry, leaves off".into(),
        ..Conditions::default()
    };
    let found = preflight(&house.input(Some(last(&house.gable, Duration::hours(1), &noted))));
    assert!(found.iter().all(|item| item.state() == PreflightState::Known), "{found:?}");
    assert!(found.contains(&PreflightItem::AttachCarried { attach: Attach::KeptAttached }));
    assert!(found.contains(&PreflightItem::WeatherCarried { weather: "dry, leaves off".into() }));
    assert!(found.contains(&PreflightItem::SameServer));
    // A day later the weather is another one; the antenna still stands, so nothing is asked of the gateway.
    let found = preflight(&house.input(Some(last(&house.gable, Duration::days(1), &noted))));
    let asked: Vec<_> = found.iter().filter(|item| item.state() == PreflightState::Ask).collect();
    assert_eq!(asked, [&PreflightItem::AskWeather]);
}

#[test]
fn what_is_to_be_built_first_is_named() {
    let house = house();
    let noted = Conditions { attach: Attach::KeptAttached, ..Conditions::default() };
    let found = preflight(&house.input(Some(last(&house.sill, Duration::minutes(5), &noted))));
    let mut locked = (house.gable.0.clone(), house.gable.1.clone());
    locked.1.spec.lock.lte = vec![20];
    let another_lock = preflight(&house.input(Some(self::last(&locked, Duration::minutes(5), &noted))));
    assert!(
        !another_lock.contains(&PreflightItem::AskAttach),
        "a lock alone moves nothing: {another_lock:?}"
    );
    let PreflightItem::BuildFirst { last, changed } = &found[0] else { panic!("{found:?}") };
    assert_eq!(last, "Sill");
    assert!(
        changed.contains(&ChangedPart::Position) && changed.contains(&ChangedPart::Antenna),
        "{changed:?}"
    );
    assert!(
        found.contains(&PreflightItem::AskAttach),
        "what was noted of the sill says nothing of the gable"
    );
    assert!(!found.iter().any(|item| matches!(item, PreflightItem::AttachCarried { .. })));
    let said = words::preflight::item(&found[0], Oslo);
    assert!(said.starts_with("Sill was measured last. Change the position"), "{said}");
}

#[test]
fn indoors_the_weather_is_not_asked_and_leads_only_where_there_are_some() {
    let mut house = house();
    let noted = Conditions::default();
    let of = |house: &House| {
        let here = last(&house.sill, Duration::hours(1), &noted);
        states(&PreflightInput { built: built(&house.sill), ..house.input(Some(here)) })
    };
    assert!(of(&house).iter().all(|state| *state == PreflightState::Known));
    house.gable.1.spec.ports.clear();
    let found = preflight(&house.input(None));
    assert!(found.contains(&PreflightItem::PortsUnknown), "{found:?}");
    assert!(!found.contains(&PreflightItem::AskAttach), "nothing was moved before the first run");
}

#[test]
fn what_would_spoil_the_comparison_comes_first() {
    let house = house();
    let warned = |input: &PreflightInput| {
        let found = preflight(input);
        let said = found.iter().filter(|item| item.state() == PreflightState::Warn);
        said.map(|item| words::preflight::item(item, Oslo)).collect::<Vec<_>>().join(" ")
    };
    let plain = house.input(None);
    assert_eq!(warned(&plain), "");
    let wifi = interface(InterfaceKind::Wifi);
    let tunnel = interface(InterfaceKind::Tunnel);
    assert!(warned(&PreflightInput { interface: Some(&wifi), ..plain }).contains("by cable first"));
    assert!(warned(&PreflightInput { interface: Some(&tunnel), ..plain }).contains("Switch the VPN off"));
    let modem = interface(InterfaceKind::Mobile);
    let said = warned(&PreflightInput { interface: Some(&modem), ..plain });
    assert!(said.contains("the baseline's went over a cable"), "{said}");
    // A server on this computer is a stand-in's.
    let own = interface(InterfaceKind::Loopback);
    let found = preflight(&PreflightInput { interface: Some(&own), ..plain });
    assert!(!found.iter().any(|item| matches!(item, PreflightItem::Way { .. })) && warned(&plain).is_empty());
    // Without a test address the way makes no difference.
    assert_eq!(warned(&PreflightInput { interface: Some(&wifi), speed_test: None, ..plain }), "");

    let other = SpeedTestSettings { download_url: "http://other.example/down".into(), ..house.test.clone() };
    let said = warned(&PreflightInput { speed_test: Some(&other), ..plain });
    assert!(said.contains("http://test.example/down"), "{said}");
    // A token is no other address.
    let token = SpeedTestSettings { download_url: format!("{}?token=abc", house.test.download_url), ..other };
    assert_eq!(warned(&PreflightInput { speed_test: Some(&token), ..plain }), "");
}

#[test]
fn only_what_happened_since_the_baseline_counts() {
    let house = house();
    let tested = house.baseline.tests.iter().map(|test| test.started_at).max().unwrap();
    let event = |n: u128, at: DateTime<Utc>, text: &str, archived_at| SiteEvent {
        id: EventId(id(n)),
        site_id: SiteId(id(1)),
        happened_at: at,
        kind: EventKind::default(),
        text: text.into(),
        noted_at: at,
        archived_at,
    };
    let events = [
        event(1, tested - Duration::hours(1), "rain began", None),
        event(2, tested + Duration::hours(1), "firmware updated", None),
        event(3, tested + Duration::hours(2), "a slip", Some(now())),
        event(4, now() + Duration::hours(2), "visit planned", None),
    ];
    let found = preflight(&PreflightInput { events: &events, ..house.input(None) });
    let named: Vec<&str> = found
        .iter()
        .filter_map(|item| match item {
            PreflightItem::EventSince { text, .. } => Some(text.as_str()),
            _ => None,
        })
        .collect();
    assert_eq!(named, ["firmware updated"]);
}

/// Three tests of 10 s each way at 100 and 20 Mbit/s are 450 MB (10 s at 600 Mbit/s are 750 MB: common practice); measured tests tell
/// better, and the data allowed each way bound them.
#[test]
fn too_little_data_is_said_before_it_is_used_up() {
    let mut house = house();
    let short = |house: &House, used_mb| {
        let found = preflight(&PreflightInput { used_mb, cap_mb: Some(1000.0), ..house.input(None) });
        found.into_iter().find_map(|item| match item {
            PreflightItem::DataShort { left_mb, tests_mb } => Some((left_mb, tests_mb)),
            _ => None,
        })
    };
    assert_eq!(short(&house, 500.0), None);
    assert_eq!(short(&house, 600.0), Some((400.0, 450.0)));
    assert_eq!(short(&house, 2000.0), Some((0.0, 450.0)));
    house.test.most_mb = Some(10.0);
    assert_eq!(short(&house, 600.0), None);
    house.baseline.tests[0].figures.bytes_down = 200_000_000;
    assert_eq!(short(&house, 600.0), Some((400.0, 600.0)));
}
