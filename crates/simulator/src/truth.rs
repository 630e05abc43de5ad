//! The truth of a rehearsal: what the antenna would hear at every bearing, the channel's ups and downs averaged out.

use crate::radio::{Pose, hear};
use crate::world::Mast;
use chrono::{DateTime, Utc};
use open_beacon_core::aim::score::{TruePoint, Truth};

/// Times over which the channel is averaged, and their distance, s.
const TIMES: u32 = 24;
const APART_S: f64 = 37.0;

/// The truth round the compass in whole degrees, round a time. Of `wanted` masts (their places) the strongest counts at each
/// bearing, as a gateway that is left alone ends there; the others disturb.
pub fn truth(seed: u64, masts: &[Mast], wanted: &[usize], pose: &Pose, at: DateTime<Utc>) -> Truth {
    let round = at.timestamp() as f64;
    let points = (0..360u16).map(|azimuth| {
        let pose = Pose { antenna: "external".into(), azimuth_deg: f64::from(azimuth), ..pose.clone() };
        let mut sums = vec![(0.0, 0.0); masts.len()];
        for time in 0..TIMES {
            let at_s = round + (f64::from(time) - f64::from(TIMES) / 2.0) * APART_S;
            for (index, sum) in sums.iter_mut().enumerate() {
                let heard = hear(seed, masts, &pose, at_s);
                let widest = heard
                    .into_iter()
                    .filter(|one| one.mast == index)
                    .max_by(|a, b| a.cell.bandwidth_mhz.total_cmp(&b.cell.bandwidth_mhz));
                if let Some(one) = widest {
                    sum.0 += one.rsrp_dbm;
                    sum.1 += one.sinr_db;
                }
            }
        }
        let mean = |(rsrp, sinr): (f64, f64)| (rsrp / f64::from(TIMES), sinr / f64::from(TIMES));
        let best = wanted
            .iter()
            .map(|place| mean(sums[*place]))
            .max_by(|a, b| a.0.total_cmp(&b.0))
            .unwrap_or((-140.0, -20.0));
        TruePoint { azimuth_deg: f64::from(azimuth), rsrp_dbm: best.0, sinr_db: best.1 }
    });
    Truth { points: points.collect() }
}
