//! What a setup would do at a house: signal, clean signal and rates, each as a range from 10 to 90 %.

use super::antenna::{Aim, AimAntenna};
use super::environment::{Arriving, Environment, USUAL_SHARE, share_point};
use super::gaussian::{Normal, Z_90};
use super::landscape::{AntennaLocation, WhatIf};
use super::received::Received;
use super::receiver::{Branches, Receiver};
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::capacity::possible::{AchievableRate, CarrierRates};
use open_beacon_domain::model::{BandAccess, BandChoice, Carrier, ConnectionMode};

/// What is asked for: an antenna with its gateway at a place.
#[derive(Clone, Debug)]
pub struct LinkSetup<'a> {
    /// Where the antenna is.
    pub location: AntennaLocation,
    /// The antenna.
    pub antenna: AimAntenna<'a>,
    /// Where it points; aimed at each mast in turn where it is left open.
    pub aim: Option<Aim>,
    /// Leads used at the most.
    pub leads: u8,
    /// Bands that the gateway is held to.
    pub lock: BandChoice,
}

impl<'a> LinkSetup<'a> {
    /// Aimed at what serves best, all leads, nothing locked.
    pub fn new(location: AntennaLocation, antenna: AimAntenna<'a>) -> Self {
        Self { location, antenna, aim: None, leads: 4, lock: BandChoice::default() }
    }
}

/// One cell of a prediction.
#[derive(Clone, Debug)]
pub struct CarrierPrediction {
    /// Place in the environment's cells.
    pub cell: usize,
    /// As it arrives before the antenna.
    pub arriving: Arriving,
    /// What arrives.
    pub received: Received,
    /// Receive branches.
    pub branches: Branches,
    /// The carrier with its rates in an unlucky, a likely and a lucky case: 10, 50 and 90 %.
    pub cases: [(Carrier, CarrierRates); 3],
}

impl CarrierPrediction {
    /// Signal power (RSRP), dBm.
    pub fn rsrp_dbm(&self) -> Estimate {
        range_of(self.received.rsrp_dbm)
    }

    /// Signal-to-noise (SINR), dB.
    pub fn sinr_db(&self) -> Estimate {
        let at = |case: usize| self.cases[case].0.sinr_db.unwrap_or(0.0);
        Estimate { low: at(0), likely: at(1), high: at(2) }
    }
}

/// What a setup would do with the cells of one mast.
#[derive(Clone, Debug)]
pub struct LinkPrediction<'a> {
    /// Place in the list of masts; `None` for cells whose mast is not known.
    pub mast: Option<usize>,
    /// Where the antenna points.
    pub aim: Option<Aim>,
    /// Those that the setup receives, in the environment's order.
    pub carriers: Vec<CarrierPrediction>,
    /// The cells ours alone, Mbit/s.
    pub possible_down_mbps: Option<Estimate>,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Option<Estimate>,
    /// What is to be expected: the share of the possible that is measured at this house, under the wire's cap.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// What the wire to the router carries, Mbit/s.
    pub lan_cap_mbps: f64,
    /// Whether the wire to the router limits it.
    pub lan_caps: bool,
    /// Likely shares of the possible.
    pub down_share: f64,
    /// The same of the upload.
    pub up_share: f64,
    pub(super) receiver: Receiver<'a>,
    /// What all carriers carry together where every signal is as likely, Mbit/s down and up: the range is of what a carrier carries.
    pub(super) at_likely_signal: [Option<Estimate>; 2],
}

/// Quantiles of the three cases, in standard deviations.
const CASES: [f64; 3] = [-Z_90, 0.0, Z_90];

fn range_of(one: Normal) -> Estimate {
    let at = |z: f64| one.mean + z * one.spread;
    Estimate { low: at(CASES[0]), likely: one.mean, high: at(CASES[2]) }
}

/// Speeds nearer than this share are alike (common practice, no source).
pub const ALIKE: f64 = 0.1;

