//! Terrain, paths, masts and ranking: closed forms, laws that hold for any ground, and the facts of the trade.

use chrono::NaiveDate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::{read_degrees, read_point, sexagesimal};
use open_beacon_core::geo::geodesic::point_along;
use open_beacon_core::link::antenna::{Aim, AimAntenna};
use open_beacon_core::link::cells::Facts;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::fresnel::Blocker;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::matching::{Evidence, Fit, matches};
use open_beacon_core::link::route::{Around, Ends, Lack, PathLoss, PathSource, Route};
use open_beacon_core::metrics::NOISE_FIGURE_DB;
use open_beacon_core::model::*;
use open_beacon_core::propagation::p525::free_space_loss_db;
use open_beacon_core::survey::aim::card;
use open_beacon_core::survey::check::{EntryMistake, check_mast, merged, probable_duplicates, slips};
use open_beacon_core::survey::rank::{Access, Question};
use open_beacon_core::survey::ranking::{Reason, rank};
use open_beacon_core::survey::sensitivity::{Doubt, Outcome};
use open_beacon_core::terrain::crossing::{crossings, stands_in};
use open_beacon_core::terrain::{Frame, Grid, Ground, Heights, Track};
use open_beacon_core::words;
use proptest::prelude::*;
use std::sync::Arc;
use uuid::Uuid;

pub fn at(latitude_deg: f64, longitude_deg: f64) -> GeoPoint {
    GeoPoint { latitude_deg, longitude_deg }
}

pub(crate) const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

/// Ground by a law of metres east and north of the house, a node every 30 m or so.
pub fn ground_by(law: impl Fn(f64, f64) -> f64) -> Ground {
    let (columns, rows) = (601, 721);
    let (step_x, step_y) = (1.0 / 1800.0, 1.0 / 3600.0);
    let (west, north) = (HOUSE.longitude_deg - 300.0 * step_x, HOUSE.latitude_deg + 360.0 * step_y);
    let east_scale = 111_320.0 * HOUSE.latitude_deg.to_radians().cos();
    let heights = (0..rows)
        .flat_map(|row| (0..columns).map(move |column| (row, column)))
        .map(|(row, column)| {
            let east = (f64::from(column) - 300.0) * step_x * east_scale;
            law(east, (360.0 - f64::from(row)) * step_y * 111_320.0) as f32
        })
        .collect();
    let size = (columns as usize, rows as usize);
    let grid = Grid::new(Frame::Geographic, (west, north), (step_x, step_y), size, Heights::Real(heights));
    Ground::new(vec![(Arc::new(grid.unwrap()), SurfaceKind::Ground)])
}

fn obstacle(kind: ObstacleKind, outline: &[GeoPoint], width_m: Option<f64>, height_m: f64) -> Obstacle {
    Obstacle {
        id: ObstacleId(Uuid::from_u128(9)),
        site_id: SiteId(Uuid::nil()),
        name: "Belt".into(),
        kind,
        outline: outline.to_vec(),
        width_m,
        height_m,
        archived_at: None,
    }
}

/// A belt across the way to `bearing_deg`, its middle `away_m` from the house.
fn belt(bearing_deg: f64, away_m: f64, width_m: f64, height_m: f64) -> Obstacle {
    let middle = point_along(HOUSE, bearing_deg, away_m);
    let ends = [bearing_deg - 90.0, bearing_deg + 90.0].map(|across| point_along(middle, across, 200.0));
    obstacle(ObstacleKind::TreesInLeaf, &ends, Some(width_m), height_m)
}

fn loss_db(route: &Route, height_m: f64, mhz: f64, obstacles: &[Obstacle]) -> f64 {
    let settings = SiteSettings::default();
    let around = Around { obstacles, settings: &settings, taller_trees_m: 0.0, in_leaf: false };
    let ends = Ends { first_above_m: height_m, last_above_m: 30.0, indoors: false };
    route.loss(ends, mhz, &around).total_db.likely
}

