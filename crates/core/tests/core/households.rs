//! Hidden households: does the truth lie in the foretold 80 % ranges? The world is not the model's. Loss on the way: Okumura and
//! Hata in quasi-open country (ITU-R P.529-3 annex 1), with its own term in height; where the house stands: ITU-R P.1546-6 annex 5
//! section 12, 4.7 dB at 1.8 GHz; walls: ITU-R P.2109-1 with two kinds of houses; rates: attenuated Shannon (3GPP TR 36.942 annex A).
//! What is drawn about them (antennas, interference, busy cells) is common practice, no source.
//!
//! A way of knowing is what the household enters. `cargo xtask households` takes 300 for each; here it is fewer.

use crate::kits::{heard, lte, nr};
use crate::survey::{ground_by, mast, panel};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::judge::{OneMoreReading, narrowings};
use open_beacon_core::link::antenna::{Aim, AimAntenna};
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::draws::{draws, range};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::gaussian::Z_90;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::predict::{LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::propagation::p2109::building_entry_loss_db;
use statrs::distribution::{Continuous, ContinuousCDF, Normal};
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };
/// LTE 800, LTE 1800 and NR 3500: frequency, width, EPRE of one resource element at the mast's connector with its antenna.
const BANDS: [(BandNr, f64, f64, f64); 3] = [
    (BandNr::Lte(20), 806.0, 10.0, 33.0),
    (BandNr::Lte(3), 1842.5, 20.0, 32.0),
    (BandNr::Nr(78), 3550.0, 80.0, 34.0),
];
/// Their channel numbers; the place in the list is the physical cell identity.
const CHANNELS: [u32; 3] = [6300, 1575, 636_666];

#[derive(Clone, Copy, Debug, PartialEq)]
enum BandNr {
    Lte(u16),
    Nr(u16),
}

/// Draws against which the closed form is held.
const DRAWS: usize = 5000;

fn households() -> u64 {
    std::env::var("OPEN_BEACON_HOUSEHOLDS").ok().and_then(|told| told.parse().ok()).unwrap_or(80)
}

struct Dice(fastrand::Rng);

impl Dice {
    fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.0.f64()
    }

    /// The sum of twelve uniform numbers less six.
    fn normal(&mut self, mean: f64, spread: f64) -> f64 {
        mean + spread * ((0..12).map(|_| self.0.f64()).sum::<f64>() - 6.0)
    }
}

/// Okumura and Hata, quasi-open, dB; heights in m, distance in km. Above 1.5 GHz the same formula goes on, as COST 231 found up to 2 GHz.
fn hata_db(mhz: f64, mast_m: f64, height_m: f64, km: f64) -> f64 {
    let lg = mhz.log10();
    let term = (1.1 * lg - 0.7) * height_m - (1.56 * lg - 0.8);
    let urban =
        69.55 + 26.16 * lg - 13.82 * mast_m.log10() - term + (44.9 - 6.55 * mast_m.log10()) * km.log10();
    urban - 4.78 * lg * lg + 18.33 * lg - 35.94
}

/// One house with all that is hidden.
struct World {
    km: f64,
    mast_m: f64,
    /// By band: where the house stands, and its interference below the signal in the open.
    shadow_db: [f64; 3],
    below_db: [f64; 3],
    building: Building,
    /// Of the building among buildings, in standard deviations.
    walls: f64,
    /// Foil in the walls: takes this much more, dB.
    foil_db: f64,
    stock_dbi: f64,
    panel_dbi: f64,
    rejection_db: f64,
    noise_figure_db: f64,
    share: f64,
}

/// What stands at a place, all noise aside.
struct Truth {
    rsrp_dbm: [f64; 3],
    sinr_db: [f64; 3],
    down_mbps: f64,
}

