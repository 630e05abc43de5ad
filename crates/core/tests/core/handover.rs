//! What one stage hands to the next: a survey choice, a sweep that was set, a visit to a choice of bands. Rules of this
//! program, so checked by what must hold for any values.

use chrono::{DateTime, TimeDelta, TimeZone, Utc};
use open_beacon_core::aim::record::{as_turned, point_record, with_samples};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::handover::{from_survey, from_sweep, port_maps_tried, stands_at, swept_setup};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::link::route::{Lack, PathSource};
use open_beacon_core::model::*;
use open_beacon_core::survey::rank::{Access, Choice};
use open_beacon_core::trial::visit::{same_but_lock, setup_with_lock, visit_record, with_record};
use proptest::prelude::*;
use std::collections::HashSet;
use uuid::Uuid;

fn begins() -> DateTime<Utc> {
    Utc.with_ymd_and_hms(2026, 11, 3, 17, 0, 0).unwrap()
}

fn position(height_above_ground_m: Option<f64>) -> Position {
    Position {
        id: PositionId(Uuid::from_u128(1)),
        site_id: SiteId(Uuid::nil()),
        name: "East gable".into(),
        place: None,
        height_above_ground_m,
        mount: Mount::Gable,
        spot: Spot::default(),
        notes: String::new(),
        created_at: begins(),
        archived_at: None,
    }
}

fn setup(spec: SetupSpec) -> Setup {
    Setup {
        id: SetupId(Uuid::from_u128(2)),
        position_id: position(None).id,
        made_from: None,
        origin: SetupOrigin::ByHand,
        spec,
        created_at: begins(),
        archived_at: None,
    }
}

/// A setup with something in every field that a hand-over could lose.
fn full_spec() -> SetupSpec {
    SetupSpec {
        name: "The old one".into(),
        azimuth_deg: Some(120.0),
        tilt_deg: Some(1.0),
        gateway_place: "Kitchen".into(),
        gateway_azimuth_deg: Some(90.0),
        ports: vec![PortLink { lead: 1, port: "EXT 2".into() }],
        kit_id: Some(KitId(Uuid::from_u128(9))),
        height_above_ground_m: Some(7.5),
        polarisation: Some(Polarisation::Slant),
        lock: BandChoice { access: BandAccess::Nsa, lte: vec![20], nr: vec![78] },
        kit_note: "borrowed".into(),
        lock_note: "set on its page".into(),
        ..SetupSpec::on(AntennaSwitch::External)
    }
}

fn sweep(axis: SweepAxis, set_deg: Option<f64>) -> Sweep {
    Sweep {
        setup_id: None,
        id: SweepId(Uuid::from_u128(3)),
        site_id: SiteId(Uuid::nil()),
        position_id: position(None).id,
        axis,
        beamwidth_deg: 60.0,
        front_to_back_db: 20.0,
        expected_deg: None,
        cell: None,
        speed_tests: false,
        attach: Attach::KeptAttached,
        notes: Vec::new(),
        started_at: begins(),
        set_deg,
        ended_at: Some(begins()),
        archived_at: None,
    }
}

fn choice(bearing_deg: f64, elevation_deg: Option<f64>, height_m: f64) -> Choice {
    Choice {
        position_id: position(None).id,
        position: "East gable".into(),
        mount: Mount::Gable,
        mast_id: MastId(Uuid::from_u128(4)),
        mast: "Skarvnut".into(),
        height_m,
        raised_m: 0.0,
        distance_m: 4700.0,
        bearing_deg,
        elevation_deg,
        source: PathSource::Model { lack: Lack::NoTerrain },
        clearance: None,
        bands: Vec::new(),
        down_mbps: Estimate::exactly(30.0),
        up_mbps: Estimate::exactly(5.0),
        possible_down_mbps: Estimate::exactly(90.0),
        possible_up_mbps: Estimate::exactly(9.0),
        margin: None,
        day: None,
        why: None,
        cable_m: 8.0,
        access: Access::Ladder,
        chance_of_best: None,
        doubts: Vec::new(),
    }
}