#[test]
fn crossings_are_where_the_belt_is() {
    let track = Track::new(HOUSE, point_along(HOUSE, 143.0, 5_000.0));
    let found = crossings(&track, &[belt(143.0, 800.0, 30.0, 15.0), belt(20.0, 800.0, 30.0, 15.0)]);
    assert_eq!(found.len(), 1, "the belt elsewhere is not crossed");
    assert!((found[0].from_m - 785.0).abs() < 0.5 && (found[0].to_m - 815.0).abs() < 0.5, "{found:?}");
    let corner = |bearing| point_along(HOUSE, bearing, 20.0);
    let yard = obstacle(
        ObstacleKind::House,
        &[corner(45.0), corner(135.0), corner(225.0), corner(315.0)],
        None,
        7.0,
    );
    assert!(stands_in(&yard, HOUSE) && !stands_in(&yard, point_along(HOUSE, 90.0, 30.0)));
    let own = crossings(&track, &[yard]);
    assert!(own[0].from_m == 0.0 && own[0].to_m < 20.1, "{own:?}");
}

#[test]
fn a_hill_with_trees_costs_more_than_four_times_the_distance() {
    // Common practice: a mast 370 m away behind a hill with trees can be worse than one in view at 1.5 km; distance
    // alone gives 20 lg (1500/370) = 12.2 dB.
    assert!((free_space_loss_db(1500.0, 1800.0) - free_space_loss_db(370.0, 1800.0) - 12.16).abs() < 0.01);
    let ground = ground_by(|_, north| 400.0 + 60.0 * (-((north - 180.0) / 70.0f64).powi(2)).exp());
    let trees = [belt(0.0, 180.0, 60.0, 18.0)];
    let near = Route::new(HOUSE, point_along(HOUSE, 0.0, 370.0), &ground, &trees);
    let far = Route::new(HOUSE, point_along(HOUSE, 180.0, 1500.0), &ground, &trees);
    let (near_db, far_db) = (loss_db(&near, 6.0, 1800.0, &trees), loss_db(&far, 6.0, 1800.0, &trees));
    assert!(near_db > far_db + 3.0, "{near_db:.1} against {far_db:.1} dB");
}

#[test]
fn trees_are_not_counted_twice_and_cost_less_when_bare_or_low() {
    let flat = ground_by(|_, _| 400.0);
    let route = |trees: &Obstacle, ground: &Ground| {
        let trees = std::slice::from_ref(trees);
        let route = Route::new(HOUSE, point_along(HOUSE, 143.0, 4000.0), ground, trees);
        loss_db(&route, 6.0, 1800.0, trees)
    };
    let full = belt(143.0, 120.0, 30.0, 15.0);
    let bare = Obstacle { kind: ObstacleKind::TreesBare, ..full.clone() };
    let low = Obstacle { height_m: 2.0, ..full.clone() };
    let gone = Obstacle { archived_at: Some(chrono::DateTime::UNIX_EPOCH), ..full.clone() };
    let (full_db, bare_db, low_db, gone_db) =
        (route(&full, &flat), route(&bare, &flat), route(&low, &flat), route(&gone, &flat));
    assert!(full_db > bare_db && bare_db > low_db + 2.0, "{full_db} {bare_db} {low_db}");
    assert!((low_db - gone_db).abs() < 0.5, "a hedge far below the line costs nothing");
    let grid = flat.tiles().next().unwrap().clone();
    let surface = Ground::new(vec![(Arc::new(grid), SurfaceKind::Surface)]);
    assert!((route(&full, &surface) - gone_db).abs() < 1e-9, "tree tops are in a surface model already");
}

