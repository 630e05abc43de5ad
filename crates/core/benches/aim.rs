//! Prints what a fit with the next bearing takes against its target. Nothing fails here.

use open_beacon_core::aim::advice::{AimCriterion, aim_fit, ask};
use open_beacon_core::aim::fit::Nominal;
use open_beacon_core::aim::sweep::{CellKey, CellSweep, SweepPoint};
use open_beacon_core::model::{SweepAxis, Technology};
use std::time::Instant;

const TARGET_MS: f64 = 2.0;

fn main() {
    let nominal = Nominal { beamwidth_deg: 60.0, front_to_back_db: 20.0 };
    for count in [7, 12, 24] {
        let points = (0..count)
            .map(|index| {
                let off = 150.0 * f64::from(index) / f64::from(count) - 75.0;
                let wobble = 1.5 * (f64::from(index) * 2.4).sin();
                let rsrp_dbm = -90.0 - (12.0 * (off / 60.0f64).powi(2)).min(20.0) + wobble;
                let sinr_db = Some(25.0 - (off - 40.0).abs() / 4.0 + wobble / 2.0);
                SweepPoint { angle_deg: 143.0 + off, rsrp_dbm, sinr_db, samples: 4 }
            })
            .collect();
        let cell =
            CellKey { technology: Technology::Lte, band: Some(3), channel: Some(1300), pci: Some(211) };
        let stops = (0..count as usize).collect();
        let sweep = CellSweep { cell, bandwidth_mhz: Some(20.0), points, stops, unanswered_deg: Vec::new() };
        let measured: Vec<f64> = sweep.points.iter().map(|point| point.angle_deg).collect();
        let mut times: Vec<f64> = (0..41)
            .map(|_| {
                let begun = Instant::now();
                let found = aim_fit(&sweep, SweepAxis::Azimuth, nominal, AimCriterion::Quality, &[]);
                let asked = ask(SweepAxis::Azimuth, nominal, Some(143.0), 2.0, &measured, found.as_ref());
                assert!(found.is_some() && asked.0.step_deg > 0.0);
                begun.elapsed().as_secs_f64() * 1e3
            })
            .collect();
        times.sort_by(f64::total_cmp);
        let median = times[20];
        println!(
            "fit and next bearing, {count:>2} points: {median:.2} ms median of 41, target {TARGET_MS} ms, {:.2} of it",
            median / TARGET_MS
        );
    }
}
