//! What the carriers of a setup carry together, as a range: in closed form what [`super::draws`] draws.

use super::antenna::AimAntenna;
use super::cells::{band_middles_mhz, mode_of};
use super::field::USUAL_SHARE_LN;
use super::gaussian::{Normal, Z_90};
use super::moments::{FIVE, Moments};
use super::receiver::{Branches, Offer, Receiver, gathered_db, sum_of, taken};
use open_beacon_domain::bands::{carrier_frequency_mhz, usual_widths_of};
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::capacity::possible::{AchievableRate, CarrierRates, Channel, SHARED_POWER_DB};
use open_beacon_domain::metrics::careful_sinr_db;
use open_beacon_domain::model::{BandName, Carrier, ConnectionMode, LinkAssumptions, SiteSettings};

/// Rates in one direction, Mbit/s.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rates {
    /// The cells ours alone.
    pub possible: Estimate,
    /// At this house.
    pub expected: Estimate,
    /// Of the logarithm of what is expected, by what it comes from.
    pub variances: Variances,
    /// The median of what is expected, wire aside, over what would come if every signal were as it is likeliest.
    pub median_over_likely: f64,
    /// Expected where all signals and interferences are their means.
    pub at_means_mbps: f64,
}

/// Parts of the variance of a rate's natural logarithm.
#[derive(Clone, Copy, Debug)]
pub(super) struct Variances {
    pub signal: f64,
    pub carrying: f64,
    pub share: f64,
}

impl Variances {
    /// Together.
    pub fn all(self) -> f64 {
        self.signal + self.carrying + self.share
    }
}

/// A carrier's rate by how lucky its signal is, Mbit/s: at so many steps of standard deviations.
type ByLuck = [f64; STEPS];
const STEPS: usize = 13;
/// The unluckiest step, and how far apart they are, in standard deviations.
const UNLUCKIEST: f64 = -3.0;
const STEP: f64 = 0.5;

fn at_luck(rates: &ByLuck, z: f64) -> f64 {
    let place = ((z - UNLUCKIEST) / STEP).clamp(0.0, (STEPS - 1) as f64);
    let below = (place as usize).min(STEPS - 2);
    let share = place - below as f64;
    rates[below] * (1.0 - share) + rates[below + 1] * share
}

/// The carrier as a pipe; where it says no width, as wide as is usual on its band.
pub(super) fn channel_of(receiver: &Receiver, branches: Branches, carrier: &Carrier) -> Option<Channel> {
    let usual_mhz = usual_widths_of(carrier).map(|widths| widths.likely_mhz);
    let wide = Carrier { bandwidth_mhz: usual_mhz.or(carrier.bandwidth_mhz), ..carrier.clone() };
    Channel::of(&wide, &receiver.link(branches))
}

/// A carrier as it is received, with what is doubted of it.
pub(super) struct Signal<'a> {
    /// With its rates, where the signal is as likely.
    pub likely: &'a (Carrier, CarrierRates),
    pub branches: Branches,
    pub rsrp_dbm: Moments,
    pub sinr_db: Moments,
    /// Power and signal-to-noise where all that they hang on is at its mean.
    pub at_means: (f64, f64),
    /// No receiver reads cleaner than this, dB.
    pub cleanest_sinr_db: f64,
    /// Share of the doubt's variance that all carriers have in common.
    pub common_share: f64,
}

/// All carriers together.
pub(super) struct Sums {
    /// Where every signal is as likely.
    pub likely: AchievableRate,
    /// Logarithm of the sums, down and up; `None` where nothing is carried.
    ln_mbps: [Option<Moments>; 2],
    /// The sums where all signals and interferences are their means, down and up, Mbit/s.
    at_means_mbps: [f64; 2],
}

/// A sum is taken to be no less than this, Mbit/s: its logarithm is looked at.
const LEAST_MBPS: f64 = 1e-4;