fn round(base: &Setup, choices: &[BandChoice]) -> BandRound {
    BandRound {
        id: RoundId(Uuid::from_u128(5)),
        site_id: SiteId(Uuid::nil()),
        setup_id: Some(base.id),
        goal: TrialGoal::Download,
        choices: choices.to_vec(),
        tests_a_visit: 2,
        blocks: 3,
        difference: 0.2,
        cap_mb: None,
        by_hand: false,
        started_at: begins(),
        ended_at: None,
        end: None,
        reason: None,
        kept: None,
        archived_at: None,
    }
}

fn any_choice() -> impl Strategy<Value = BandChoice> {
    let access = prop_oneof![
        Just(BandAccess::Any),
        Just(BandAccess::Lte),
        Just(BandAccess::Nsa),
        Just(BandAccess::Sa)
    ];
    let bands = |of: &'static [u16]| proptest::sample::subsequence(of, 0..=of.len());
    (access, bands(&[3, 7, 20, 28]), bands(&[28, 78])).prop_map(|(access, lte, nr)| BandChoice {
        access,
        lte,
        nr,
    })
}

fn any_trial() -> impl Strategy<Value = Trial> {
    let test = (0.1..900.0_f64, 0_i64..600, prop::option::of("[a-z]{3,9}"));
    let outcome = prop_oneof![
        Just(TrialOutcome::Measured),
        Just(TrialOutcome::NoService),
        Just(TrialOutcome::Unfinished),
        Just(TrialOutcome::Ignored)
    ];
    (
        any_choice(),
        outcome,
        prop::collection::vec(test, 0..4),
        prop::collection::vec(-130.0..-50.0_f64, 0..5),
        any::<u128>(),
    )
        .prop_map(|(choice, outcome, tests, rsrp_dbm, id)| Trial {
            id: TrialId(Uuid::from_u128(id)),
            site_id: SiteId(Uuid::nil()),
            round_id: RoundId(Uuid::from_u128(5)),
            choice,
            block: 1,
            started_at: begins(),
            reattach_s: Some(21.0),
            outcome,
            reason: (outcome == TrialOutcome::Ignored).then(|| "It went on with B3.".into()),
            run_id: None,
            samples: rsrp_dbm
                .into_iter()
                .map(|rsrp_dbm| {
                    let mut carrier = Carrier::empty(Technology::Lte, CarrierRole::Primary);
                    carrier.rsrp_dbm = Some(rsrp_dbm);
                    Reading { mode: ConnectionMode::Lte, carriers: vec![carrier], neighbours: Vec::new() }
                })
                .collect(),
            tests: tests
                .into_iter()
                .map(|(mbps, at_s, problem)| TrialTest {
                    surroundings: None,
                    course: Some(Course { down_mbps: vec![mbps], ..Course::default() }),
                    started_at: begins() + TimeDelta::seconds(at_s),
                    figures: SpeedFigures { download_mbps: Some(mbps), ..SpeedFigures::default() },
                    problem,
                })
                .collect(),
            archived_at: None,
        })
}

