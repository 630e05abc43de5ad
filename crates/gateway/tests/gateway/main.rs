//! Tests of the gateway reader against pages served over HTTP.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod at;
mod damaged;
mod doors;
mod pages;
mod sound;
mod workshop;

use axum::Router;
use axum::response::Html;
use axum::routing::get;
use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use open_beacon_simulator::serve::page;
use serde_json::{Value, json};
use std::sync::Arc;
use std::sync::atomic::{AtomicI64, Ordering};

async fn serve(router: Router) -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    tokio::spawn(async move { axum::serve(listener, router).await });
    format!("http://{address}/status.json")
}

fn settings(status_url: &str) -> GatewaySettings {
    GatewaySettings {
        status_url: status_url.to_owned(),
        poll_interval_ms: 500,
        certificate_sha256: None,
        recipe: GatewayRecipe::default(),
    }
}

fn driver(status_url: &str) -> Driver {
    Driver::new(&settings(status_url), GatewaySecrets::default(), LoginAttempts::default()).unwrap()
}

async fn read(router: Router) -> Result<Reading, DriverError> {
    driver(&serve(router).await).read().await
}

fn answering(body: &'static str) -> Router {
    Router::new().route("/status.json", get(move || async move { body }))
}

fn fields(page: Value) -> Result<Reading, MapError> {
    read_fields(&page, &FieldMap::default())
}

#[test]
fn a_page_with_every_field_is_read() {
    let reading = fields(json!({"radio": {"mode": "NSA", "carriers": [{
        "technology": "nr", "role": "primary", "band": 78, "channel": 636_666, "channel_kind": "ssb",
        "bandwidth_mhz": 90, "pci": 611, "cell_identity": 4_299_161_602_u64, "rsrp": "-88", "rsrq": -11.5, "sinr": 14.5,
        "rssi": null, "branch_rsrp": [-88.0, -90.5], "rank": 2, "cqi": 11, "mcs": 17, "transmit_power": 12.5,
        "timing_advance": 60}], "neighbours": [{"technology": "lte", "band": 3, "pci": 87, "rsrp": -101}]}}))
    .unwrap();
    let carrier = &reading.carriers[0];
    assert_eq!(reading.mode, ConnectionMode::Nsa);
    assert_eq!((carrier.rsrp_dbm, carrier.rssi_dbm), (Some(-88.0), None));
    assert_eq!((carrier.channel_kind, carrier.cell_identity), (ChannelKind::Ssb, Some(4_299_161_602)));
    assert_eq!((carrier.rank, carrier.cqi, carrier.mcs), (Some(2), Some(11), Some(17)));
    assert_eq!((carrier.transmit_power_dbm, carrier.timing_advance), (Some(12.5), Some(60)));
    assert_eq!(carrier.branch_rsrp_dbm, [-88.0, -90.5]);
    assert_eq!(reading.neighbours[0].pci, Some(87));
}

#[test]
fn a_bare_page_leaves_the_rest_unknown() {
    let reading = fields(json!({"radio": {"carriers": [{"technology": "lte"}]}})).unwrap();
    assert_eq!(reading.carriers, [Carrier::empty(Technology::Lte, CarrierRole::Unknown)]);
    assert_eq!(reading.mode, ConnectionMode::Unknown);
}

#[test]
fn a_live_value_out_of_range_is_flagged_not_refused() {
    let reading = fields(json!({"radio": {"carriers": [{"technology": "lte", "sinr": 60}]}})).unwrap();
    assert_eq!(reading.carriers[0].sinr_db, Some(60.0));
    assert_eq!(reading.carriers[0].flags[0].kind, FlagKind::OutsideReportingRange);
}

#[test]
fn what_is_wrong_is_named_with_its_place() {
    assert_eq!(fields(json!({"radio": {}})), Err(MapError::NoCarriers("/radio/carriers".into())));
    let of = |entry: Value| fields(json!({"radio": {"carriers": [entry]}})).unwrap_err().to_string();
    assert!(of(json!({"technology": "lte", "rsrp": "strong"})).contains("/rsrp holds \"strong\""));
    assert!(of(json!({"technology": "gsm"})).contains("“gsm”"));
    assert!(of(json!({"technology": "lte", "pci": 70_000})).contains("/pci"));
    assert!(of(json!({"technology": "lte", "pci": -1})).contains("/pci"));
    assert!(of(json!({"rsrp": -90})).contains("/technology"));
}

#[test]
fn the_stand_in_page_is_read_as_it_was_written() {
    let mut device = open_beacon_simulator::device::Device::new(7);
    for second in 0..20 {
        device.traffic(1.79e9 + f64::from(second));
        let mut reading = device.reading(1.79e9 + f64::from(second));
        // The page does not carry a neighbour's or carrier's flags.
        reading.carriers.iter_mut().for_each(open_beacon_domain::metrics::flag_out_of_range);
        assert_eq!(fields(page(&reading)).unwrap(), reading);
    }
}

#[tokio::test]
async fn nonsense_says_what_it_said() {
    let login = Router::new().route("/status.json", get(|| async { Html("<h1>Please sign in</h1>") }));
    let Err(DriverError::Nonsense { problem, said }) = read(login).await else {
        panic!("taken for a status page")
    };
    assert!(problem.contains("not JSON") && said.contains("Please sign in"));
    let Err(DriverError::Nonsense { problem, .. }) = read(answering("{\"radio\": 1}")).await else {
        panic!()
    };
    assert!(problem.contains("/radio/carriers"));
    let Err(DriverError::Nonsense { problem, .. }) = read(Router::new()).await else { panic!() };
    assert!(problem.contains("404"));
}

