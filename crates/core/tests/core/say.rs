//! Sentences. Numbers are written with a true minus sign and a thin no-break space before the unit.

use crate::samples::*;
use open_beacon_core::judge::*;
use open_beacon_core::metrics::{Class, Metric};
use open_beacon_core::model::*;
use open_beacon_core::stats::Interval;
use open_beacon_core::words::{self, Style};

fn text(finding: Finding) -> String {
    words::sentence(&finding, Style::default()).replace('\u{202f}', " ")
}

const INTERVAL: Interval = Interval { low: 1.8, high: 3.1, coverage: 0.9 };

#[test]
fn numbers_have_no_more_digits_than_were_measured() {
    let plain = |text: String| text.replace('\u{202f}', " ");
    assert_eq!(plain(words::power_dbm(-88.4)), "−88 dBm");
    assert_eq!(plain(words::decibels(14.3)), "14.5 dB");
    assert_eq!(plain(words::decibels(-3.0)), "−3 dB");
    assert_eq!(plain(words::decibels(-0.1)), "0 dB");
    assert_eq!(plain(words::rate(113.4)), "113 Mbit/s");
    assert_eq!(plain(words::rate(42.07)), "42.1 Mbit/s");
    assert_eq!(plain(words::rate(0.8512)), "0.85 Mbit/s");
    assert_eq!(plain(words::bearing(359.7)), "0° T");
    assert_eq!(plain(words::length(6.4, Units::Metric)), "6.4 m");
    assert_eq!(plain(words::length(6.4, Units::Imperial)), "21 ft");
    assert_eq!(words::times(2.44), "2.4 times");
    assert_eq!(words::times(11.16), "11 times");
}

fn position(name: &str) -> Position {
    Position {
        id: PositionId(id(1)),
        site_id: SiteId(id(2)),
        name: name.into(),
        place: None,
        height_above_ground_m: None,
        mount: Mount::Gable,
        spot: Spot::default(),
        notes: String::new(),
        created_at: morning(),
        archived_at: None,
    }
}

#[test]
fn setups_are_named_by_their_aim() {
    let spec = |antenna, azimuth_deg, tilt_deg| SetupSpec { azimuth_deg, tilt_deg, ..SetupSpec::on(antenna) };
    let gable = position("East gable");
    let aimed = spec(AntennaSwitch::External, Some(131.0), Some(2.0));
    assert_eq!(words::setup_label(&gable, &aimed), "East gable at 131°\u{202f}T");
    assert_eq!(words::setup_aim(&aimed), "131°\u{202f}T, tilt 2°");
    assert_eq!(words::setup_label(&gable, &spec(AntennaSwitch::Internal, None, None)), "East gable");
    let named = SetupSpec { name: "as found".into(), ..aimed.clone() };
    assert_eq!(words::setup_label(&gable, &named), "East gable, as found");

    // Two setups that differ in tilt alone are told apart, twins by their order.
    let flat = spec(AntennaSwitch::External, Some(131.0), Some(0.0));
    let labels = words::distinct_labels(&[(&gable, &aimed), (&gable, &flat), (&gable, &flat)]);
    assert_eq!(labels.len(), 3);
    assert!(labels[0] != labels[1] && labels[1] != labels[2] && labels[0] != labels[2], "{labels:?}");
}

#[test]
fn what_stands_there_is_told_to_build_it_again() {
    let mut gable = position("East gable");
    gable.height_above_ground_m = Some(6.4);
    let spec = SetupSpec {
        azimuth_deg: Some(143.2),
        tilt_deg: Some(1.5),
        ports: vec![PortLink { lead: 1, port: "EXT 2".into() }],
        lock: BandChoice { access: BandAccess::Nsa, lte: vec![20], nr: vec![78] },
        kit_note: "noted".into(),
        ..SetupSpec::on(AntennaSwitch::External)
    };
    assert_eq!(
        words::setup_facts(&gable, &spec, Some("Wide panel"), words::Style::default()),
        "Wide panel; bearing 143°\u{202f}T; tilt 1.5°; 6.4\u{202f}m above ground; lead 1 in EXT 2; locked to NSA, B20, n78."
    );
    assert_eq!(words::setup_label(&gable, &spec), "East gable at 143°\u{202f}T, NSA, B20, n78");
    let bare = SetupSpec { height_above_ground_m: Some(8.0), ..SetupSpec::on(AntennaSwitch::Internal) };
    assert_eq!(
        words::setup_facts(&gable, &bare, None, words::Style::default()),
        "8.0\u{202f}m above ground; no lock."
    );
}

