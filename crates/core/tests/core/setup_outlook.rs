//! What is expected of a setup, and what would narrow it: what is promised of one more measurement is held against taking it.

use crate::kits::{heard, lte, nr};
use crate::link::{observed, of_observations};
use crate::survey::{cell, mast, panel};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::judge::{Narrowing, OneMoreReading, SetupOutlook, narrowings, setup_outlook};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::predict::{LinkPrediction, LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::words::outlook::title;
use proptest::prelude::*;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

fn at(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    AntennaLocation { place: None, height_m, mount, position: Some(PositionId(Uuid::from_u128(number))) }
}

/// The gateway on a sill, read and perhaps tested.
fn on_the_sill(rsrp: f64, sinr: f64, down: Option<f64>) -> Observation<'static> {
    let carriers = vec![
        heard(nr(78), 80.0, rsrp, sinr, CarrierRole::Primary),
        heard(lte(3), 20.0, rsrp + 4.0, sinr + 1.0, CarrierRole::Anchor),
    ];
    observed(at(1, Mount::Indoor, 1.0), carriers, down)
}

fn settings() -> &'static SiteSettings {
    Box::leak(Box::new(SiteSettings::default()))
}

fn on_a_pole(settings: &SiteSettings) -> LinkSetup<'_> {
    LinkSetup::new(at(2, Mount::Pole, 7.0), panel(settings))
}

fn stands() -> LinkSetup<'static> {
    LinkSetup::new(at(1, Mount::Indoor, 1.0), AimAntenna::Stock)
}

/// Width of the download's range, of its logarithm.
fn width(found: &LinkPrediction) -> f64 {
    let down = found.down_mbps.unwrap();
    (down.high / down.low).ln()
}

fn of(all: &[Narrowing], reading: OneMoreReading) -> Option<Narrowing> {
    all.iter().copied().find(|one| one.reading == reading)
}

/// A test that comes out as is likely narrows the range by as much as was said.
#[test]
fn a_speed_test_narrows_as_promised() {
    let (settings, stands) = (settings(), stands());
    let setup = on_a_pole(settings);
    let before = of_observations(vec![on_the_sill(-104.0, 9.0, None)]);
    let found = predict(&before, &setup).unwrap();
    let promised = of(&narrowings(&before, &setup, &found, Some(&stands)), OneMoreReading::TestsNow).unwrap();
    let likely = predict(&before, &stands).unwrap().down_mbps.unwrap().likely;
    let after = of_observations(vec![on_the_sill(-104.0, 9.0, Some(likely))]);
    let came = 1.0 - width(&predict(&after, &setup).unwrap()) / width(&found);
    assert!((promised.download - came).abs() < 0.05, "promised {promised:?}, came {came}");
    assert!(promised.signal_db.is_none() && promised.download > 0.1);
}

/// A reading that comes out as is likely tells the signal as well as was said, and the download at least.
#[test]
fn a_reading_narrows_as_promised() {
    let settings = settings();
    let setup = on_a_pole(settings);
    let sill = || on_the_sill(-104.0, 9.0, None);
    let before = of_observations(vec![sill()]);
    let found = predict(&before, &setup).unwrap();
    let promised = of(&narrowings(&before, &setup, &found, None), OneMoreReading::OutsideByHand).unwrap();
    // What is likely there, heard by hand against the wall.
    let wall = AntennaLocation { mount: Mount::Wall, height_m: 1.5, position: None, ..setup.location };
    let there = predict(&before, &LinkSetup::new(wall, AimAntenna::Stock)).unwrap();
    let carriers = there.carriers.iter().map(|one| one.likely.0.clone()).collect();
    let after = of_observations(vec![sill(), observed(wall, carriers, None)]);
    let then = predict(&after, &setup).unwrap();
    let half = |found: &LinkPrediction| {
        let range =
            found.carriers.iter().map(|one| one.rsrp_dbm()).max_by(|a, b| a.likely.total_cmp(&b.likely));
        range.map(|range| 0.5 * (range.high - range.low)).unwrap()
    };
    let (now_db, after_db) = promised.signal_db.unwrap();
    assert!((now_db - half(&found)).abs() < 0.5, "{now_db} said, {} shown", half(&found));
    assert!((after_db - half(&then)).abs() < 1.0, "{after_db} promised, {} came", half(&then));
    let came = 1.0 - width(&then) / width(&found);
    assert!(came > promised.download - 0.05, "promised {promised:?}, came {came}");
}

