//! What changes with time: how the signal scatters from visit to visit, and what cells leave at an hour of the day.

use crate::link::{observed, of_observations};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::gaussian::Z_90;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::over_time::{DayCourse, OverTime};
use open_beacon_core::link::predict::{LinkPrediction, LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::propagation::itm::hourly_spread_db;
use proptest::prelude::*;

/// itmlogic 1.2 (tests/vectors/make_time_spread.py).
#[test]
fn hourly_scatter_is_the_irregular_terrain_models() {
    let table = include_str!("../../../../tests/vectors/time_spread.csv");
    let mut compared = 0;
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(table.as_bytes()).records() {
        let row = row.unwrap();
        let number = |column: usize| row[column].parse::<f64>().unwrap();
        let found = hourly_spread_db(number(1), [number(2), number(3)], number(0));
        assert!((found - number(4)).abs() < 2e-6, "{found} against {row:?}");
        compared += 1;
    }
    assert_eq!(compared, 42);
}

/// A house with one measured setup, and what was measured on it again and again.
fn house(over_time: &[OverTime]) -> Environment<'static> {
    let heard = crate::kits::heard(crate::kits::lte(3), 20.0, -98.0, 9.0, CarrierRole::Primary);
    of_observations(vec![observed(here(), vec![heard], Some(30.0))]).watched(over_time)
}

fn here() -> AntennaLocation {
    AntennaLocation { place: None, height_m: 1.0, mount: Mount::Indoor, position: None }
}

fn foretold<'a>(env: &'a Environment<'a>) -> LinkPrediction<'a> {
    predict(env, &LinkSetup::new(here(), AimAntenna::Stock)).unwrap()
}

#[test]
fn scatter_is_assumed_until_visits_tell_it() {
    let spread_db = |over_time: &[OverTime]| {
        let env = house(over_time);
        foretold(&env).fading(&env)
    };
    let none = spread_db(&[]);
    assert!(none.visits == 0 && (none.spread_db - 2.0).abs() < 1e-9);
    // By hand: five assumed visits of 2 dB and two beyond the first, of which the squares sum to 32: √((20 + 32) / 7).
    let few = OverTime { visits_dbm: vec![vec![-90.0, -94.0, -98.0]], downloads: Vec::new() };
    let told = spread_db(std::slice::from_ref(&few));
    assert!(told.visits == 2 && (told.spread_db - (52.0f64 / 7.0).sqrt()).abs() < 1e-9, "{told:?}");
    // Two cells heard at the same three visits are no more visits: variances of 3² and 5² are 17 on average.
    let cell = |far: f64| vec![-90.0, -90.0 - far, -90.0 - 2.0 * far];
    let two = spread_db(&[OverTime { visits_dbm: vec![cell(3.0), cell(5.0)], downloads: Vec::new() }]);
    assert!(
        two.visits == 2 && (two.spread_db - ((20.0 + 2.0 * 17.0) / 7.0f64).sqrt()).abs() < 1e-9,
        "{two:?}"
    );
    // A visit alone tells nothing of scatter.
    let one = OverTime { visits_dbm: vec![vec![-90.0]], downloads: Vec::new() };
    assert_eq!(spread_db(&[one]), none);
    let many = OverTime {
        visits_dbm: vec![(0..200).map(|at| if at % 2 == 0 { -90.0 } else { -100.0 }).collect()],
        downloads: Vec::new(),
    };
    assert!((spread_db(&[many]).spread_db - 5.0).abs() < 0.1);
}

#[test]
fn a_signal_that_scatters_more_meets_the_need_less_often() {
    let of = |over_time: &[OverTime]| {
        let env = house(over_time);
        foretold(&env).margin(&env, 5.0, 1.0).unwrap()
    };
    let wild =
        OverTime { visits_dbm: vec![vec![-85.0, -105.0, -84.0, -106.0, -95.0]], downloads: Vec::new() };
    let (calm, wild) = (of(&[]), of(&[wild]));
    assert!((calm.margin_db - wild.margin_db).abs() < 1e-9 && calm.availability > wild.availability);
}

/// A day of hidden cells. Queues fill in the evening: what is left is 1 / (1 + ρ), ρ of night, day and evening drawn for each house, with sharp steps between
/// them; tests scatter by a log-normal factor. Nothing of it is the model's.
struct Cells {
    night: f64,
    day: f64,
    evening: f64,
    from: f64,
    to: f64,
}