/// Trees drawn bare, taken as in leaf, take what the path says leaves make of them; and a line that rises out of the trees it begins in
/// leaves over their tops: 6 m up in trees of 12 m, towards 30 m at 2 km over flat ground, after 6 m / (24 m / 2000 m) = 500 m.
#[test]
fn leaves_and_the_way_through_the_canopy() {
    let (flat, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let route = |trees: &[Obstacle], in_leaf: bool, height_m: f64| {
        let around = Around { obstacles: trees, settings: &settings, taller_trees_m: 0.0, in_leaf };
        let ends = Ends { first_above_m: height_m, last_above_m: 30.0, indoors: false };
        Route::new(HOUSE, point_along(HOUSE, 143.0, 2000.0), &flat, trees).loss(ends, 1800.0, &around)
    };
    let full = belt(143.0, 120.0, 30.0, 15.0);
    let bare = [Obstacle { kind: ObstacleKind::TreesBare, ..full.clone() }];
    let (winter, summer) = (route(&bare, false, 6.0), route(&bare, true, 6.0));
    assert!(winter.leaves_db > 0.2 && (winter.leaves_db - summer.leaves_db).abs() < 1e-9, "{winter:?}");
    assert!((summer.obstacles_db - winter.obstacles_db - winter.leaves_db).abs() < 1e-9);
    assert_eq!(route(&[full], true, 6.0).obstacles_db, summer.obstacles_db);
    assert_eq!(route(&[], false, 6.0).leaves_db, 0.0);
    let wood = [Obstacle { height_m: 12.0, ..belt(143.0, 700.0, 1400.0, 12.0) }];
    let canopy_m = |height_m| route(&wood, false, height_m).through[0].canopy_m;
    assert!((canopy_m(6.0) - 500.0).abs() < 10.0, "{}", canopy_m(6.0));
    assert!(canopy_m(9.0) < canopy_m(6.0) && canopy_m(1.0) > canopy_m(6.0));
}

#[test]
fn without_terrain_the_model_is_used_and_nothing_is_stacked_on_it() {
    let settings = SiteSettings::default();
    let trees = [belt(143.0, 120.0, 30.0, 15.0)];
    let ends = Ends { first_above_m: 6.0, last_above_m: 35.0, indoors: false };
    let with = |obstacles: &[Obstacle], km: f64| {
        let around = Around { obstacles, settings: &settings, taller_trees_m: 0.0, in_leaf: false };
        let route = Route::new(HOUSE, point_along(HOUSE, 143.0, km * 1000.0), &Ground::default(), obstacles);
        route.loss(ends, 1800.0, &around)
    };
    // With something drawn the path is worked out over flat ground instead: never both. Hills nobody knows of are in the
    // range, up to what the model takes.
    let drawn = with(&trees, 4.0);
    assert_eq!(drawn.source, PathSource::FlatGround { lack: Lack::NoTerrain });
    assert!(drawn.obstacles_db > 3.0 && drawn.total_db.high >= with(&[], 4.0).total_db.likely);
    let archived = Obstacle { archived_at: Some(chrono::DateTime::UNIX_EPOCH), ..trees[0].clone() };
    assert_eq!(with(&[archived], 4.0), with(&[], 4.0));
    // A mast typed with a slip may lie on another continent: the model, at once.
    assert!(matches!(with(&trees, 6000.0).source, PathSource::BeyondModel { .. }));
    assert_eq!(with(&[], 4.0).source, PathSource::Model { lack: Lack::NoTerrain });
    let beyond = with(&[], 14.0);
    assert_eq!(beyond.source, PathSource::BeyondModel { lack: Lack::NoTerrain });
    let width = |loss: &PathLoss| loss.total_db.high - loss.total_db.low;
    assert!(width(&beyond) > 30.0 && width(&beyond) > width(&with(&[], 4.0)), "little is promised there");
}

pub fn cell(band: u16, channel: u32, pci: u16) -> MastCell {
    MastCell {
        technology: Technology::Lte,
        band: Some(band),
        channel: Some(channel),
        bandwidth_mhz: Some(20.0),
        pci: Some(pci),
        node: Some(6699),
        local_cell: Some(2),
        bearing_deg: None,
        power_dbm: None,
        load: Some(1.0),
    }
}

pub fn mast(number: u128, name: &str, bearing_deg: f64, away_m: f64, cells: Vec<MastCell>) -> Mast {
    Mast {
        id: MastId(Uuid::from_u128(number)),
        site_id: SiteId(Uuid::nil()),
        name: name.into(),
        operator: String::new(),
        place: point_along(HOUSE, bearing_deg, away_m),
        height_m: Some(40.0),
        cells,
        notes: String::new(),
        archived_at: None,
    }
}

/// The radio environment of a house that nothing was measured at.
pub fn radio<'a>(
    masts: &'a [Mast],
    obstacles: &'a [Obstacle],
    ground: &'a Ground,
    settings: &'a SiteSettings,
) -> Environment<'a> {
    let (observations, house, mode) = (Vec::new(), Some(HOUSE), ConnectionMode::Lte);
    Environment::new(Facts { masts, obstacles, ground, settings, house, observations, mode })
}