/// What is read with the setup itself leaves less for others to tell, and the tests are then with it.
#[test]
fn what_stands_is_tested_as_it_stands() {
    let setup = stands();
    let env = of_observations(vec![on_the_sill(-104.0, 9.0, None)]);
    let found = predict(&env, &setup).unwrap();
    let all = narrowings(&env, &setup, &found, Some(&setup));
    assert!(of(&all, OneMoreReading::TestsWithIt).is_some(), "{all:?}");
    assert!(of(&all, OneMoreReading::TestsNow).is_none());
    assert!(of(&all, OneMoreReading::AtTheAntenna).is_none(), "it was read there: {all:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Nothing is promised to widen, a climb is told where there is one, and the best for its time goes first.
    #[test]
    fn promises_are_kept_within_reason(
        rsrp in -116.0..-78.0f64, sinr in -3.0..22.0f64, height in 1.0..12.0f64, tested in any::<bool>(),
    ) {
        let settings = settings();
        let env = of_observations(vec![on_the_sill(rsrp, sinr, tested.then_some(30.0))]);
        let setup = LinkSetup::new(at(2, Mount::Pole, height), panel(settings));
        let found = predict(&env, &setup).unwrap();
        let all = narrowings(&env, &setup, &found, Some(&stands()));
        for one in &all {
            prop_assert!((0.0..1.0).contains(&one.download), "{one:?}");
            prop_assert!(one.signal_db.is_none_or(|(now, after)| after <= now + 1e-9), "{one:?}");
            let climbs = u32::from(one.reading == OneMoreReading::AtTheAntenna && height > 2.5);
            prop_assert_eq!((one.climbs, one.minutes), (climbs, 5 + 15 * climbs));
        }
        let per_minute = |one: &Narrowing| one.download / f64::from(one.minutes);
        prop_assert!(all.windows(2).all(|two| per_minute(&two[0]) + 0.02 >= per_minute(&two[1])), "{all:?}");
    }
}

fn outlook(env: &Environment, setup: &LinkSetup, need_mbps: (f64, f64)) -> SetupOutlook {
    setup_outlook(env, setup, need_mbps, None, Some(&stands())).unwrap()
}

/// The page of a setup shows what the prediction says, no other figure.
#[test]
fn a_setup_shows_its_prediction() {
    let settings = settings();
    let setup = on_a_pole(settings);
    let env = of_observations(vec![on_the_sill(-104.0, 9.0, Some(20.0))]);
    let (shown, found) = (outlook(&env, &setup, (5.0, 1.0)), predict(&env, &setup).unwrap());
    assert_eq!((shown.down_mbps, shown.up_mbps), (found.down_mbps, found.up_mbps));
    assert_eq!(shown.carriers.len(), found.carriers.len());
    assert_eq!(
        shown.carriers[0].band,
        BandName { technology: Technology::Nr, band: 78 },
        "the most goes first"
    );
    assert_eq!(shown.margin, found.margin(&env, 5.0, 1.0));
    assert_eq!(shown.day, found.over_a_day(&env));
    assert_eq!(shown.why, found.why(&env));
    assert!(
        shown.carriers.iter().all(|one| one.measured_rsrp_dbm.is_none() && one.measured_sinr_db.is_none())
    );
    assert!(outlook(&env, &setup, (5000.0, 1.0)).margin.is_none(), "the need is missed");
    let nothing = of_observations(Vec::new());
    assert!(setup_outlook(&nothing, &setup, (5.0, 1.0), None, None).is_none());
}

#[test]
fn a_setup_is_told_in_a_sentence() {
    let settings = settings();
    let env = of_observations(vec![on_the_sill(-104.0, 9.0, Some(20.0))]);
    let range = |low, likely, high| Some(Estimate { low, likely, high });
    let shown = SetupOutlook {
        down_mbps: range(52.0, 80.0, 133.0),
        up_mbps: range(9.0, 14.0, 20.0),
        ..outlook(&env, &on_a_pole(settings), (5.0, 1.0))
    };
    assert_eq!(
        title(&shown),
        "Expect 52 to 130\u{202f}Mbit/s down and 9.0 to 20\u{202f}Mbit/s up. Not tested yet."
    );
    let tested =
        SetupOutlook { measured_down_mbps: Some(84.0), measured_up_mbps: Some(14.2), ..shown.clone() };
    assert!(title(&tested).ends_with("Measured with it: 84.0\u{202f}Mbit/s down and 14.2\u{202f}Mbit/s up."));
    let silent = SetupOutlook { down_mbps: None, up_mbps: None, ..shown };
    assert_eq!(title(&silent), "What it would carry is not known. Not tested yet.");
}

/// A mast with two NR carriers: the gateway takes n78 and passes over n28, which is stronger.
fn passes_over(given: bool, lock: BandChoice, samples: usize) -> (f64, Vec<(u16, bool)>) {
    let settings = settings();
    let ground = Box::leak(Box::new(crate::survey::ground_by(|_, _| 400.0)));
    let of_nr = |band, channel, pci, mhz| MastCell {
        technology: Technology::Nr,
        bandwidth_mhz: Some(mhz),
        ..cell(band, channel, pci)
    };
    let cells = vec![cell(3, 1575, 11), of_nr(28, 152_600, 12, 10.0), of_nr(78, 640_000, 13, 80.0)];
    let masts = Box::leak(Box::new([mast(143, "Ridge", 143.0, 3500.0, cells)]));
    let mut carriers = vec![
        heard(nr(78), 80.0, -96.0, 15.0, CarrierRole::Primary),
        heard(lte(3), 20.0, -92.0, 14.0, CarrierRole::Anchor),
    ];
    (carriers[0].channel, carriers[0].pci) = (Some(640_000), Some(13));
    (carriers[1].channel, carriers[1].pci) = (Some(1575), Some(11));
    if given {
        let mut also = heard(nr(28), 10.0, -80.0, 15.0, CarrierRole::Secondary);
        (also.channel, also.pci) = (Some(152_600), Some(12));
        carriers.push(also);
    }
    let location = AntennaLocation { place: Some(HOUSE), ..at(2, Mount::Pole, 7.0) };
    let seen = Observation { samples, ..observed(location, carriers, Some(120.0)) };
    let (obstacles, mode) = (&[][..], ConnectionMode::Nsa);
    let house = Some(HOUSE);
    let env =
        Environment::new(Facts { masts, obstacles, ground, settings, house, observations: vec![seen], mode });
    let setup = LinkSetup { lock, ..LinkSetup::new(location, AimAntenna::Stock) };
    let found = predict(&env, &setup).unwrap();
    let counts = found.carriers.iter().map(|one| (env.cells[one.cell].band.band, one.counts));
    (found.down_mbps.unwrap().likely, counts.collect())
}

/// What the network never gives beside others is not counted on, unless it brings more than they do or a lock leaves nothing else.
#[test]
fn a_carrier_that_is_passed_over_is_not_counted() {
    let free = BandChoice::default;
    let counts = |(_, carriers): &(f64, Vec<(u16, bool)>), band| {
        carriers.iter().find(|(own, _)| *own == band).map(|(_, counts)| *counts)
    };
    let passed = passes_over(false, free(), 9);
    assert_eq!(counts(&passed, 28), Some(false), "{passed:?}");
    assert_eq!((counts(&passed, 78), counts(&passed, 3)), (Some(true), Some(true)));
    let given = passes_over(true, free(), 9);
    assert_eq!(counts(&given, 28), Some(true), "{given:?}");
    let few = passes_over(false, free(), 2);
    assert_eq!(counts(&few, 28), Some(true), "two readings do not tell: {few:?}");
    assert!(few.0 > 1.02 * passed.0, "{} with it, {} without", few.0, passed.0);
    let only = BandChoice { nr: vec![28], ..free() };
    let alone = passes_over(false, BandChoice { access: BandAccess::Sa, ..free() }, 9);
    assert_eq!(counts(&alone, 28), Some(true), "connected otherwise nothing was seen: {alone:?}");
    let locked = passes_over(false, only, 9);
    assert_eq!((counts(&locked, 28), counts(&locked, 78)), (Some(true), None), "{locked:?}");
    // Null change: what is foretold without it is what was measured.
    assert!((passed.0 / 120.0).ln().abs() < 0.1, "{} for 120 measured", passed.0);
}