impl World {
    fn drawn(dice: &mut Dice) -> Self {
        let common = dice.normal(0.0, 4.0);
        Self {
            km: dice.between(1.2, 8.0),
            mast_m: dice.between(25.0, 55.0),
            shadow_db: [0; 3].map(|_| common + dice.normal(0.0, 2.5)),
            below_db: [0; 3].map(|_| dice.normal(9.0, 5.0).max(-2.0)),
            building: if dice.0.f64() < 0.3 { Building::ThermallyEfficient } else { Building::Traditional },
            walls: dice.normal(0.0, 1.0),
            foil_db: 0.0,
            stock_dbi: dice.normal(1.0, 1.5),
            panel_dbi: dice.normal(-1.0, 1.0),
            rejection_db: dice.normal(7.0, 3.0).max(0.0),
            noise_figure_db: dice.normal(7.0, 1.0),
            share: dice.normal(0.5_f64.ln(), 0.35).exp(),
        }
    }

    /// `wall`: of the spot among spots, in standard deviations; none outside. `panel`: gain of the panel with its feed line as it is said.
    fn at(&self, height_m: f64, wall: Option<f64>, panel: Option<f64>, dice: &mut Dice) -> Truth {
        let local = [0; 3].map(|_| dice.normal(0.0, 2.0));
        let mut truth = Truth { rsrp_dbm: [0.0; 3], sinr_db: [0.0; 3], down_mbps: 0.0 };
        for (at, (band, mhz, width_mhz, epre_dbm)) in BANDS.into_iter().enumerate() {
            let wall_db = wall.map_or(0.0, |spot| {
                let among = 0.84 * self.walls + 0.55 * spot;
                let share = 1.0 / (1.0 + (-1.702 * among).exp());
                building_entry_loss_db(self.building, mhz, 0.0, share.clamp(0.001, 0.999)).unwrap().max(0.0)
                    + self.foil_db
            });
            let gain = panel.map_or(self.stock_dbi, |said| said + self.panel_dbi);
            let open =
                epre_dbm - hata_db(mhz, self.mast_m, height_m, self.km) + self.shadow_db[at] + local[at];
            let rsrp_dbm = open - wall_db + gain;
            let kept_out = if panel.is_some() { self.rejection_db } else { 0.0 };
            let spacing_khz: f64 = if matches!(band, BandNr::Nr(_)) { 30.0 } else { 15.0 };
            let noise_dbm = -174.0 + 10.0 * (1e3 * spacing_khz).log10() + self.noise_figure_db;
            let power = |dbm: f64| 10f64.powf(dbm / 10.0);
            let disturbed =
                10.0 * (power(noise_dbm) + power(rsrp_dbm - self.below_db[at] - kept_out)).log10();
            let sinr_db = (rsrp_dbm - disturbed).min(30.0);
            (truth.rsrp_dbm[at], truth.sinr_db[at]) = (rsrp_dbm, sinr_db);
            let (layers, downlink) = if matches!(band, BandNr::Nr(_)) { (2.0, 0.74) } else { (2.0, 1.0) };
            let bits = (0.6 * (1.0 + power(sinr_db - 3.0)).log2()).min(5.5);
            truth.down_mbps += self.share * downlink * layers * bits * width_mhz * 0.9;
        }
        truth
    }
}

fn carriers(truth: &Truth, dice: &mut Dice) -> Vec<Carrier> {
    BANDS
        .into_iter()
        .enumerate()
        .map(|(at, (band, _, width_mhz, _))| {
            let (rsrp, sinr) =
                (truth.rsrp_dbm[at] + dice.normal(0.0, 1.0), truth.sinr_db[at] + dice.normal(0.0, 1.0));
            let (band, role) = match band {
                BandNr::Lte(3) => (lte(3), CarrierRole::Anchor),
                BandNr::Lte(other) => (lte(other), CarrierRole::Secondary),
                BandNr::Nr(other) => (nr(other), CarrierRole::Primary),
            };
            let mut carrier = heard(band, width_mhz, rsrp, sinr.min(30.0), role);
            (carrier.channel, carrier.pci) = (Some(CHANNELS[at]), Some(at as u16));
            carrier
        })
        .collect()
}

/// What a household enters.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Knows {
    /// Three spots indoors.
    Spots,
    /// Those, and a reading outside at the height of a hand.
    Outside,
    /// The mast and its cells, with nothing measured; and the same without terrain.
    Mast,
    Rural,
    /// The mast, three spots and the reading outside.
    All,
}