/// The panel that is assumed before a kit is chosen.
pub fn panel(settings: &SiteSettings) -> AimAntenna<'_> {
    AimAntenna::Assumed(settings.outdoor.kinds.iter().find(|one| one.kind == OutdoorKind::Panel).unwrap())
}

#[test]
fn two_cells_give_the_closed_form_and_the_antenna_turns_one_down() {
    // Two masts at one distance over flat ground, both fully loaded: all round, S/(I + N) is 0 dB less the noise's
    // share; with the panel's back (20 dB) to the other, 20 dB less the noise's share.
    let ground = ground_by(|_, _| 400.0);
    let settings = SiteSettings::default();
    let masts = [
        mast(1, "A", 0.0, 3000.0, vec![cell(3, 1300, 1)]),
        mast(2, "B", 180.0, 3000.0, vec![cell(3, 1300, 2)]),
    ];
    let env = radio(&masts, &[], &ground, &settings);
    let location = AntennaLocation { place: Some(HOUSE), height_m: 8.0, mount: Mount::Pole, position: None };
    let arriving = env.arriving(&location, &AimAntenna::Stock, WhatIf::default());
    let north = Some(Aim { azimuth_deg: 0.0, elevation_deg: 0.0 });
    let heard = |antenna: &AimAntenna| {
        env.received(0, &location, &arriving, antenna, north, NOISE_FIGURE_DB).unwrap()
    };
    let (stock, panel) = (heard(&AimAntenna::Stock), heard(&panel(&settings)));
    assert!((stock.sinr_db.mean).abs() < 0.2, "{stock:?}");
    assert!((panel.sinr_db.mean - 20.0).abs() < 0.3, "{panel:?}");
    // Worked budget: 15 dBm of one element + 17 dBi − 107.1 dB of free space at 1815 MHz and 3 km + 1 dBi; from 8 to 10 m
    // TR 38.901 has 3.2 (lg² 117.5 − lg² 94) = 1.257 dB, Okumura and Hata (1.1 lg 1815 − 0.7) · 2 = 5.770, the middle 3.51.
    let expected = 15.0 + 17.0 - free_space_loss_db(3000.0, env.cells[0].frequency_mhz) + 1.0 - 3.51;
    assert!((stock.rsrp_dbm.mean - expected).abs() < 0.5, "{} against {expected}", stock.rsrp_dbm.mean);
}

pub fn position(number: u128, name: &str, mount: Mount, place: GeoPoint, height_m: f64) -> Position {
    Position {
        id: PositionId(Uuid::from_u128(number)),
        site_id: SiteId(Uuid::nil()),
        name: name.into(),
        place: Some(place),
        height_above_ground_m: Some(height_m),
        mount,
        spot: Spot::default(),
        notes: String::new(),
        created_at: chrono::DateTime::UNIX_EPOCH,
        archived_at: None,
    }
}

