//! Sentences of the Baseline stage: each kind of finding once, whole, as the user reads it.

use crate::samples::*;
use open_beacon_core::capacity::Estimate;
use open_beacon_core::judge::*;
use open_beacon_core::metrics::{Class, ImpliedSinr, Limit, Metric, Oddity};
use open_beacon_core::model::*;
use open_beacon_core::words::{self, Style};

fn text(finding: Finding) -> String {
    words::sentence(&finding, Style::default()).replace('\u{202f}', " ")
}

fn range(low: f64, likely: f64, high: f64) -> Estimate {
    Estimate { low, likely, high }
}

const CELL: CellName = CellName { technology: Technology::Nr, band: Some(78), pci: Some(611) };

fn odd(oddity: Oddity) -> String {
    text(Finding::Odd { cell: CELL, oddity })
}

#[test]
fn bands_that_are_not_named_are_guessed_aloud() {
    let guessed = |fits: &[&str]| {
        let fits = fits.iter().map(|name| (*name).to_owned()).collect();
        text(Finding::BandGuessed { channel: 636_666, fits })
    };
    assert_eq!(guessed(&["n77", "n78"]), "The page names no band, and channel 636666 may be n77 or n78.");
    assert_eq!(guessed(&["n28"]), "The page names no band; channel 636666 lies in n28.");
}

#[test]
fn values_say_their_class_and_the_way_to_the_next() {
    let means = |metric, value, class, next, missing_db| {
        text(Finding::MetricMeans { metric, value, class, next, missing_db })
    };
    assert_eq!(
        means(Metric::Rsrp, -97.0, Class::Usable, Some(Class::Solid), Some(2.0)),
        "Signal power (RSRP) −97 dBm: usable, 2 dB more would make it solid."
    );
    assert_eq!(means(Metric::Sinr, 25.5, Class::Ample, None, None), "Signal-to-noise (SINR) 25.5 dB: ample.");
}

#[test]
fn limits_say_what_would_help() {
    let limited = |limit, over_noise_db| text(Finding::LimitedBy { limit, over_noise_db });
    assert!(limited(Limit::Interference, Some(30.2)).contains("30 dB above the gateway's own noise"));
    assert!(limited(Limit::Interference, Some(30.2)).contains("gain alone does not"));
    assert!(limited(Limit::Noise, Some(0.5)).contains("decibel for decibel"));
    assert!(limited(Limit::Both, None).contains("gain helps, and direction helps"));
    assert!(limited(Limit::Fine, Some(12.0)).contains("little left to gain"));
    assert!(limited(Limit::Unknown, None).contains("both needed"));
    assert!(
        text(Finding::LoadHeard { load: 0.62 }).starts_with("By its quality (RSRQ) about 60 % of this cell")
    );
}

#[test]
fn what_could_be_carried_is_a_range_with_its_reason() {
    let carry = |up_mbps, layers, up_power_limited| {
        text(Finding::CouldCarry { down_mbps: range(66.4, 98.0, 151.2), up_mbps, layers, up_power_limited })
    };
    assert_eq!(
        carry(Some(range(1.0, 2.0, 4.0)), 2, true),
        "On an empty cell, 66.4 to 151 Mbit/s down is possible with two streams and 1.00 to 4.00 Mbit/s up, held back by the gateway's own transmit power."
    );
    assert_eq!(
        carry(None, 1, false),
        "On an empty cell, 66.4 to 151 Mbit/s down is possible with one stream."
    );
}

#[test]
fn the_verdict_in_one_sentence() {
    assert_eq!(
        text(Finding::WorthIt {
            rsrp_change_db: range(14.2, 17.0, 20.4),
            download_ratio: Some(range(1.5, 1.9, 2.3)),
            upload_ratio: Some(range(3.2, 4.0, 4.8)),
        }),
        "An outdoor antenna is worth it here: expect 14 to 20 dB more signal and 1.5 to 2.3 times the download and 3.2 to 4.8 times the upload."
    );
    assert_eq!(
        text(Finding::ForMargin {
            rsrp_change_db: range(8.0, 12.0, 18.0),
            download_ratio: Some(range(1.0, 1.1, 1.2))
        }),
        "An outdoor antenna would bring margin more than speed: 8 to 18 dB more signal, but only 1.0 to 1.2 times the download."
    );
    assert_eq!(
        text(Finding::NotTheAntenna { times: 4.2 }),
        "The signal allows 4.2 times what was measured: no antenna fixes that."
    );
    assert_eq!(text(Finding::BaselineMissing), "Start by reading the gateway where it stands today.");
    assert!(
        text(Finding::BaselineThin { spot: "Sill".into() }).starts_with("Sill has too little to judge by")
    );
}