#[test]
fn comparisons_are_said_plainly() {
    let gain = |figure, ratio| Finding::ClearGain {
        setup: "Gable".into(),
        baseline: "Kitchen".into(),
        figure,
        ratio,
        interval: INTERVAL,
    };
    assert_eq!(text(gain(SpeedFigure::Download, 2.4)), "Gable gives 2.4 times the download of Kitchen.");
    assert_eq!(
        text(gain(SpeedFigure::IdleLatency, 0.8)),
        "Its idle latency is lower: 80 % of the baseline's."
    );
    let ratio = Finding::RatioRange { figure: SpeedFigure::Upload, ratio: 2.4, interval: INTERVAL };
    assert_eq!(text(ratio), "Upload 2.4 times (between 1.8 and 3.1).");
    let few = Finding::TooFew {
        setup: "Barn".into(),
        baseline: "Kitchen".into(),
        figure: SpeedFigure::Download,
        have: 2,
        baseline_has: 9,
        need: 3,
        ratio: Some(4.5),
    };
    assert_eq!(
        text(few),
        "Cannot tell yet: Barn was tested in two sittings; three are needed, or test both within the same hour, twice. So far 4.5 times the download."
    );
    let missing = Finding::TooFew {
        setup: "Barn".into(),
        baseline: "Kitchen".into(),
        figure: SpeedFigure::Download,
        have: 5,
        baseline_has: 1,
        need: 3,
        ratio: None,
    };
    assert_eq!(
        text(missing),
        "Cannot tell yet: Kitchen was tested in one sitting; three are needed, or test both within the same hour, twice."
    );
    let rivals = |names: &[&str]| {
        text(Finding::RivalsUntested { setups: names.iter().map(|one| (*one).to_owned()).collect(), need: 3 })
    };
    assert_eq!(rivals(&["Barn"]), "Barn may match it, but was tested in fewer than three sittings.");
    assert_eq!(
        rivals(&["A", "B", "C", "D", "E"]),
        "A, B, C and two more may match it, but were tested in fewer than three sittings."
    );
    let cell = CellName { technology: Technology::Lte, band: Some(3), pci: Some(211) };
    let more = Finding::CarrierDiffers {
        cell,
        metric: Metric::Rsrp,
        difference_db: 25.6,
        baseline: "Kitchen".into(),
    };
    assert_eq!(text(more), "On B3, 26 dB more signal power (RSRP) than Kitchen.");
}

#[test]
fn readings_are_said_plainly() {
    let connected = |carriers, best| Finding::Connected { mode: ConnectionMode::Nsa, carriers, best };
    assert_eq!(
        text(connected(3, Some(Class::Solid))),
        "5G riding on LTE (NSA), three carriers, the best of them solid."
    );
    assert_eq!(text(connected(1, Some(Class::Thin))), "5G riding on LTE (NSA), one carrier, thin.");
    let cell = |pci| CellName { technology: Technology::Lte, band: Some(3), pci: Some(pci) };
    assert_eq!(
        text(Finding::CellChanged { from: cell(211), to: cell(87), after_samples: 4, changes: 1 }),
        "The serving cell changed from B3 cell 211 to B3 cell 87 after four samples: these are readings of two cells, not of one."
    );
    assert_eq!(
        text(Finding::TestsMissing { setup: "A".into(), have: 1, need: 3 }),
        "Two tests more make it comparable."
    );
    assert_eq!(
        text(Finding::TestsMissing { setup: "A".into(), have: 2, need: 3 }),
        "One test more makes it comparable."
    );
}

