//! A world to aim in, made by another pattern than the fit's own: an array factor with side lobes, nulls and ripple.

use open_beacon_core::aim::sweep::SweepPoint;
use open_beacon_core::geo::turn_deg;

/// Numbers from 0 to 1, the same in every run.
pub struct Dice(fastrand::Rng);

impl Dice {
    pub fn seeded(seed: u64) -> Self {
        Self(fastrand::Rng::with_seed(seed))
    }

    pub fn next(&mut self) -> f64 {
        self.0.f64()
    }

    pub fn normal(&mut self) -> f64 {
        (-2.0 * (1.0 - self.next()).ln()).sqrt() * (std::f64::consts::TAU * self.next()).cos()
    }
}

/// A uniform line source: 20 lg |sinc|, first side lobes 13 dB down, nulls filled by what is scattered, a back, and a
/// ripple of the mast it hangs on.
pub struct Real {
    pub width_deg: f64,
    pub ripple_db: f64,
    pub ripple_phase: f64,
}

impl Real {
    pub fn gain_db(&self, off_deg: f64) -> f64 {
        // Half power of sinc² lies at 0.4429 of the first null's distance.
        let u = 2.0 * 0.4429 * off_deg / self.width_deg;
        let x = std::f64::consts::PI * u;
        let field = if x.abs() < 1e-6 { 1.0 } else { x.sin() / x };
        let front = if off_deg.abs() < 110.0 { field * field } else { 0.0 };
        let ripple = self.ripple_db * (off_deg.to_radians() * 5.0 + self.ripple_phase).cos();
        10.0 * (front + 0.006).log10() + ripple
    }
}

pub struct World {
    pub truth_deg: f64,
    pub real: Real,
    /// Bearing and power above noise of interferers with the beam on them, dB.
    pub interferers: Vec<(f64, f64)>,
    pub noise_dbm: f64,
    pub level_dbm: f64,
}

impl World {
    pub fn point(&self, at_deg: f64, spread_db: f64, dice: &mut Dice) -> SweepPoint {
        let rsrp_dbm = self.rsrp_dbm(at_deg) + spread_db * dice.normal();
        let disturbance = self.disturbance_dbm(at_deg) + 0.7 * dice.normal();
        SweepPoint { angle_deg: at_deg, rsrp_dbm, sinr_db: Some(rsrp_dbm - disturbance), samples: 4 }
    }

    pub fn rsrp_dbm(&self, at_deg: f64) -> f64 {
        self.level_dbm + self.real.gain_db(turn_deg(self.truth_deg, at_deg))
    }

    pub fn disturbance_dbm(&self, at_deg: f64) -> f64 {
        let one = |(bearing, above): &(f64, f64)| {
            10f64.powf((above + self.real.gain_db(turn_deg(*bearing, at_deg))) / 10.0)
        };
        let own: f64 = self.interferers.iter().map(one).sum();
        self.noise_dbm + 10.0 * (1.0 + own).log10()
    }

    /// By trying every tenth of a degree.
    pub fn cleanest_deg(&self) -> f64 {
        let sinr = |tenth: &i32| {
            let at = self.truth_deg + f64::from(*tenth) / 10.0;
            self.rsrp_dbm(at) - self.disturbance_dbm(at)
        };
        let best = (-700..=700).max_by(|a, b| sinr(a).total_cmp(&sinr(b))).unwrap();
        self.truth_deg + f64::from(best) / 10.0
    }
}
