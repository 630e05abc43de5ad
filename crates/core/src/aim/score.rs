//! How well a rehearsed sweep went, held against a truth that the simulator knew all along.

use crate::geo::turn_deg;
use crate::model::AimCriterion;
use serde::{Deserialize, Serialize};

/// What is heard at one bearing, noise averaged out.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TruePoint {
    /// Degrees from true north.
    pub azimuth_deg: f64,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: f64,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: f64,
}

/// The truth round the compass.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Truth {
    /// Points, in order.
    pub points: Vec<TruePoint>,
}

/// What a criterion looks at, dB: the signal, or how clean it is. Speed follows the cleanness.
fn worth(point: &TruePoint, criterion: AimCriterion) -> f64 {
    match criterion {
        AimCriterion::Signal => point.rsrp_dbm,
        AimCriterion::Quality | AimCriterion::Speed => point.sinr_db,
    }
}

impl Truth {
    /// The best bearing by a criterion.
    pub fn best(&self, criterion: AimCriterion) -> Option<TruePoint> {
        self.points.iter().copied().max_by(|a, b| worth(a, criterion).total_cmp(&worth(b, criterion)))
    }

    fn at(&self, azimuth_deg: f64) -> Option<TruePoint> {
        let off = |point: &TruePoint| turn_deg(point.azimuth_deg, azimuth_deg).abs();
        self.points.iter().copied().min_by(|a, b| off(a).total_cmp(&off(b)))
    }
}

/// The score of a rehearsed sweep.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Score {
    /// The best angle, degrees.
    pub best_deg: f64,
    /// Angle that was set, degrees.
    pub set_deg: f64,
    /// How far off it was set, degrees.
    pub degrees_off: f64,
    /// What the criterion looks at, lost against the best bearing, dB.
    pub db_lost: f64,
    /// Time it took, minutes.
    pub minutes: f64,
    /// Points, in order.
    pub points: usize,
}

/// Holds what the antenna was set to against the truth; `None` for a truth without points.
pub fn score(
    truth: &Truth,
    criterion: AimCriterion,
    set_deg: f64,
    minutes: f64,
    points: usize,
) -> Option<Score> {
    let (best, there) = (truth.best(criterion)?, truth.at(set_deg)?);
    Some(Score {
        best_deg: best.azimuth_deg,
        set_deg,
        degrees_off: turn_deg(best.azimuth_deg, set_deg).abs(),
        db_lost: worth(&best, criterion) - worth(&there, criterion),
        minutes,
        points,
    })
}

/// The score in a sentence or two.
pub fn score_words(score: &Score) -> String {
    let Score { best_deg, degrees_off, db_lost, minutes, points, .. } = score;
    let praise = match *db_lost {
        lost if lost < 0.5 => "As good as it gets",
        lost if lost < 1.5 => "Well aimed",
        lost if lost < 3.0 => "Usable, but more was to be had",
        _ => "Worth another try",
    };
    format!(
        "{praise}: the best was at {best_deg:.0}°\u{202f}T, you set it {degrees_off:.0}° off and lost {db_lost:.1}\u{202f}dB, \
         in {points} points and {minutes:.0} minutes."
    )
}
