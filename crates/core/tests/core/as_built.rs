//! The sheet of what was built: what is to be found again, and how it is said.

use crate::samples::*;
use chrono::Duration;
use fastrand::Rng;
use open_beacon_core::as_built::{aim, carriers, speeds};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::point_along;
use open_beacon_core::judge::{RadioDigest, SetupEvidence, compare};
use open_beacon_core::metrics::Metric;
use open_beacon_core::model::*;
use open_beacon_core::words::Style;
use open_beacon_core::words::as_built as said;

fn heard(pci: u16, rsrp_dbm: f64) -> Carrier {
    Carrier {
        band: Some(3),
        channel: Some(1300),
        pci: Some(pci),
        bandwidth_mhz: Some(20.0),
        rsrp_dbm: Some(rsrp_dbm),
        sinr_db: Some(rsrp_dbm / 10.0 + 20.0),
        ..Carrier::empty(Technology::Lte, CarrierRole::Primary)
    }
}

/// A setup that was visited; each visit after so many hours, by an instrument, with what was heard.
fn visited(visits: &[(i64, Instrument, Vec<Carrier>)]) -> SetupEvidence {
    let mut made = evidence("gable", &[]);
    for (n, (hours, instrument, carriers)) in visits.iter().enumerate() {
        let started_at = morning() + Duration::hours(*hours);
        let run = Run {
            id: RunId(id(500 + n as u128)),
            setup_id: made.setup_id,
            source: Source::Live,
            started_at,
            ended_at: Some(started_at),
            completion: Completion::Complete,
            reason: None,
            planned_samples: 0,
            planned_speed_tests: 0,
            refresh_period_s: None,
            conditions: Conditions { instrument: *instrument, ..Conditions::default() },
            context: RunContext::Log,
            archived_at: None,
        };
        let reading =
            Reading { mode: ConnectionMode::Lte, carriers: carriers.clone(), neighbours: Vec::new() };
        let (id, run_id) = (SampleId(id(700 + n as u128)), run.id);
        let sample = Sample { id, run_id, taken_at: started_at, activity: Activity::Idle, reading };
        made.radio.push((run.id, RadioDigest::of([&sample])));
        made.runs.push(run);
    }
    made
}

/// The difference of a carrier between two setups, with the interval by visits.
#[test]
fn how_far_carriers_lie_apart_is_told_by_visits() {
    let here = visited(&[
        (0, Instrument::Gateway, vec![heard(101, -80.0)]),
        (24, Instrument::Gateway, vec![heard(101, -82.0)]),
        (48, Instrument::Gateway, vec![heard(101, -84.0)]),
    ]);
    let there = SetupEvidence {
        label: "sill".into(),
        ..visited(&[(3, Instrument::Gateway, vec![heard(101, -100.0)])])
    };
    let row = compare(&there, &[here], chrono_tz::UTC).rows.remove(1);
    let rsrp = row.carrier_differences.iter().find(|one| one.metric == Metric::Rsrp).unwrap();
    let interval = rsrp.interval.unwrap();
    assert_eq!(rsrp.difference_db, 18.0);
    // By hand: five assumed visits of 2 dB and squares of 8, 7 degrees of freedom: √(28/7 · (1/3 + 1)) = 2.309; t of 7, 95 %, is 1.895.
    assert!((interval.high - 18.0 - 1.895 * 2.309).abs() < 0.01, "{interval:?}");
    assert!((18.0 - interval.low - (interval.high - 18.0)).abs() < 1e-9);

    // What a phone read has no interval: it is another instrument.
    let phone = visited(&[(0, Instrument::Phone, vec![heard(101, -80.0)])]);
    let row = compare(&there, &[phone], chrono_tz::UTC).rows.remove(1);
    assert!(row.carrier_differences.iter().all(|one| one.interval.is_none()));
}