proptest! {
    /// Moving a visit's figures into the record and reading them back loses none.
    #[test]
    fn a_visit_reads_back_from_the_record_as_it_was(trial in any_trial()) {
        let base = setup(full_spec());
        let round = round(&base, std::slice::from_ref(&trial.choice));
        let (record, kept) = visit_record(&round, &base, &trial, "http://speed.example");
        prop_assert!(kept.samples.is_empty() && kept.tests.is_empty());
        prop_assert_eq!(kept.run_id, Some(record.run.id));
        prop_assert_eq!(record.run.setup_id, record.setup.id);
        prop_assert_eq!(
            record.run.completion == Completion::Complete,
            trial.outcome == TrialOutcome::Measured
        );
        let rows: HashSet<Uuid> = record.samples.iter().map(|one| one.id.0)
            .chain(record.tests.iter().map(|one| one.id.0))
            .chain([record.run.id.0])
            .collect();
        prop_assert_eq!(rows.len(), 1 + record.samples.len() + record.tests.len());
        // A second telling of the same visit gives the same rows, not more.
        let again = visit_record(&round, &base, &trial, "http://speed.example").0;
        prop_assert_eq!(&again, &record);
        // How each test went stands beside it, under its identifier.
        let went: Vec<_> = record.courses.iter().map(|one| (one.test_id, one.course.down_mbps[0])).collect();
        let tested: Vec<_> = record.tests.iter().map(|one| (one.id, one.figures.download_mbps.unwrap())).collect();
        prop_assert_eq!(went, tested);
        let back = with_record(kept, record.samples, record.tests);
        let mut moved = Trial { run_id: Some(record.run.id), ..trial };
        moved.tests.iter_mut().for_each(|test| test.course = None);
        prop_assert_eq!(back, moved);
    }

    /// One lock at one setup is one setup, however often it is tried; two locks are two.
    #[test]
    fn a_lock_makes_a_setup_of_its_own(one in any_choice(), other in any_choice()) {
        let base = setup(full_spec());
        let origin = SetupOrigin::BandTrial { round_id: RoundId(Uuid::from_u128(5)) };
        let under = |choice: &BandChoice| setup_with_lock(&base, choice, origin);
        prop_assert_eq!(&under(&one).spec.lock, &one);
        prop_assert_eq!(under(&one).id == under(&other).id, one == other);
        prop_assert_eq!(under(&one).id == base.id, one == base.spec.lock);
        prop_assert!(same_but_lock(&under(&one), &under(&other)));
        let mut turned = under(&one);
        turned.spec.azimuth_deg = Some(121.0);
        prop_assert!(!same_but_lock(&turned, &under(&other)));
    }

    /// What a sweep set is the aim; all else stays as it stood, the lock too.
    #[test]
    fn a_sweep_changes_the_aim_alone(set_deg in -400.0..760.0_f64) {
        let base = setup(full_spec());
        let made = from_sweep(&sweep(SweepAxis::Azimuth, Some(set_deg)), Some(&base), None).unwrap();
        let azimuth_deg = made.spec.azimuth_deg.unwrap();
        prop_assert!((0.0..360.0).contains(&azimuth_deg));
        prop_assert!(((azimuth_deg - set_deg) / 360.0 - ((azimuth_deg - set_deg) / 360.0).round()).abs() < 1e-9);
        let unturned = SetupSpec { azimuth_deg: base.spec.azimuth_deg, ..made.spec };
        prop_assert!(unturned.stands_like(&base.spec));
        let tilted = from_sweep(&sweep(SweepAxis::Tilt, Some(set_deg.clamp(-90.0, 90.0))), Some(&base), None).unwrap();
        prop_assert_eq!(tilted.spec.tilt_deg, Some(set_deg.clamp(-90.0, 90.0)));
        prop_assert_eq!(tilted.spec.azimuth_deg, base.spec.azimuth_deg);
    }

    #[test]
    fn a_survey_choice_keeps_its_bearing_tilt_and_height(
        bearing_deg in -360.0..720.0_f64,
        elevation_deg in prop::option::of(-30.0..30.0_f64),
        height_m in 1.0..20.0_f64,
    ) {
        let like = full_spec();
        let made = from_survey(&choice(bearing_deg, elevation_deg, height_m), &position(Some(6.4)), None, Some(&like));
        prop_assert!((0.0..360.0).contains(&made.spec.azimuth_deg.unwrap()));
        prop_assert_eq!(made.spec.height_above_ground_m, Some(height_m));
        prop_assert_eq!(made.spec.tilt_deg.is_some(), elevation_deg.is_some());
        let off_deg = made.spec.tilt_deg.unwrap_or_default() - elevation_deg.unwrap_or_default();
        prop_assert!(off_deg.abs() <= 0.05 + 1e-9);
        prop_assert_eq!(&made.spec.gateway_place, &like.gateway_place);
        prop_assert_eq!(made.spec.kit_id, like.kit_id);
        prop_assert_eq!(made.origin, SetupOrigin::SurveyChoice { mast_id: Some(MastId(Uuid::from_u128(4))) });
    }
}

/// A hair left of north is north, not 360: the range of an azimuth ends before it.
#[test]
fn north_is_nought() {
    let made = from_sweep(&sweep(SweepAxis::Azimuth, Some(-1e-17)), None, None).unwrap();
    assert_eq!(made.spec.azimuth_deg, Some(0.0));
    let made = from_survey(&choice(-1e-17, None, 6.4), &position(Some(6.4)), None, None);
    assert_eq!(made.spec.azimuth_deg, Some(0.0));
    // The position's own height is not said twice.
    assert_eq!(made.spec.height_above_ground_m, None);
}