#[test]
fn the_ranking_prefers_the_free_line_and_says_what_taller_trees_would_change() {
    let ground = ground_by(|_, _| 400.0);
    // A bare plain: nothing but the belt stands in the way.
    let mut settings = SiteSettings::default();
    settings.survey.clutter = Some(Clutter::Water);
    // A weak cell: with a strong one every place would carry all there is, and the sill would do.
    let weak = MastCell { power_dbm: Some(12.0), ..cell(3, 1300, 1) };
    let masts = [mast(1, "A", 0.0, 4000.0, vec![weak])];
    let trees = [belt(0.0, 60.0, 30.0, 12.0)];
    let positions = [
        position(1, "Gable", Mount::Gable, HOUSE, 5.0),
        position(2, "Pole", Mount::Pole, point_along(HOUSE, 90.0, 400.0), 5.0),
        position(3, "Sill", Mount::Window, HOUSE, 1.2),
    ];
    let env = radio(&masts, &trees, &ground, &settings);
    let found = rank(&env, &Question { positions: &positions, antenna: panel(&settings) });
    let best = &found.choices[0];
    assert_eq!((best.position.as_str(), best.access), ("Pole", Access::Ladder));
    assert!(
        (best.bearing_deg - 354.3).abs() < 0.2,
        "a place 400 m to the east sees the mast to the left of north"
    );
    let other = &found.choices[found.runner_up.unwrap()];
    assert_eq!(other.position, "Gable");
    assert!(matches!(
        found.reason,
        Some(Reason::OtherBlocked { blocker: Blocker::Obstacle { index: 0 }, .. })
    ));
    assert!(
        matches!(found.sensitivity[0].doubt, Doubt::TreesTaller { .. })
            && matches!(found.sensitivity[0].outcome, Outcome::Stays { .. }),
        "the belt is not in its way"
    );
    assert_eq!(found.choices.iter().filter(|one| one.position == "Sill").count(), 1, "a sill is not raised");
    let title = words::survey::title(&found, Default::default());
    // Two metres more bring more than what counts as alike.
    assert!(title.starts_with("Pole to A: aim 354°\u{202f}T from 7.0\u{202f}m up"), "{title}");
    // 400 m across and 6 m down, a tenth and a metre to spare: 1.1 · 406 + 1 = 447.6.
    assert_eq!(best.cable_m, 448.0);
    // The belt of trees stands before all other places, and is not known to the metre.
    let chance = best.chance_of_best.unwrap();
    assert!(chance > 0.5, "{chance}");
    let all: f64 = found.choices.iter().filter_map(|one| one.chance_of_best).sum();
    assert!(all > 1.0 - 1e-9, "{all}");
    let landmark = Landmark {
        id: LandmarkId(Uuid::from_u128(4)),
        site_id: SiteId(Uuid::nil()),
        name: "the silo".into(),
        place: point_along(positions[1].place.unwrap(), best.bearing_deg + 3.0, 500.0),
        archived_at: None,
    };
    let card =
        card(best, positions[1].place.unwrap(), &[landmark], NaiveDate::from_ymd_opt(2026, 11, 1).unwrap());
    assert_eq!(words::survey::landmark(&card.landmarks[0]), "3° left of the silo");
    assert!((card.magnetic_deg.unwrap() - 350.2).abs() < 1.0, "{:?}", card.magnetic_deg);
}