#[test]
fn a_carrier_is_expected_where_visits_of_the_gateway_found_it() {
    use Instrument::{Gateway, Phone};
    let made = visited(&[
        (0, Gateway, vec![heard(101, -92.0), heard(7, -110.0)]),
        // Within the hour: the same visit.
        (0, Gateway, vec![heard(101, -60.0)]),
        (5, Phone, vec![heard(101, -75.0)]),
        (24, Gateway, vec![heard(101, -94.0)]),
        (48, Gateway, vec![heard(101, -96.0)]),
    ]);
    let found = carriers(&made);
    assert_eq!(found.len(), 1, "what came and went is not looked for: {found:?}");
    let rsrp = found[0].rsrp_dbm.unwrap();
    assert_eq!((found[0].pci, rsrp.usual, rsrp.visits), (Some(101), -94.0, 3));
    // By hand: five assumed visits of 2 dB and squares of 8: √(28/7 · 4/3) = 2.309; Student's t of 7, 95 %, is 1.895 (from any table).
    assert!((rsrp.high - rsrp.usual - 1.895 * 2.309).abs() < 0.01, "{rsrp:?}");
    assert!((rsrp.usual - rsrp.low - (rsrp.high - rsrp.usual)).abs() < 1e-9);
    assert!(found[0].rsrq_db.is_none() && found[0].sinr_db.is_some());
    assert_eq!(carriers(&visited(&[])), []);
}

/// Houses whose scatter is not the assumption's: it differs from house to house, and visits scatter by Laplace's law.
#[test]
fn nine_of_ten_later_visits_fall_into_the_range() {
    let mut dice = Rng::with_seed(20);
    for visits in [1, 2, 3, 6, 12] {
        let (mut held, houses) = (0, 1500);
        for _ in 0..houses {
            let spread_db = 1.0 + 2.5 * dice.f64();
            let mut scatter = || {
                let side = if dice.bool() { 1.0 } else { -1.0 };
                -side * spread_db / 2.0_f64.sqrt() * (1.0 - dice.f64()).ln()
            };
            let found: Vec<_> = (0..visits)
                .map(|n| (24 * n, Instrument::Gateway, vec![heard(101, -95.0 + scatter())]))
                .collect();
            let next = -95.0 + scatter();
            let rsrp = carriers(&visited(&found))[0].rsrp_dbm.unwrap();
            held += usize::from((rsrp.low..=rsrp.high).contains(&next));
        }
        let share = held as f64 / houses as f64;
        assert!((0.86..=0.95).contains(&share), "{visits} visits: {share}");
    }
}

/// Rates of hours that are calm or busy, with a uniform part: not the assumption's law.
#[test]
fn nine_of_ten_later_sittings_fall_into_the_range_of_speeds() {
    let mut dice = Rng::with_seed(21);
    for sittings in [2, 3, 6, 12] {
        let (mut held, houses) = (0, 1500);
        for _ in 0..houses {
            let scatter = 0.1 + 0.3 * dice.f64();
            let mut hour = || {
                let hump = if dice.bool() { 0.84 } else { -0.84 };
                (60.0_f64.ln() + scatter * (hump + 0.94 * (2.0 * dice.f64() - 1.0))).exp()
            };
            let found: Vec<f64> = (0..sittings).map(|_| hour()).collect();
            let next = hour();
            let down = speeds(&evidence("gable", &found))[0].expected;
            held += usize::from((down.low..=down.high).contains(&next));
        }
        let share = held as f64 / houses as f64;
        assert!((0.85..=0.98).contains(&share), "{sittings} sittings: {share}");
    }
}

fn house() -> GeoPoint {
    GeoPoint { latitude_deg: 60.0, longitude_deg: 10.0 }
}

fn mast(n: u128, name: &str, bearing_deg: f64, distance_m: f64, pci: Option<u16>) -> Mast {
    let cell = MastCell {
        technology: Technology::Lte,
        band: Some(3),
        channel: Some(1300),
        pci,
        bandwidth_mhz: None,
        node: None,
        local_cell: None,
        bearing_deg: None,
        power_dbm: None,
        load: None,
    };
    Mast {
        id: MastId(id(n)),
        site_id: SiteId(id(1)),
        name: name.into(),
        operator: String::new(),
        place: point_along(house(), bearing_deg, distance_m),
        height_m: None,
        cells: vec![cell],
        notes: String::new(),
        archived_at: None,
    }
}

