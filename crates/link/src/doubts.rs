//! What makes a range as wide as it is: shares of a variance, by what is not known.

use super::environment::{Arriving, Environment};
use super::field::PowerPoint;
use super::predict::CarrierPrediction;
use super::sums::Variances;
use serde::{Deserialize, Serialize};

/// What is not known.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Unknown {
    /// What walls or roof take.
    Walls,
    /// What mast and path bring to the house.
    Path,
    /// What this very place adds or takes.
    Place,
    /// What height brings.
    Height,
    /// The antenna's gain.
    Antenna,
    /// Other cells on the channel.
    Interference,
    /// What a carrier carries by a known signal: layers, coding, its width.
    Carrying,
    /// How much of that is left for the house: load, plan, line.
    Share,
}

/// One cause of a range's width.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Doubt {
    /// What is not known.
    pub unknown: Unknown,
    /// Share of the variance of the logarithm of the expected download, 0 to 1.
    pub share: f64,
}

/// What the power of a cell consists of.
pub(super) const OF_POWER: [Unknown; 5] =
    [Unknown::Walls, Unknown::Path, Unknown::Place, Unknown::Height, Unknown::Antenna];

impl Environment<'_> {
    /// Variance of a cell's power that is left, dB², by what it comes from: the covariance of each part of it with the whole, so that they add
    /// up. What is left between the two kinds of houses is the walls'.
    pub fn power_doubts(&self, there: &Arriving) -> [(Unknown, f64); 5] {
        let whole = &there.point;
        let between = there.power_dbm.spread.powi(2) - self.power.covariance_within(whole, whole);
        OF_POWER.map(|unknown| {
            let part = self.power.covariance_within(&PowerPoint::alone(whole, unknown), whole);
            (unknown, part + if unknown == Unknown::Walls { between } else { 0.0 })
        })
    }

    /// What makes the expected download's range as wide as it is, the most first; causes of less than a fiftieth are left out.
    pub(super) fn doubts(&self, carriers: &[CarrierPrediction], of_sum: Variances) -> Vec<Doubt> {
        let mut of_signal: Vec<(Unknown, f64)> =
            OF_POWER.into_iter().chain([Unknown::Interference]).map(|unknown| (unknown, 0.0)).collect();
        for one in carriers {
            let brings = one.cases[1].1.down_mbps.map_or(0.0, |range| range.likely);
            let by_power = self.power_doubts(&one.arriving);
            let power: f64 = by_power.iter().map(|(_, variance)| variance.max(0.0)).sum();
            let (of_power, of_interference) = one.received.variances();
            for (unknown, sum) in &mut of_signal {
                let own = by_power.iter().find(|(other, _)| other == unknown).map(|(_, own)| own.max(0.0));
                let variance = match own {
                    Some(own) if power > 0.0 => of_power * own / power,
                    Some(_) => 0.0,
                    None => of_interference,
                };
                *sum += brings * variance;
            }
        }
        let signal: f64 = of_signal.iter().map(|(_, sum)| sum).sum();
        let all = of_sum.signal + of_sum.carrying + of_sum.share;
        if all <= 0.0 {
            return Vec::new();
        }
        let of_signal =
            of_signal.into_iter().map(|(unknown, sum)| (unknown, of_sum.signal * sum / signal.max(1e-12)));
        let mut found: Vec<Doubt> = of_signal
            .chain([(Unknown::Carrying, of_sum.carrying), (Unknown::Share, of_sum.share)])
            .map(|(unknown, variance)| Doubt { unknown, share: variance / all })
            .filter(|one| one.share >= 0.02)
            .collect();
        found.sort_by(|a, b| b.share.total_cmp(&a.share));
        found
    }
}