#[test]
fn a_cell_is_matched_by_its_numbers_and_its_ring() {
    let masts = [
        mast(1, "A", 0.0, 4700.0, vec![cell(3, 1300, 211)]),
        mast(2, "B", 90.0, 9000.0, vec![cell(3, 1300, 211)]),
    ];
    let mut heard = Carrier::empty(Technology::Lte, CarrierRole::Primary);
    (heard.band, heard.channel, heard.pci) = (Some(3), Some(1300), Some(211));
    let fits = |carrier: &Carrier, masts: &[Mast]| -> Vec<Fit> {
        matches(std::slice::from_ref(carrier), masts, Some(HOUSE)).iter().map(|one| one.fit).collect()
    };
    assert_eq!(fits(&heard, &masts), [Fit::Possible, Fit::Possible], "PCI and channel fit both");
    assert_eq!(fits(&heard, &masts[..1]), [Fit::Confirmed]);
    // Timing advance, TS 36.213 clause 4.2.3: 60 steps of 78.07 m are 4.68 to 4.76 km.
    heard.timing_advance = Some(60);
    let found = matches(std::slice::from_ref(&heard), &masts, Some(HOUSE));
    assert_eq!(found.iter().map(|one| one.fit).collect::<Vec<_>>(), [Fit::Confirmed, Fit::Contradicted]);
    assert!(found[1].evidence.iter().any(|one| matches!(one, Evidence::RingMisses { .. })));
    // eNB 6699 and local cell 2: 6699 · 256 + 2.
    heard.cell_identity = Some(6699 * 256 + 2);
    assert_eq!(fits(&heard, &masts[..1]), [Fit::Confirmed]);
    heard.pci = Some(99);
    let found = matches(std::slice::from_ref(&heard), &masts[..1], Some(HOUSE));
    assert_eq!(found[0].fit, Fit::Contradicted, "the same base station under another PCI: an old list");
    let words = words::survey::evidence(&found[0], Default::default());
    assert!(
        words.contains(&"base station 6699 in both".to_owned())
            && words.iter().any(|one| one.contains("PCI 99 heard"))
    );
    heard.cell_identity = Some(6699 * 256 + 3);
    assert!(fits(&heard, &masts[..1]).is_empty(), "another cell of that mast is no match of this one");
}

#[test]
fn slips_are_named_with_their_mend() {
    let house = Some(HOUSE);
    assert_eq!(slips(at(0.0, 0.0), None, house), [EntryMistake::NullIsland]);
    assert_eq!(slips(at(8.25, 61.4), None, house), [EntryMistake::Swapped { corrected: at(61.4, 8.25) }]);
    assert_eq!(
        slips(at(61.4, -8.25), None, house),
        [EntryMistake::WrongHemisphere { corrected: at(61.4, 8.25) }]
    );
    assert!(matches!(slips(at(41.0, 2.0), None, house)[..], [EntryMistake::FarAway { .. }]));
    // 120 ft are 36.6 m.
    let [EntryMistake::Feet { corrected_m, .. }] = slips(at(61.4, 8.25), Some(120.0), house)[..] else {
        panic!()
    };
    assert!((corrected_m - 36.576).abs() < 1e-9);
    assert!(slips(at(61.4, 8.25), Some(36.0), house).is_empty());
    let mut one = mast(1, "A", 0.0, 4700.0, vec![cell(3, 1300, 700)]);
    assert_eq!(check_mast(&one)[0].pointer, "/cells/0/pci", "LTE's PCI ends at 503");
    one.cells[0].pci = Some(3);
    assert!(check_mast(&one).is_empty());
    one.place = at(0.0, 0.0);
    assert_eq!(check_mast(&one)[0].pointer, "/place");
}