#[test]
fn reasons_name_what_would_help_and_what_would_not() {
    assert!(text(Finding::NoNrHeard { spots: 2 }).starts_with("No 5G was heard at two spots"));
    let more = Finding::MoreBandsElsewhere {
        bands: vec!["n78".into()],
        spots: vec!["Landing".into(), "Yard".into()],
        from: "Sill".into(),
    };
    assert_eq!(
        text(more),
        "n78 was heard at Landing and Yard, not at Sill: an antenna outside may receive it too, on top of the figures here."
    );
    assert!(text(Finding::AlreadyAmple { cell: CELL }).starts_with("n78 is ample already"));
    assert!(text(Finding::InterferenceHere { cell: CELL }).contains("gain alone lifts them too"));
    assert!(text(Finding::NoiseHere { cell: CELL }).contains("limited by weak signal"));
    let busy = text(Finding::LoadLimited { times: range(2.1, 3.0, 4.4), tests: 3 });
    assert!(busy.starts_with("Three tests brought far less") && busy.contains("2.1 to 4.4 times"), "{busy}");
    assert!(text(Finding::UplinkLimited { upload_mbps: 1.2 }).starts_with("Upload is only 1.20 Mbit/s"));
    let lost = Finding::IndoorLoss { inside: "Sill".into(), outside: "Yard".into(), gained_db: 11.5 };
    assert!(text(lost).starts_with("Yard hears 11.5 dB more than Sill"));
}

#[test]
fn what_would_change_the_answer_asks_for_one_measurement_each() {
    let tests = |have| text(Finding::WantsTests { spot: "Sill".into(), have });
    assert!(tests(1).contains("there is one"), "{}", tests(1));
    assert!(tests(0).contains("there are no"), "{}", tests(0));
    assert!(text(Finding::WantsOutdoorSpot).contains("by phone"));
    assert!(text(Finding::WantsBandwidth { carriers: 1 }).contains("one carrier has none"));
    assert!(text(Finding::WantsBandwidth { carriers: 2 }).contains("two carriers have none"));
    assert!(text(Finding::WantsOtherHour).contains("early in the morning"));
}

#[test]
fn oddities_are_named_precisely() {
    assert_eq!(
        odd(Oddity::OutOfRange { metric: Metric::Sinr, value: 60.0, low: -23.0, high: 40.0 }),
        "Signal-to-noise (SINR) 60 dB cannot be: reported values run from −23 dB to 40 dB. It is kept as reported."
    );
    assert_eq!(
        odd(Oddity::BandChannel { band: 7, channel: 1300, fits: vec![3] }),
        "Band 7 and channel 1300 disagree: that channel is in band 3. Both are kept."
    );
    assert!(odd(Oddity::NoSuchChannel { channel: 99_999 }).contains("A digit may be missing"));
    assert!(odd(Oddity::NoSuchBand { band: 250 }).contains("no band 250"));
    assert_eq!(
        odd(Oddity::Bandwidth { band: 7, bandwidth_mhz: 1.4, allowed_mhz: vec![5.0, 10.0, 15.0, 20.0] }),
        "Band 7 has no carriers of 1.4 MHz; it has 5 MHz, 10 MHz, 15 MHz or 20 MHz."
    );
    assert!(odd(Oddity::Pci { pci: 600, highest: 503 }).contains("from 0 to 503"));
    assert!(odd(Oddity::RsrpAboveRssi { rsrp_dbm: -60.0, rssi_dbm: -70.0 }).contains("They may be swapped"));
    assert!(odd(Oddity::RsrqRssi { rsrq_db: -15.0, computed_db: -10.0 }).contains("−10 dB would"));
    assert!(odd(Oddity::RsrqTooGood { rsrq_db: -1.0, best_db: -3.0 }).contains("−3 dB at the best"));
    let implied = ImpliedSinr { low_db: -6.0, high_db: Some(-5.0) };
    let worse = odd(Oddity::RsrqSinr { rsrq_db: -8.0, sinr_db: -9.0, implied, by_db: -7.0 });
    assert!(worse.contains("7 dB worse") && !worse.contains("judged by the worse"), "{worse}");
}

