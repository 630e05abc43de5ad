//! A direction ends before its time: when its data are used up, or when its rate is known.

use super::{line, outcome, plan, within};
use open_beacon_core::model::EndedEarly;
use open_beacon_core::words::measuring::course;
use open_beacon_speedtest::Plan;
use std::time::Duration;

/// Ten seconds of 60 Mbit/s would be 80 MB each way.
#[tokio::test(start_paused = true)]
async fn no_more_data_are_moved_than_allowed() {
    let plan = Plan { most_mb: Some(12.0), phase: Duration::from_secs(10), ..plan(line(60.0)).await };
    let found = outcome(&plan).await;
    assert_eq!(found.problem, None);
    let figures = &found.figures;
    assert!(within(figures.download_mbps, 60.0, 0.05), "{:?}", figures.download_mbps);
    assert!(within(figures.upload_mbps, 60.0, 0.08), "{:?}", figures.upload_mbps);
    // What the last step brought may be over; an upload is cut to the byte.
    assert!((12_000_000..13_500_000).contains(&figures.bytes_down), "{}", figures.bytes_down);
    assert!((11_900_000..=12_000_000).contains(&figures.bytes_up), "{}", figures.bytes_up);
    let went = found.course.unwrap();
    assert_eq!(went.down_ended, Some(EndedEarly::Data { most_mb: 12.0 }));
    assert_eq!(went.up_ended, Some(EndedEarly::Data { most_mb: 12.0 }));
    assert!(course(&went)[0].contains("the 12\u{202f}MB allowed had been moved"), "{:?}", course(&went));
}

/// Data that are over while the line is still coming up to speed make no figure, and the reason says what would.
#[tokio::test(start_paused = true)]
async fn too_little_data_make_no_figure() {
    let plan = Plan { most_mb: Some(2.0), ..plan(line(60.0)).await };
    let found = outcome(&plan).await;
    assert_eq!(found.figures.download_mbps, None);
    let why = found.problem.unwrap();
    assert!(why.contains("allow more data, or a shorter warm-up"), "{why}");
}

/// A line that does not change is known after four seconds; a minute was allowed.
#[tokio::test(start_paused = true)]
async fn a_steady_line_is_known_soon() {
    let plan = Plan { precise_to: Some(0.05), phase: Duration::from_secs(20), ..plan(line(40.0)).await };
    let found = outcome(&plan).await;
    assert_eq!(found.problem, None);
    assert!(within(found.figures.download_mbps, 40.0, 0.05), "{:?}", found.figures.download_mbps);
    assert!(within(found.figures.upload_mbps, 40.0, 0.08), "{:?}", found.figures.upload_mbps);
    let course = found.course.unwrap();
    let by_precision = Some(EndedEarly::Precision { precise_to: 0.05 });
    assert_eq!((course.down_ended, course.up_ended), (by_precision, by_precision));
    assert!((45..=70).contains(&course.down_mbps.len()), "{} steps", course.down_mbps.len());
    assert!((60..=110).contains(&course.up_mbps.len()), "{} steps", course.up_mbps.len());
}

/// One that is still coming up to speed is not.
#[tokio::test(start_paused = true)]
async fn what_still_rises_goes_on() {
    let slow_start = super::Line { comes_up: Duration::from_secs(6), ..line(40.0) };
    let plan = Plan {
        precise_to: Some(0.03),
        phase: Duration::from_secs(20),
        upload_url: None,
        ..plan(slow_start).await
    };
    let found = outcome(&plan).await;
    assert!(within(found.figures.download_mbps, 40.0, 0.05), "{:?}", found.figures.download_mbps);
    assert!(found.course.unwrap().down_mbps.len() > 90);
}
