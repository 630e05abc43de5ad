//! Measuring a line by moving real bytes, and the serving end that can be measured against.
//!
//! | Module | |
//! |---|---|
//! | [`measure`] | one whole test: idle latency, download, upload, latency under load |
//! | [`serve`] | the serving end: `GET /down`, `POST /up`, `GET /ping` |
//! | [`probe_address`] | a short look at an address before it is relied on |
//! | [`trickle`] | a trickle of traffic that keeps idle carriers from vanishing |

mod address;
mod measure;
mod probe;
mod serve;
mod transfer;
mod trickle;

pub use address::probe_address;
pub use measure::{Outcome, Plan, Progress, Step, measure};
pub use serve::{Direction, Shape, Unshaped, router};
pub use trickle::trickle;

use open_beacon_core::model::SpeedTestSettings;
use std::time::Duration;

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
