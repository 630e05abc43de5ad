//! The demo site's sweep: the panel on the east gable turned past the mast and back.

use crate::device::Device;
use crate::radio::Pose;
use chrono::{DateTime, Duration, Utc};
use open_beacon_core::model::*;
use uuid::Uuid;

/// Bearings in the order they were turned to, degrees.
const BEARINGS_DEG: [f64; 9] = [85.0, 115.0, 145.0, 175.0, 205.0, 160.0, 130.0, 100.0, 190.0];
const SAMPLES: i64 = 4;
const REFRESH_S: i64 = 3;

/// Adds a finished sweep to the demo site.
pub(crate) fn build_sweep(
    bundle: &mut SiteBundle,
    seed: u64,
    start: DateTime<Utc>,
    position: &Position,
    id: fn(&str) -> Uuid,
) {
    let Some(place) = position.place else { return };
    let sweep_id = SweepId(id("sweep"));
    let mut device = Device::new(seed);
    let mut at = start;
    for (order, bearing_deg) in BEARINGS_DEG.into_iter().enumerate() {
        device.pose = Pose {
            latitude_deg: place.latitude_deg,
            longitude_deg: place.longitude_deg,
            height_above_ground_m: position.height_above_ground_m.unwrap_or(6.0),
            mount: "gable".into(),
            antenna: "external".into(),
            azimuth_deg: bearing_deg,
            tilt_deg: 2.0,
        };
        let samples = (0..SAMPLES)
            .map(|sample| {
                let at_s = (at + Duration::seconds(sample * REFRESH_S)).timestamp() as f64;
                device.traffic(at_s);
                device.reading(at_s)
            })
            .collect();
        at += Duration::seconds(SAMPLES * REFRESH_S);
        bundle.sweep_stops.push(SweepStop {
            id: SweepStopId(id(&format!("sweep/{order}"))),
            site_id: bundle.site.id,
            sweep_id,
            angle_deg: bearing_deg,
            taken_at: at,
            run_id: None,
            samples,
            typed: false,
            pressed_at: None,
            clock_offset_ms: None,
            archived_at: None,
        });
        // Turning and tightening.
        at += Duration::seconds(25);
    }
    // The setup in use is the one this sweep set.
    let set = bundle.setups.iter_mut().find(|one| Some(one.id) == bundle.settings.active_setup_id);
    if let Some(setup) = set.filter(|one| one.position_id == position.id) {
        setup.origin = SetupOrigin::SweepResult { sweep_id };
    }
    bundle.sweeps.push(Sweep {
        id: sweep_id,
        site_id: bundle.site.id,
        position_id: position.id,
        setup_id: None,
        axis: SweepAxis::Azimuth,
        beamwidth_deg: 60.0,
        front_to_back_db: 20.0,
        expected_deg: Some(143.0),
        cell: None,
        speed_tests: false,
        attach: Attach::KeptAttached,
        notes: Vec::new(),
        started_at: start,
        set_deg: Some(143.0),
        ended_at: Some(at),
        archived_at: None,
    });
}