/// Shares of truths inside the ranges and the median widths: RSRP, SINR (dB), download (as the logarithm's).
#[derive(Debug, Default)]
struct Held {
    inside: [f64; 3],
    widths: [Vec<f64>; 3],
    asked: [f64; 3],
    /// RSRP, SINR and download (natural logarithm), each as it was foretold and as a simple rule starts from.
    judged: [Vec<Judged>; 3],
    /// Of each house: half the range of the signal's power now, and after a reading outside by hand as it is foretold, dB.
    by_hand: Vec<(f64, Option<f64>)>,
    /// Closed form beside draws of the same model: how far the medians are apart, and the logarithm of the widths' ratio; by quantity.
    beside_draws: [Vec<(f64, f64)>; 3],
}

/// A forecast beside the truth. The simple rule takes what was measured nearest to the antenna (the reading outside, else the mean of the
/// spots, else nothing) and adds one gain for all houses.
#[derive(Clone, Copy, Debug)]
struct Judged {
    mean: f64,
    spread: f64,
    truth: f64,
    start: f64,
}

/// Continuous ranked probability score of a normal forecast, the less the better (Gneiting and Raftery 2007, equation 21).
fn crps(mean: f64, spread: f64, truth: f64) -> f64 {
    let (normal, z) = (Normal::standard(), (truth - mean) / spread);
    spread * (z * (2.0 * normal.cdf(z) - 1.0) + 2.0 * normal.pdf(z) - 1.0 / std::f64::consts::PI.sqrt())
}

/// Mean score of the forecasts as a share of the simple rule's, whose gain and spread are fitted to its own errors over these same
/// houses.
fn against_a_fixed_gain(all: &[Judged]) -> f64 {
    let number = all.len() as f64;
    let gain = all.iter().map(|one| one.truth - one.start).sum::<f64>() / number;
    let spread = (all.iter().map(|one| (one.truth - one.start - gain).powi(2)).sum::<f64>() / number).sqrt();
    let foretold: f64 = all.iter().map(|one| crps(one.mean, one.spread, one.truth)).sum();
    let fixed: f64 = all.iter().map(|one| crps(one.start + gain, spread, one.truth)).sum();
    foretold / fixed
}

impl Held {
    /// A range from 10 to 90 % with its middle, the truth, and what a simple rule starts from.
    fn add(&mut self, what: usize, (low, likely, high): (f64, f64, f64), truth: f64, start: f64) {
        self.asked[what] += 1.0;
        self.inside[what] += f64::from(u8::from((low..=high).contains(&truth)));
        self.widths[what].push(high - low);
        let spread = ((high - low) / (2.0 * Z_90)).max(0.1);
        self.judged[what].push(Judged { mean: likely, spread, truth, start });
    }

    /// Foretold less true, on average.
    fn off(&self, what: usize) -> f64 {
        self.judged[what].iter().map(|one| one.mean - one.truth).sum::<f64>() / self.judged[what].len() as f64
    }

    /// Closed form from draws: the 10, 50 and 90 % quantiles of how far medians and widths are apart.
    fn off_the_draws(&self, what: usize) -> ([f64; 3], [f64; 3]) {
        let of = |part: fn(&(f64, f64)) -> f64| {
            let mut all: Vec<f64> = self.beside_draws[what].iter().map(part).collect();
            all.sort_by(f64::total_cmp);
            [0.1, 0.5, 0.9].map(|share| all[(share * (all.len() - 1) as f64).round() as usize])
        };
        (of(|one| one.0), of(|one| one.1))
    }

    fn share(&self, what: usize) -> f64 {
        self.inside[what] / self.asked[what]
    }

    fn width(&self, what: usize) -> f64 {
        let mut all = self.widths[what].clone();
        all.sort_by(f64::total_cmp);
        all[all.len() / 2]
    }
}

fn location(number: u128, mount: Mount, height_m: f64, knows: Knows) -> AntennaLocation {
    let place = matches!(knows, Knows::Mast | Knows::Rural | Knows::All).then_some(HOUSE);
    AntennaLocation { place, height_m, mount, position: Some(PositionId(Uuid::from_u128(number))) }
}

