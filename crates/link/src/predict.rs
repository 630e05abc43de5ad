//! What a setup would do at a house: signal, clean signal and rates, each as a range from 10 to 90 %.

use super::antenna::{Aim, AimAntenna};
use super::doubts::{Brought, RangeCause};
use super::environment::{Arriving, Environment, USUAL_SHARE, share_point};
use super::field::SharePoint;
use super::gaussian::{Normal, Z_90};
use super::given::Candidate;
use super::landscape::{AntennaLocation, WhatIf};
use super::moments::Moments;
use super::received::Received;
use super::receiver::{Branches, Receiver};
use super::sums::{Rates, Signal, Sums, Variances};
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::capacity::possible::CarrierRates;
use open_beacon_domain::model::{BandAccess, BandChoice, Carrier, ConnectionMode, Technology};

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
    /// Signal-to-noise (SINR) with all that is doubted, dB, but for the bound that no receiver exceeds.
    sinr_moments: Moments,
    cleanest_sinr_db: f64,
    /// Strong enough where others were taken, and never given beside them.
    pub passed_over: bool,
    /// Whether it is in the sums: of carriers of one technology that were never given beside one another some are.
    pub counts: bool,
    /// The carrier as it is likely, with its rates.
    pub likely: (Carrier, CarrierRates),
}

impl CarrierPrediction {
    /// Signal power (RSRP), dBm.
    pub fn rsrp_dbm(&self) -> Estimate {
        let [low, likely, high] = CASES.map(|z| self.received.rsrp_moments().at(z));
        Estimate { low, likely, high }
    }

    /// Where its signal is as likely, 0 where it carries nothing, Mbit/s.
    pub fn likely_down_mbps(&self) -> f64 {
        self.likely.1.down_mbps.map_or(0.0, |range| range.likely)
    }

    fn brought(&self) -> Brought<'_> {
        Brought {
            arriving: &self.arriving,
            down_mbps: self.likely_down_mbps(),
            of_power_and_interference: self.received.variances(),
        }
    }

    fn signal(&self) -> Signal<'_> {
        Signal {
            likely: &self.likely,
            branches: self.branches,
            rsrp_dbm: self.received.rsrp_moments(),
            sinr_db: self.sinr_moments,
            at_means: (self.received.rsrp_dbm.mean, self.received.sinr_db.mean),
            cleanest_sinr_db: self.cleanest_sinr_db,
            common_share: self.received.common_share,
        }
    }

    fn sinr_at(&self, z: f64) -> f64 {
        self.sinr_moments.at(z).min(self.cleanest_sinr_db)
    }

    /// Signal-to-noise (SINR), dB.
    pub fn sinr_db(&self) -> Estimate {
        let [low, likely, high] = CASES.map(|z| self.sinr_at(z));
        Estimate { low, likely, high }
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
    /// The median of what is expected, wire aside, over what would come if every signal were as it is likeliest, down and up: a sum of likely
    /// rates times the share becomes this prediction by it.
    pub median_over_likely: (f64, f64),
    /// Of the logarithm of the expected download, by what it comes from.
    pub(super) variances: Option<Variances>,
    /// Expected down and up where all signals and interferences are their means, Mbit/s: the quick figure by which kits are weighed.
    pub at_means_mbps: (f64, f64),
    pub(super) receiver: Receiver<'a>,
    /// What all carriers carry together where every signal is as likely, Mbit/s down and up: the range is of what a carrier carries.
    pub(super) at_likely_signal: [Option<Estimate>; 2],
}

/// Quantiles of the three cases, in standard deviations.
const CASES: [f64; 3] = [-Z_90, 0.0, Z_90];

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

