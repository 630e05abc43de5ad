//! Tests of import and export.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod as_built;
mod calendar;
mod columnar;
mod damaged;
mod held;
mod masts;
mod notebook;
mod paste;
mod pattern;
mod points;
mod prometheus;
mod report;
mod results;
mod site_map;
mod terrain;
mod unseen;

use open_beacon_core::capacity::Estimate;
use open_beacon_core::limits::composed;
use open_beacon_core::model::*;
use open_beacon_exchange::*;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use proptest::prelude::*;
use std::collections::HashSet;
use std::io::{Cursor, Read, Write};
use uuid::Uuid;

fn demo_bundle() -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    let mut bundle = demo_site(
        7,
        &Addresses { status_url: at("status"), speed_url: at("speed"), control_url: at("control") },
    );
    // What is awkward in a table: quotes, line breaks, commas, other scripts, all optional fields, a picture.
    bundle.positions[0].notes = "He said \"left\",\r\nthen; left the ladder — ætt, 山".into();
    bundle.samples[0].reading.carriers[0].branch_rsrp_dbm = vec![-91.5, -92.25];
    bundle.samples[0].reading.carriers[0].flags = vec![FieldFlag {
        metric: open_beacon_core::metrics::Metric::Sinr,
        kind: FlagKind::OutsideReportingRange,
    }];
    bundle.runs[0].completion = Completion::Partial;
    bundle.runs[0].reason = Some("It was cancelled.".into());
    bundle.setups[1].made_from = Some(bundle.setups[0].id);
    bundle.attachments.push(AttachmentFile {
        attachment: Attachment {
            id: AttachmentId(Uuid::from_u128(4)),
            run_id: bundle.runs[0].id,
            file_name: "../../etc/passwd.png".into(),
            media_type: "image/png".into(),
            bytes: 5,
            sha256: "00".into(),
            added_at: bundle.runs[0].started_at,
        },
        content: vec![0x89, b'P', b'N', b'G', 0].into(),
    });
    bundle.speed_tests[0].figures.average_of = Some(3);
    let test_id = bundle.speed_tests[0].id;
    bundle.speed_tests[0].surroundings = Some(Surroundings {
        interface: Some(NetworkInterface {
            name: "=wlan0, \"x\"".into(),
            kind: InterfaceKind::Wifi,
            rate_mbps: None,
        }),
        server_address: Some("2001:db8::1".into()),
        busiest_core: Some(0.25),
        page: Some(PageLoad {
            name_ms: None,
            connect_ms: 60.5,
            first_byte_ms: 130.0,
            all_ms: Some(900.0),
            parts_came: PageLoad::PARTS,
        }),
        ..Surroundings::default()
    });
    let spread = LatencySpread { probes: 10, median_ms: 31.5, p95_ms: 80.25, jitter_ms: 4.125 };
    let course = Course {
        step_ms: 100,
        warm_up_ms: 2000,
        down_mbps: vec![0.0, 12.25, 80.5],
        up_mbps: vec![],
        down_from: 2,
        idle: Some(spread),
        down_ended: Some(EndedEarly::Precision { precise_to: 0.05 }),
        up_ended: Some(EndedEarly::Data { most_mb: 50.0 }),
        ..Course::default()
    };
    let (id, site_id) = (SpeedCourseId(test_id.0), bundle.site.id);
    bundle.speed_courses.push(SpeedCourse { id, site_id, test_id, course });
    bundle.events.push(SiteEvent {
        id: EventId(Uuid::from_u128(71)),
        site_id,
        happened_at: bundle.runs[0].started_at,
        kind: EventKind::Network,
        text: "=crew at the mast, \"two\" men\r\nall day".into(),
        noted_at: bundle.runs[0].started_at,
        archived_at: Some(bundle.runs[0].started_at),
    });
    let before = TypedContent {
        measured_at: bundle.runs[0].started_at,
        conditions: bundle.runs[0].conditions.clone(),
        samples: vec![bundle.samples[0].clone()],
        speed_tests: vec![bundle.speed_tests[0].clone()],
    };
    bundle.amendments.push(Amendment {
        id: AmendmentId(Uuid::from_u128(72)),
        site_id,
        run_id: bundle.runs[0].id,
        amended_at: bundle.runs[0].started_at,
        by: "@Kari".into(),
        why: "-39 was \"−93\"".into(),
        before,
    });
    bundle.as_built.push(AsBuilt {
        id: AsBuiltId(Uuid::from_u128(73)),
        site_id,
        setup_id: bundle.setups[1].id,
        drawn_up_at: bundle.runs[0].started_at,
        program: "0.0.1".into(),
        details: AsBuiltDetails {
            built_on: chrono::NaiveDate::from_ymd_opt(2026, 11, 10),
            built_by: "=Kari".into(),
            cable_route: "down the \"gable\",\r\nthen in".into(),
            ..AsBuiltDetails::default()
        },
        aim: AsBuiltAim { compass_deg: Some(139.25), mast: Some("Ridge".into()), ..AsBuiltAim::default() },
        carriers: vec![AsBuiltCarrier {
            technology: Technology::Lte,
            band: Some(3),
            channel: Some(1300),
            pci: None,
            bandwidth_mhz: Some(20.0),
            activity: Activity::Loaded,
            rsrp_dbm: Some(ExpectedFigure { usual: -93.5, low: -98.25, high: -88.75, visits: 3 }),
            rsrq_db: None,
            sinr_db: None,
        }],
        speeds: vec![],
        undo: vec!["@allow all bands".into()],
        cautions: vec![],
        verdict: AsBuiltVerdict { said: "It is \"better\".".into(), ..AsBuiltVerdict::default() },
        archived_at: None,
    });
    let first = &mut bundle.sittings[0];
    (first.by_hand, first.name, first.closed_at) = (true, "-after rain".into(), Some(first.ended_at));
    bundle.predictions.push(KeptPrediction {
        id: PredictionId(bundle.setups[1].id.0),
        site_id: bundle.site.id,
        setup_id: bundle.setups[1].id,
        made_at: bundle.runs[0].started_at,
        program: "0.0.1".into(),
        setups: vec![],
        masts: vec![],
        figures: vec![PredictedFigure {
            quantity: TrackedQuantity::Rsrp,
            band: Some(BandName { technology: Technology::Lte, band: 20 }),
            channel: Some(6300),
            range: Estimate { low: -101.5, likely: -96.0, high: -90.25 },
        }],
    });
    bundle.sweeps.push(Sweep {
        id: SweepId(Uuid::from_u128(7)),
        site_id: bundle.site.id,
        position_id: bundle.positions[0].id,
        setup_id: None,
        axis: SweepAxis::Tilt,
        beamwidth_deg: 42.5,
        front_to_back_db: 18.0,
        expected_deg: None,
        cell: Some(CellKey {
            technology: Technology::Nr,
            band: Some(78),
            channel: Some(636_666),
            pci: Some(611),
        }),
        speed_tests: true,
        attach: Attach::KeptAttached,
        notes: vec![SweepNote {
            id: SweepNoteId(Uuid::from_u128(9)),
            at: bundle.runs[0].started_at,
            text: "Fir, \"in the way\"".into(),
        }],
        started_at: bundle.runs[0].started_at,
        set_deg: Some(-2.5),
        ended_at: Some(bundle.runs[0].started_at),
        archived_at: None,
    });
    bundle.sweep_stops.push(SweepStop {
        id: SweepStopId(Uuid::from_u128(8)),
        site_id: bundle.site.id,
        sweep_id: SweepId(Uuid::from_u128(7)),
        angle_deg: -5.0,
        taken_at: bundle.runs[0].started_at,
        run_id: None,
        samples: vec![bundle.samples[0].reading.clone(), bundle.samples[1].reading.clone()],
        typed: true,
        pressed_at: Some(bundle.runs[0].started_at),
        clock_offset_ms: Some(-250),
        archived_at: None,
    });
    bundle.sweep_photos.push(SweepPhotoFile {
        photo: SweepPhoto {
            id: SweepPhotoId(Uuid::from_u128(10)),
            site_id: bundle.site.id,
            sweep_id: SweepId(Uuid::from_u128(7)),
            file_name: "roof.jpg".into(),
            media_type: "image/jpeg".into(),
            bytes: 4,
            taken_at: bundle.runs[0].started_at,
            archived_at: None,
        },
        content: vec![0xFF, 0xD8, 0xFF, 1].into(),
    });
    bundle.backdrops.push(BackdropFile {
        backdrop: Backdrop {
            id: BackdropId(Uuid::from_u128(6)),
            site_id: bundle.site.id,
            file_name: "../above.jpg".into(),
            media_type: "image/jpeg".into(),
            width_px: 1200,
            height_px: 800,
            bytes: 4,
            control_points: vec![GroundControlPoint { x_px: 1.5, y_px: 2.5, place: bundle.masts[0].place }],
            opacity: 0.7,
            added_at: bundle.runs[0].started_at,
            archived_at: None,
        },
        content: vec![0xFF, 0xD8, 0xFF, 0].into(),
    });
    bundle
}