#[test]
fn a_sweep_that_set_nothing_makes_no_setup() {
    assert_eq!(from_sweep(&sweep(SweepAxis::Azimuth, None), None, None), None);
    assert_eq!(from_sweep(&sweep(SweepAxis::Ports, Some(1.0)), Some(&setup(full_spec())), None), None);
    let made = from_sweep(&sweep(SweepAxis::Azimuth, Some(143.0)), Some(&setup(full_spec())), None).unwrap();
    // The old name spoke of the old aim.
    assert_eq!(made.spec.name, "");
    assert_eq!(made.origin, SetupOrigin::SweepResult { sweep_id: SweepId(Uuid::from_u128(3)) });
}

/// The better way of plugging the leads in is the next setup; the antenna stays where it points.
#[test]
fn a_port_map_test_becomes_the_setup_with_the_better_map() {
    let (catalogue, kit) = (crate::kits::catalogue(), crate::kits::sound());
    let resolved = Resolved::new(&kit, &catalogue);
    let base = setup(SetupSpec { ports: Vec::new(), ..full_spec() });
    let maps = port_maps_tried(Some(&base.spec), &resolved).unwrap();
    assert!(maps[0] != maps[1] && maps[0].len() == 2 && maps[1].len() == 2, "{maps:?}");
    let with =
        |set_deg| from_sweep(&sweep(SweepAxis::Ports, Some(set_deg)), Some(&base), Some(&maps)).unwrap();
    let (first, second) = (with(0.0), with(1.0));
    assert_eq!((&first.spec.ports, &second.spec.ports), (&maps[0], &maps[1]));
    assert!(matches!(second.origin, SetupOrigin::PortMapTest { .. }));
    assert_eq!((second.spec.azimuth_deg, &second.spec.lock), (base.spec.azimuth_deg, &base.spec.lock));
    // What is plugged already is map A, whichever it is.
    let turned = SetupSpec { ports: maps[1].clone(), ..full_spec() };
    let again = port_maps_tried(Some(&turned), &resolved).unwrap();
    assert_eq!((&again[0], &again[1]), (&maps[1], &maps[0]));
}

/// Which setup a sweep turned: what its result was made from goes before the result, and that before what stands there.
#[test]
fn the_setup_that_a_sweep_turned() {
    let sweep = sweep(SweepAxis::Azimuth, Some(143.0));
    let of = |number: u128, minutes: i64, origin: SetupOrigin, made_from: Option<u128>| Setup {
        id: SetupId(Uuid::from_u128(number)),
        origin,
        made_from: made_from.map(|from| SetupId(Uuid::from_u128(from))),
        created_at: begins() + TimeDelta::minutes(minutes),
        ..setup(full_spec())
    };
    let id = |number: u128| Some(SetupId(Uuid::from_u128(number)));
    let (old, newer) = (of(20, 0, SetupOrigin::ByHand, None), of(21, 5, SetupOrigin::ByHand, None));
    let mut all = vec![old.clone(), newer.clone()];
    assert_eq!(swept_setup(&sweep, &[], None), None);
    assert_eq!(swept_setup(&sweep, &all, None), id(21), "the newest");
    assert_eq!(swept_setup(&sweep, &all, id(20)), id(20), "the one being worked on");
    let inside =
        Setup { spec: SetupSpec::on(AntennaSwitch::Internal), ..of(22, 9, SetupOrigin::ByHand, None) };
    let elsewhere =
        Setup { position_id: PositionId(Uuid::from_u128(77)), ..of(23, 9, SetupOrigin::ByHand, None) };
    let gone = Setup { archived_at: Some(begins()), ..of(24, 9, SetupOrigin::ByHand, None) };
    all.extend([inside, elsewhere, gone]);
    assert_eq!(stands_at(&all, sweep.position_id, id(22)).map(|setup| setup.id), id(21));
    all.push(of(25, 6, SetupOrigin::SweepResult { sweep_id: sweep.id }, None));
    assert_eq!(swept_setup(&sweep, &all, id(20)), id(25), "its result, where nothing else is known");
    all.pop();
    all.push(of(25, 6, SetupOrigin::SweepResult { sweep_id: sweep.id }, Some(20)));
    assert_eq!(swept_setup(&sweep, &all, None), id(20), "what its result was made from");
}