fn held(knows: Knows) -> Held {
    held_of(knows, 0.0)
}

/// `foil_db`: every house's walls take this much more than those of its kind.
fn held_of(knows: Knows, foil_db: f64) -> Held {
    let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let none = open_beacon_core::terrain::Ground::new(Vec::new());
    let said_dbi = panel(&settings).net_gain_dbi(1800.0, &settings).unwrap();
    let mut found = Held::default();
    for seed in 0..households() {
        let mut dice = Dice(fastrand::Rng::with_seed(40_000 + seed));
        let world = World { foil_db, ..World::drawn(&mut dice) };
        let spots: Vec<Truth> = [1.0, 1.0, 4.0]
            .map(|height_m| {
                let spot = dice.normal(0.0, 1.0);
                world.at(height_m, Some(spot), None, &mut dice)
            })
            .into();
        let outside = world.at(1.5, None, None, &mut dice);
        let roof = world.at(7.0, None, Some(said_dbi), &mut dice);
        let seen = |number: u128, mount: Mount, height_m: f64, truth: &Truth, dice: &mut Dice| Observation {
            spot: format!("Spot {number}"),
            location: location(number, mount, height_m, knows),
            antenna: AimAntenna::Stock,
            aim: None,
            turned: false,
            carriers: carriers(truth, dice),
            mode: ConnectionMode::Nsa,
            lock: BandChoice::default(),
            samples: 9,
            download_mbps: Some(truth.down_mbps * dice.normal(0.0, 0.12).exp()),
            upload_mbps: None,
        };
        let mut observations = Vec::new();
        if !matches!(knows, Knows::Mast | Knows::Rural) {
            for (at, (truth, height_m)) in spots.iter().zip([1.0, 1.0, 4.0]).enumerate() {
                observations.push(seen(at as u128 + 1, Mount::Indoor, height_m, truth, &mut dice));
            }
        }
        if matches!(knows, Knows::Outside | Knows::All) {
            observations.push(seen(8, Mount::Wall, 1.5, &outside, &mut dice));
        }
        let start = |of: &dyn Fn(&Truth) -> f64| match knows {
            Knows::Mast | Knows::Rural => 0.0,
            Knows::Spots => spots.iter().map(of).sum::<f64>() / spots.len() as f64,
            Knows::Outside | Knows::All => of(&outside),
        };
        let masts = [mast_of(&world)];
        let known = matches!(knows, Knows::Mast | Knows::Rural | Knows::All);
        let env = Environment::new(Facts {
            masts: if known { &masts } else { &[] },
            obstacles: &[],
            ground: if known && knows != Knows::Rural { &ground } else { &none },
            settings: &settings,
            house: known.then_some(HOUSE),
            observations,
            mode: ConnectionMode::Nsa,
        });
        let antenna_at = location(9, Mount::Pole, 7.0, knows);
        let aim = known.then_some(Aim { azimuth_deg: 0.0, elevation_deg: 0.0 });
        let setup = LinkSetup { aim, ..LinkSetup::new(antenna_at, panel(&settings)) };
        let Some(foretold) = predict(&env, &setup) else { panic!("{knows:?}: nothing is foretold") };
        let narrower = narrowings(&env, &setup, &foretold, None);
        let by_hand = narrower.iter().find(|one| one.reading == OneMoreReading::OutsideByHand);
        let there = env.arriving(&antenna_at, &AimAntenna::Stock, WhatIf::default());
        let strongest = there.iter().max_by(|a, b| a.power_dbm.mean.total_cmp(&b.power_dbm.mean));
        found.by_hand.push((
            Z_90 * strongest.unwrap().power_dbm.spread,
            by_hand.and_then(|one| one.signal_db).map(|(_, after)| after),
        ));
        let drawn = &draws(&env, &[(&setup, &foretold)], WhatIf::default(), DRAWS, seed)[0];
        let mut beside = |what: usize, closed: Estimate, drawn: Estimate| {
            let width = |one: Estimate| one.high - one.low;
            let apart = closed.likely - drawn.likely;
            found.beside_draws[what].push((apart, (width(closed) / width(drawn)).ln()));
        };
        for (one, drawn) in foretold.carriers.iter().zip(&drawn.carriers) {
            beside(0, one.rsrp_dbm(), range(&drawn.rsrp_dbm).unwrap());
            beside(1, one.sinr_db(), range(&drawn.sinr_db).unwrap());
        }
        if let Some(down) = foretold.down_mbps {
            let ln = |one: Estimate| one.map(|mbps| mbps.max(0.01).ln());
            beside(2, ln(down), ln(range(&drawn.down_mbps).unwrap()));
        }
        for one in &foretold.carriers {
            let band = env.cells[one.cell].carrier.band.unwrap();
            let of = |(known, ..): &(BandNr, f64, f64, f64)| matches!(known, BandNr::Lte(n) | BandNr::Nr(n) if *n == band);
            let Some(at) = BANDS.iter().position(of) else { continue };
            let (rsrp, sinr) = (one.rsrp_dbm(), one.sinr_db());
            let parts = |one: Estimate| (one.low, one.likely, one.high);
            found.add(0, parts(rsrp), roof.rsrp_dbm[at], start(&|truth| truth.rsrp_dbm[at]));
            found.add(1, parts(sinr), roof.sinr_db[at], start(&|truth| truth.sinr_db[at]));
        }
        if let Some(down) = foretold.down_mbps {
            let [low, likely, high] = [down.low, down.likely, down.high].map(|mbps| mbps.max(0.01).ln());
            found.add(2, (low, likely, high), roof.down_mbps.ln(), start(&|truth| truth.down_mbps.ln()));
        }
    }
    found
}

