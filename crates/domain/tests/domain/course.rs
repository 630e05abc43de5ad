//! How a speed test went: where it is steady, and whether it was fast only for a while.

use open_beacon_domain::stats::{known_to, slowed_down, steady_from};
use proptest::prelude::*;

/// pymser 1.0.22 (tests/vectors/make_course.py): 40 made series.
#[test]
fn the_steady_part_is_the_reference_librarys() {
    let text = include_str!("../../../../tests/vectors/course.csv");
    let mut compared = 0;
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes()).records() {
        let row = row.unwrap();
        let rates: Vec<f64> = row[1].split(' ').map(|rate| rate.parse().unwrap()).collect();
        assert_eq!(steady_from(&rates), row[0].parse::<usize>().unwrap(), "{rates:?}");
        compared += 1;
    }
    assert_eq!(compared, 40);
}

#[test]
fn short_series_tell_nothing() {
    assert_eq!(steady_from(&[]), 0);
    assert_eq!(steady_from(&[1.0; 39]), 0);
    assert_eq!(slowed_down(&[], 0.1), None);
    assert_eq!(slowed_down(&[0.0; 100], 0.1), None);
    assert_eq!(slowed_down(&[80.0; 20], 0.1), None);
}

/// A line whose logarithm wanders: each 100 ms hangs together with the one before, and the whole scatters by a quarter.
struct Wandering {
    dice: fastrand::Rng,
    ln: f64,
}

impl Wandering {
    fn new(seed: u64) -> Self {
        Self { dice: fastrand::Rng::with_seed(seed), ln: 0.0 }
    }

    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.dice.f64()).sum::<f64>() - 6.0
    }

    /// Ten seconds; `level_mbps` by step, come up to within half a second.
    fn rates(&mut self, level_mbps: impl Fn(usize) -> f64) -> Vec<f64> {
        (0..100)
            .map(|at| {
                self.ln = 0.7 * self.ln + 0.18 * self.normal();
                level_mbps(at) * self.ln.exp() * (1.0 - (-(at as f64) / 2.0).exp())
            })
            .collect()
    }
}

/// Rate of a step, Mbit/s.
type Level = Box<dyn Fn(usize) -> f64>;

/// 500 lines that only scatter, 500 that only take long to come up to speed, 500 that are throttled: how often each is called throttled.
#[test]
fn a_throttle_is_told_from_scatter() {
    let called = |level: &dyn Fn(&mut fastrand::Rng) -> Level| {
        let found = (0..500).filter(|seed| {
            let mut dice = fastrand::Rng::with_seed(9_000 + seed);
            let level = level(&mut dice);
            slowed_down(&Wandering::new(*seed).rates(level), 0.1).is_some()
        });
        found.count()
    };
    let steady = called(&|_| Box::new(|_| 60.0));
    let rising = called(&|dice| {
        let full = 20 + dice.usize(..40);
        Box::new(move |at| 60.0 * (at as f64 / full as f64).min(1.0))
    });
    let throttled = called(&|dice| {
        let (until, times) = (8 + dice.usize(..60), 3.0 + 7.0 * dice.f64());
        Box::new(move |at| if at < until { 90.0 } else { 90.0 / times })
    });
    println!("called throttled: steady {steady}, rising {rising}, throttled {throttled} of 500 each");
    assert!(steady <= 3 && rising <= 3, "{steady} and {rising} of 500");
    assert!(throttled >= 475, "{throttled} of 500");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// Two clean levels come back as they are, whatever their unit.
    #[test]
    fn two_levels_come_back(
        fast in 10.0..900.0f64, times in 2.0..20.0f64, until in 6usize..75, scale in 0.01..100.0f64,
    ) {
        let rates: Vec<f64> =
            (0..100).map(|at| scale * if at < until { fast } else { fast / times }).collect();
        let found = slowed_down(&rates, 0.1).unwrap();
        prop_assert_eq!(found.at, until);
        prop_assert!((found.fast_mbps / (scale * fast) - 1.0).abs() < 1e-9);
        prop_assert!((found.slow_mbps * times / (scale * fast) - 1.0).abs() < 1e-9);
        prop_assert!((found.fast_mb / (scale * fast * until as f64 * 0.1 / 8.0) - 1.0).abs() < 1e-9);
        // Steady only after the burst, where it is in the first half.
        let from = steady_from(&rates);
        prop_assert!(until > 45 || from >= until, "{from} after {until}");
    }
}

/// A line that wanders, looked at each second until its mean is known to within 5 %, for a minute at the most: of those that end, the mean lies
/// within 5 % of the truth in at least four of five, although a nominal 90 % is looked at again and again. The truth is the mean of an hour.
#[test]
fn what_is_said_to_be_known_is_known() {
    let (mut ended, mut within, mut steps) = (0, 0, 0);
    for seed in 0..400 {
        let mut line = Wandering::new(seed);
        let mut long = || -> Vec<f64> { (0..6).flat_map(|_| line.rates(|_| 100.0)[20..].to_vec()).collect() };
        let rates = long();
        let known = (4..=rates.len() / 10)
            .find(|second| known_to(&rates[..second * 10]).is_some_and(|to| to <= 0.05));
        let Some(second) = known else { continue };
        let mean = rates[..second * 10].iter().sum::<f64>() / (second * 10) as f64;
        let mut truth = Wandering::new(10_000 + seed);
        let hour: Vec<f64> = (0..60).flat_map(|_| truth.rates(|_| 100.0)[20..].to_vec()).collect();
        let truth = hour.iter().sum::<f64>() / hour.len() as f64;
        ended += 1;
        steps += second * 10;
        within += usize::from((mean / truth - 1.0).abs() <= 0.05);
    }
    assert!(ended > 200, "{ended} ended");
    let share = within as f64 / ended as f64;
    assert!(share >= 0.8, "{share} of {ended}, after {} steps", steps / ended);
    // Neither does it say so too late: half a minute is enough for half of them.
    assert!(steps / ended < 300, "{} steps", steps / ended);
}