impl Sums {
    /// Of carriers that a receiver takes together, as many as it can.
    pub fn of(receiver: &Receiver, signals: &[Signal]) -> Self {
        let cases: Vec<_> = signals.iter().map(|one| one.likely.clone()).collect();
        let offers: Vec<Offer> = signals.iter().map(|one| Offer::likely(one.likely, receiver.mode)).collect();
        let taken = taken(&offers, receiver.aggregated());
        let pipes: Vec<(Option<Channel>, LinkAssumptions)> = signals
            .iter()
            .map(|one| (channel_of(receiver, one.branches, &one.likely.0), receiver.link(one.branches)))
            .collect();
        let down_mbps = |at: usize, sinr_db: f64| {
            let (one, (channel, link)) = (&signals[at], &pipes[at]);
            let data_db = sinr_db.min(one.cleanest_sinr_db) + gathered_db(one.branches.count);
            channel.map_or(0.0, |channel| channel.likely_down_mbps(data_db, link.layers))
        };
        let up_mbps = |at: usize, rsrp_dbm: f64, less_db: f64| {
            let (channel, link) = &pipes[at];
            channel.map_or(0.0, |channel| channel.likely_up_mbps(rsrp_dbm, link.transmit_power_dbm - less_db))
        };
        let less_db = if taken.up.len() > 1 { SHARED_POWER_DB } else { 0.0 };
        let of = |places: &[usize], rate_mbps: &dyn Fn(usize, f64) -> f64| {
            let by_luck = |at: &usize| {
                let rates = std::array::from_fn(|step| rate_mbps(*at, UNLUCKIEST + STEP * step as f64));
                (signals[*at].common_share, rates)
            };
            ln_of_sum(&places.iter().map(by_luck).collect::<Vec<_>>())
        };
        let at_means: Vec<Offer> = offers
            .iter()
            .enumerate()
            .map(|(at, offer)| {
                let (rsrp_dbm, sinr_db) = signals[at].at_means;
                Offer { down_mbps: down_mbps(at, sinr_db), up_mbps: up_mbps(at, rsrp_dbm, 0.0), ..*offer }
            })
            .collect();
        Self {
            likely: receiver.together(&cases),
            ln_mbps: [
                of(&taken.down, &|at, z| down_mbps(at, signals[at].sinr_db.at(z))),
                of(&taken.up, &|at, z| up_mbps(at, signals[at].rsrp_dbm.at(z), less_db)),
            ],
            at_means_mbps: sum_of(&at_means, receiver.aggregated(), |at| {
                up_mbps(at, signals[at].at_means.0, SHARED_POWER_DB)
            }),
        }
    }

    /// Possible in the median by the doubt of the signals alone, Mbit/s down and up; nothing where nothing is carried.
    fn median_mbps(&self) -> (f64, f64) {
        let [down, up] = self.ln_mbps.map(|ln_mbps| ln_mbps.map_or(0.0, |ln_mbps| ln_mbps.at(0.0).exp()));
        (down, up)
    }

    /// Rates in a direction (0 down, 1 up): doubts of the signal, of what a carrier carries (the likely case's own range), and of the
    /// share of it that is measured, each on its own, added as logarithms. Where the share was measured it holds what a carrier
    /// carries as well: that doubt counts only as far as the share's is still the prior's.
    pub fn rates(&self, way: usize, share: Normal, lan_cap_mbps: f64) -> Option<Rates> {
        let signal = self.ln_mbps[way]?;
        let likely = [self.likely.down_mbps, self.likely.up_mbps][way]?;
        let [below, above] = carrying(likely);
        let possible = signal.plus(Moments::of_halves(below, above));
        let carrying = Moments::of_halves(below, above).times(unlearned(share));
        let expected =
            signal.plus(carrying).plus(Moments::from(share)).plus(Moments::exactly(USUAL_SHARE_LN));
        let range = |of: &dyn Fn(f64) -> f64| {
            let at = |z: f64| of(z).exp();
            Estimate { low: at(-Z_90), likely: at(0.0), high: at(Z_90) }
        };
        let expected = range(&|z| expected.at(z));
        // More than seemed possible was measured: then it is.
        let seems = range(&|z| possible.at(z));
        let possible = Estimate {
            low: seems.low.max(expected.low),
            likely: seems.likely.max(expected.likely),
            high: seems.high.max(expected.high),
        };
        let at_likely_mbps = likely.likely * (USUAL_SHARE_LN + share.mean).exp();
        Some(Rates {
            median_over_likely: if at_likely_mbps > 0.0 { expected.likely / at_likely_mbps } else { 1.0 },
            variances: Variances {
                signal: signal.variance,
                carrying: carrying.variance,
                share: share.spread * share.spread,
            },
            possible,
            expected: expected.map(|mbps| mbps.min(lan_cap_mbps)),
            at_means_mbps: (self.at_means_mbps[way] * (USUAL_SHARE_LN + share.mean).exp()).min(lan_cap_mbps),
        })
    }
}