/// No finding is without words: a new kind that is forgotten in the renderer shows here.
#[test]
fn every_finding_has_a_sentence() {
    let name = || "A".to_owned();
    let cell = CellName { technology: Technology::Nr, band: None, pci: None };
    let figure = SpeedFigure::Download;
    let span = HourSpan { first: 9, last: 11 };
    let all = vec![
        Finding::NoSetup,
        Finding::NothingRecorded { setup: name() },
        Finding::TestsMissing { setup: name(), have: 0, need: 3 },
        Finding::SetupFigures {
            sittings: 1,
            setup: name(),
            tests: 1,
            download_mbps: Some(1.0),
            upload_mbps: None,
            idle_latency_ms: None,
        },
        Finding::CarrierMedians { cell, samples: 1, rsrp_dbm: None, sinr_db: Some(1.0), class: None },
        Finding::NrCameAndWent { heard: 1, of: 2 },
        Finding::OutsideRange { cell, metric: Metric::Sinr, samples: 1 },
        Finding::PartialRun { reason: None },
        Finding::PartialRun { reason: Some("It was cancelled.".into()) },
        Finding::NothingToCompare { with_tests: 0 },
        Finding::NothingToCompare { with_tests: 1 },
        Finding::ClearLoss { setup: name(), baseline: name(), figure, ratio: 0.5, interval: INTERVAL },
        Finding::ClearLoss {
            setup: name(),
            baseline: name(),
            figure: SpeedFigure::IdleLatency,
            ratio: 2.0,
            interval: INTERVAL,
        },
        Finding::CannotTell { setup: name(), baseline: name(), figure, ratio: 1.2, interval: INTERVAL },
        Finding::LikelyGain {
            setup: name(),
            baseline: name(),
            figure,
            ratio: 2.4,
            interval: INTERVAL,
            sittings: 1,
        },
        Finding::LikelyLoss {
            setup: name(),
            baseline: name(),
            figure: SpeedFigure::IdleLatency,
            ratio: 1.4,
            interval: INTERVAL,
            sittings: 3,
        },
        Finding::Same { setup: name(), baseline: name(), figure, ratio: 1.0 },
        Finding::NotMeasured { setup: name(), figure },
        Finding::BestOf { setup: name(), of: 3 },
        Finding::RadioWithoutSpeed { cell, sinr_difference_db: 6.0, download_ratio: 0.1 },
        Finding::StrongerNoCleaner { cell, power_db: 9.0, quality_db: -6.0 },
        Finding::UploadWithoutRadio { cell, power_db: 9.0, upload_ratio: 0.42 },
        Finding::HoursDiffer { setup: span, baseline: HourSpan { first: 20, last: 20 } },
        Finding::WeatherDiffers { setup: vec!["rain".into()], baseline: vec!["sun".into(), "haze".into()] },
        Finding::WeeksApart { weeks: 5 },
        Finding::ServingCellDiffers { setup: vec![cell], baseline: vec![cell, cell] },
        Finding::BandsDiffer { only_setup: vec!["n78".into()], only_baseline: vec![] },
        Finding::BandsDiffer { only_setup: vec![], only_baseline: vec!["n28".into()] },
        Finding::BandsDiffer { only_setup: vec!["n78".into()], only_baseline: vec!["n28".into()] },
        Finding::ActivityDiffers {
            setup: vec![Activity::Idle],
            baseline: vec![Activity::Loaded, Activity::Unknown],
        },
        Finding::SourceDiffers { setup: vec![Source::Live], baseline: vec![Source::Typed] },
        Finding::ServerDiffers { setup: vec![], baseline: vec![] },
        Finding::AttachDiffers,
        Finding::PartialLeftOut { tests: 2 },
    ];
    for finding in all {
        let sentence = text(finding.clone());
        assert!(sentence.len() > 10 && sentence.ends_with(['.', ':']), "{finding:?}: {sentence:?}");
        let words = sentence.replace("signal-to-noise", "");
        assert!(!words.contains('-') || words.contains("-r"), "a hyphen for a minus in {sentence:?}");
    }
}