/// Changes one file of a zip; `None` takes it out.
fn with_file(zip: &[u8], name: &str, change: impl Fn(String) -> Option<String>) -> Vec<u8> {
    let mut from = zip::ZipArchive::new(Cursor::new(zip)).unwrap();
    let mut to = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for index in 0..from.len() {
        let mut entry = from.by_index(index).unwrap();
        let entry_name = entry.name().unwrap().into_owned();
        let mut content = Vec::new();
        entry.read_to_end(&mut content).unwrap();
        let content = if entry_name == name {
            match change(String::from_utf8(content).unwrap()) {
                Some(text) => text.into_bytes(),
                None => continue,
            }
        } else {
            content
        };
        to.start_file(entry_name, zip::write::SimpleFileOptions::default()).unwrap();
        to.write_all(&content).unwrap();
    }
    to.finish().unwrap().into_inner()
}

fn problems(bytes: &[u8]) -> Vec<RowProblem> {
    from_bytes(bytes).expect_err("it must not be taken")
}

#[test]
fn both_formats_come_back_without_loss() {
    assert_eq!(from_bytes(&to_json(&demo_bundle())).unwrap(), demo_bundle());
    assert_eq!(from_bytes(&to_zip(&demo_bundle())).unwrap(), demo_bundle());
}