/// What a setup would do with each mast's cells, the best first: by the likely download; among those alike in it the one whose
/// range does not reach as low.
pub fn predictions<'a>(
    env: &'a Environment,
    setup: &LinkSetup<'a>,
    what_if: WhatIf,
) -> Vec<LinkPrediction<'a>> {
    let arriving = env.arriving(&setup.location, &setup.antenna, what_if);
    let mut groups: Vec<Option<usize>> = Vec::new();
    for one in &arriving {
        let mast = env.cells[one.cell].mast;
        if !groups.contains(&mast) {
            groups.push(mast);
        }
    }
    let mut found: Vec<LinkPrediction> =
        groups.into_iter().map(|mast| prediction(env, setup, mast, &arriving)).collect();
    found.retain(|one| !one.carriers.is_empty());
    let down = |one: &LinkPrediction| one.down_mbps.unwrap_or(Estimate::exactly(0.0));
    found.sort_by(|a, b| down(b).likely.total_cmp(&down(a).likely));
    let most = found.first().map_or(0.0, |one| down(one).likely);
    let alike = found.iter().take_while(|one| down(one).likely >= most * (1.0 - ALIKE)).count();
    found[..alike].sort_by(|a, b| down(b).low.total_cmp(&down(a).low));
    found
}

/// What a setup would do with the mast that serves it best; `None` where nothing is known, or the setup receives nothing of it.
pub fn predict<'a>(env: &'a Environment, setup: &LinkSetup<'a>) -> Option<LinkPrediction<'a>> {
    predictions(env, setup, WhatIf::default()).into_iter().next()
}

/// How a lock changes the way one is connected.
pub fn locked_mode(lock: &BandChoice, mode: ConnectionMode) -> ConnectionMode {
    match lock.access {
        BandAccess::Any => mode,
        BandAccess::Lte => ConnectionMode::Lte,
        BandAccess::Nsa => ConnectionMode::Nsa,
        BandAccess::Sa => ConnectionMode::Sa,
    }
}

fn prediction<'a>(
    env: &'a Environment,
    setup: &LinkSetup<'a>,
    mast: Option<usize>,
    arriving: &[Arriving],
) -> LinkPrediction<'a> {
    let mode = locked_mode(&setup.lock, env.mode);
    let receiver = Receiver::new(setup.antenna, env.settings, mode, setup.leads);
    let own: Vec<&Arriving> = arriving.iter().filter(|one| env.cells[one.cell].mast == mast).collect();
    let from = own.iter().find_map(|one| one.from);
    let aim = setup.aim.or(from.map(|from| setup.antenna.aimed_at(from)));
    let carriers: Vec<CarrierPrediction> = serving(env, &own)
        .into_iter()
        .filter(|one| setup.lock.allows(env.cells[one.cell].band))
        .filter_map(|one| carrier(env, setup, &receiver, one, arriving, aim))
        .collect();
    let sums = Sums::of(&receiver, &carriers);
    let point = share_point(&setup.location, &setup.antenna, aim, &setup.lock);
    let lan_cap_mbps = receiver.lan_cap_mbps();
    let of = |of: fn(&AchievableRate) -> Option<Estimate>, share: Normal| {
        let by_signal = [sums.off(0, of)?, sums.off(2, of)?];
        Some(rates(by_signal, of(&sums.likely)?, share, lan_cap_mbps))
    };
    let (down_share, up_share) = (env.down_share.at(&point), env.up_share.at(&point));
    let down = of(|sum| sum.down_mbps, down_share);
    let up = of(|sum| sum.up_mbps, up_share);
    let share = |of: Normal| (USUAL_SHARE * of.mean.exp()).min(1.0);
    LinkPrediction {
        mast,
        aim,
        carriers,
        possible_down_mbps: down.map(|one| one.possible),
        possible_up_mbps: up.map(|one| one.possible),
        down_mbps: down.map(|one| one.expected),
        up_mbps: up.map(|one| one.expected),
        lan_cap_mbps,
        lan_caps: down.is_some_and(|one| one.possible.likely * share(down_share) > lan_cap_mbps),
        down_share: share(down_share),
        up_share: share(up_share),
        receiver,
        at_likely_signal: [sums.likely.down_mbps, sums.likely.up_mbps],
    }
}

