//! Pattern of a directional antenna by its beamwidths: 3GPP TR 36.814 table A.2.1.1-2, TR 38.901 table 7.3-1:
//! attenuation 12 (angle/beamwidth)², capped at the front-to-back ratio; both planes added, capped once more.

use crate::geo::turn_deg;
use crate::metrics::{db_to_linear, linear_to_db};
use crate::model::PatternPoint;
use serde::{Deserialize, Serialize};

/// What a catalogue says of an antenna.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pattern {
    /// dBi, at the middle of the beam.
    pub gain_dbi: f64,
    /// Half-power beamwidth in azimuth, degrees, 0..=360; 360 for an omni.
    pub beamwidth_azimuth_deg: f64,
    /// Half-power beamwidth in elevation, degrees.
    pub beamwidth_elevation_deg: f64,
    /// dB
    pub front_to_back_db: f64,
}

impl Pattern {
    /// Gain towards a direction, dBi: `off_azimuth_deg` and `off_elevation_deg` from the middle of the beam.
    ///
    /// ```
    /// use open_beacon_domain::antenna::pattern::Pattern;
    /// let panel = Pattern { gain_dbi: 10.0, beamwidth_azimuth_deg: 60.0, beamwidth_elevation_deg: 30.0, front_to_back_db: 20.0 };
    /// // Closed form: 60 degrees wide, 10 degrees off: 12 (10/60)² = 0.33 dB; half the beamwidth off: 3 dB.
    /// assert!((panel.gain_dbi(10.0, 0.0) - 9.667).abs() < 1e-3);
    /// assert!((panel.gain_dbi(30.0, 0.0) - 7.0).abs() < 1e-12);
    /// ```
    pub fn gain_dbi(&self, off_azimuth_deg: f64, off_elevation_deg: f64) -> f64 {
        let cut = |off_deg: f64, width_deg: f64| {
            if width_deg >= 360.0 {
                0.0
            } else {
                (12.0 * (off_deg / width_deg).powi(2)).min(self.front_to_back_db)
            }
        };
        let azimuth = cut(turn_deg(0.0, off_azimuth_deg), self.beamwidth_azimuth_deg);
        let elevation = cut(off_elevation_deg, self.beamwidth_elevation_deg);
        self.gain_dbi - (azimuth + elevation).min(self.front_to_back_db)
    }

    /// Directivity that the beamwidths allow, dBi: 10 lg (41253 / (θ φ)), the solid angle of the sphere in square
    /// degrees over that of the beam. A catalogue gain far above it is a mistake or a wish.
    pub fn directivity_dbi(&self) -> f64 {
        10.0 * (41_253.0 / (self.beamwidth_azimuth_deg * self.beamwidth_elevation_deg)).log10()
    }
}

/// Gain below the middle of the beam by a measured pattern, dB: straight between its points, round the circle.
/// `None` for a pattern without points.
pub fn measured_below_db(points: &[PatternPoint], off_deg: f64) -> Option<f64> {
    let off_deg = turn_deg(0.0, off_deg);
    let at = |point: &PatternPoint| turn_deg(0.0, point.off_deg);
    let mut sorted: Vec<(f64, f64)> = points.iter().map(|point| (at(point), point.below_db)).collect();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (first, last) = (*sorted.first()?, *sorted.last()?);
    // The circle is closed by its first and last point, a turn on.
    sorted.insert(0, (last.0 - 360.0, last.1));
    sorted.push((first.0 + 360.0, first.1));
    let above = sorted.iter().position(|(angle, _)| *angle >= off_deg)?.max(1);
    let ((a, low), (b, high)) = (sorted[above - 1], sorted[above]);
    let share = if b > a { (off_deg - a) / (b - a) } else { 0.0 };
    Some(low + (high - low) * share)
}

/// How much less is heard of interferers than of what the beam's middle looks at, dB, all of equal strength:
/// −10 lg of the mean of the pattern's gains. `below_db`: attenuation by angle off the middle. `off_deg`: where the
/// interferers stand; none: all round.
pub fn rejection_db(below_db: impl Fn(f64) -> f64, off_deg: &[f64]) -> f64 {
    let all_round: Vec<f64> = (0..72).map(|step| f64::from(step) * 5.0 - 180.0).collect();
    let angles = if off_deg.is_empty() { &all_round } else { off_deg };
    let mean = angles.iter().map(|angle| db_to_linear(-below_db(*angle))).sum::<f64>() / angles.len() as f64;
    -linear_to_db(mean)
}