impl Cells {
    fn drawn(dice: &mut fastrand::Rng) -> Self {
        let mut between = |low: f64, high: f64| low + (high - low) * dice.f64();
        Self {
            night: between(0.0, 0.2),
            day: between(0.1, 0.6),
            evening: between(0.3, 1.2),
            from: between(17.0, 20.0),
            to: between(22.0, 24.0),
        }
    }

    fn left(&self, hour: f64) -> f64 {
        let rho = match hour {
            _ if hour < 7.0 => self.night,
            _ if (self.from..self.to).contains(&hour) => self.evening,
            _ => self.day,
        };
        1.0 / (1.0 + rho)
    }
}

fn scattered(dice: &mut fastrand::Rng) -> f64 {
    (0.2 * ((0..12).map(|_| dice.f64()).sum::<f64>() - 6.0)).exp()
}

#[test]
fn what_is_left_at_an_hour_is_in_its_range_as_often_as_it_says() {
    let (houses, mut widths) = (300, Vec::new());
    for tests in [0, 6, 24] {
        let (mut inside, mut asked, mut width) = (0.0, 0.0, 0.0);
        for seed in 0..houses {
            let mut dice = fastrand::Rng::with_seed(900 + seed);
            let cells = Cells::drawn(&mut dice);
            let level = 20.0 + 80.0 * dice.f64();
            let downloads: Vec<(f64, f64)> = (0..tests)
                .map(|_| {
                    // Awake.
                    let hour = 7.0 + 16.0 * dice.f64();
                    (hour, level * cells.left(hour) * scattered(&mut dice))
                })
                .collect();
            let mean_ln = |hours: &[f64]| {
                hours.iter().map(|hour| cells.left(*hour).ln()).sum::<f64>() / hours.len() as f64
            };
            let usual = if tests == 0 {
                mean_ln(&(0..24).map(|hour| f64::from(hour) + 0.5).collect::<Vec<_>>())
            } else {
                mean_ln(&downloads.iter().map(|(hour, _)| *hour).collect::<Vec<_>>())
            };
            let course = DayCourse::of(&[OverTime { visits_dbm: Vec::new(), downloads }]);
            assert_eq!(course.tests, tests);
            for (hour, found) in course.ln.iter().enumerate() {
                let truth = cells.left(hour as f64 + 0.5).ln() - usual;
                inside += f64::from(u8::from((truth - found.mean).abs() <= Z_90 * found.spread));
                asked += 1.0;
                width += 2.0 * Z_90 * found.spread;
            }
        }
        println!("{tests} tests: in the 80 % range {:.2}, width {:.2}", inside / asked, width / asked);
        assert!((0.72..=0.93).contains(&(inside / asked)), "{tests}: {}", inside / asked);
        widths.push(width / asked);
    }
    assert!(widths[2] < 0.8 * widths[0], "{widths:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Tests of one hour alone say what is usual there: at that hour nothing is moved, and nothing is in doubt but the half hour.
    #[test]
    fn where_all_tests_are_of_one_hour_that_hour_is_the_usual_one(hour in 0u8..24, mbps in 1.0..300.0f64, count in 1usize..9) {
        let downloads = vec![(f64::from(hour) + 0.5, mbps); count];
        let course = DayCourse::of(&[OverTime { visits_dbm: Vec::new(), downloads }]);
        let own = course.ln[usize::from(hour)];
        prop_assert!(own.mean.abs() < 1e-6 && own.spread < 1e-3, "{own:?}");
        let opposite = course.ln[(usize::from(hour) + 12) % 24];
        prop_assert!(opposite.spread > 0.2, "{opposite:?}");
    }

    /// The slowest hour is no faster than the fastest; ranges are in order and wider than without the hour's own doubt.
    #[test]
    fn a_day_is_in_order(hours in proptest::collection::vec((0.0..24.0f64, 1.0..200.0f64), 0..20)) {
        let env = house(&[OverTime { visits_dbm: Vec::new(), downloads: hours.clone() }]);
        let found = foretold(&env);
        let day = found.over_a_day(&env).unwrap();
        prop_assert!(day.slowest.down_mbps.likely <= day.fastest.down_mbps.likely);
        prop_assert_eq!(day.tests, hours.len());
        let usual = found.down_mbps.unwrap();
        for hour in 0..24 {
            let then = found.at_hour(&env, hour).unwrap();
            prop_assert!(then.low <= then.likely && then.likely <= then.high);
            prop_assert!(then.high / then.low >= usual.high / usual.low - 1e-6);
        }
    }
}