/// RFC 4180: lines end in CR LF, fields with quotes, commas or breaks are quoted, quotes are doubled.
#[test]
fn tables_are_written_by_the_rfc() {
    let mut archive = zip::ZipArchive::new(Cursor::new(to_zip(&demo_bundle()))).unwrap();
    let mut text = String::new();
    archive.by_name("positions.csv").unwrap().read_to_string(&mut text).unwrap();
    assert!(text.starts_with("id,site_id,name,latitude_deg,"));
    assert!(text.contains("\"He said \"\"left\"\",\r\nthen; left"));
    assert!(text.ends_with("\r\n"));
}

#[test]
fn no_file_name_of_a_user_becomes_a_path() {
    let mut archive = zip::ZipArchive::new(Cursor::new(to_zip(&demo_bundle()))).unwrap();
    let names: Vec<String> = (0..archive.len())
        .map(|index| archive.by_index(index).unwrap().name().unwrap().into_owned())
        .collect();
    assert!(names.iter().all(|name| !name.contains("..")), "{names:?}");
    assert_eq!(names.iter().filter(|name| name.starts_with("attachments/")).count(), 1);
}

#[test]
fn a_bad_row_is_reported_with_its_line() {
    let zip = with_file(&to_zip(&demo_bundle()), "speed_tests.csv", |text| {
        let mut lines: Vec<String> = text.lines().map(str::to_owned).collect();
        lines[3] = lines[3].replacen(",live,", ",guessed,", 1);
        lines[5] = format!("x{}", lines[5]);
        Some(lines.join("\r\n"))
    });
    let found = problems(&zip);
    let lines: Vec<Option<u64>> = found.iter().map(|problem| problem.line).collect();
    assert_eq!(lines, [Some(4), Some(6)], "{found:?}");
    assert!(found.iter().all(|problem| problem.file == "speed_tests.csv"));
    assert!(found[0].reason.contains("guessed"), "{found:?}");
}

#[test]
fn a_text_in_a_number_column_is_named() {
    let zip = with_file(&to_zip(&demo_bundle()), "carriers.csv", |text| {
        Some(text.replacen(",-117.0,", ",strong,", 1))
    });
    let found = problems(&zip);
    assert!(found[0].reason.contains("“strong” in column rsrp_dbm"), "{found:?}");
}

#[test]
fn columns_may_stand_in_any_order() {
    let zip = with_file(&to_zip(&demo_bundle()), "attachments.csv", |text| {
        let turned = text.lines().map(|line| line.rsplit(',').collect::<Vec<_>>().join(","));
        Some(turned.collect::<Vec<_>>().join("\r\n"))
    });
    assert_eq!(from_bytes(&zip).unwrap(), demo_bundle());
}

