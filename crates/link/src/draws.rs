//! What setups would do, drawn: everything that is not known of the house is drawn at once, as often as is asked, and each setup's signal,
//! interference and rates follow from it. The model is that of [`super::predict`], which works it out in closed form setup by setup; draws
//! know besides what setups have in common, so that they tell how likely it is that one beats another.
//!
//! The same seed draws the same. Draws come in pairs of opposite sign (antithetic variates: Hammersley and Morton 1956).

use super::environment::{Arriving, Environment, USUAL_SHARE, share_point};
use super::field::{Quantity, SharePoint};
use super::gaussian::{Joint, Normal};
use super::interference::Disturbers;
use super::landscape::WhatIf;
use super::predict::{CarrierPrediction, LinkPrediction, LinkSetup};
use super::received::sinr_db;
use super::receiver::{Offer, gathered_db, sum_of};
use super::sums::{carrying, channel_of, unlearned};
use nalgebra::DMatrix;
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::capacity::possible::{Channel, SHARED_POWER_DB, carries_uplink};
use open_beacon_domain::model::Technology;

/// Draws that rank setups: their chance of being best is off by 1.5 % (standard deviation) at the most.
pub const USUAL_DRAWS: usize = 1000;

/// One setup, drawn; all lists are as long as was asked, and a place in them is one and the same draw for all setups.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct SetupDraws {
    /// Carriers in the prediction's order.
    pub carriers: Vec<CarrierDraws>,
    /// The cells ours alone, Mbit/s.
    pub possible_down_mbps: Vec<f64>,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Vec<f64>,
    /// Expected, Mbit/s.
    pub down_mbps: Vec<f64>,
    /// Expected upload, Mbit/s.
    pub up_mbps: Vec<f64>,
}

/// One carrier, drawn.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CarrierDraws {
    /// Signal power (RSRP), dBm.
    pub rsrp_dbm: Vec<f64>,
    /// Signal-to-noise (SINR), dB.
    pub sinr_db: Vec<f64>,
}

/// The 10, 50 and 90 % quantiles of draws; nothing of none.
pub fn range(drawn: &[f64]) -> Option<Estimate> {
    let mut sorted = drawn.to_vec();
    sorted.sort_by(f64::total_cmp);
    let last = sorted.len().checked_sub(1)? as f64;
    let at = |share: f64| sorted[(share * last).round() as usize];
    Some(Estimate { low: at(0.1), likely: at(0.5), high: at(0.9) })
}

/// How often no other of several setups has clearly more of what was drawn of them, 0 to 1 each: more by what counts as alike.
///
/// ```
/// use open_beacon_link::draws::chances_of_best;
/// let drawn = [vec![3.0, 1.0, 2.0, 5.0], vec![1.0, 2.0, 2.0, 4.5]];
/// assert_eq!(chances_of_best(&drawn, 0.0), [0.75, 0.5]);
/// assert_eq!(chances_of_best(&drawn, 1.0), [1.0, 0.75]);
/// ```
pub fn chances_of_best(drawn: &[Vec<f64>], alike: f64) -> Vec<f64> {
    let count = drawn.iter().map(Vec::len).min().unwrap_or(0);
    let mut best = vec![0.0; drawn.len()];
    for draw in 0..count {
        let most = drawn.iter().map(|one| one[draw]).fold(f64::NEG_INFINITY, f64::max);
        for at in (0..drawn.len()).filter(|at| drawn[*at][draw] >= most - alike) {
            best[at] += 1.0 / count as f64;
        }
    }
    best
}

/// Draws what setups would do, together. `asked`: each setup with its prediction, which says what serves it and where it points.
/// `what_if`: as the predictions were made.
pub fn draws(
    env: &Environment,
    asked: &[(&LinkSetup, &LinkPrediction)],
    what_if: WhatIf,
    count: usize,
    seed: u64,
) -> Vec<SetupDraws> {
    let mut points = Points::default();
    let setups: Vec<Setup> =
        asked.iter().map(|(setup, found)| Setup::of(env, setup, found, what_if, &mut points)).collect();
    let mut dice = fastrand::Rng::with_seed(seed);
    let mut drawn = vec![SetupDraws::default(); setups.len()];
    for (setup, drawn) in setups.iter().zip(&mut drawn) {
        drawn.carriers = vec![CarrierDraws::default(); setup.carriers.len()];
    }
    let shares = points.shares.iter().collect::<Vec<_>>();
    let shares = [env.down_share.joint(&shares), env.up_share.joint(&shares)];
    let asked = points.known.iter().collect::<Vec<_>>();
    let (mut so_far, mut taken) = (0.0, 0);
    for (weight, kernel, known) in env.known.each_joint(&asked) {
        so_far += weight;
        let upto = (so_far * count as f64).round() as usize;
        let here = upto.saturating_sub(taken);
        taken += here;
        let known = drawn_of(&known, here, &mut dice);
        let shares = shares.each_ref().map(|share| drawn_of(share, here, &mut dice));
        let carrying = normals(2, here, &mut dice);
        for draw in 0..here {
            let one = Draw {
                building: kernel.building,
                known: column(&known, draw),
                shares: shares.each_ref().map(|share| column(share, draw)),
                carrying: [carrying[(0, draw)], carrying[(1, draw)]],
            };
            for (setup, drawn) in setups.iter().zip(&mut drawn) {
                setup.draw(&one, drawn);
            }
        }
    }
    drawn
}

