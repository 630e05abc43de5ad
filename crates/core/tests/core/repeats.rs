//! Tests that the program runs by itself: when, and within what data.

use crate::samples::*;
use chrono::{Duration, Timelike};
use open_beacon_core::model::RepeatSettings;
use open_beacon_core::protocol::{next_repeat, within_budget};
use open_beacon_core::words;
use proptest::prelude::*;

proptest! {
    /// Repeats come by their interval, a tenth sooner or later, the same each time they are asked for; after some months of five hours
    /// every hour of the day had one.
    #[test]
    fn repeats_wander_through_the_day(seed: u64, every_h in 1.0..48.0_f64) {
        let settings = RepeatSettings { on: true, every_h, ..RepeatSettings::default() };
        let next = next_repeat(&settings, Some(morning()), seed, morning());
        prop_assert_eq!(next, next_repeat(&settings, Some(morning()), seed, morning() + Duration::hours(9)));
        let hours = (next - morning()).num_seconds() as f64 / 3600.0;
        prop_assert!((hours / every_h - 1.0).abs() < 0.101, "{} for {}", hours, every_h);
        let usual = RepeatSettings::default();
        let (mut at, mut seen) = (morning(), [false; 24]);
        for _ in 0..1000 {
            at = next_repeat(&usual, Some(at), seed, at);
            seen[at.hour() as usize] = true;
        }
        prop_assert!(seen.iter().all(|seen| *seen));
    }
}

#[test]
fn a_repeat_waits_where_the_months_data_is_used_up() {
    let settings = RepeatSettings { monthly_mb: 1000.0, ..RepeatSettings::default() };
    assert_eq!(within_budget(&settings, 700.0, 300.0), Ok(()));
    let held = within_budget(&settings, 800.0, 300.0).unwrap_err();
    let said = words::protocol::held(held).replace('\u{202f}', " ");
    assert_eq!(said, "Waiting for next month: tests have moved 800 MB of 1.0 GB.");
    assert_eq!(next_repeat(&settings, None, 1, morning()), morning(), "at once where there was none");
}