fn setup(spec: SetupSpec) -> Setup {
    let (made_from, archived_at) = (None, None);
    let (origin, position_id) = (SetupOrigin::ByHand, PositionId(id(2)));
    Setup { id: SetupId(id(3)), position_id, made_from, origin, spec, created_at: morning(), archived_at }
}

fn built() -> SetupSpec {
    SetupSpec {
        azimuth_deg: Some(143.0),
        tilt_deg: Some(2.5),
        height_above_ground_m: Some(7.2),
        polarisation: Some(Polarisation::Slant),
        ports: vec![PortLink { lead: 1, port: "ANT1".into() }, PortLink { lead: 2, port: "ANT2".into() }],
        lock: BandChoice { lte: vec![3], ..BandChoice::default() },
        kit_note: "Panel on the old dish arm".into(),
        ..SetupSpec::on(AntennaSwitch::External)
    }
}

#[test]
fn the_mast_is_the_one_that_was_heard_else_the_one_ahead() {
    let masts = [mast(11, "Ridge", 143.0, 9000.0, Some(101)), mast(12, "Church", 150.0, 3000.0, Some(7))];
    let heard = |pci| visited(&[(0, Instrument::Gateway, vec![heard(pci, -92.0)])]).whole_radio();
    let stands = setup(built());
    let on = morning().date_naive();
    let found = aim(&stands, Some(house()), &masts, &heard(101), on);
    assert_eq!(found.mast.as_deref(), Some("Ridge"));
    assert!((found.mast_bearing_deg.unwrap() - 143.0).abs() < 0.01);
    assert!((found.mast_distance_m.unwrap() - 9000.0).abs() < 1.0);
    // Needles there point a little east of north (World Magnetic Model): the compass shows less than the map.
    let east = found.declination_deg.unwrap();
    assert!(east > 2.0 && (found.compass_deg.unwrap() - (143.0 - east)).abs() < 1e-9, "{found:?}");
    let unheard = aim(&stands, Some(house()), &masts, &heard(300), on);
    assert_eq!(unheard.mast.as_deref(), Some("Church"), "the nearest the way it points");
    let unplaced = aim(&stands, None, &masts, &heard(300), on);
    assert_eq!(unplaced, AsBuiltAim::default(), "without coordinates there is neither compass nor mast");
}

fn sheet() -> AsBuilt {
    let made = visited(&[
        (0, Instrument::Gateway, vec![heard(101, -92.0)]),
        (24, Instrument::Gateway, vec![heard(101, -94.0)]),
    ]);
    AsBuilt {
        id: AsBuiltId(id(5)),
        site_id: SiteId(id(1)),
        setup_id: SetupId(id(3)),
        drawn_up_at: morning(),
        program: "0".into(),
        details: AsBuiltDetails {
            built_by: "Kari".into(),
            address: "Upper road 4".into(),
            account: "Plan 7".into(),
            serials: "Gateway: 0815\n\nAntenna: 4711 ".into(),
            cable_route: "Down the gable".into(),
            ..AsBuiltDetails::default()
        },
        aim: aim(
            &setup(built()),
            Some(house()),
            &[mast(11, "Ridge", 143.0, 9000.0, Some(101))],
            &made.whole_radio(),
            morning().date_naive(),
        ),
        carriers: carriers(&made),
        speeds: speeds(&evidence("gable", &[50.0, 60.0, 70.0])),
        undo: said::undo(None, &built().lock),
        cautions: Vec::new(),
        verdict: AsBuiltVerdict::default(),
        archived_at: None,
    }
}

fn shown(sheet: &AsBuilt, place: Option<GeoPoint>) -> (String, String) {
    let (position, setup) = (plain_position(2, "East gable", Mount::Gable), setup(built()));
    let of = said::Sheet { sheet, site: "Upper farm", place, position: &position, setup: &setup, kit: None };
    let rows = said::sections(of, Style::default()).into_iter().flat_map(|section| section.rows);
    let rows: Vec<String> = rows.map(|row| format!("{}: {}", row.name, row.value)).collect();
    (rows.join("\n"), said::code_text(of, Style::default(), Some("https://house.local:8443/x")))
}

