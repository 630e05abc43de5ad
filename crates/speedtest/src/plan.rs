//! What a test measures against and how.

use open_beacon_core::model::{EndedEarly, SpeedTestSettings};
use open_beacon_core::stats::known_to;
use std::time::Duration;

/// What to measure against and how.
#[derive(Clone, Debug)]
pub struct Plan {
    pub download_url: String,
    /// Without it upload is not measured.
    pub upload_url: Option<String>,
    pub latency_url: String,
    /// Ask for headers only: the latency address has a long body.
    pub probe_with_head: bool,
    /// Parallel connections, 1..=16.
    pub connections: u8,
    /// Discarded at the start of each direction.
    pub warm_up: Duration,
    /// Measured in each direction after warm-up.
    pub phase: Duration,
    /// A direction ends once it has moved so much, MB.
    pub most_mb: Option<f64>,
    /// A direction ends once its rate is known to within this share of it.
    pub precise_to: Option<f64>,
    /// Where a page's parts are fetched from; without it no page is loaded.
    pub page_part_url: Option<String>,
}

impl Plan {
    /// Bytes that a direction may move.
    pub(crate) fn most_bytes(&self) -> u64 {
        self.most_mb.map_or(u64::MAX, |most_mb| (most_mb * 1e6) as u64)
    }

    /// Whether a direction ends before its time, with what it has moved and its steady rates so far.
    pub(crate) fn ended_early(&self, bytes: u64, steady: &[f64]) -> Option<EndedEarly> {
        if let Some(most_mb) = self.most_mb.filter(|_| bytes >= self.most_bytes()) {
            return Some(EndedEarly::Data { most_mb });
        }
        let precise_to = self.precise_to?;
        (known_to(steady)? <= precise_to).then_some(EndedEarly::Precision { precise_to })
    }
}

impl From<&SpeedTestSettings> for Plan {
    fn from(settings: &SpeedTestSettings) -> Self {
        let latency_url = settings.latency_url.clone().unwrap_or_else(|| settings.download_url.clone());
        Self {
            download_url: settings.download_url.clone(),
            upload_url: settings.upload_url.clone(),
            probe_with_head: settings.latency_url.is_none(),
            latency_url,
            connections: settings.connections.clamp(1, 16),
            warm_up: Duration::from_secs_f64(settings.warm_up_s.clamp(0.0, 10.0)),
            phase: Duration::from_secs_f64(settings.phase_s.clamp(1.0, 60.0)),
            most_mb: settings.most_mb,
            precise_to: settings.precise_to,
            page_part_url: settings.page_part_url.clone(),
        }
    }
}