proptest! {
    /// A point's readings come back from the record as they went in, in order, and the same point gives the same rows.
    #[test]
    fn a_point_comes_back_from_the_record(
        levels in prop::collection::vec(-140.0..-40.0f64, 0..12),
        angle_deg in 0.0..360.0f64,
        axis in prop::sample::select(vec![SweepAxis::Azimuth, SweepAxis::Tilt, SweepAxis::Ports]),
    ) {
        let sweep = sweep(axis, None);
        let reading = |level: &f64| {
            let mut carrier = Carrier::empty(Technology::Nr, CarrierRole::Primary);
            carrier.rsrp_dbm = Some(*level);
            Reading { mode: ConnectionMode::Nsa, carriers: vec![carrier], neighbours: Vec::new() }
        };
        let stop = SweepStop {
            id: SweepStopId(Uuid::from_u128(31)),
            site_id: sweep.site_id,
            sweep_id: sweep.id,
            angle_deg,
            taken_at: begins(),
            run_id: None,
            samples: levels.iter().map(reading).collect(),
            typed: angle_deg > 180.0,
            pressed_at: None,
            clock_offset_ms: None,
            archived_at: None,
        };
        let base = setup(full_spec());
        let (run, samples, kept) = point_record(&sweep, base.id, &stop);
        prop_assert!(samples.windows(2).all(|pair| pair[0].taken_at < pair[1].taken_at));
        prop_assert!(kept.samples.is_empty() && kept.run_id == Some(run.id));
        prop_assert_eq!(&point_record(&sweep, base.id, &stop), &(run.clone(), samples.clone(), kept.clone()));
        let back = with_samples(kept, samples);
        prop_assert_eq!(SweepStop { run_id: None, ..back }, stop);
        // Only what was turned differs from the setup as it stood.
        match as_turned(&base.spec, run.context) {
            None => prop_assert_eq!(axis, SweepAxis::Ports),
            Some(turned) => {
                let found = if axis == SweepAxis::Azimuth { turned.azimuth_deg } else { turned.tilt_deg };
                prop_assert_eq!(found, Some(angle_deg));
                let (azimuth_deg, tilt_deg) = (base.spec.azimuth_deg, base.spec.tilt_deg);
                prop_assert_eq!(SetupSpec { azimuth_deg, tilt_deg, ..turned }, base.spec);
            }
        }
    }
}

#[test]
fn every_way_of_plugging_becomes_a_setup_that_names_it() {
    let (catalogue, spec) = (crate::kits::catalogue(), crate::kits::sound());
    let kit = &Kit {
        id: KitId(Uuid::from_u128(9)),
        site_id: SiteId(Uuid::nil()),
        name: "Gable panel".into(),
        spec,
        bought_on: None,
        return_by: None,
        notes: String::new(),
        created_at: begins(),
        archived_at: None,
    };
    let parts = Resolved::new(&kit.spec, &catalogue);
    let setups = open_beacon_core::handover::port_map_setups(kit, &parts, None).unwrap();
    assert!(setups.len() > 1);
    let maps: HashSet<_> = setups.iter().map(|one| format!("{:?}", one.ports)).collect();
    assert_eq!(maps.len(), setups.len(), "no way twice");
    for one in &setups {
        assert_eq!((one.kit_id, one.antenna), (Some(kit.id), AntennaSwitch::External));
        assert!(
            one.ports.iter().all(|link| one.name.contains(&format!("{}→{}", link.lead, link.port))),
            "{}",
            one.name
        );
    }
    // Without an antenna there is nothing to plug.
    let bare = KitSpec { antenna: None, ports: Vec::new(), ..kit.spec.clone() };
    let none = open_beacon_core::handover::port_map_setups(kit, &Resolved::new(&bare, &catalogue), None);
    assert_eq!(none, None);
}