/// Likely shares of the possible that are measured with an antenna at a place, down and up.
pub fn expected_shares(
    env: &Environment,
    location: &AntennaLocation,
    antenna: &AimAntenna,
    aim: Option<Aim>,
) -> (f64, f64) {
    let point = share_point(location, antenna, aim, &BandChoice::default());
    let of = |share: Normal| (USUAL_SHARE * share.mean.exp()).min(1.0);
    (of(env.down_share.at(&point)), of(env.up_share.at(&point)))
}

/// Of a mast's cells on one channel the strongest serves.
fn serving<'b>(env: &Environment, own: &[&'b Arriving]) -> Vec<&'b Arriving> {
    let mut found: Vec<&Arriving> = Vec::new();
    for one in own {
        let carrier = &env.cells[one.cell].carrier;
        let same = |other: &&mut &'b Arriving| {
            let other = &env.cells[other.cell].carrier;
            (other.technology, other.band, other.channel)
                == (carrier.technology, carrier.band, carrier.channel)
        };
        match found.iter_mut().find(same) {
            Some(there) if there.power_dbm.mean < one.power_dbm.mean => *there = one,
            Some(_) => {}
            None => found.push(one),
        }
    }
    found
}

fn carrier(
    env: &Environment,
    setup: &LinkSetup,
    receiver: &Receiver,
    one: &Arriving,
    arriving: &[Arriving],
    aim: Option<Aim>,
) -> Option<CarrierPrediction> {
    let cell = &env.cells[one.cell];
    let branches = receiver.branches(cell.band, cell.frequency_mhz);
    if branches.layers == 0 {
        return None;
    }
    let noise_figure_db = receiver.noise_figure_db();
    let received = env.received(one.cell, &setup.location, arriving, &setup.antenna, aim, noise_figure_db)?;
    let cases = CASES.map(|z| {
        let mut carrier = cell.carrier.clone();
        carrier.rsrp_dbm = Some(received.rsrp_dbm.mean + z * received.rsrp_dbm.spread);
        let sinr_db = received.sinr_db.mean + z * received.sinr_db.spread;
        carrier.sinr_db = Some(sinr_db.min(env.cleanest_sinr_db));
        let rates = receiver.rates(&carrier, branches);
        (carrier, rates)
    });
    Some(CarrierPrediction { cell: one.cell, arriving: one.clone(), received, branches, cases })
}

/// What all carriers carry together: in the likely case, and with all of them or one of them as unlucky or lucky.
struct Sums {
    likely: AchievableRate,
    /// By case; the likely one has none.
    all: [AchievableRate; 3],
    alone: [Vec<AchievableRate>; 3],
    /// Of the doubt of their signals, the share of variance that they have in common.
    common_share: f64,
}

impl Sums {
    fn of(receiver: &Receiver, carriers: &[CarrierPrediction]) -> Self {
        let with = |case_of: &dyn Fn(usize) -> usize| {
            let cases = carriers.iter().enumerate().map(|(at, one)| one.cases[case_of(at)].clone());
            receiver.together(&cases.collect::<Vec<_>>())
        };
        let alone = |case: usize| {
            let only = |at: usize| with(&|other| if other == at { case } else { LIKELY });
            (0..carriers.len()).filter(|_| case != LIKELY).map(only).collect()
        };
        let common: f64 = carriers.iter().map(|one| one.received.common_share).sum();
        Self {
            likely: with(&|_| LIKELY),
            all: [0, 1, 2].map(|case| with(&|_| case)),
            alone: [0, 1, 2].map(alone),
            common_share: common / carriers.len().max(1) as f64,
        }
    }

