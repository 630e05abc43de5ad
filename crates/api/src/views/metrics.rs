//! The newest numbers of every site, for programs that graph them.

use chrono::{DateTime, Utc};
use open_beacon_core::bands::band_name;
use open_beacon_core::model::{Completion, Site, SpeedFigures};
use open_beacon_core::words;
use open_beacon_exchange::{Metric, MetricKind};
use open_beacon_store::{Store, StoreError};

type Labels = Vec<(&'static str, String)>;
type Value = (Labels, f64);

/// Newest runs that are looked at for a test and for a reading.
const RUNS: usize = 10;

fn metric(name: &'static str, help: &'static str) -> Metric {
    Metric { name, kind: MetricKind::Gauge, help, values: Vec::new() }
}

struct Numbers {
    rsrp: Metric,
    sinr: Metric,
    rsrq: Metric,
    read_at: Metric,
    down: Metric,
    up: Metric,
    latency: Metric,
    tested_at: Metric,
    moved: Metric,
}

impl Numbers {
    fn new() -> Self {
        Self {
            rsrp: metric(
                "open_beacon_rsrp_dbm",
                "Signal strength (RSRP) of the newest reading in the record, dBm.",
            ),
            sinr: metric(
                "open_beacon_sinr_db",
                "Signal-to-noise (SINR) of the newest reading in the record, dB.",
            ),
            rsrq: metric(
                "open_beacon_rsrq_db",
                "Signal quality (RSRQ) of the newest reading in the record, dB.",
            ),
            read_at: metric(
                "open_beacon_reading_timestamp_seconds",
                "When that reading was taken, Unix time.",
            ),
            down: metric("open_beacon_download_mbps", "Download of the newest whole speed test, Mbit/s."),
            up: metric("open_beacon_upload_mbps", "Upload of the newest whole speed test, Mbit/s."),
            latency: metric(
                "open_beacon_idle_latency_ms",
                "Idle latency of the newest whole speed test, ms.",
            ),
            tested_at: metric("open_beacon_speed_test_timestamp_seconds", "When that test began, Unix time."),
            moved: Metric {
                kind: MetricKind::Counter,
                ..metric(
                    "open_beacon_speed_test_bytes_total",
                    "Bytes that all speed tests of the site have moved.",
                )
            },
        }
    }

    fn add(&mut self, store: &Store, site: &Site) -> Result<(), StoreError> {
        let named = |more: Labels| -> Labels {
            [vec![("site", site.name.clone()), ("site_id", site.id.to_string())], more].concat()
        };
        let runs = store.runs_by_time(site.id, None, RUNS, |run, _| run.archived_at.is_none())?;
        let (mut read, mut tested) = (false, false);
        for (run, heard) in runs {
            let setup = store.setup(run.setup_id)?;
            let label = words::setup_label(&store.position(setup.position_id)?, &setup.spec);
            let tests = store.speed_tests_of_run(run.id)?;
            let newest = tests.iter().rfind(|test| test.completion == Completion::Complete);
            if let Some(test) = newest.filter(|_| !tested) {
                tested = true;
                self.test(&test.figures, test.started_at, &named(vec![("setup", label.clone())]));
            }
            if heard.samples() > 0 && !read {
                read = true;
                let newest = store.samples_of_run(run.id)?.pop();
                for carrier in newest.iter().flat_map(|sample| &sample.reading.carriers) {
                    let band =
                        carrier.band.map(|band| band_name(carrier.technology, band)).unwrap_or_default();
                    let pci = carrier.pci.map(|pci| pci.to_string()).unwrap_or_default();
                    let labels = named(vec![("setup", label.clone()), ("band", band), ("pci", pci)]);
                    put(&mut self.rsrp, &labels, carrier.rsrp_dbm);
                    put(&mut self.sinr, &labels, carrier.sinr_db);
                    put(&mut self.rsrq, &labels, carrier.rsrq_db);
                }
                let taken_at = newest.map(|sample| seconds(sample.taken_at));
                put(&mut self.read_at, &named(vec![("setup", label)]), taken_at);
            }
        }
        let moved = store.bytes_moved(site.id, DateTime::UNIX_EPOCH)?;
        put(&mut self.moved, &named(Vec::new()), Some(moved));
        Ok(())
    }

    fn test(&mut self, figures: &SpeedFigures, at: DateTime<Utc>, labels: &Labels) {
        put(&mut self.down, labels, figures.download_mbps);
        put(&mut self.up, labels, figures.upload_mbps);
        put(&mut self.latency, labels, figures.idle_latency_ms);
        put(&mut self.tested_at, labels, Some(seconds(at)));
    }
}

fn seconds(at: DateTime<Utc>) -> f64 {
    at.timestamp_millis() as f64 / 1e3
}

fn put(metric: &mut Metric, labels: &Labels, value: Option<f64>) {
    let value: Option<Value> = value.map(|value| (labels.clone(), value));
    // Two carriers of the same name would be one value twice, which no reader takes.
    metric.values.extend(value.filter(|(labels, _)| metric.values.iter().all(|known| known.0 != *labels)));
}

/// Of every site in use.
pub(crate) fn view(store: &Store) -> Result<Vec<Metric>, StoreError> {
    let mut numbers = Numbers::new();
    for site in store.sites()?.into_iter().filter(|site| site.archived_at.is_none()) {
        numbers.add(store, &site)?;
    }
    let Numbers { rsrp, sinr, rsrq, read_at, down, up, latency, tested_at, moved } = numbers;
    Ok(vec![rsrp, sinr, rsrq, read_at, down, up, latency, tested_at, moved])
}
