//! Tests of the stand-in: that it behaves like what it stands for.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod bands;
mod physics;

use open_beacon_core::judge::{SetupEvidence, VersusVerdict, compare};
use open_beacon_core::model::*;
use open_beacon_simulator::antenna::panel_gain_dbi;
use open_beacon_simulator::channel::drift;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use open_beacon_simulator::device::Device;
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{StandIn, control_router};
use std::time::Duration;

const NOON: f64 = 1_794_481_200.0;

fn demo_bundle(seed: u64) -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    demo_site(
        seed,
        &Addresses { status_url: at("status"), speed_url: at("speed"), control_url: at("control") },
    )
}

fn aimed(azimuth_deg: f64) -> Device {
    let mut device = Device::new(7);
    device.pose.antenna = "external".into();
    device.pose.mount = "pole".into();
    device.pose.height_above_ground_m = 8.0;
    device.pose.azimuth_deg = azimuth_deg;
    device
}

#[test]
fn the_same_seed_makes_the_same_demo() {
    assert_eq!(demo_bundle(7), demo_bundle(7));
    assert_ne!(demo_bundle(7).samples, demo_bundle(8).samples);
}

#[test]
fn the_panel_has_a_beam_side_lobes_and_a_back() {
    let gain = |off| panel_gain_dbi(off, 0.0);
    let peak = gain(0.0);
    // Half-power width 54 degrees: 3 dB down at 27 degrees off, ripple within half a decibel.
    assert!((peak - gain(27.0) - 3.0).abs() < 1.1, "{}", peak - gain(27.0));
    assert!((peak - gain(-27.0) - 3.0).abs() < 1.1);
    assert!(peak - gain(180.0) > 17.0);
    let off: Vec<f64> = (0..180).map(|deg| gain(f64::from(deg))).collect();
    let lobes = off.windows(3).filter(|three| three[1] > three[0] && three[1] > three[2]).count();
    assert!(lobes >= 2, "a real pattern has more than one lobe");
}

#[test]
fn drift_is_smooth_and_of_unit_spread() {
    let values: Vec<f64> = (0..20_000).map(|n| drift(3, 1, f64::from(n) * 0.5, 2.0)).collect();
    let mean = values.iter().sum::<f64>() / values.len() as f64;
    let spread = (values.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / values.len() as f64).sqrt();
    assert!(mean.abs() < 0.06 && (spread - 1.0).abs() < 0.06, "{mean} {spread}");
    let jump = (0..1000)
        .map(|n| (drift(3, 1, f64::from(n) * 0.01, 2.0) - drift(3, 1, f64::from(n + 1) * 0.01, 2.0)).abs());
    assert!(jump.fold(0.0, f64::max) < 0.2);
}

#[test]
fn nr_vanishes_from_an_idle_line() {
    let mut device = aimed(143.0);
    let has_nr =
        |reading: Reading| reading.carriers.iter().any(|carrier| carrier.technology == Technology::Nr);
    assert!(!has_nr(device.reading(NOON)));
    device.traffic(NOON + 1.0);
    assert!(has_nr(device.reading(NOON + 2.0)));
    assert!(!has_nr(device.reading(NOON + 20.0)));
}

#[test]
fn readings_obey_the_identity_of_rsrq() {
    // TS 36.214 5.1.3, within the rounding of a gateway (whole dB for RSRP and RSSI, half for RSRQ).
    let mut device = aimed(143.0);
    for carrier in &device.reading(NOON).carriers {
        let blocks = open_beacon_core::bands::lte_resource_blocks(carrier.bandwidth_mhz.unwrap()).unwrap();
        let implied = open_beacon_core::metrics::rsrq_from_rssi_db(
            carrier.rsrp_dbm.unwrap(),
            carrier.rssi_dbm.unwrap(),
            blocks,
        );
        assert!((implied - carrier.rsrq_db.unwrap()).abs() <= 1.25, "{carrier:?}");
    }
}