#[test]
fn a_sheet_tells_a_stranger_all_that_is_needed() {
    let sheet = sheet();
    let (text, code) = shown(&sheet, Some(house()));
    for wanted in [
        "Site: Upper farm",
        "Address: Upper road 4",
        "Coordinates: 60.000000, 10.000000 (WGS 84)",
        "Position: East gable, on the gable",
        "Antenna above ground: 7.2\u{202f}m",
        "Bearing on the map (true): 143°\u{202f}T",
        "Tilt: 2.5° up",
        "Polarisation: slant (±45°)",
        "Mast: Ridge, at 143°\u{202f}T, 9.0\u{202f}km away",
        "Kit: Panel on the old dish arm",
        "Serial numbers: Gateway: 0815; Antenna: 4711",
        "Leads to ports: Lead 1 in ANT1 and lead 2 in ANT2",
        "Cable route: Down the gable",
        "Lock: to B3",
        "Plan and account: Plan 7",
    ] {
        assert!(text.contains(wanted), "{wanted} in:\n{text}");
    }
    assert!(text.contains("east, "), "declination with its side and month:\n{text}");
    assert_eq!(said::not_written(&sheet), ["joints and weatherproofing", "grounding and surge protection"]);
    assert!(sheet.undo[0].contains("allow all bands") && sheet.undo.len() == 2, "{:?}", sheet.undo);
    assert_eq!(said::undo(None, &BandChoice::default()), [""; 0], "no lock, nothing to undo");
    for wanted in [
        "AS BUILT Upper farm, ",
        "East gable, 7.2 m up",
        "lead 1 in ANT1, lead 2 in ANT2",
        "locked to B3",
        "B3 PCI 101 RSRP -93 SINR 11",
        "download 59 Mbit/s",
        "https://house.local:8443/x",
    ] {
        assert!(code.contains(wanted), "{wanted} in:\n{code}");
    }
    assert!(code.len() < 500, "a phone reads it from paper: {} bytes", code.len());
    let rows = said::speeds(&sheet);
    assert!(rows[0].name == "Download" && rows[0].value.starts_with("59.4\u{202f}Mbit/s ("), "{rows:?}");
    assert!(said::carriers(&sheet)[0].rsrp.starts_with("−93\u{202f}dBm (−"), "{:?}", said::carriers(&sheet));
    assert!(said::rests_on(&sheet).contains("two visits and three sittings"), "{}", said::rests_on(&sheet));
    let bare = AsBuilt { carriers: Vec::new(), speeds: Vec::new(), ..sheet };
    assert!(said::rests_on(&bare).contains("Nothing was measured"));
}

/// Each private thing is there where it is shared, and nowhere on the sheet or in its code where it is not.
#[test]
fn what_is_private_is_left_out_until_it_is_shared() {
    let none = AsBuiltSharing::default();
    let of = |with: AsBuiltSharing| {
        let sheet = sheet().shared(with);
        let (text, code) = shown(&sheet, with.place.then(house));
        format!("{text}\n{code}\n{}", serde_json::to_string(&sheet).unwrap())
    };
    let each = [
        (AsBuiltSharing { place: true, ..none }, vec!["Upper road 4", "60.000000", "Ridge", "9.0"]),
        (AsBuiltSharing { people: true, ..none }, vec!["Kari"]),
        (AsBuiltSharing { serials: true, ..none }, vec!["0815", "4711"]),
        (AsBuiltSharing { account: true, ..none }, vec!["Plan 7"]),
    ];
    let (nothing, everything) = (of(none), of(AsBuiltSharing::WHOLE));
    for (with, words) in each {
        let alone = of(with);
        for word in words {
            assert!(alone.contains(word) && everything.contains(word), "{word} in {alone}");
            assert!(!nothing.contains(word), "{word} in {nothing}");
        }
    }
    assert!(nothing.contains("143°") && nothing.contains("Down the gable"), "the rest is for all");
}
