//! What lies between a mast and the antenna, and how busy the cells are. All of it follows from seed and time.

use crate::world::{Cell, Mast};

/// A number in 0..1 that follows from its inputs (SplitMix64's mixing steps).
pub(crate) fn hashed(seed: u64, a: u64, b: u64) -> f64 {
    let mut z = seed ^ a.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ b.wrapping_mul(0xC2B2_AE3D_27D4_EB4F);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
}

/// Roughly normal with unit spread: the sum of twelve uniform numbers less six.
fn normal(seed: u64, a: u64, b: u64) -> f64 {
    (0..12).map(|k| hashed(seed.wrapping_add(k), a, b)).sum::<f64>() - 6.0
}

/// Smooth noise of unit spread over time, with values a `period_s` apart joined by half cosines.
pub fn drift(seed: u64, stream: u64, at_s: f64, period_s: f64) -> f64 {
    let place = at_s / period_s;
    let step = place.floor();
    let blend = (1.0 - ((place - step) * std::f64::consts::PI).cos()) / 2.0;
    let at = |step: f64| normal(seed, stream, step as i64 as u64);
    // Between two independent values the spread shrinks; this keeps it at one.
    let spread = (blend * blend + (1.0 - blend) * (1.0 - blend)).sqrt();
    (at(step) * (1.0 - blend) + at(step + 1.0) * blend) / spread
}

/// Free-space loss, dB, distance in m.
fn free_space_db(distance_m: f64, frequency_mhz: f64) -> f64 {
    20.0 * (distance_m / 1000.0).log10() + 20.0 * frequency_mhz.log10() + 32.45
}

/// Where and how the antenna stands.
#[derive(Clone, Debug)]
pub struct Stand {
    pub east_m: f64,
    pub north_m: f64,
    pub height_m: f64,
    pub cover: Cover,
}

/// What is around the antenna.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Cover {
    Indoor,
    Window,
    Attic,
    /// Outside, with the house behind it.
    AtHouse,
    /// Outside, free all round.
    Free,
}

impl Cover {
    /// Loss through wall, glass or roof, dB.
    fn loss_db(self, frequency_mhz: f64) -> f64 {
        let per_octave = (frequency_mhz / 800.0).log2();
        match self {
            Self::Indoor => 9.0 + 4.5 * per_octave,
            Self::Window => 5.0 + 3.0 * per_octave,
            Self::Attic => 4.0 + 2.5 * per_octave,
            Self::AtHouse | Self::Free => 0.0,
        }
    }
}

/// Gain from a mast's cell to an isotropic antenna on the stand at a time, dB (a negative number).
pub fn path_gain_db(seed: u64, mast: &Mast, cell: &Cell, stand: &Stand, at_s: f64) -> f64 {
    let distance_m = mast.distance_m(stand.east_m, stand.north_m).max(10.0);
    let place =
        (stand.east_m / 4.0).round() as i64 as u64 ^ ((stand.north_m / 4.0).round() as i64 as u64) << 20;
    let shadow = 1.5 * normal(seed, place ^ u64::from(cell.pci), u64::from(cell.band));
    let height = 9.0 * (stand.height_m.max(0.5) / 6.0).log10();
    let stream = u64::from(cell.pci) << 16 | u64::from(cell.band);
    let fading = 1.1 * drift(seed, stream, at_s, 600.0)
        + 0.7 * drift(seed ^ 1, stream, at_s, 17.0)
        + 0.5 * drift(seed ^ 2, stream, at_s, 2.0);
    -(free_space_db(distance_m, cell.frequency_mhz) + cell.excess_db)
        - stand.cover.loss_db(cell.frequency_mhz)
        - house_screen_db(mast, stand)
        + height
        + shadow
        + fading
}

/// The house hides what lies behind it from an antenna on its wall or gable.
fn house_screen_db(mast: &Mast, stand: &Stand) -> f64 {
    if stand.cover != Cover::AtHouse || stand.east_m.hypot(stand.north_m) < 1.0 {
        return 0.0;
    }
    let outward_deg = stand.east_m.atan2(stand.north_m).to_degrees();
    let off = (mast.bearing_deg(stand.east_m, stand.north_m) - outward_deg).to_radians().cos();
    if off < -0.2 { 9.0 } else { 0.0 }
}

/// Share of a cell that others use, 0..1: quiet at night, a hump by day, a peak in the evening, with jitter.
pub fn load(seed: u64, cell: &Cell, at_s: f64, hour: f64) -> f64 {
    let hump = |centre: f64, width: f64| (-((hour - centre) / width).powi(2)).exp();
    let busy = (0.35 * hump(12.5, 4.0) + hump(cell.busiest_hour, 2.2)).min(1.0);
    let (low, high) = cell.load;
    let stream = u64::from(cell.pci) << 16 | u64::from(cell.band);
    let jitter = 0.09 * drift(seed ^ 3, stream, at_s, 45.0) + 0.05 * drift(seed ^ 4, stream, at_s, 4.0);
    (low + (high - low) * busy + jitter).clamp(0.03, 0.95)
}
