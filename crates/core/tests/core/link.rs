//! The one prediction: its posterior against a reference library, what must hold for any house, and that measuring a setup
//! makes the prediction for it what was measured.

use crate::kits::{KITCHEN, heard, lte, nr};
use crate::survey::{ground_by, mast, radio};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::{Aim, AimAntenna};
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::gaussian::{Kernel, Measurement, Mixture, Normal, Posterior, below};
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::predict::{LinkSetup, predict, predictions};
use open_beacon_core::link::received::sinr_db;
use open_beacon_core::link::walls::wall_losses_db;
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use proptest::prelude::*;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

/// Points as weights of shared parts, each of spread 1.
struct Parts;

impl Kernel for Parts {
    type Point = [f64; 6];

    fn covariance(&self, a: &[f64; 6], b: &[f64; 6]) -> f64 {
        a.iter().zip(b).map(|(a, b)| a * b).sum()
    }
}

/// scikit-learn's Gaussian process regressor, 50 made cases (tests/vectors/make_link.py).
#[test]
fn the_posterior_matches_the_reference_library() {
    let table = include_str!("../../../../tests/vectors/link_posterior.csv");
    let rows: Vec<Vec<f64>> = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(table.as_bytes())
        .records()
        .map(|row| row.unwrap().iter().map(|cell| cell.parse().unwrap()).collect())
        .collect();
    let point = |row: &[f64]| -> [f64; 6] { row[2..8].try_into().unwrap() };
    let (mut worst, mut compared) = (0.0f64, 0);
    for case in 0..50 {
        let own = || rows.iter().filter(move |row| row[0] as i32 == case);
        let measured = own().filter(|row| row[1] == 0.0).map(|row| Measurement {
            point: point(row),
            residual: row[8],
            noise: row[9],
        });
        let measured: Vec<_> = measured.collect();
        // The same learned one by one, after the first.
        let mut pushed = Mixture::new([(1.0, Parts)], &measured[..1]);
        measured[1..].iter().for_each(|one| pushed.push(one));
        let posterior = Posterior::new(Parts, measured);
        for row in own().filter(|row| row[1] == 1.0) {
            let found = posterior.at(&point(row));
            worst = worst.max((found.mean - row[8]).abs()).max((found.spread - row[9]).abs());
            worst = worst.max((posterior.shift(&point(row)) - row[8]).abs());
            let one_by_one = pushed.at(&point(row));
            worst = worst.max((one_by_one.mean - row[8]).abs()).max((one_by_one.spread - row[9]).abs());
            compared += 1;
        }
        // The same points together: their own means and variances, and drawn pairs hang together as the posterior says.
        let points: Vec<[f64; 6]> = own().filter(|row| row[1] == 1.0).map(|row| point(row)).collect();
        let joint = posterior.joint(&points.iter().collect::<Vec<_>>());
        let covariance = &joint.lower * joint.lower.transpose();
        for (at, one) in points.iter().enumerate() {
            let alone = posterior.at(one);
            worst = worst.max((joint.mean[at] - alone.mean).abs());
            worst = worst.max((covariance[(at, at)] - alone.spread.powi(2)).abs());
            // The variance of a sum of two points, which are parts themselves: var(a + b) = var a + var b + 2 cov.
            let other = points[(at + 1) % points.len()];
            let both = std::array::from_fn(|part| one[part] + other[part]);
            let expected = posterior.at(&both).spread.powi(2);
            let next = (at + 1) % points.len();
            let found = covariance[(at, at)] + covariance[(next, next)] + 2.0 * covariance[(at, next)];
            worst = worst.max((found - expected).abs());
        }
    }
    assert!(compared == 200 && worst < 1e-6, "{compared} compared, {worst} off");
}

/// Worked by hand: S −95, N −125, I −100 dBm: I + N = −99.986, SINR 4.986 dB; with 10 dB more of both and 12 dB kept out:
/// S −85, I −102: I + N = −101.978, 16.978 dB.
#[test]
fn interference_in_closed_form() {
    assert!((sinr_db(-95.0, -100.0, -125.0) - 4.986).abs() < 0.002);
    assert!((sinr_db(-85.0, -102.0, -125.0) - 16.978).abs() < 0.002);
}

/// A setup of a test: where, with what, and what was heard and measured on it.
pub fn observed(
    location: AntennaLocation,
    carriers: Vec<Carrier>,
    down: Option<f64>,
) -> Observation<'static> {
    Observation {
        spot: "Here".into(),
        location,
        antenna: AimAntenna::Stock,
        aim: None,
        turned: false,
        carriers,
        mode: ConnectionMode::Nsa,
        lock: BandChoice::default(),
        samples: 9,
        download_mbps: down,
        upload_mbps: down.map(|down| down / 8.0),
    }
}

