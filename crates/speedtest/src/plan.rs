//! What a test measures against and how.

use open_beacon_core::model::SpeedTestSettings;
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
        }
    }
}
