//! The shape that a turned antenna draws: 12 (angle/beamwidth)² dB below its peak, floored by what comes in beside and
//! behind (TR 38.901 table 7.3-1, the pattern of `antenna::pattern` seen from the antenna).

use crate::geo::turn_deg;

/// A beam as a fit knows it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Beam {
    /// Half-power beamwidth, degrees.
    pub width_deg: f64,
    /// How far below the peak the floor lies, dB.
    pub floor_db: f64,
}

impl Beam {
    /// Below the peak at an angle off it, dB, 0 or less.
    ///
    /// ```
    /// use open_beacon_core::aim::beam::Beam;
    /// // Closed form: 60 degrees wide, 10 degrees off: 12 (10/60)² = 0.33 dB.
    /// assert!((Beam { width_deg: 60.0, floor_db: 20.0 }.below_db(10.0) + 0.3333).abs() < 1e-3);
    /// ```
    #[inline]
    pub fn below_db(&self, off_deg: f64) -> f64 {
        let share = off_deg / self.width_deg;
        -(12.0 * share * share).min(self.floor_db)
    }

    /// The same for two bearings on the circle.
    #[inline]
    pub fn between_db(&self, aim_deg: f64, at_deg: f64) -> f64 {
        self.below_db(turn_deg(aim_deg, at_deg))
    }
}
