use crate::samples::*;
use open_beacon_domain::check::Checker;
use open_beacon_domain::geo::{GeoPoint, normalise_bearing_deg, turn_deg};
use open_beacon_domain::metrics::Metric;
use open_beacon_domain::model::*;
use proptest::prelude::*;

fn pointers(checker: Checker) -> Vec<String> {
    checker.done().into_iter().map(|problem| problem.pointer).collect()
}

#[test]
fn names_and_places_are_checked_with_what_would_work() {
    let problems = Checker::default().name("/name", "  ", "North farm").done();
    assert_eq!(problems[0].pointer, "/name");
    assert!(problems[0].detail.contains("North farm"));
    let swapped = GeoPoint { latitude_deg: 108.2, longitude_deg: 61.4 };
    let problems = Checker::default().place("/place", Some(swapped)).done();
    assert!(problems[0].detail.contains("swapped"), "{problems:?}");
    assert!(pointers(Checker::default().place("/place", None).name("/name", "Gable", "")).is_empty());
}

#[test]
fn addresses_must_be_web_addresses() {
    for bad in ["192.168.1.1", "ftp://a", "http://", "https:///x", "http://a b"] {
        assert_eq!(pointers(Checker::default().address("/url", Some(bad))), ["/url"], "{bad}");
    }
    for good in ["http://192.168.1.1/status.json", "https://host:8443/a?b=c"] {
        assert!(pointers(Checker::default().address("/url", Some(good))).is_empty(), "{good}");
    }
}

#[test]
fn a_gateway_is_a_web_address_or_a_modem_with_its_port() {
    let found = |address| Checker::default().gateway_address("/url", Some(address)).done();
    for bad in
        ["tcp://192.168.1.1", "tcp://:5000", "tcp://a b:5000", "tcp://a:0", "tcp://a:70000", "udp://a:5"]
    {
        assert_eq!(found(bad).len(), 1, "{bad}");
    }
    assert!(found("tcp://192.168.1.1")[0].detail.contains("tcp://192.168.1.1:5000"));
    for good in ["tcp://192.168.1.1:5000", "tcp://modem.lan:23/", "http://192.168.1.1/status.json"] {
        assert!(found(good).is_empty(), "{good}");
    }
}

#[test]
fn ports_are_numbered_once() {
    let link = |lead| PortLink { lead, port: "EXT".into() };
    let spec = SetupSpec {
        azimuth_deg: Some(360.0),
        tilt_deg: Some(91.0),
        height_above_ground_m: Some(201.0),
        ports: vec![link(1), link(1), link(9)],
        ..SetupSpec::on(AntennaSwitch::External)
    };
    let found = pointers(Checker::default().setup(&spec));
    assert_eq!(
        found,
        ["/azimuth_deg", "/tilt_deg", "/height_above_ground_m", "/ports/1/lead", "/ports/2/lead"]
    );
}

#[test]
fn a_typed_value_outside_its_range_needs_the_flag() {
    let mut odd = lte(3, 1, -97.0, 60.0);
    let found = Checker::default().typed_carrier("/c", &odd).done();
    assert_eq!(found[0].pointer, "/c/sinr_db");
    assert!(found[0].detail.contains("−23") && found[0].detail.contains("40"), "{found:?}");
    odd.flags.push(FieldFlag { metric: Metric::Sinr, kind: FlagKind::AsReported });
    assert!(Checker::default().typed_carrier("/c", &odd).done().is_empty());
    // A flag on one value does not excuse another.
    odd.rsrp_dbm = Some(97.0);
    assert_eq!(pointers(Checker::default().typed_carrier("/c", &odd)), ["/c/rsrp_dbm"]);
}

#[test]
fn a_speed_test_needs_a_figure() {
    assert_eq!(pointers(Checker::default().typed_figures("/t", &SpeedFigures::default())), ["/t"]);
    let negative = SpeedFigures { download_mbps: Some(-1.0), ..SpeedFigures::default() };
    assert_eq!(pointers(Checker::default().typed_figures("/t", &negative)), ["/t/download_mbps"]);
}

#[test]
fn settings_are_checked_part_by_part() {
    let settings = SiteSettings {
        gateway: Some(GatewaySettings {
            status_url: "nowhere".into(),
            poll_interval_ms: 10,
            certificate_sha256: Some("short".into()),
            recipe: GatewayRecipe::default(),
        }),
        speed_test: Some(SpeedTestSettings {
            download_url: "http://a/".into(),
            upload_url: Some("b".into()),
            latency_url: None,
            connections: 0,
            warm_up_s: -1.0,
            phase_s: 100.0,
            most_mb: Some(0.0),
            precise_to: Some(3.0),
            page_part_url: Some("page".into()),
        }),
        ..SiteSettings::default()
    };
    assert_eq!(
        pointers(Checker::default().settings(&settings)),
        [
            "/gateway/status_url",
            "/gateway/poll_interval_ms",
            "/gateway/certificate_sha256",
            "/speed_test/upload_url",
            "/speed_test/connections",
            "/speed_test/warm_up_s",
            "/speed_test/phase_s",
            "/speed_test/most_mb",
            "/speed_test/precise_to",
            "/speed_test/page_part_url"
        ]
    );
}

proptest! {
    #[test]
    fn bearings_stay_in_the_circle(bearing in -1e6..1e6f64) {
        let normal = normalise_bearing_deg(bearing);
        prop_assert!((0.0..360.0).contains(&normal));
    }

    /// Turning by what was found leads where it should.
    #[test]
    fn turns_lead_there(from in 0.0..360.0f64, to in 0.0..360.0f64) {
        let turn = turn_deg(from, to);
        prop_assert!(turn > -180.0 - 1e-9 && turn <= 180.0);
        let arrived = normalise_bearing_deg(from + turn);
        let miss = (arrived - to).abs();
        prop_assert!(miss < 1e-6 || (miss - 360.0).abs() < 1e-6);
    }

    /// A site survives being written and read.
    #[test]
    fn samples_survive_json(rsrp in -156.0..-44.0f64, pci in 0u16..504, rank in prop::option::of(1u8..5)) {
        let mut carrier = lte(20, pci, rsrp, 7.5);
        carrier.rank = rank;
        carrier.branch_rsrp_dbm = vec![rsrp, rsrp - 1.0];
        let before = sample(9, 1, Activity::Loaded, vec![carrier]);
        let text = serde_json::to_string(&before).unwrap();
        prop_assert_eq!(serde_json::from_str::<Sample>(&text).unwrap(), before);
    }
}