#[tokio::test]
async fn silence_is_unreachable() {
    assert!(matches!(
        driver("http://127.0.0.1:9/status.json").read().await,
        Err(DriverError::Unreachable(_))
    ));
    let none = Driver::new(&settings("not an address"), GatewaySecrets::default(), LoginAttempts::default());
    assert_eq!(none.err(), Some(DriverError::Unreachable("the address is not a valid web address".into())));
}

#[tokio::test]
async fn a_watcher_tells_live_from_repeats_and_failures() {
    let shown = Arc::new(AtomicI64::new(-90));
    let value = shown.clone();
    let router = Router::new().route(
        "/status.json",
        get(move || async move {
            let rsrp = value.load(Ordering::Relaxed);
            if rsrp == 0 {
                return "sorry".to_owned();
            }
            json!({"radio": {"carriers": [{"technology": "lte", "rsrp": rsrp}]}}).to_string()
        }),
    );
    let mut watcher = Watcher::new(driver(&serve(router).await));
    assert_eq!(watcher.state().status, LinkStatus::Waiting);
    assert!(watcher.look().await.unwrap().novelty.counts());
    assert!(!watcher.look().await.unwrap().novelty.counts(), "the page repeats itself");
    let heard = watcher.state().heard_at;
    shown.store(-91, Ordering::Relaxed);
    assert!(watcher.look().await.unwrap().novelty.counts());
    assert_eq!(watcher.state().status, LinkStatus::Live);
    assert!(watcher.state().heard_at > heard);

    shown.store(0, Ordering::Relaxed);
    assert_eq!(watcher.look().await, None);
    let LinkStatus::Nonsense { since, .. } = watcher.state().status.clone() else { panic!() };
    watcher.look().await;
    assert!(matches!(watcher.state().status, LinkStatus::Nonsense { since: still, .. } if still == since));
    assert_eq!(
        watcher.state().reading.as_ref().unwrap().carriers[0].rsrp_dbm,
        Some(-91.0),
        "the last one is kept"
    );
}

#[test]
fn a_field_of_another_type_is_named_with_what_was_found() {
    let one = |carrier: Value| fields(json!({"radio": {"carriers": [carrier]}}));
    let wrong = |carrier: Value| one(carrier).unwrap_err().to_string();
    assert_eq!(
        wrong(json!({"technology": "umts"})),
        "/technology holds “umts” where “lte” or “nr” is needed"
    );
    assert_eq!(
        wrong(json!({"technology": "lte", "band": -3})),
        "/band holds -3 where a whole number in range is needed"
    );
    assert_eq!(
        wrong(json!({"technology": "lte", "pci": 70_000})),
        "/pci holds 70000 where a whole number in range is needed"
    );
    assert_eq!(
        wrong(json!({"technology": "lte", "rsrp": "strong"})),
        "/rsrp holds \"strong\" where a number is needed"
    );
    assert_eq!(wrong(json!({"technology": "lte", "role": 3})), "/role holds 3 where a word is needed");
    assert!(wrong(json!({"technology": "lte", "branch_rsrp": "x"})).contains("a list of numbers"));
    let long = wrong(json!({"technology": "lte", "rsrp": "x".repeat(300)}));
    assert!(long.contains('…') && long.len() < 140, "{long}");
}

#[test]
fn what_contradicts_itself_is_kept_and_flagged() {
    let reading = fields(json!({"radio": {"carriers": [{"technology": "lte", "rsrp": -87, "rsrq": -17, "sinr": 5.1},
        {"technology": "lte", "rsrp": -90, "sinr": 60}, {"technology": "nr", "rsrp": -90, "rsrq": -11, "sinr": 15}]}}))
    .unwrap();
    let flags = |at: usize| -> Vec<FlagKind> {
        reading.carriers[at].flags.iter().map(|flag: &FieldFlag| flag.kind).collect()
    };
    assert_eq!(reading.carriers[0].sinr_db, Some(5.1));
    assert_eq!(flags(0), [FlagKind::Contradicted, FlagKind::Contradicted]);
    assert_eq!(flags(1), [FlagKind::OutsideReportingRange]);
    assert!(flags(2).is_empty());
}

#[test]
fn a_map_of_ones_own_is_followed() {
    let fields = [(PageField::RsrpDbm, "/level/power"), (PageField::Technology, "/rat")]
        .map(|(field, at)| FieldAt::plain(field, at));
    let map = FieldMap {
        mode: None,
        carriers: vec![CarrierGroup { at: "/cells".into(), fields: fields.into() }],
        neighbours: Vec::new(),
    };
    let page = json!({"cells": [{"rat": "NR", "level": {"power": "-91.5"}}, {"rat": "lte"}]});
    let reading = read_fields(&page, &map).unwrap();
    assert_eq!(reading.carriers[0].rsrp_dbm, Some(-91.5));
    assert_eq!(reading.carriers[1].technology, Technology::Lte);
    assert_eq!(reading.mode, ConnectionMode::Nsa, "where the page tells no mode, the carriers do");
    let missing = read_fields(&json!({"cells": 3}), &map).unwrap_err();
    assert_eq!(missing.to_string(), "there is no list of carriers at /cells");
}
