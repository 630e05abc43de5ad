//! Speed tests of the demo site, measured on the stand-in in virtual time.

use crate::device::Device;
use chrono::{DateTime, Utc};
use open_beacon_core::model::{
    Completion, Instrument, InterfaceKind, NetworkInterface, PageLoad, RunId, SiteSettings, Source,
    SpeedFigures, SpeedTest, SpeedTestId, Surroundings,
};
use open_beacon_core::stats::median;

/// One test; a phone's goes over its own wireless interface, the others over a cable.
pub(crate) fn build_test(
    device: &mut Device,
    run_id: RunId,
    (at, instrument): (DateTime<Utc>, Instrument),
    id: SpeedTestId,
    settings: &SiteSettings,
) -> SpeedTest {
    let began_s = at.timestamp_millis() as f64 / 1e3;
    let mut over = |from_s: f64| {
        (0..12).map(|k| device.rates(began_s + from_s + f64::from(k) * 0.5)).collect::<Vec<_>>()
    };
    let (down, up) = (over(3.5), over(11.0));
    let mean = |values: Vec<f64>| values.iter().sum::<f64>() / values.len() as f64;
    let tenths = |value: f64| (value * 10.0).round() / 10.0;
    let download = tenths(mean(down.iter().map(|rates| rates.down_mbps).collect()));
    let upload = tenths(mean(up.iter().map(|rates| rates.up_mbps).collect()));
    let middle = |values: Vec<f64>| median(&values).map(tenths);
    let (name, kind, rate_mbps) = match instrument {
        Instrument::Gateway => ("eth0", InterfaceKind::Wire, Some(1000)),
        _ => ("wlan0", InterfaceKind::Wifi, None),
    };
    // Round trips of a page as they come one after another: its connection, its answer, five more for its parts.
    let page = middle(down.iter().map(|rates| rates.idle_latency_ms).collect()).map(|idle_ms| PageLoad {
        name_ms: Some(tenths(0.6 * idle_ms)),
        connect_ms: idle_ms,
        first_byte_ms: tenths(2.7 * idle_ms),
        all_ms: Some(tenths(7.7 * idle_ms + 420_000.0 * 8.0 / (download * 1e3))),
        parts_came: PageLoad::PARTS,
    });
    let surroundings = Surroundings {
        page,
        interface: Some(NetworkInterface { name: name.into(), kind, rate_mbps }),
        server_address: Some("192.0.2.10".into()),
        other_down_mbps: Some(0.02),
        other_up_mbps: Some(0.01),
        busiest_core: Some(tenths(0.1 + download / 1000.0)),
        packed_share: Some(1.0),
        ..Surroundings::default()
    };
    SpeedTest {
        id,
        run_id,
        sitting_id: None,
        started_at: at,
        source: Source::Live,
        completion: Completion::Complete,
        reason: None,
        server: settings.speed_test.as_ref().map(|test| test.download_url.clone()).unwrap_or_default(),
        surroundings: Some(surroundings),
        figures: SpeedFigures {
            download_mbps: Some(download),
            upload_mbps: Some(upload),
            idle_latency_ms: middle(down.iter().map(|rates| rates.idle_latency_ms).collect()),
            download_latency_ms: middle(down.iter().map(|rates| rates.loaded_latency_ms).collect()),
            upload_latency_ms: middle(up.iter().map(|rates| rates.loaded_latency_ms).collect()),
            probe_loss: Some(0.0),
            bytes_down: (download * 7.5e6 / 8.0) as u64,
            bytes_up: (upload * 7.5e6 / 8.0) as u64,
            connections: Some(4),
            average_of: None,
        },
    }
}