fn mast_of(world: &World) -> Mast {
    let cells = BANDS
        .into_iter()
        .enumerate()
        .map(|(at, (band, _, width_mhz, _))| {
            let (BandNr::Lte(number) | BandNr::Nr(number)) = band;
            let technology = if matches!(band, BandNr::Nr(_)) { Technology::Nr } else { Technology::Lte };
            let listed = crate::survey::cell(number, CHANNELS[at], at as u16);
            MastCell { technology, bandwidth_mhz: Some(width_mhz), load: None, ..listed }
        })
        .collect();
    Mast { height_m: Some(world.mast_m), ..mast(1, "Hidden", 0.0, 1000.0 * world.km, cells) }
}

/// Shares that are held to, by way of knowing, at the least and at the most: RSRP, SINR, download. 80 % ranges should hold between 0.72 and
/// 0.88. Beyond that stands what the ranges are wider than they must be: downloads where something was measured outside, and the mast
/// alone. RSRP stands at 0.70 where all is known, as height is worth more in this world than the middle of the published models, and without
/// terrain, where this world is the milder half of the two models of a path.
const HELD: [(Knows, [f64; 3], [f64; 3]); 5] = [
    (Knows::Spots, [0.72, 0.72, 0.72], [0.88, 0.88, 0.88]),
    (Knows::Outside, [0.72, 0.72, 0.72], [0.88, 0.88, 0.92]),
    (Knows::Mast, [0.72, 0.72, 0.72], [0.90, 0.88, 1.0]),
    (Knows::Rural, [0.70, 0.72, 0.72], [0.88, 0.88, 1.0]),
    (Knows::All, [0.70, 0.72, 0.72], [0.88, 0.88, 0.93]),
];

