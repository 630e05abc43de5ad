//! Prints how long a verdict takes against its targets: 40 setups of 10 sittings of 3 tests, one figure, on one core; and a bootstrap of
//! two setups, for `tests/bootstrap/compare.py` to put beside a reference library's. Nothing fails here.

use open_beacon_core::stats::bootstrap_difference;
use open_beacon_core::stats::mixed::{MixedFit, OF_RATES, Tested};
use std::hint::black_box;
use std::time::Instant;

const SETUPS: usize = 40;
const SITTINGS: usize = 10;
const TESTS: usize = 3;
const TARGET_MS: f64 = 100.0;
const RESAMPLES: usize = 9999;

fn median_ms(mut work: impl FnMut()) -> f64 {
    let mut times: Vec<f64> = (0..7)
        .map(|_| {
            let begun = Instant::now();
            work();
            begun.elapsed().as_secs_f64() * 1e3
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[3]
}

fn tests(shared: bool) -> Vec<Tested> {
    let mut dice = fastrand::Rng::with_seed(19);
    let mut made = Vec::new();
    for setup in 0..SETUPS {
        for sitting in 0..SITTINGS {
            let hour = 0.3 * ((sitting * 7 % 10) as f64 / 10.0 - 0.5);
            for _ in 0..TESTS {
                made.push(Tested {
                    setup,
                    sitting: if shared { sitting } else { setup * SITTINGS + sitting },
                    part: sitting % 4,
                    server: 0,
                    covariate: dice.f64() - 0.5,
                    ln: 4.0 + 0.05 * setup as f64 + hour + 0.2 * (dice.f64() - 0.5),
                    tests: 1.0,
                });
            }
        }
    }
    made
}

fn main() {
    for (name, shared) in [("in shared sittings", true), ("each in its own", false)] {
        let tests = tests(shared);
        let ms = median_ms(|| {
            let fit = MixedFit::of(black_box(&tests), 4, &OF_RATES);
            black_box(fit.map(|fit| fit.draws(2000, 19)));
        });
        println!(
            "a verdict of {SETUPS} setups, {SITTINGS} sittings {name}, {TESTS} tests: {ms:.1} ms median of 7, target {TARGET_MS} ms, {:.2} of it",
            ms / TARGET_MS
        );
    }
    // A record of years: 11 setups, 430 sittings each.
    let mut many = Vec::new();
    for (at, test) in std::iter::repeat_with(|| tests(false)).take(12).flatten().enumerate() {
        many.push(Tested { setup: test.setup % 11, sitting: at / 3, ..test });
    }
    let ms = median_ms(|| {
        black_box(MixedFit::of(black_box(&many), 4, &OF_RATES));
    });
    println!(
        "{} tests of 11 setups: {ms:.1} ms median of 7, target 30 ms, {:.2} of it",
        many.len(),
        ms / 30.0
    );
    let side = |off: f64| -> Vec<f64> { (0..10).map(|at| off + 0.1 * f64::from(at * 7 % 10)).collect() };
    let (here, there) = (side(4.3), side(4.0));
    let ms = median_ms(|| {
        black_box(bootstrap_difference(black_box(&here), &there, 0.9, RESAMPLES, 19));
    });
    println!("a BCa bootstrap of two setups of 10 sittings, {RESAMPLES} resamples: {ms:.2} ms median of 7");
}