/// Turned from one mast to the other and back, the gateway changes later each way than it would without memory.
#[test]
fn the_gateway_holds_on_to_its_mast() {
    let mut device = aimed(143.0);
    let mut at_s = NOON;
    let mut changes_at = |azimuths: Vec<u32>, from: u16| {
        azimuths
            .into_iter()
            .find(|azimuth| {
                at_s += 0.01;
                device.pose.azimuth_deg = f64::from(*azimuth);
                device.reading(at_s).carriers[0].pci != Some(from)
            })
            .unwrap()
    };
    let leaving = changes_at((0..=143).rev().collect(), 211);
    let returning = changes_at((leaving..=143).collect(), 87);
    assert!(returning > leaving + 3, "left at {leaving}, came back at {returning}");
}

#[test]
fn evenings_are_slower_than_nights() {
    let mut device = aimed(143.0);
    let mean = |device: &mut Device, from: f64| {
        (0..200).map(|n| device.rates(from + f64::from(n) * 7.0).down_mbps).sum::<f64>() / 200.0
    };
    let evening = mean(&mut device, NOON + 8.3 * 3600.0);
    let night = mean(&mut device, NOON + 15.0 * 3600.0);
    assert!(night > 1.5 * evening, "{night} at night, {evening} in the evening");
}

/// The demo's promise: a setup aimed at the mast beats one turned 90 degrees away, and the core says so.
#[test]
fn the_demo_has_a_clear_winner() {
    let bundle = demo_bundle(7);
    let evidence = |azimuth: f64, name: &str| {
        let position = bundle.positions.iter().find(|position| position.name == name).unwrap();
        let setup = bundle
            .setups
            .iter()
            .find(|setup| setup.position_id == position.id && setup.spec.azimuth_deg == Some(azimuth))
            .unwrap();
        let runs: Vec<Run> = bundle.runs.iter().filter(|run| run.setup_id == setup.id).cloned().collect();
        let of = |id: RunId| runs.iter().any(|run| run.id == id);
        let samples: Vec<Sample> =
            bundle.samples.iter().filter(|sample| of(sample.run_id)).cloned().collect();
        let tests = bundle.speed_tests.iter().filter(|test| of(test.run_id)).cloned().collect();
        let mut evidence =
            SetupEvidence { setup_id: setup.id, label: name.into(), radio: Vec::new(), tests, runs };
        evidence.heard(&samples);
        evidence
    };
    let turned_away = evidence(53.0, "East gable");
    let aimed = evidence(143.0, "East gable");
    let comparison = compare(&turned_away, &[aimed], bundle.site.time_zone);
    let download = comparison.rows[1].figures[0].versus.unwrap();
    assert_eq!(download.verdict, VersusVerdict::ClearGain);
    assert!(download.of.ratio > 2.0, "{}", download.of.ratio);
}

async fn serve(router: axum::Router) -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, router).await });
    address
}

#[tokio::test]
async fn the_page_repeats_itself_between_renewals_and_faults_on_request() {
    let stand_in = StandIn::new(7, Duration::from_millis(300));
    let (gateway, control) =
        (serve(gateway_router(stand_in.clone())).await, serve(control_router(stand_in)).await);
    let client = reqwest::Client::new();
    let page =
        async || client.get(format!("{gateway}/status.json")).send().await.unwrap().text().await.unwrap();
    let fault = async |kind: &str| {
        let answer = client.put(format!("{control}/fault")).json(&kind).send().await.unwrap();
        assert!(answer.status().is_success());
    };
    let first = page().await;
    assert_eq!(first, page().await);
    let mut renewed = false;
    for _ in 0..20 {
        tokio::time::sleep(Duration::from_millis(100)).await;
        renewed |= page().await != first;
    }
    assert!(renewed);
    fault("login_page").await;
    assert!(page().await.contains("sign in"));
    fault("wrong_type").await;
    assert!(page().await.contains("strong"));
    fault("frozen").await;
    let frozen = page().await;
    tokio::time::sleep(Duration::from_millis(700)).await;
    assert_eq!(page().await, frozen);
}

#[test]
fn the_demo_has_spots_a_scout_and_another_operator() {
    let demo = demo_bundle(7);
    let scouts = demo.runs.iter().filter(|run| run.conditions.instrument == Instrument::Phone).count();
    let others: Vec<_> = demo.runs.iter().filter(|run| !run.conditions.network.is_empty()).collect();
    assert_eq!((scouts, others.len()), (1, 1));
    assert_ne!(others[0].conditions.network, demo.settings.network);
    let rooms: Vec<_> = demo.positions.iter().filter(|position| !position.spot.room.is_empty()).collect();
    assert!(rooms.len() >= 2 && rooms.iter().all(|position| position.mount.is_indoors()));
    assert!(demo.settings.known_mast.is_some());
}