fn column(drawn: &DMatrix<f64>, at: usize) -> &[f64] {
    &drawn.as_slice()[at * drawn.nrows()..][..drawn.nrows()]
}

/// Standard normal numbers, one draw a column; a column and the next are each other's opposites. By Box and Muller (1958).
fn normals(rows: usize, columns: usize, dice: &mut fastrand::Rng) -> DMatrix<f64> {
    let mut made = DMatrix::zeros(rows, columns);
    let mut spare = None;
    for column in (0..columns).step_by(2) {
        for row in 0..rows {
            let one = spare.take().unwrap_or_else(|| {
                let radius = (-2.0 * (1.0 - dice.f64()).ln()).sqrt();
                let (sine, cosine) = (std::f64::consts::TAU * dice.f64()).sin_cos();
                spare = Some(radius * sine);
                radius * cosine
            });
            made[(row, column)] = one;
            if column + 1 < columns {
                made[(row, column + 1)] = -one;
            }
        }
    }
    made
}

/// Draws of values that hang together, one a column.
fn drawn_of(joint: &Joint, columns: usize, dice: &mut fastrand::Rng) -> DMatrix<f64> {
    let mut made = &joint.lower * normals(joint.mean.len(), columns, dice);
    for mut column in made.column_iter_mut() {
        column += &joint.mean;
    }
    made
}

/// Everything that is drawn.
#[derive(Default)]
struct Points {
    known: Vec<Quantity>,
    shares: Vec<SharePoint>,
}

/// Adds to a list; answers the place.
fn placed<T>(list: &mut Vec<T>, one: T) -> usize {
    list.push(one);
    list.len() - 1
}

/// One draw of everything.
struct Draw<'a> {
    building: usize,
    known: &'a [f64],
    shares: [&'a [f64]; 2],
    /// What carriers carry where the signal is known, down and up, in standard deviations.
    carrying: [f64; 2],
}

/// A setup, ready to be drawn.
struct Setup {
    carriers: Vec<Ready>,
    aggregated: usize,
    /// Of those that arrive, the place of each one's power among what is drawn, and what is computed for it, dBm.
    power: Vec<Option<(usize, f64)>>,
    wall: usize,
    share: usize,
    /// Spread of the logarithm of what the carriers carry by the likely signal, below and above, down and up.
    carrying: [[f64; 2]; 2],
    /// How far that counts beside the measured share, 0 to 1, down and up.
    unlearned: [f64; 2],
    lan_cap_mbps: f64,
}

/// A carrier, ready to be drawn.
struct Ready {
    /// Place among those that arrive.
    at: usize,
    interference: usize,
    disturbers: Disturbers,
    gain_dbi: f64,
    noise_dbm: f64,
    cleanest_sinr_db: f64,
    /// For each kind of house, dB.
    walls_db: [Normal; 2],
    gathered_db: f64,
    layers: u8,
    channel: Option<Channel>,
    transmit_power_dbm: f64,
    technology: Technology,
    carries_uplink: bool,
    /// Whether it is in the sums.
    counts: bool,
}

impl Setup {
    fn of(
        env: &Environment,
        setup: &LinkSetup,
        found: &LinkPrediction,
        what_if: WhatIf,
        points: &mut Points,
    ) -> Self {
        let arriving = env.arriving(&setup.location, &setup.antenna, what_if);
        let mut power: Vec<Option<(usize, f64)>> = vec![None; arriving.len()];
        let ready = |one| Ready::of(env, setup, found, one, &arriving, points);
        let carriers: Vec<Ready> = found.carriers.iter().filter_map(ready).collect();
        let needed = |one: &Ready| one.disturbers.listed().chain([one.at]).collect::<Vec<_>>();
        for at in carriers.iter().flat_map(needed) {
            let there = &arriving[at];
            power[at].get_or_insert_with(|| {
                (placed(&mut points.known, Quantity::from(&there.point)), there.computed_dbm)
            });
        }
        let wall = carriers.first().map_or(0, |one| {
            let point = arriving[one.at].point.wall_alone();
            placed(&mut points.known, Quantity::Power(point))
        });
        let share = share_point(&setup.location, &setup.antenna, found.aim, &setup.lock);
        let unlearned = [env.down_share.at(&share), env.up_share.at(&share)].map(unlearned);
        Self {
            carriers,
            aggregated: found.aggregated(),
            power,
            wall,
            share: placed(&mut points.shares, share),
            carrying: found.at_likely_signal.map(|range| range.map_or([0.0; 2], carrying)),
            unlearned,
            lan_cap_mbps: found.lan_cap_mbps,
        }
    }