#[test]
fn addresses_say_what_to_use_instead() {
    assert_eq!(
        text(Finding::AddressFine { download_mbps: 82.4, upload_mbps: Some(20.0) }),
        "This address gives 82.4 Mbit/s down and takes 20.0 Mbit/s up."
    );
    assert!(
        text(Finding::AddressSilent { problem: "no answer in time".into() }).contains("no answer in time")
    );
    let small = text(Finding::BodyTooSmall { bytes: 1_200_000, wanted_bytes: 30_000_000 });
    assert!(small.contains("1.2 MB is over") && small.contains("One of 30 MB or more"), "{small}");
    assert!(text(Finding::NoUpload).contains("accepts a POST"));
    assert!(text(Finding::SecondFaster { ratio: 2.0 }).contains("Use the second"));
    assert!(text(Finding::SecondAgrees { ratio: 1.0 }).contains("about the same"));
    assert!(text(Finding::SecondSilent { problem: "nothing came".into() }).contains("nothing came"));
}

#[test]
fn networks_and_directions_are_told_with_their_doubt() {
    let compare = |alike, sure| {
        text(Finding::NetworkCompare {
            better: "North".into(),
            other: String::new(),
            spot: "Sill".into(),
            ratio: 2.1,
            alike,
            sure,
        })
    };
    assert_eq!(compare(true, true), "At Sill, North allows 2.1 times the download of the network in use.");
    assert!(compare(true, false).ends_with("a lean, not a proof."));
    assert!(compare(false, false).contains("read with different devices"));
    let faces = |off_deg| text(Finding::FacesMast { spot: "Sill".into(), mast: "Hill".into(), off_deg });
    assert_eq!(faces(12.0), "Sill faces Hill (12° off).");
    assert_eq!(faces(80.0), "Sill looks past Hill: 80° off.");
    assert!(faces(150.0).contains("the house between them"));
}

/// A comparison of a phone's readings with the gateway's says so.
#[test]
fn other_instruments_are_named_in_a_comparison() {
    let run = |n: u128, instrument| Run {
        context: RunContext::Log,
        id: RunId(id(n)),
        setup_id: SetupId(id(1)),
        source: Source::Live,
        started_at: morning(),
        ended_at: None,
        completion: Completion::Complete,
        reason: None,
        planned_samples: 0,
        planned_speed_tests: 3,
        refresh_period_s: None,
        conditions: Conditions { instrument, ..Conditions::default() },
        archived_at: None,
    };
    let with = |label: &str, n, instrument| SetupEvidence {
        runs: vec![run(n, instrument)],
        ..evidence(label, &[20.0, 21.0, 22.0])
    };
    let compared =
        compare(&with("Sill", 1, Instrument::Gateway), &[with("Yard", 2, Instrument::Phone)], chrono_tz::UTC);
    let differed: Vec<String> = compared.rows[1].differed.iter().map(|found| text(found.clone())).collect();
    assert!(differed.iter().any(|said| said.contains("Readings here are from a phone")), "{differed:?}");
}

/// Another operator's run stays out of a setup's own figures.
#[test]
fn evidence_of_one_network_leaves_the_others_out() {
    let mut both = evidence("Sill", &[20.0, 30.0]);
    let mut run = |n: u128, network: &str| {
        both.runs.push(Run {
            context: RunContext::Log,
            id: RunId(id(n)),
            setup_id: both.setup_id,
            source: Source::Typed,
            started_at: morning(),
            ended_at: None,
            completion: Completion::Complete,
            reason: None,
            planned_samples: 0,
            planned_speed_tests: 1,
            refresh_period_s: None,
            conditions: Conditions { network: network.into(), ..Conditions::default() },
            archived_at: None,
        });
    };
    run(1, "");
    run(2, "Other");
    both.tests[1].run_id = RunId(id(2));
    let own = both.clone().of_network("North");
    assert_eq!((own.runs.len(), own.tests.len()), (1, 1));
    assert_eq!(both.of_network("Other").tests.len(), 2, "runs that name none are of the one in use");
}