/// What a file's site would send is all listed before any of it is sent: every address, every path, every body.
#[test]
fn every_request_that_settings_make_is_told() {
    use open_beacon_core::model::*;
    let step = LoginStep {
        method: AskMethod::Post,
        path: "/door/login".into(),
        body: "user=${user}".into(),
        ..LoginStep::default()
    };
    let lock = LockRecipe {
        request: Some(LockRequest {
            path: "/lock".into(),
            body: "${lte_bands}".into(),
            ..LockRequest::default()
        }),
        ..LockRecipe::default()
    };
    let recipe = GatewayRecipe {
        headers: vec![Named { name: "X-From".into(), value: "here".into() }],
        login: Login::Steps { steps: vec![step] },
        lock: Some(lock),
        ..GatewayRecipe::default()
    };
    let settings = SiteSettings {
        gateway: Some(GatewaySettings {
            status_url: "http://192.168.8.1/status.json".into(),
            poll_interval_ms: 1000,
            certificate_sha256: None,
            recipe,
        }),
        second_test_url: Some("http://second.test/".into()),
        stand_in_url: Some("http://127.0.0.1:9/pose".into()),
        ..SiteSettings::default()
    };
    let told = words::outward::requests(&settings).join("\n");
    for part in [
        "http://192.168.8.1/status.json",
        "X-From: here",
        "http://192.168.8.1:80/door/login",
        "user=${user}",
        "http://192.168.8.1:80/lock",
        "http://second.test/",
        "http://127.0.0.1:9/pose",
    ] {
        assert!(told.contains(part), "{part} is not in\n{told}");
    }
    assert!(words::outward::requests(&SiteSettings::default()).is_empty());
}

#[test]
fn a_clock_that_was_set_during_a_run_is_noticed_and_said() {
    use chrono::TimeDelta;
    use open_beacon_core::words::measuring::{clock_jump, clock_jumped};
    use std::time::Duration;
    let minute = Duration::from_secs(60);
    for by in [0, 3, -9] {
        assert_eq!(
            clock_jump(TimeDelta::seconds(60 + by), minute),
            None,
            "{by} s are a correction by the network"
        );
    }
    for (by, said) in [
        (-86_400, "set back by 24 h"),
        (3_600, "set forward by 60 min"),
        (45, "set forward by 45 s"),
        (-864_000, "set back by 10 days"),
    ] {
        let jump = clock_jump(TimeDelta::seconds(60 + by), minute);
        assert_eq!(jump, Some(TimeDelta::seconds(by)));
        assert!(
            clock_jumped(TimeDelta::seconds(by)).contains(said),
            "{}",
            clock_jumped(TimeDelta::seconds(by))
        );
    }
}

/// What is said of how a test went.
#[test]
fn the_course_of_a_test_is_told() {
    use open_beacon_core::words::measuring::course;
    let spread = LatencySpread { probes: 40, median_ms: 87.0, p95_ms: 120.4, jitter_ms: 9.2 };
    let steady = Course {
        step_ms: 100,
        warm_up_ms: 2000,
        down_mbps: vec![80.0; 100],
        down_from: 20,
        while_down: Some(spread),
        ..Course::default()
    };
    assert_eq!(
        course(&steady),
        [
            "While downloading a round trip takes 87\u{202f}ms, 19 of 20 no more than 120\u{202f}ms, with 9\u{202f}ms of jitter."
        ]
    );
    let slow = Course { down_from: 32, while_down: None, ..steady.clone() };
    assert_eq!(
        course(&slow),
        ["The download came up to speed after 3.2\u{202f}s; the figure is of what followed."]
    );
    let rates = (0..100).map(|at| if at < 30 { 80.0 } else { 4.0 }).collect();
    let throttled = Course { down_mbps: rates, down_from: 30, while_down: None, ..steady };
    assert_eq!(
        course(&throttled),
        [
            "The download was fast for 30\u{202f}MB (80.0\u{202f}Mbit/s), then 4.00\u{202f}Mbit/s: something on the way slows long transfers down. The figure is what went on; short pages get the fast part."
        ]
    );
    assert!(course(&Course::default()).is_empty());
}
