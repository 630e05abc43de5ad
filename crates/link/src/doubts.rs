//! What makes a range as wide as it is: shares of a variance, by what is not known.

use super::environment::{Arriving, Environment};
pub use super::field::NotKnown;
use super::field::{PowerPoint, Quantity};
use super::sums::Variances;
use serde::{Deserialize, Serialize};

/// One cause of a range's width.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RangeCause {
    /// What is not known.
    pub unknown: NotKnown,
    /// Share of the variance of the logarithm of the expected download, 0 to 1.
    pub share: f64,
}

/// A carrier of a sum.
pub(super) struct Brought<'a> {
    pub arriving: &'a Arriving,
    /// Where its signal is as likely.
    pub down_mbps: f64,
    /// Variance of its signal-to-noise, dB²: as far as power is doubted, and interference.
    pub of_power_and_interference: (f64, f64),
}

/// Weight of a carrier that brings nothing where its signal is as likely, Mbit/s: where none brings anything their signals are still what
/// makes the range wide.
const LEAST_MBPS: f64 = 1e-6;

/// What the power of a cell consists of.
pub(super) const OF_POWER: [NotKnown; 5] =
    [NotKnown::Walls, NotKnown::Path, NotKnown::Place, NotKnown::Height, NotKnown::Antenna];

impl Environment<'_> {
    /// Variance of a cell's power that is left, dB², by what it comes from: the covariance of each part of it with the whole, so that they add
    /// up. What is left between the two kinds of houses is the walls'.
    pub fn power_doubts(&self, there: &Arriving) -> [(NotKnown, f64); 5] {
        let whole = &there.point;
        let parts = OF_POWER.map(|unknown| PowerPoint::alone(whole, unknown));
        let points: Vec<Quantity> = parts.iter().chain([whole]).map(Quantity::from).collect();
        let covariances = self.known.covariances_within(&points.iter().collect::<Vec<_>>(), &whole.into());
        let between = there.power_dbm.spread.powi(2) - covariances[OF_POWER.len()];
        std::array::from_fn(|at| {
            let between = if OF_POWER[at] == NotKnown::Walls { between } else { 0.0 };
            (OF_POWER[at], covariances[at] + between)
        })
    }

    /// What makes the expected download's range as wide as it is, the most first; causes of less than a fiftieth are left out.
    pub(super) fn doubts(&self, carriers: &[Brought], of_sum: Variances) -> Vec<RangeCause> {
        let mut of_signal: Vec<(NotKnown, f64)> =
            OF_POWER.into_iter().chain([NotKnown::Interference]).map(|unknown| (unknown, 0.0)).collect();
        for one in carriers {
            let by_power = self.power_doubts(one.arriving);
            let power: f64 = by_power.iter().map(|(_, variance)| variance.max(0.0)).sum();
            let (of_power, of_interference) = one.of_power_and_interference;
            for (unknown, sum) in &mut of_signal {
                let own = by_power.iter().find(|(other, _)| other == unknown).map(|(_, own)| own.max(0.0));
                let variance = match own {
                    Some(own) if power > 0.0 => of_power * own / power,
                    Some(_) => 0.0,
                    None => of_interference,
                };
                *sum += one.down_mbps.max(LEAST_MBPS) * variance;
            }
        }
        let signal: f64 = of_signal.iter().map(|(_, sum)| sum).sum();
        let all = of_sum.all();
        if all <= 0.0 {
            return Vec::new();
        }
        let of_signal =
            of_signal.into_iter().map(|(unknown, sum)| (unknown, of_sum.signal * sum / signal.max(1e-12)));
        let mut found: Vec<RangeCause> = of_signal
            .chain([(NotKnown::Carrying, of_sum.carrying), (NotKnown::Share, of_sum.share)])
            .map(|(unknown, variance)| RangeCause { unknown, share: variance / all })
            .filter(|one| one.share >= 0.02)
            .collect();
        found.sort_by(|a, b| b.share.total_cmp(&a.share));
        found
    }
}