/// What a setup would do with the mast that served it where it was read, else with the one that serves it best; `None` where nothing is known,
/// or the setup receives nothing of it.
pub fn predict<'a>(env: &'a Environment, setup: &LinkSetup<'a>) -> Option<LinkPrediction<'a>> {
    let mut found = predictions(env, setup, WhatIf::default());
    let served = env.served_by(&share_point(&setup.location, &setup.antenna, setup.aim, &setup.lock));
    let at = found.iter().position(|one| one.mast == served).filter(|_| served.is_some()).unwrap_or(0);
    (at < found.len()).then(|| found.swap_remove(at))
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
    let mut carriers: Vec<CarrierPrediction> = serving(env, &own)
        .into_iter()
        .filter(|one| setup.lock.allows(env.cells[one.cell].band))
        .filter_map(|one| carrier(env, setup, &receiver, one, arriving, aim))
        .collect();
    let point = share_point(&setup.location, &setup.antenna, aim, &setup.lock);
    for one in &mut carriers {
        let role = env.role_at(receiver.mode, &point, one.cell);
        one.likely.0.role = role.unwrap_or(one.likely.0.role);
    }
    count(env, &receiver, &point, &mut carriers);
    let counted = carriers.iter().filter(|one| one.counts);
    let signals: Vec<Signal> = counted.map(CarrierPrediction::signal).collect();
    let sums = Sums::of(&receiver, &signals);
    let lan_cap_mbps = receiver.lan_cap_mbps();
    let (down_share, up_share) = (env.down_share.at(&point), env.up_share.at(&point));
    let down = sums.rates(0, down_share, lan_cap_mbps);
    let up = sums.rates(1, up_share, lan_cap_mbps);
    let share = |of: Normal| USUAL_SHARE * of.mean.exp();
    let over_likely = |rates: Option<Rates>| rates.map_or(1.0, |rates| rates.median_over_likely);
    let at_means = |rates: Option<Rates>| rates.map_or(0.0, |rates| rates.at_means_mbps);
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
        median_over_likely: (over_likely(down), over_likely(up)),
        variances: down.map(|down| down.variances),
        at_means_mbps: (at_means(down), at_means(up)),
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
    let of = |share: Normal| USUAL_SHARE * share.mean.exp();
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

/// Says which carriers are in the sums.
fn count(env: &Environment, receiver: &Receiver, setup: &SharePoint, carriers: &mut [CarrierPrediction]) {
    for technology in [Technology::Lte, Technology::Nr] {
        let is_own = |one: &CarrierPrediction| one.likely.0.technology == technology;
        let candidate = |one: &CarrierPrediction| Candidate {
            cell: one.cell,
            passed_over: one.passed_over,
            rsrp_dbm: one.rsrp_dbm().likely,
            brings_mbps: one.likely_down_mbps(),
        };
        let own: Vec<Candidate> = carriers.iter().filter(|one| is_own(one)).map(candidate).collect();
        if own.iter().all(|one| one.passed_over == own[0].passed_over) {
            continue;
        }
        let gives = env.given_in(receiver.mode).is_some_and(|given| given.gives_passed_over(setup, &own));
        for one in carriers.iter_mut().filter(|one| is_own(one)) {
            one.counts = one.passed_over == gives;
        }
    }
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
    let sinr_moments = received.sinr_moments();
    let mut likely = cell.carrier.clone();
    likely.rsrp_dbm = Some(received.rsrp_moments().at(0.0));
    likely.sinr_db = Some(sinr_moments.at(0.0).min(env.cleanest_sinr_db));
    let rates = receiver.rates(&likely, branches);
    Some(CarrierPrediction {
        cell: one.cell,
        arriving: one.clone(),
        received,
        branches,
        sinr_moments,
        cleanest_sinr_db: env.cleanest_sinr_db,
        passed_over: env.passes_over(one.cell, receiver),
        counts: true,
        likely: (likely, rates),
    })
}

impl LinkPrediction<'_> {
    /// Expected rates in a case (0 unlucky, 1 likely, 2 lucky) with the wanted signal fallen by `fade_db`, Mbit/s down and up.
    pub fn faded_mbps(&self, case: usize, fade_db: f64) -> (f64, f64) {
        let received: Vec<(Carrier, CarrierRates)> = self
            .counted()
            .map(|one| {
                let mut carrier = one.likely.0.clone();
                carrier.rsrp_dbm = Some(one.received.rsrp_moments().at(CASES[case]) - fade_db);
                carrier.sinr_db = Some(one.sinr_at(CASES[case]) - fade_db);
                let rates = self.receiver.rates(&carrier, one.branches);
                (carrier, rates)
            })
            .collect();
        let sum = self.receiver.together(&received);
        let likely = |range: Option<Estimate>| range.map_or(0.0, |range| range.likely);
        let down = (likely(sum.down_mbps) * self.down_share).min(self.lan_cap_mbps);
        (down, likely(sum.up_mbps) * self.up_share)
    }

    /// What makes the expected download's range as wide as it is, the most first.
    pub fn doubts(&self, env: &Environment) -> Vec<RangeCause> {
        let brought: Vec<Brought> = self.counted().map(CarrierPrediction::brought).collect();
        self.variances.map_or_else(Vec::new, |variances| env.doubts(&brought, variances))
    }

    /// Carriers that are in the sums.
    pub fn counted(&self) -> impl Iterator<Item = &CarrierPrediction> {
        self.carriers.iter().filter(|one| one.counts)
    }

    /// Cells that the gateway takes together in the likely case, by what they bring, at the most as many as it can.
    pub fn aggregated(&self) -> usize {
        self.receiver.aggregated()
    }
}