#[test]
fn twins_are_found_and_made_one() {
    let first = mast(1, "A", 0.0, 4700.0, vec![cell(3, 1300, 1)]);
    let mut second = mast(2, "A east", 0.3, 4700.0, vec![cell(3, 1300, 1), cell(20, 6300, 1)]);
    second.operator = "Huldermobil".into();
    assert_eq!(
        probable_duplicates(&[first.clone(), second.clone(), mast(3, "C", 9.0, 4700.0, Vec::new())]),
        [(0, 1)]
    );
    let one = merged(first, &second);
    assert_eq!((one.name.as_str(), one.operator.as_str(), one.cells.len()), ("A", "Huldermobil", 2));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Swap ends, same loss.
    #[test]
    fn a_path_is_reciprocal(seed in 0u32..1000, bearing in 0.0..360.0f64, away in 800.0..7000.0f64, mhz in 700.0..3800.0f64) {
        let phase = f64::from(seed);
        let ground = ground_by(move |east, north| 400.0 + 25.0 * (east / 700.0 + phase).sin() + 20.0 * (north / 500.0 - phase).cos());
        let far = point_along(HOUSE, bearing, away);
        let trees = [belt(bearing, away / 2.0, 40.0, 14.0)];
        let settings = SiteSettings::default();
        let around = Around { obstacles: &trees, settings: &settings, taller_trees_m: 0.0, in_leaf: false };
        let there = Route::new(HOUSE, far, &ground, &trees)
            .loss(Ends { first_above_m: 6.0, last_above_m: 25.0, indoors: false }, mhz, &around);
        let back = Route::new(far, HOUSE, &ground, &trees)
            .loss(Ends { first_above_m: 25.0, last_above_m: 6.0, indoors: false }, mhz, &around);
        prop_assert!((there.total_db.likely - back.total_db.likely).abs() < 0.05, "{there:?} {back:?}");
    }

    /// Over a single edge more height never loses more.
    #[test]
    fn height_never_hurts_over_a_single_edge(ridge in 5.0..90.0f64, at_m in 400.0..3000.0f64, mhz in 700.0..3800.0f64) {
        let ground = ground_by(move |_, north| 400.0 + if (north - at_m).abs() < 40.0 { ridge } else { 0.0 });
        let route = Route::new(HOUSE, point_along(HOUSE, 0.0, 4000.0), &ground, &[]);
        let losses: Vec<f64> = (1..30).map(|height| loss_db(&route, f64::from(height), mhz, &[])).collect();
        prop_assert!(losses.windows(2).all(|pair| pair[1] <= pair[0] + 1e-6), "{losses:?}");
    }

    /// What a degree is written as is read back.
    #[test]
    fn degrees_survive_minutes_and_seconds(latitude in -89.9..89.9f64, longitude in -179.9..179.9f64) {
        let (north, east) = sexagesimal(at(latitude, longitude));
        prop_assert!((read_degrees(&north).unwrap() - latitude).abs() < 2e-5);
        prop_assert!((read_degrees(&east).unwrap() - longitude).abs() < 2e-5);
        let both = read_point(&format!("{north} {east}")).unwrap();
        prop_assert!((both.longitude_deg - longitude).abs() < 2e-5);
    }
}

/// Trees and buildings count without a terrain file too: flat ground between the two ends is terrain enough for them. Held
/// against a terrain file that is flat: the same loss.
#[test]
fn what_is_drawn_counts_without_terrain() {
    let flat = ground_by(|_, _| 0.0);
    let mast = point_along(HOUSE, 143.0, 4000.0);
    let none = Ground::default();
    let of = |trees: &Obstacle, ground: &Ground| {
        let trees = std::slice::from_ref(trees);
        loss_db(&Route::new(HOUSE, mast, ground, trees), 6.0, 1800.0, trees)
    };
    let (across, away) = (belt(143.0, 120.0, 30.0, 15.0), belt(323.0, 120.0, 30.0, 15.0));
    for trees in [&across, &away] {
        assert!(
            (of(trees, &none) - of(trees, &flat)).abs() < 0.05,
            "{} {}",
            of(trees, &none),
            of(trees, &flat)
        );
    }
    assert!(
        of(&across, &none) > of(&away, &none) + 5.0,
        "the belt in the way costs, the one behind the house does not"
    );
    let taller = Obstacle { height_m: 22.0, ..across.clone() };
    assert!(of(&taller, &none) > of(&across, &none));
}