    fn draw(&self, one: &Draw, drawn: &mut SetupDraws) {
        let power_dbm = |at: usize| self.power[at].map_or(f64::NEG_INFINITY, |(of, dbm)| dbm + one.known[of]);
        let thicker = -one.known[self.wall];
        let mut offers = Vec::with_capacity(self.carriers.len());
        for (carrier, kept) in self.carriers.iter().zip(&mut drawn.carriers) {
            let wall = carrier.walls_db[one.building];
            let own_dbm = power_dbm(carrier.at);
            let disturbed_dbm = carrier.disturbers.dbm(power_dbm, own_dbm, wall.mean + thicker * wall.spread)
                + one.known[carrier.interference];
            let rsrp_dbm = own_dbm + carrier.gain_dbi;
            let sinr = sinr_db(rsrp_dbm, disturbed_dbm, carrier.noise_dbm).min(carrier.cleanest_sinr_db);
            kept.rsrp_dbm.push(rsrp_dbm);
            kept.sinr_db.push(sinr);
            let down_mbps = carrier
                .channel
                .map_or(0.0, |channel| channel.likely_down_mbps(sinr + carrier.gathered_db, carrier.layers));
            let up_mbps = carrier.up_mbps(rsrp_dbm, 0.0);
            let (technology, carries_uplink) = (carrier.technology, carrier.carries_uplink && carrier.counts);
            let counts = f64::from(u8::from(carrier.counts));
            let (down_mbps, up_mbps) = (counts * down_mbps, counts * up_mbps);
            offers.push(Offer { technology, carries_uplink, down_mbps, up_mbps });
        }
        let shared_mbps = |at: usize| {
            let rsrp_dbm = drawn.carriers[at].rsrp_dbm.last();
            rsrp_dbm.map_or(0.0, |rsrp_dbm| self.carriers[at].up_mbps(*rsrp_dbm, SHARED_POWER_DB))
        };
        let sums = sum_of(&offers, self.aggregated, shared_mbps);
        let of = |way: usize| {
            let z = one.carrying[way];
            let carrying = z * self.carrying[way][usize::from(z > 0.0)];
            let share = USUAL_SHARE * one.shares[way][self.share].exp();
            let expected = sums[way] * share * (self.unlearned[way] * carrying).exp();
            (sums[way] * carrying.exp(), expected)
        };
        let ((possible_down, down), (possible_up, up)) = (of(0), of(1));
        drawn.possible_down_mbps.push(possible_down);
        drawn.possible_up_mbps.push(possible_up);
        drawn.down_mbps.push(down.min(self.lan_cap_mbps));
        drawn.up_mbps.push(up.min(self.lan_cap_mbps));
    }
}

impl Ready {
    fn up_mbps(&self, rsrp_dbm: f64, less_db: f64) -> f64 {
        self.channel
            .map_or(0.0, |channel| channel.likely_up_mbps(rsrp_dbm, self.transmit_power_dbm - less_db))
    }

    fn of(
        env: &Environment,
        setup: &LinkSetup,
        found: &LinkPrediction,
        one: &CarrierPrediction,
        arriving: &[Arriving],
        points: &mut Points,
    ) -> Option<Self> {
        let at = arriving.iter().position(|there| there.cell == one.cell)?;
        let cell = &env.cells[one.cell];
        let disturbers = env.disturbers(one.cell, arriving, &setup.antenna, found.aim)?;
        let point = env.interference_point(one.cell, &setup.location, &setup.antenna, found.aim);
        let link = found.receiver.link(one.branches);
        let received = &one.received;
        Some(Self {
            at,
            interference: placed(&mut points.known, Quantity::Interference(point)),
            disturbers,
            gain_dbi: received.net_gain_dbi - received.polarisation_db - received.pattern_db,
            noise_dbm: received.noise_dbm,
            cleanest_sinr_db: env.cleanest_sinr_db(),
            walls_db: arriving[at].point.walls_db,
            gathered_db: gathered_db(one.branches.count),
            layers: link.layers,
            channel: channel_of(&found.receiver, one.branches, &cell.carrier),
            transmit_power_dbm: link.transmit_power_dbm,
            counts: one.counts,
            technology: cell.carrier.technology,
            carries_uplink: carries_uplink(&one.likely.0, found.receiver.mode),
        })
    }
}
