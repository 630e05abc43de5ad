//! Where figures come from: the terms add up to what is foretold.

use crate::kits::{heard, lte, nr};
use crate::link::observed;
use crate::survey::{cell, ground_by, mast, panel};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::Facts;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::predict::{LinkSetup, predict};
use open_beacon_core::link::why::{Basis, Why, WhyTerm};
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use open_beacon_core::words::why::rows;
use proptest::prelude::*;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

fn location(number: u128, mount: Mount, height_m: f64, placed: bool) -> AntennaLocation {
    let position = Some(PositionId(Uuid::from_u128(number)));
    AntennaLocation { place: placed.then_some(HOUSE), height_m, mount, position }
}

/// What stands behind a figure at a house. `knows`: the mast, its terrain, a reading indoors.
fn why(knows: [bool; 3], rsrp: f64, sinr: f64, mount: Mount, height_m: f64) -> Option<Why> {
    let [mast_known, terrain, reading] = knows;
    let settings = SiteSettings::default();
    let hills = ground_by(|east, _| 400.0 + 20.0 * (east / 600.0).sin());
    let none = Ground::new(Vec::new());
    let masts = [mast(1, "Ridge", 143.0, 3500.0, vec![cell(3, 1575, 11)])];
    let mut carriers = vec![
        heard(lte(3), 20.0, rsrp, sinr, CarrierRole::Anchor),
        heard(nr(78), 80.0, rsrp - 6.0, sinr, CarrierRole::Primary),
    ];
    (carriers[0].channel, carriers[0].pci) = (Some(1575), Some(11));
    let inside = observed(location(1, Mount::Indoor, 1.0, mast_known), carriers, Some(40.0));
    let env = Environment::new(Facts {
        masts: if mast_known { &masts } else { &[] },
        obstacles: &[],
        ground: if terrain { &hills } else { &none },
        settings: &settings,
        house: mast_known.then_some(HOUSE),
        observations: if reading { vec![inside] } else { Vec::new() },
        mode: ConnectionMode::Nsa,
    });
    let antenna = if mount.is_indoors() { AimAntenna::Stock } else { panel(&settings) };
    predict(&env, &LinkSetup::new(location(2, mount, height_m, mast_known), antenna))?.why(&env)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn terms_add_up_to_what_is_foretold(
        mast in any::<bool>(), terrain in any::<bool>(), reading in any::<bool>(), indoors in any::<bool>(),
        rsrp in -118.0..-75.0f64, sinr in -4.0..24.0f64, height in 1.0..12.0f64,
    ) {
        let mount = if indoors { Mount::Indoor } else { Mount::Pole };
        let Some(found) = why([mast, terrain, reading], rsrp, sinr, mount, height) else {
            prop_assert!(!mast && !reading, "something is known and nothing is foretold");
            return Ok(());
        };
        let sum: f64 = found.lines.iter().map(|one| one.adds_db).sum();
        prop_assert!((sum - found.rsrp_dbm).abs() < 1e-5, "{sum} against {found:?}");
        prop_assert!((found.rsrp_dbm - found.disturbance_dbm - found.sinr_db).abs() < 1e-9);
        prop_assert!((found.possible_down_mbps * found.share - found.down_mbps).abs() < 1e-6);
        // Each unknown is counted once, and no more than all of it.
        let lines: f64 = found.lines.iter().filter_map(|one| one.causes).sum();
        let all = lines + found.interference_causes + found.carrying_causes + found.share_causes;
        prop_assert!((0.5..=1.0 + 1e-9).contains(&all), "{all} of {found:?}");
        prop_assert_eq!(found.share_is_measured, reading);
        let is_heard = matches!(found.lines[0].term, WhyTerm::Heard);
        prop_assert!(matches!(found.lines[0].term, WhyTerm::Sent | WhyTerm::Heard));
        prop_assert!(!is_heard || reading);
        let walls = found.lines.iter().any(|one| one.term == WhyTerm::Walls);
        prop_assert_eq!(walls, indoors);
        prop_assert!(rows(&found).iter().filter(|row| row.is_sum).count() >= 4);
    }
}

/// A reading moves the correction, and says so.
#[test]
fn what_was_read_here_is_said_to_be_measured() {
    let correction = |reading| {
        let found = why([true, true, reading], -100.0, 8.0, Mount::Pole, 6.0).unwrap();
        found.lines.into_iter().find(|one| one.term == WhyTerm::Readings)
    };
    let read = correction(true).unwrap();
    assert!(read.basis == Basis::Measured && read.adds_db.abs() > 0.5, "{read:?}");
    assert!(correction(false).is_none_or(|one| one.basis == Basis::Assumed && one.adds_db.abs() < 0.5));
}

/// Margin, day and terms as the pages say them.
#[test]
fn reasons_are_said_with_their_figures() {
    use open_beacon_core::link::by_hour::{DayRates, HourRate};
    use open_beacon_core::link::margin::Margin;
    use open_beacon_core::link::over_time::Fading;
    use open_beacon_core::words::why::{day, margin};
    let fading = |visits| Fading { spread_db: 2.0, visits };
    let found = |availability, visits| Margin {
        margin_db: 12.2,
        low_db: 6.0,
        high_db: 18.0,
        availability,
        fading: fading(visits),
    };
    assert_eq!(
        margin(Some(&found(0.93, 0))),
        "Fade margin 12\u{202f}dB (between 6\u{202f}dB and 18\u{202f}dB): the signal may fall by that much before the need is missed. It is met 93\u{202f}% of the time, if the signal scatters by 2\u{202f}dB over time as is usual."
    );
    let measured = margin(Some(&found(0.999_9, 4)));
    assert!(measured.contains("more than 99\u{202f}%"), "no more nines than are known: {measured}");
    assert!(
        measured.ends_with("as the signal scattered by 2\u{202f}dB over five visits here."),
        "{measured}"
    );
    assert!(margin(None).contains("the need is missed"));
    let hour = |hour, likely: f64| HourRate {
        hour,
        down_mbps: Estimate { low: 0.5 * likely, likely, high: 2.0 * likely },
    };
    let course = |tests, hours| DayRates { slowest: hour(20, 40.0), fastest: hour(4, 90.0), tests, hours };
    assert_eq!(
        day(&course(9, 3)),
        "Expect 20 to 80\u{202f}Mbit/s at the slowest hour, about 20:00, and 45 to 180\u{202f}Mbit/s at the fastest, about 04:00 (by 9 tests at three hours of the day and the usual course of a day)."
    );
    assert!(day(&course(0, 0)).contains("nothing was measured here yet"));
    let rows = rows(&why([true, true, true], -100.0, 8.0, Mount::Pole, 6.0).unwrap());
    assert!(rows[0].what.starts_with("Heard") && rows[0].figure.ends_with("dBm"), "{rows:?}");
    assert_eq!(rows.last().unwrap().what, "Expected download");
}