/// The core's own check of a reading finds nothing odd in what the stand-in says: RSRQ, SINR, RSSI, band, channel
/// and width go together.
#[test]
fn the_stand_in_does_not_contradict_itself() {
    let demo = demo_bundle(7);
    let mut checked = 0;
    for carrier in demo.samples.iter().flat_map(|sample| &sample.reading.carriers) {
        let found = open_beacon_core::metrics::oddities(carrier);
        assert!(found.is_empty(), "{found:?} in {carrier:?}");
        checked += 1;
    }
    assert!(checked > 300, "only {checked}");
}

/// An omni lifts signal and interference together: with its own antennas turned up outdoors the stand-in's RSRP
/// rises far more than its SINR.
#[test]
fn raising_stock_antennas_lifts_noise_too() {
    let at = |mount: &str, height: f64| {
        let mut device = Device::new(7);
        device.pose.mount = mount.into();
        device.pose.height_above_ground_m = height;
        device.traffic(NOON);
        let carriers = device.reading(NOON + 1.0).carriers;
        let b20 = carriers.into_iter().find(|carrier| carrier.band == Some(20)).unwrap();
        (b20.rsrp_dbm.unwrap(), b20.sinr_db.unwrap())
    };
    let (indoors, outdoors) = (at("indoor", 1.1), at("pole", 8.0));
    let (power, clean) = (outdoors.0 - indoors.0, outdoors.1 - indoors.1);
    assert!(power > 8.0, "{power}");
    assert!(clean < power - 3.0, "power {power}, clean {clean}");
}

#[test]
fn a_wanted_mast_is_heard_best_where_the_panel_points_at_it() {
    let clean = |azimuth: f64| {
        let mut device = aimed(azimuth);
        device.traffic(NOON);
        let carriers = device.reading(NOON + 1.0).carriers;
        carriers.iter().filter_map(|carrier| carrier.rsrp_dbm).fold(f64::NEG_INFINITY, f64::max)
    };
    let best =
        (0..36).map(|step| f64::from(step) * 10.0).max_by(|a, b| clean(*a).total_cmp(&clean(*b))).unwrap();
    assert!((best - 143.0).abs() <= 20.0, "{best}");
}

/// The demo's kits: one to be mended, none else with anything wrong, each of its own kind, all at prices.
#[test]
fn the_demo_kits_are_what_the_guide_says() {
    use open_beacon_core::hardware::catalogue::{Catalogue, check_part};
    use open_beacon_core::hardware::resolve::Resolved;
    use open_beacon_core::kit::check::{Wanted, check};
    use open_beacon_core::kit::effort::effort;
    use open_beacon_core::kit::finding::Severity;
    let demo = demo_bundle(7);
    // The parts that travel with the site are enough to judge its kits.
    let catalogue = Catalogue::of(demo.parts.clone());
    assert!(demo.parts.iter().all(|part| check_part(part).is_empty()));
    let wrong: Vec<usize> = demo
        .kits
        .iter()
        .map(|kit| {
            let resolved = Resolved::new(&kit.spec, &catalogue);
            assert!(resolved.missing.is_empty(), "{}", kit.name);
            assert_eq!(effort(&resolved).unpriced, 0);
            let found = check(&resolved, &Wanted::default());
            found.iter().filter(|one| one.severity == Severity::Wrong).count()
        })
        .collect();
    assert_eq!(wrong, [0, 1, 0, 0]);
    let bought: Vec<&Kit> = demo.kits.iter().filter(|kit| kit.return_by.is_some()).collect();
    assert_eq!(bought.len(), 1);
    assert!(bought[0].return_by > bought[0].bought_on);
    let gable = demo.positions.iter().find(|one| one.mount == Mount::Gable).map(|one| one.id);
    assert!(demo.kits.iter().all(|kit| kit.spec.position_id == gable));
}