    /// How far the sum is off the likely one where the signals are as unlucky or lucky as in a case, as a natural logarithm. What the
    /// carriers have in common moves all at once; the rest of each is its own, and those are added as variances.
    fn off(&self, case: usize, of: impl Fn(&AchievableRate) -> Option<Estimate>) -> Option<f64> {
        let likely = of(&self.likely)?.likely;
        let off_by = |sum: &AchievableRate| {
            let there = of(sum).map_or(0.0, |one| one.likely);
            off(likely.max(there), likely.min(there))
        };
        let all = off_by(&self.all[case]).powi(2);
        let each: f64 = self.alone[case].iter().map(|sum| off_by(sum).powi(2)).sum();
        Some((self.common_share * all + (1.0 - self.common_share) * each.min(all)).sqrt())
    }
}

/// The likely case among [`CASES`].
const LIKELY: usize = 1;

#[derive(Clone, Copy)]
struct Rates {
    possible: Estimate,
    expected: Estimate,
}

/// Natural logarithm of how far `far` is from `near`, 0 or more; bounded where one of them is nothing.
pub(super) fn off(near: f64, far: f64) -> f64 {
    if near <= 0.0 || far <= 0.0 { FARTHEST } else { (near / far).ln().abs().min(FARTHEST) }
}

/// Ranges end here: e to this is as good as nothing, or all.
const FARTHEST: f64 = 12.0;

/// Doubts of the signal (`by_signal`: how far the unlucky and the lucky case are off, as natural logarithms), of what a carrier carries (the likely case's own range), and of the share of it
/// that is measured, each on its own, added as logarithms. Where the share was measured it holds what a carrier carries as
/// well: that doubt counts only as far as the share's is still the prior's.
fn rates(by_signal: [f64; 2], likely: Estimate, share: Normal, lan_cap_mbps: f64) -> Rates {
    let below = [by_signal[0], off(likely.likely, likely.low)];
    let above = [by_signal[1], off(likely.high, likely.likely)];
    let middle = likely.likely;
    let possible = Estimate {
        low: middle * (-below[0].hypot(below[1])).exp(),
        likely: middle,
        high: middle * above[0].hypot(above[1]).min(FARTHEST).exp(),
    };
    let unlearned = (share.spread / PRIOR_SHARE_SPREAD).min(1.0);
    let of_share = Z_90 * share.spread;
    let down = below[0].hypot(unlearned * below[1]).hypot(of_share);
    let up = above[0].hypot(unlearned * above[1]).hypot(of_share).min(FARTHEST);
    let expected = (middle * USUAL_SHARE * share.mean.exp()).min(middle);
    let capped = |mbps: f64| mbps.min(lan_cap_mbps);
    Rates {
        possible,
        expected: Estimate {
            low: capped(expected * (-down).exp()),
            likely: capped(expected),
            high: capped((expected * up.exp()).min(possible.high)),
        },
    }
}

/// Spread of a share's logarithm before anything was measured: the kernel's parts together.
pub(super) const PRIOR_SHARE_SPREAD: f64 = 0.594;

impl LinkPrediction<'_> {
    /// Expected rates in a case (0 unlucky, 1 likely, 2 lucky) with the wanted signal fallen by `fade_db`, Mbit/s down and up.
    pub fn faded_mbps(&self, case: usize, fade_db: f64) -> (f64, f64) {
        let received: Vec<(Carrier, CarrierRates)> = self
            .carriers
            .iter()
            .map(|one| {
                let mut carrier = one.cases[case].0.clone();
                carrier.rsrp_dbm = carrier.rsrp_dbm.map(|rsrp| rsrp - fade_db);
                carrier.sinr_db = carrier.sinr_db.map(|sinr| sinr - fade_db);
                let rates = self.receiver.rates(&carrier, one.branches);
                (carrier, rates)
            })
            .collect();
        let sum = self.receiver.together(&received);
        let likely = |range: Option<Estimate>| range.map_or(0.0, |range| range.likely);
        let down = (likely(sum.down_mbps) * self.down_share).min(self.lan_cap_mbps);
        (down, likely(sum.up_mbps) * self.up_share)
    }

    /// Cells that the gateway takes together in the likely case, by what they bring, at the most as many as it can.
    pub fn aggregated(&self) -> usize {
        self.receiver.aggregated()
    }
}