/// A house of which nothing is known but what was heard and measured.
pub fn of_observations(observations: Vec<Observation<'static>>) -> Environment<'static> {
    let ground: &'static Ground = Box::leak(Box::new(Ground::new(Vec::new())));
    let settings: &'static SiteSettings = Box::leak(Box::new(SiteSettings::default()));
    let (masts, obstacles, mode) = (&[][..], &[][..], ConnectionMode::Nsa);
    Environment::new(Facts { masts, obstacles, ground, settings, house: None, observations, mode })
}

fn at(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    AntennaLocation { place: None, height_m, mount, position: Some(PositionId(Uuid::from_u128(number))) }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Null change: for what stands there and was measured, what was measured is foretold; RSRP within 1 dB, SINR within 1.5 dB,
    /// rates within a tenth. Readings are such that noise does not hide interference: what it hides is known as a bound only.
    #[test]
    fn what_was_measured_is_foretold_for_the_same_setup(
        rsrp in -118.0..-75.0f64, sinr in -4.0..24.0f64, share in 0.1..1.5f64, indoors in any::<bool>(),
    ) {
        prop_assume!(rsrp - sinr > -121.0);
        let mount = if indoors { Mount::Indoor } else { Mount::Pole };
        let carriers = vec![
            heard(nr(78), 80.0, rsrp, sinr, CarrierRole::Primary),
            heard(lte(3), 20.0, rsrp + 4.0, sinr + 1.0, CarrierRole::Anchor),
        ];
        let location = at(1, mount, 2.0);
        let setup = LinkSetup::new(location, AimAntenna::Stock);
        let free = of_observations(vec![observed(location, carriers.clone(), None)]);
        let possible = predict(&free, &setup).unwrap().possible_down_mbps.unwrap().likely;
        prop_assume!(possible > 1.0);
        let measured = share * possible;
        let env = of_observations(vec![observed(location, carriers.clone(), Some(measured))]);
        let found = predict(&env, &setup).unwrap();
        for one in &found.carriers {
            let read = carriers.iter().find(|carrier| carrier.band == env.cells[one.cell].carrier.band).unwrap();
            prop_assert!((one.rsrp_dbm().likely - read.rsrp_dbm.unwrap()).abs() < 1.0);
            prop_assert!((one.sinr_db().likely - read.sinr_db.unwrap()).abs() < 1.5, "{:?} {:?}", one.sinr_db(), read.sinr_db);
        }
        let down = found.down_mbps.unwrap();
        prop_assert!((down.likely / measured).ln().abs() < 0.1, "{down:?} for {measured}");
        prop_assert!(down.low < measured && measured < down.high, "{down:?} for {measured}");
    }

    /// More measurements never widen a prediction, and ranges are in order.
    #[test]
    fn measuring_more_never_widens(rsrp in -115.0..-80.0f64, off in -8.0..8.0f64, height in 2.0..9.0f64) {
        let carrier = |rsrp: f64| vec![heard(lte(3), 20.0, rsrp, 8.0, CarrierRole::Anchor)];
        let wanted = at(9, Mount::Wall, height);
        let spread = |spots: usize| {
            let all = [
                observed(at(1, Mount::Indoor, 1.5), carrier(rsrp), None),
                observed(at(2, Mount::Window, 4.0), carrier(rsrp + 6.0 + off), None),
                observed(at(3, Mount::Pole, 1.5), carrier(rsrp + 12.0 - off), None),
            ];
            let env = of_observations(all[..spots].to_vec());
            env.arriving(&wanted, &AimAntenna::Stock, WhatIf::default())[0].power_dbm.spread
        };
        let (one, two, three) = (spread(1), spread(2), spread(3));
        prop_assert!(two <= one + 1e-9 && three <= two + 1e-9, "{one} {two} {three}");
        prop_assert!(three < 0.67 * one, "a reading outside tells what the wall takes: {one} {three}");
    }

    /// A bound moves a value below it and narrows it; one far above changes nothing.
    #[test]
    fn a_bound_moves_down_and_narrows(mean in -20.0..20.0f64, spread in 0.5..10.0f64, bound in -20.0..20.0f64) {
        let prior = Normal { mean, spread };
        let Some((residual, noise)) = below(prior, bound) else {
            prop_assert!(bound > mean + 2.9 * spread || bound > mean);
            return Ok(());
        };
        let weight = spread * spread / (spread * spread + noise * noise);
        let after = mean + weight * residual;
        prop_assert!(after < mean + 1e-9 && weight > 0.0);
        // The truncated mean lies below the bound, as far as six spreads are looked at.
        prop_assert!(bound < mean - 6.0 * spread || after <= bound + 1e-6, "{after} {bound}");
    }
}

/// Points of a sweep and repeated readings of one setup count as one reading, by their precisions: two readings 4 dB apart are two of their
/// mean, so that a long sweep does not make a house slow.
#[test]
fn repeated_readings_are_one_reading_of_their_mean() {
    let carrier = |rsrp: f64| vec![heard(lte(3), 20.0, rsrp, 8.0, CarrierRole::Anchor)];
    let of = |readings: &[(f64, usize)]| {
        let seen = |(rsrp, samples): &(f64, usize)| Observation {
            samples: *samples,
            ..observed(at(1, Mount::Indoor, 1.5), carrier(*rsrp), None)
        };
        let env = of_observations(readings.iter().map(seen).collect());
        env.arriving(&at(9, Mount::Wall, 6.0), &AimAntenna::Stock, WhatIf::default())[0].power_dbm
    };
    // The cell's own level starts from the strongest that was heard, so that it is heard first.
    let (apart, mean) = (of(&[(-96.0, 1), (-100.0, 1)]), of(&[(-96.0, 1), (-100.0, 1), (-98.0, 2)]));
    let same = of(&[(-96.0, 2), (-100.0, 2)]);
    assert!(
        (mean.mean - same.mean).abs() < 1e-6 && (mean.spread - same.spread).abs() < 1e-6,
        "{mean:?} {same:?}"
    );
    assert!(mean.spread < apart.spread);
}

/// A reading behind a wall speaks of the wall first, one in the open of the mast.
#[test]
fn a_weak_reading_indoors_is_laid_to_the_wall() {
    let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let mut cell = crate::survey::cell(3, 1300, 7);
    cell.pci = Some(7);
    let masts = [mast(1, "A", 0.0, 3000.0, vec![cell])];
    let outside = AntennaLocation { place: Some(HOUSE), height_m: 6.0, mount: Mount::Wall, position: None };
    let computed = {
        let env = radio(&masts, &[], &ground, &settings);
        env.arriving(&outside, &AimAntenna::Stock, WhatIf::default())[0].power_dbm.mean
    };
    let shift = |mount: Mount| {
        let location = AntennaLocation { place: Some(HOUSE), height_m: 6.0, mount, ..KITCHEN };
        let as_computed = {
            let env = radio(&masts, &[], &ground, &settings);
            env.arriving(&location, &AimAntenna::Stock, WhatIf::default())[0].power_dbm.mean + 1.0
        };
        let mut carrier = heard(lte(3), 20.0, as_computed - 15.0, 5.0, CarrierRole::Primary);
        (carrier.channel, carrier.pci) = (Some(1300), Some(7));
        let env = Environment::new(Facts {
            masts: &masts,
            obstacles: &[],
            ground: &ground,
            settings: &settings,
            house: Some(HOUSE),
            observations: vec![observed(location, vec![carrier], None)],
            mode: ConnectionMode::Lte,
        });
        assert_eq!(env.residuals.len(), 1);
        assert!((env.residuals[0].measured_dbm - env.residuals[0].predicted_dbm + 15.0).abs() < 1e-9);
        env.arriving(&outside, &AimAntenna::Stock, WhatIf::default())[0].power_dbm.mean - computed
    };
    let (inside, open) = (shift(Mount::Indoor), shift(Mount::Pole));
    assert!(open < -13.0, "outside, 15 dB too little are nearly all the mast's: {open}");
    assert!(inside < -5.0 && inside > -11.0, "inside the wall has its part: {inside}");
}

/// A prior with a mean of its own.
struct Beyond(f64);

impl Kernel for Beyond {
    type Point = [f64; 6];

    fn covariance(&self, a: &[f64; 6], b: &[f64; 6]) -> f64 {
        Parts.covariance(a, b)
    }

    fn offset(&self, at: &[f64; 6]) -> f64 {
        self.0 * at[0]
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// How likely each of two priors is after three measurements, against the product of what each measurement was foretold as by those
    /// before it: the posterior that the reference library checks, with the statrs library's density.
    #[test]
    fn priors_are_weighed_by_what_they_foretold(
        points in prop::collection::vec(prop::array::uniform6(-2.0..2.0f64), 3),
        residuals in prop::array::uniform3(-4.0..4.0f64),
        offsets in prop::array::uniform2(-2.0..2.0f64),
        prior in 0.1..0.9f64,
    ) {
        use statrs::distribution::Continuous;
        let noise = 0.8;
        let made = |at: usize| Measurement { point: points[at], residual: residuals[at], noise };
        let measured: Vec<_> = (0..3).map(made).collect();
        let found = Mixture::new(offsets.map(Beyond).into_iter().zip([prior, 1.0 - prior]).map(|(k, p)| (p, k)), &measured);
        let density = |offset: f64| {
            let step = |at: usize| {
                let before = Posterior::new(Beyond(offset), measured[..at].to_vec()).at(&points[at]);
                let spread = before.spread.hypot(noise);
                statrs::distribution::Normal::new(before.mean, spread).unwrap().pdf(residuals[at])
            };
            step(0) * step(1) * step(2)
        };
        let [first, second] = offsets.map(density);
        let expected = prior * first / (prior * first + (1.0 - prior) * second);
        if expected > 2e-3 && expected < 1.0 - 2e-3 {
            prop_assert!((found.weights()[0] - expected).abs() < 1e-6, "{:?} {expected}", found.weights());
        }
        // One more measurement in closed form is what conditioning anew on all of them gives, where each prior foretells it.
        let (there, read_at) = ([1.0; 6], points[0]);
        let again: f64 = found
            .each_at(&read_at)
            .map(|(weight, foretold)| {
                let more = Measurement { point: read_at, residual: foretold.mean, noise };
                let all: Vec<_> = measured.iter().cloned().chain([more]).collect();
                let kernels = [(prior, Beyond(offsets[0])), (1.0 - prior, Beyond(offsets[1]))];
                weight * Mixture::new(kernels, &all).at(&there).spread
            })
            .sum();
        if found.weights().len() == 2 {
            let step = found.spread_after(&there, &read_at, noise);
            prop_assert!((step - again).abs() < 1e-3 * again, "{step} {again}");
        }
        // The mean lies between what either prior says alone, and the spread is no less than the narrower's.
        let alone = offsets.map(|offset| Posterior::new(Beyond(offset), measured.clone()).at(&points[0]));
        let both = found.at(&points[0]);
        let (low, high) = (alone[0].mean.min(alone[1].mean), alone[0].mean.max(alone[1].mean));
        prop_assert!(both.mean >= low - 1e-9 && both.mean <= high + 1e-9);
        prop_assert!(both.spread >= alone[0].spread.min(alone[1].spread) - 1e-9);
    }
}

/// One reading inside and one outside tell which kind of house it is, as far as P.2109's two kinds lie apart.
#[test]
fn the_kind_of_house_is_learned_from_what_its_walls_take() {
    let settings = SiteSettings::default();
    let losses = wall_losses_db(Mount::Indoor, &settings, 1842.5);
    let learned = |taken_db: f64| {
        let reading = |dbm: f64| vec![heard(lte(3), 20.0, dbm, 8.0, CarrierRole::Primary)];
        let env = of_observations(vec![
            observed(at(1, Mount::Indoor, 1.5), reading(-80.0 - taken_db), None),
            observed(at(2, Mount::Wall, 1.5), reading(-80.0), None),
        ]);
        let location = at(3, Mount::Indoor, 1.5);
        let there = &env.arriving(&location, &AimAntenna::Stock, WhatIf::default())[0];
        assert!(
            there.wall_db.mean > losses[0].mean && there.wall_db.mean < losses[1].mean,
            "both are possible"
        );
        there.learned_wall_db
    };
    // By hand, with two readings of 3 dB over the root of nine samples, and two places 10 m apart that share e^(−10/50) of 4 dB of
    // shadowing: what is measured is the wall's loss ± √(2 · 1² + 2 · 4² · (1 − 0.819)) = 2.79 dB.
    let expected = |taken_db: f64| {
        let density = |of: Normal| {
            let spread = of.spread.hypot(2.79);
            (-0.5 * ((taken_db - of.mean) / spread).powi(2)).exp() / spread
        };
        let [plain, foil] = [0.7 * density(losses[0]), 0.3 * density(losses[1])];
        (plain * losses[0].mean + foil * losses[1].mean) / (plain + foil)
    };
    for taken_db in [5.0, 12.0, 20.0, 28.0, 40.0] {
        let (found, by_hand) = (learned(taken_db), expected(taken_db));
        assert!((found - by_hand).abs() < 0.3, "{taken_db}: {found} against {by_hand}");
    }
    assert!(learned(36.0) > learned(8.0) + 10.0);
}

/// A gateway takes the strongest cell of a channel: a mast that it never took is no stronger there.
#[test]
fn a_mast_that_is_never_taken_is_no_stronger() {
    let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let cell = |pci| MastCell { pci: Some(pci), ..crate::survey::cell(3, 1300, 0) };
    let masts =
        [mast(1, "Taken", 0.0, 5000.0, vec![cell(7)]), mast(2, "Never", 180.0, 2500.0, vec![cell(8)])];
    let location = AntennaLocation { place: Some(HOUSE), ..at(1, Mount::Pole, 4.0) };
    let mut carrier = heard(lte(3), 20.0, -95.0, 5.0, CarrierRole::Primary);
    (carrier.channel, carrier.pci) = (Some(1300), Some(7));
    let env = |observations| {
        let (masts, obstacles, ground, settings) = (&masts[..], &[][..], &ground, &settings);
        let (house, mode) = (Some(HOUSE), ConnectionMode::Lte);
        Environment::new(Facts { masts, obstacles, ground, settings, house, observations, mode })
    };
    let power = |env: &Environment, cell: usize| {
        env.arriving(&location, &AimAntenna::Stock, WhatIf::default())[cell].power_dbm.mean
    };
    let (before, after) = (env(Vec::new()), env(vec![observed(location, vec![carrier], None)]));
    assert!(power(&before, 1) > power(&before, 0) + 5.0, "computed, the nearer one is stronger");
    assert!((power(&after, 0) + 96.0).abs() < 1.0);
    assert!(power(&after, 1) < -95.0 + 3.0, "{}", power(&after, 1));
    let setup = LinkSetup::new(location, AimAntenna::Stock);
    assert_eq!(predict(&after, &setup).unwrap().mast, Some(0));
    assert_eq!(predictions(&after, &setup, WhatIf::default()).len(), 2);
}

/// An antenna turned away from the mast hears it less by its pattern; a lock leaves only its bands.
#[test]
fn aim_and_lock_are_part_of_a_setup() {
    let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let cells = vec![crate::survey::cell(3, 1300, 1), crate::survey::cell(20, 6300, 1)];
    let masts = [mast(1, "A", 0.0, 3000.0, cells)];
    let env = radio(&masts, &[], &ground, &settings);
    let location = AntennaLocation { place: Some(HOUSE), height_m: 8.0, mount: Mount::Pole, position: None };
    let panel = crate::survey::panel(&settings);
    let at = |azimuth_deg: f64| {
        let aim = Some(Aim { azimuth_deg, elevation_deg: 0.0 });
        predict(&env, &LinkSetup { aim, ..LinkSetup::new(location, panel) }).unwrap()
    };
    // 60 degrees wide: 30 degrees off are 3 dB (TR 36.814 table A.2.1.1-2), all round 20 dB of front to back.
    let rsrp = |azimuth_deg: f64| at(azimuth_deg).carriers[0].rsrp_dbm().likely;
    assert!((rsrp(0.0) - rsrp(30.0) - 3.0).abs() < 0.05 && (rsrp(0.0) - rsrp(180.0) - 20.0).abs() < 0.1);
    let free = predict(&env, &LinkSetup::new(location, panel)).unwrap();
    assert_eq!((free.carriers.len(), free.aim.unwrap().azimuth_deg.round() as i32 % 360), (2, 0));
    let lock = BandChoice { access: BandAccess::Lte, lte: vec![20], nr: Vec::new() };
    let held = predict(&env, &LinkSetup { lock, ..LinkSetup::new(location, panel) }).unwrap();
    assert_eq!(held.carriers.len(), 1);
    assert_eq!(env.cells[held.carriers[0].cell].band, lte(20));
    assert!(held.down_mbps.unwrap().likely < free.down_mbps.unwrap().likely);
}

/// An antenna on the ground, or typed at no height at all, is doubted by a bounded amount.
#[test]
fn an_antenna_on_the_ground_is_foretold() {
    for height_m in [0.0, f64::MIN_POSITIVE, 1e-9, 0.05, 0.1] {
        for (share, way) in open_beacon_core::link::rural::ways(30.0, 5000.0, height_m, 800.0) {
            let fine = way.mean.is_finite() && way.spread < 40.0 && (0.0..=1.0).contains(&share);
            assert!(fine, "{height_m} m: {way:?}");
        }
    }
}
