//! Masts for band trials: which choice is best hides in the seed.

use crate::channel::hashed;
use crate::device::{Device, Holding};
use crate::lock::Lock;
use crate::radio::{Pose, Rates};
use crate::world::{B3, B7, B20, B28, Cell, Kind, Mast, N28, N78, cell};

/// A mast with two to four LTE and one or two NR bands, each with a signal, a load and a busiest hour of its own.
pub fn crowd(seed: u64) -> Vec<Mast> {
    let one = |at: u64, kind: &Kind, pci: u16| -> Cell {
        let of = |stream: u64| hashed(seed ^ 0xBA4D, stream, at);
        let low = 0.08 + 0.25 * of(1);
        let made = cell(kind, pci, 0x1_2000 + at, 9.0 + 16.0 * of(2), (low, low + 0.55 * of(3)));
        let made = made.busiest_at(if of(4) < 0.3 { 12.5 } else { 20.5 });
        if of(5) < 0.25 { made.non_standalone() } else { made }
    };
    let take = |stream: u64| hashed(seed ^ 0xC0DE, stream, 0);
    // Not every anchor carries the wide NR carrier.
    let wide = one(2, &N78, 33);
    let wide = if take(4) < 0.3 { wide.on_anchors(&[3, 7]) } else { wide };
    let mut cells = vec![one(0, &B3, 31), one(1, &B20, 32), wide];
    if take(1) < 0.5 {
        cells.push(one(3, &B7, 34));
    }
    if take(2) < 0.4 {
        cells.push(one(4, &B28, 35));
    }
    if take(3) < 0.6 {
        cells.push(one(5, &N28, 36));
    }
    vec![Mast { name: "Torvhaug", east_m: 3100.0, north_m: 2200.0, cells }]
}

/// A gateway with an antenna on the roof that looks at that mast.
pub fn gateway(seed: u64) -> Device {
    let mut device = Device::among(seed, crowd(seed), Holding { hysteresis_db: 4.0, serving: Some(0) });
    device.pose = Pose {
        height_above_ground_m: 7.0,
        mount: "roof_mast".into(),
        antenna: "external".into(),
        azimuth_deg: 54.0,
        ..Pose::default()
    };
    device
}

/// What a lock truly brings at an hour: rates at times over an hour from `from_s`, for days on end.
pub fn truth(device: &Device, lock: &Lock, from_s: f64, days: u32) -> Vec<Rates> {
    let mut device = device.clone();
    device.set_lock(lock.clone(), from_s - 3600.0, 1.0);
    let times =
        (0..days).flat_map(|day| (0..40).map(move |at| f64::from(day) * 86_400.0 + f64::from(at) * 90.0));
    times.map(|offset| device.rates(from_s + offset)).collect()
}