#[test]
fn an_unknown_column_is_named_with_the_known_ones() {
    let zip =
        with_file(&to_zip(&demo_bundle()), "runs.csv", |text| Some(text.replacen("weather", "wetter", 1)));
    let found = problems(&zip);
    assert_eq!(found[0].line, Some(1));
    assert!(found[0].reason.contains("wetter") && found[0].reason.contains("weather"));
}

#[test]
fn what_is_missing_is_named() {
    let found = problems(&with_file(&to_zip(&demo_bundle()), "runs.csv", |_| None));
    assert!(
        found.iter().any(|problem| problem.file == "runs.csv" && problem.reason.contains("missing")),
        "{found:?}"
    );
    let found = problems(&with_file(&to_zip(&demo_bundle()), "manifest.json", |_| None));
    assert!(found.iter().any(|problem| problem.file == "manifest.json"), "{found:?}");
}

#[test]
fn parts_must_belong_together() {
    let mut bundle = demo_bundle();
    bundle.runs[2].setup_id = SetupId(Uuid::from_u128(404));
    bundle.positions[1].id = bundle.positions[0].id;
    let found = problems(&to_json(&bundle));
    assert!(found.iter().any(|problem| problem.file == "runs.csv" && problem.line == Some(4)), "{found:?}");
    assert!(found.iter().any(|problem| problem.reason.contains("twice")), "{found:?}");
}

#[test]
fn other_files_are_refused_in_words() {
    for (bytes, words) in [
        (b"PK\x03\x04 not really".to_vec(), "zip"),
        (b"<html>".to_vec(), "not a site export"),
        (b"{}".to_vec(), "not a site export"),
        (Vec::new(), "not a site export"),
    ] {
        let found = problems(&bytes);
        assert!(found[0].reason.contains(words), "{found:?}");
    }
    let mut newer = demo_bundle();
    newer.version = 99;
    assert!(problems(&to_json(&newer))[0].reason.contains("newer"));
}

#[test]
fn a_copy_shares_no_identifier_and_keeps_what_belongs_together() {
    let mut next = 1000;
    let copy = with_new_ids(demo_bundle(), || {
        next += 1;
        Uuid::from_u128(next)
    })
    .unwrap();
    // Whatever looks like an identifier and is not a part's: in the copy it is none of the original's.
    let ids = |bundle: &SiteBundle| -> HashSet<String> {
        let mut bundle = bundle.clone();
        bundle.parts.clear();
        bundle.kits.clear();
        bundle.settings.kit.own_gateway = None;
        let text = String::from_utf8(to_json(&bundle)).unwrap();
        let quoted = text.split('"').filter(|part| part.parse::<Uuid>().is_ok());
        quoted.map(str::to_owned).collect()
    };
    let (before, after) = (ids(&demo_bundle()), ids(&copy));
    assert_eq!(before.len(), after.len());
    assert_eq!(before.intersection(&after).collect::<Vec<_>>(), Vec::<&String>::new());
    assert_eq!(from_bytes(&to_zip(&copy)).unwrap(), copy, "the references hold");
    assert_eq!(copy.samples.len(), demo_bundle().samples.len());
    assert_ne!(copy.settings.active_setup_id, demo_bundle().settings.active_setup_id);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Any text, in composed form, and any finite number survives both formats.
    #[test]
    fn round_trips(note in "\\PC{0,40}", rate in prop::num::f64::NORMAL, reason in prop::option::of("[a-z\",\n ]{1,20}")) {
        let mut bundle = demo_bundle();
        bundle.positions[0].notes = composed(&note).into_owned();
        bundle.speed_tests[0].figures.download_mbps = Some(rate);
        bundle.speed_tests[0].figures.average_of = Some(2 + (rate as u16) % 99);
        bundle.runs[0].reason = reason;
        prop_assert_eq!(&from_bytes(&to_zip(&bundle)).unwrap(), &bundle);
        prop_assert_eq!(&from_bytes(&to_json(&bundle)).unwrap(), &bundle);
    }

    /// No bytes make the reader panic.
    #[test]
    fn any_bytes_are_survived(bytes in prop::collection::vec(any::<u8>(), 0..200), zipped in any::<bool>()) {
        let mut bytes = bytes;
        if zipped {
            bytes.splice(0..0, *b"PK\x03\x04");
        }
        prop_assert!(from_bytes(&bytes).is_err());
    }
}