/// Spread of the logarithm of what carriers carry by a known signal, below and above.
pub(super) fn carrying(likely: Estimate) -> [f64; 2] {
    [off(likely.likely, likely.low), off(likely.high, likely.likely)].map(|far| far / Z_90)
}

/// How far the prior's doubt of a measured share is left, 0 to 1.
pub(super) fn unlearned(share: Normal) -> f64 {
    (share.spread / PRIOR_SHARE_SPREAD).min(1.0)
}

/// Spread of a share's logarithm before anything was measured: the kernel's parts together.
const PRIOR_SHARE_SPREAD: f64 = 0.594;

/// Natural logarithm of how far `far` is from `near`, 0 or more; bounded where one of them is nothing.
fn off(near: f64, far: f64) -> f64 {
    if near <= 0.0 || far <= 0.0 { FARTHEST } else { (near / far).ln().abs().min(FARTHEST) }
}

/// What a carrier carries by a known signal is within a tenth and ten times of the likely (common practice, no source): where a weak signal
/// carries next to nothing the doubt is the signal's own.
const FARTHEST: f64 = std::f64::consts::LN_10;

/// Moments of the logarithm of a sum of rates. Each rate's luck is partly common (its share of the variance), partly its own: by
/// quadrature over the common part, the rest added as variances, the logarithm to second order. `None` where nothing is carried.
fn ln_of_sum(rates: &[(f64, ByLuck)]) -> Option<Moments> {
    if rates.iter().all(|(_, by_luck)| by_luck[STEPS - 1] <= 0.0) {
        return None;
    }
    let with = |common: f64| {
        let own = rates.iter().map(|(share, by_luck)| {
            let (together, alone) = (share.sqrt(), (1.0 - share).max(0.0).sqrt());
            Moments::of_normal(|z| at_luck(by_luck, together * common + alone * z))
        });
        let sum = own.reduce(Moments::plus).unwrap_or_default();
        let mean = sum.mean.max(LEAST_MBPS);
        let relative = sum.variance / (mean * mean);
        // Of a value whose logarithm is nearly normal.
        let variance = relative.ln_1p();
        Moments { mean: mean.ln() - 0.5 * variance, variance, third: 0.0 }
    };
    Some(Moments::of_mixture(FIVE.map(|(z, weight)| (weight, with(z)))))
}

/// A careful reading is taken to be off by this in power and in signal-to-noise, dB (common practice, no source).
const READ_DB: (f64, f64) = (1.0, 2.0);

/// What an observation's carriers could carry by the rules of a prediction, Mbit/s down and up: as a prediction doubts what it foretells, so
/// is doubted what was read. Else a rate that bends with the signal would come out otherwise for what was measured there.
pub(super) fn possible_at(
    carriers: &[Carrier],
    mode: ConnectionMode,
    antenna: &AimAntenna,
    settings: &SiteSettings,
    cleanest_sinr_db: f64,
) -> (f64, f64) {
    let receiver = Receiver::new(*antenna, settings, mode_of(mode, carriers.iter()), 4);
    let received: Vec<((Carrier, CarrierRates), Branches)> = carriers
        .iter()
        .filter_map(|carrier| {
            let band = BandName { technology: carrier.technology, band: carrier.band? };
            let (middle_mhz, _) = band_middles_mhz(band)?;
            let frequency_mhz = carrier_frequency_mhz(carrier).unwrap_or(middle_mhz);
            let branches = receiver.branches(band, frequency_mhz);
            let rates = receiver.rates(carrier, branches);
            (branches.layers > 0).then(|| ((carrier.clone(), rates), branches))
        })
        .collect();
    // As good as nothing.
    let never = -200.0;
    let signals: Vec<Signal> = received
        .iter()
        .map(|(likely, branches)| {
            let at_means = (likely.0.rsrp_dbm.unwrap_or(never), careful_sinr_db(&likely.0).unwrap_or(never));
            let read = |mean: f64, spread: f64| Moments::from(Normal { mean, spread });
            Signal {
                likely,
                branches: *branches,
                rsrp_dbm: read(at_means.0, READ_DB.0),
                sinr_db: read(at_means.1, READ_DB.1),
                at_means,
                cleanest_sinr_db,
                common_share: 0.0,
            }
        })
        .collect();
    Sums::of(&receiver, &signals).median_mbps()
}