#[test]
fn the_truth_lies_in_the_ranges_as_often_as_they_say() {
    // Two standard errors of a share of 0.8 among so many houses; the bands of one house hang together.
    let chance = 2.0 * (0.8 * 0.2 / households() as f64).sqrt();
    let all: Vec<Held> = HELD.iter().map(|(knows, ..)| held(*knows)).collect();
    for (held, (knows, least, most)) in all.iter().zip(HELD) {
        println!(
            "{knows:?}: in the 80 % ranges RSRP {:.2}, SINR {:.2}, download {:.2}; median widths {:.1} dB, {:.1} dB, a factor of {:.1}; off by {:.1} dB and {:.1} dB on average",
            held.share(0),
            held.share(1),
            held.share(2),
            held.width(0),
            held.width(1),
            held.width(2).exp(),
            held.off(0),
            held.off(1),
        );
        // The closed form against draws of the same model: at the 10, 50 and 90 % quantile of the houses, medians within 0.5 dB and 5 %,
        // widths within 15 %; a download of which nothing is known but a distance within 10 and 20 %.
        for (what, (name, bound)) in
            [("RSRP", 0.5), ("SINR", 0.5), ("download", 0.05)].into_iter().enumerate()
        {
            let (apart, width) = held.off_the_draws(what);
            let ratio = width.map(f64::exp);
            println!("    {name} from the draws': medians {apart:.2?}, widths {ratio:.2?}");
            let bound = bound + if knows == Knows::Rural { 0.05 } else { 0.0 };
            let wide = if knows == Knows::Rural { 0.22 } else { 0.15 };
            assert!(apart.iter().all(|apart| apart.abs() <= bound), "{knows:?} {name}: {apart:.3?}");
            assert!(width.iter().all(|width| width.abs() <= wide), "{knows:?} {name}: {ratio:.3?}");
        }
        let [rsrp, sinr, down] = [0, 1, 2].map(|what| against_a_fixed_gain(&held.judged[what]));
        println!("    score against a fixed gain: RSRP {rsrp:.2}, SINR {sinr:.2}, download {down:.2}");
        // From indoors a rule of thumb is beaten by about a quarter, though it was fitted to this world. It is not for the signal's power, nor
        // after a reading outside: there this world's own gain in height is all that is left to know.
        assert!(knows != Knows::Spots || (sinr < 0.85 && down < 0.75), "{sinr} {down}");
        for (what, (least, most)) in least.into_iter().zip(most).enumerate() {
            let range = least - chance..=most + chance;
            assert!(range.contains(&held.share(what)), "{knows:?}, {what}: {:.2}", held.share(what));
        }
    }
    // What a reading outside is said to bring before it is taken, against what it brought.
    let median = |mut all: Vec<f64>| {
        all.sort_by(f64::total_cmp);
        all[all.len() / 2]
    };
    let foretold = median(all[0].by_hand.iter().map(|(now, after)| after.unwrap_or(*now)).collect());
    let came = median(all[1].by_hand.iter().map(|(now, _)| *now).collect());
    println!("a reading outside: ±{foretold:.1} dB foretold, ±{came:.1} dB came");
    assert!((foretold / came).ln().abs() < 0.15, "{foretold} {came}");
    let narrower = |before: usize, after: usize| all[after].width(0) / all[before].width(0);
    assert!(narrower(0, 1) < 0.67, "a reading outside tells what the walls take");
    assert!(narrower(2, 4) < 0.67, "measuring tells what a mast's power is");
}

/// Foil in the walls, 15 dB off what is assumed of them. Where nothing was read outside the roof comes out too weak, as it must: the walls
/// cannot be told from the way. One reading outside by hand tells them apart, and the roof's truth lies in its ranges as often as they say.
#[test]
fn a_reading_outside_finds_foil_in_the_walls() {
    let chance = 2.0 * (0.8 * 0.2 / households() as f64).sqrt();
    for (knows, least) in [(Knows::Spots, None), (Knows::Outside, Some(0.72)), (Knows::All, Some(0.68))] {
        let (foil, plain) = (held_of(knows, 15.0), held(knows));
        let shares = [0, 1, 2].map(|what| foil.share(what));
        println!(
            "{knows:?} behind foil: in the 80 % ranges RSRP, SINR, download {shares:.2?}; off by {:.1} dB, without foil by {:.1} dB",
            foil.off(0),
            plain.off(0)
        );
        // Where all is known this world's own gain in height is left, with foil or without.
        let moved_db = plain.off(0) - foil.off(0);
        match least {
            Some(least) => {
                assert!(shares[0] >= least - chance, "{knows:?}: {shares:.2?}");
                assert!(moved_db.abs() < 1.0, "{knows:?}: {moved_db}");
            }
            // All of the foil is laid to the way where nothing tells it from the walls.
            None => assert!((13.0..17.0).contains(&moved_db), "{knows:?}: {moved_db}"),
        }
    }
}