#[test]
fn exports_from_before_the_kit_stage_are_read() {
    let zip = to_zip(&demo_bundle());
    let old = with_file(&with_file(&zip, "kits.csv", |_| None), "parts.csv", |_| None);
    let bundle = from_bytes(&old).unwrap();
    assert_eq!((bundle.kits.len(), bundle.parts.len()), (0, 0));
    assert_eq!(bundle.samples, demo_bundle().samples);
    let broken = with_file(&zip, "kits.csv", |text| Some(text.replacen("Outdoor unit", "", 1)));
    let problems = from_bytes(&broken).unwrap_err();
    assert!(
        problems.iter().any(|one| one.file == "kits.csv" && one.reason.starts_with("name")),
        "{problems:?}"
    );
}

/// Version 3 named what is aimed for "school" and the points of a picture "tie_points".
#[test]
fn version_3_with_its_names_is_read() {
    let mut bundle = demo_bundle();
    bundle.settings.aim_criterion = AimCriterion::Signal;
    let before = |text: &str| {
        let renamed = text.replace("aim_criterion", "school").replace("control_points", "tie_points");
        renamed.replacen("\"version\": 4", "\"version\": 3", 1).replacen("\"version\":4", "\"version\":3", 1)
    };
    let json = before(std::str::from_utf8(&to_json(&bundle)).unwrap());
    assert!(
        json.contains("\"school\"") && json.contains("\"tie_points\"") && !json.contains("control_points")
    );
    let read = from_bytes(json.as_bytes()).unwrap();
    assert_eq!((&read.settings, &read.backdrops), (&bundle.settings, &bundle.backdrops));
    let mut zip = to_zip(&bundle);
    for file in ["manifest.json", "site.csv", "backdrops.csv"] {
        zip = with_file(&zip, file, |text| Some(before(&text)));
    }
    let read = from_bytes(&zip).unwrap();
    assert_eq!((&read.settings, &read.backdrops), (&bundle.settings, &bundle.backdrops));
    assert!(!bundle.backdrops[0].backdrop.control_points.is_empty());
}

/// A spreadsheet runs what begins with =, +, −, @ (OWASP, CSV Injection): such texts get an apostrophe in the table, and come back
/// without it, also where they began with one.
#[test]
fn no_text_becomes_a_formula_and_every_text_comes_back() {
    let texts = ["=1+1", "+49 171", "-5 dB pad", "@home", "'=1+1", "''@", "'quoted'", "\tx", "plain", "="];
    for text in texts {
        let mut bundle = demo_bundle();
        bundle.site.name = text.into();
        bundle.positions[0].notes = text.into();
        bundle.setups[0].spec.kit_note = text.into();
        let zip = to_zip(&bundle);
        assert_eq!(from_bytes(&zip).unwrap(), bundle, "{text:?}");
        let mut archive = zip::ZipArchive::new(std::io::Cursor::new(zip)).unwrap();
        for table in ["site.csv", "positions.csv", "setups.csv"] {
            let file = archive.by_name(table).unwrap();
            let mut reader = csv::Reader::from_reader(file);
            for cell in reader
                .records()
                .flat_map(|record| record.unwrap().iter().map(str::to_owned).collect::<Vec<_>>())
            {
                let number = cell.parse::<f64>().is_ok();
                assert!(number || !cell.starts_with(['=', '+', '-', '@', '\t', '\r']), "{table}: {cell:?}");
            }
        }
    }
}

/// Masts leave by the same rule, and are read back without mapping.
#[test]
fn a_masts_name_is_no_formula_either() {
    let mut mast = demo_bundle().masts.remove(0);
    mast.name = "=HYPERLINK(\"x\")".into();
    mast.notes = "@SUM(A1)".into();
    let file = open_beacon_exchange::masts::masts_to_csv(std::slice::from_ref(&mast));
    let text = String::from_utf8(file.clone()).unwrap();
    assert!(text.contains("'=HYPERLINK") && text.contains("'@SUM"), "{text}");
    let table = open_beacon_exchange::masts::read_mast_table("masts.csv", &file).unwrap();
    assert_eq!(table.rows[0][0], mast.name);
}
