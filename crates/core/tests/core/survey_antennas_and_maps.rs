//! Antennas in elevation and polarisation, what-ifs, maps of clean signal, aerial pictures, grid references.

use crate::survey::at;
use crate::survey::{cell, ground_by, mast, panel, position, radio};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::mgrs_text;
use open_beacon_core::geo::geodesic::{point_along, way};
use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::link::antenna::{Aim, AimAntenna};
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::matching::{Evidence, Fit, matches};
use open_beacon_core::metrics::NOISE_FIGURE_DB;
use open_beacon_core::model::*;
use open_beacon_core::survey::backdrop::{check_control_points, georeference};
use open_beacon_core::survey::rank::Question;
use open_beacon_core::survey::ranking::rank;
use open_beacon_core::survey::raster::{Asked, RasterQuantity, row, span_round};
use open_beacon_core::survey::sensitivity::{Doubt, Outcome};
use open_beacon_core::terrain::shade::row_latitudes_deg;
use open_beacon_core::terrain::{Frame, Grid, Ground, Heights, Track};
use proptest::prelude::*;
use std::sync::Arc;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };
const POLE: AntennaLocation =
    AntennaLocation { position: None, place: Some(HOUSE), height_m: 8.0, mount: Mount::Pole };

/// A kit of one part of the built-in catalogue.
fn kit_of(catalogue: &Catalogue, wanted: impl Fn(&AntennaSpec) -> bool) -> KitSpec {
    let antenna = catalogue.all().find(|part| match &part.spec {
        PartSpec::Antenna(antenna) => wanted(antenna),
        _ => false,
    });
    KitSpec { antenna: Some(antenna.unwrap().id), antenna_count: 1, ..KitSpec::default() }
}

fn toward(azimuth_deg: f64, elevation_deg: f64) -> Aim {
    Aim { azimuth_deg, elevation_deg }
}

/// Closed form: half an elevation beamwidth off the middle costs 3 dB, like half one in azimuth; both together 6 dB; an
/// antenna all round cannot be tilted at a mast high above.
#[test]
fn the_beam_is_narrow_upward_too() {
    let catalogue = Catalogue::with_own(Vec::new());
    let spec = kit_of(&catalogue, |one| one.beamwidth_azimuth_deg < 100.0 && one.pattern.is_empty());
    let kit = Resolved::new(&spec, &catalogue);
    let one = kit.antenna_spec().unwrap();
    let (across, up) = (one.beamwidth_azimuth_deg / 2.0, one.beamwidth_elevation_deg / 2.0);
    let panel = AimAntenna::Kit(&kit);
    assert!((panel.below_db(0.0, up) - 3.0).abs() < 1e-9);
    assert!((panel.below_db(across, up) - 6.0).abs() < 1e-9);
    assert!((panel.below_db(180.0, 90.0) - one.front_to_back_db).abs() < 1e-9, "the back is the least");
    assert_eq!(panel.aimed_at(toward(10.0, 7.0)), toward(10.0, 7.0));

    let spec = kit_of(&catalogue, |one| one.beamwidth_azimuth_deg >= 360.0);
    let kit = Resolved::new(&spec, &catalogue);
    let round = AimAntenna::Kit(&kit);
    assert_eq!(round.aimed_at(toward(10.0, 7.0)), toward(10.0, 0.0));
    let up = kit.antenna_spec().unwrap().beamwidth_elevation_deg / 2.0;
    assert!((round.off_aim_db(toward(0.0, 0.0), toward(120.0, up)) - 3.0).abs() < 1e-9);
    assert_eq!(AimAntenna::Stock.below_db(90.0, 90.0), 0.0);
}

/// Closed form: an upright element gets half of a wave slanted at 45°, 3.01 dB less; crossed pairs get all of it.
#[test]
fn an_upright_element_gets_half_of_a_slanted_wave() {
    let catalogue = Catalogue::with_own(Vec::new());
    for (polarisation, loss_db) in
        [(Polarisation::Vertical, 3.0103), (Polarisation::Cross, 0.0), (Polarisation::Slant, 0.0)]
    {
        let spec = kit_of(&catalogue, |one| one.polarisation == polarisation);
        let kit = Resolved::new(&spec, &catalogue);
        assert!((AimAntenna::Kit(&kit).polarisation_loss_db() - loss_db).abs() < 1e-3, "{polarisation:?}");
        // It is in the sum: what arrives, and what the antenna makes of it.
        let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
        let masts = [mast(1, "A", 0.0, 3000.0, vec![cell(3, 1300, 1)])];
        let env = radio(&masts, &[], &ground, &settings);
        let antenna = AimAntenna::Kit(&kit);
        let heard = env.arriving(&POLE, &antenna, WhatIf::default());
        let aim = heard[0].from.map(|from| antenna.aimed_at(from));
        let found = env.received(0, &POLE, &heard, &antenna, aim, NOISE_FIGURE_DB).unwrap();
        let sum = heard[0].power_dbm.mean + found.net_gain_dbi - found.pattern_db - found.polarisation_db;
        assert!((found.rsrp_dbm.mean - sum).abs() < 1e-9);
        assert!((found.polarisation_db - loss_db).abs() < 1e-3);
    }
}

#[test]
fn what_ifs_change_what_they_name_and_nothing_else() {
    let (ground, settings) = (ground_by(|_, _| 400.0), SiteSettings::default());
    let tall = mast(1, "A", 0.0, 3000.0, vec![cell(3, 1300, 1)]);
    let quiet = MastCell { load: None, ..cell(3, 1300, 2) };
    let unsaid = Mast { height_m: None, ..mast(2, "B", 180.0, 3500.0, vec![quiet]) };
    let masts = [tall, unsaid];
    let env = radio(&masts, &[], &ground, &settings);
    let heard = |what_if| env.landscape.arrivals(&POLE, what_if);
    let as_known = heard(WhatIf::default());
    let lower = heard(WhatIf { lower_masts_m: 10.0, ..WhatIf::default() });
    assert_eq!(as_known[0].loss, lower[0].loss, "a mast whose height is known stays");
    assert!(lower[1].elevation_deg < as_known[1].elevation_deg - 0.1);
    let busy = heard(WhatIf { all_busy: true, ..WhatIf::default() });
    assert!(busy.iter().all(|one| one.load == 1.0) && as_known[1].load == 0.5);
    let positions = [position(1, "Gable", Mount::Gable, HOUSE, 5.0)];
    let asked = Question { positions: &positions, antenna: AimAntenna::Stock };
    let found = rank(&env, &asked).sensitivity;
    let doubts: Vec<Doubt> = found.iter().map(|one| one.doubt).collect();
    assert_eq!(
        doubts,
        [Doubt::AllBusy, Doubt::MastsLower { by_m: 10.0 }],
        "without trees none are tried taller"
    );
    match &found[0].outcome {
        Outcome::Stays { signal_db, clean_db } => {
            assert!(*signal_db == 0.0 && *clean_db >= 0.0, "load moves the clean signal only")
        }
        other => panic!("{other:?}"),
    }
}

/// The map's figure is the path's, with every cell of the channel heard.
#[test]
fn a_map_of_clean_signal_counts_the_others_on_the_channel() {
    let ground = ground_by(|east, _| 400.0 + east / 300.0);
    let settings = SiteSettings::default();
    let masts = [
        mast(1, "A", 20.0, 3000.0, vec![cell(3, 1300, 1), cell(20, 6300, 4)]),
        mast(2, "B", 200.0, 4000.0, vec![cell(3, 1300, 2)]),
        mast(3, "C", 100.0, 3500.0, vec![cell(7, 3000, 3)]),
    ];
    let env = radio(&masts, &[], &ground, &settings);
    let span = span_round(HOUSE, 900.0);
    let asked = |quantity, antenna| Asked {
        span,
        columns: 4,
        rows: 3,
        height_m: 8.0,
        mast: 0,
        cell: 0,
        antenna,
        quantity,
    };
    for antenna in [AimAntenna::Stock, panel(&settings)] {
        let found = row(&env, &asked(RasterQuantity::CleanSignal, antenna), 2).unwrap();
        let step = (span.east_deg - span.west_deg) / 4.0;
        for (column, value) in found.iter().enumerate() {
            let place = at(row_latitudes_deg(&span, 3)[2], span.west_deg + step * (column as f64 + 0.5));
            let location = AntennaLocation { place: Some(place), ..POLE };
            let heard = env.arriving(&location, &antenna, WhatIf::default());
            let aim = heard[0].from.map(|from| antenna.aimed_at(from));
            let expected = env.received(0, &location, &heard, &antenna, aim, NOISE_FIGURE_DB).unwrap();
            assert!((value - expected.sinr_db.mean).abs() < 1e-9, "{value} against {expected:?}");
        }
    }
    let alone = row(&env, &Asked { mast: 2, ..asked(RasterQuantity::CleanSignal, AimAntenna::Stock) }, 0);
    let crowded = row(&env, &asked(RasterQuantity::CleanSignal, AimAntenna::Stock), 0);
    assert!(alone.unwrap()[0] > crowded.unwrap()[0], "nobody shares the channel with C");
    let width = way(at(HOUSE.latitude_deg, span.west_deg), at(HOUSE.latitude_deg, span.east_deg));
    assert!((width.distance_m - 1800.0).abs() < 0.5, "{}", width.distance_m);
}

#[test]
fn the_same_pci_under_another_local_cell_is_held_against_a_mast() {
    let listed = MastCell { node: Some(8_214), local_cell: Some(3), ..cell(3, 1300, 211) };
    let masts = [mast(1, "A", 0.0, 4700.0, vec![listed])];
    let mut heard = Carrier::empty(Technology::Lte, CarrierRole::Primary);
    (heard.band, heard.channel, heard.pci) = (Some(3), Some(1300), Some(211));
    // TS 36.413 clause 9.2.1.38: the cell identity is eNB identity · 256 + local cell.
    heard.cell_identity = Some(8_214 * 256 + 1);
    let found = matches(std::slice::from_ref(&heard), &masts, Some(HOUSE));
    assert_eq!(found[0].fit, Fit::Contradicted);
    assert!(found[0].evidence.contains(&Evidence::LocalDiffers { heard: 1, listed: 3 }), "{found:?}");
    heard.pci = Some(212);
    assert!(matches(&[heard], &masts, Some(HOUSE)).is_empty(), "another cell of the same mast");
}

/// The reference library (tests/vectors/make_survey.py), to the metre it is cut off at.
#[test]
fn grid_references_match_the_reference_library() {
    let table = include_str!("../../../../tests/vectors/mgrs.csv");
    let mut compared = 0;
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(table.as_bytes()).records() {
        let row = row.unwrap();
        let found = mgrs_text(at(row[0].parse().unwrap(), row[1].parse().unwrap())).unwrap();
        let found: String = found.split(' ').collect();
        let (square, digits) = found.split_at(found.len() - 10);
        let (wanted_square, wanted) = row[2].split_at(row[2].len() - 10);
        assert_eq!(square, wanted_square.trim_start_matches('0'), "{row:?}");
        // Metres are cut off: two computations a millimetre apart may fall on either side of one.
        for half in [0..5, 5..10] {
            let metres = |text: &str| text[half.clone()].parse::<i32>().unwrap();
            assert!((metres(digits) - metres(wanted)).abs() <= 1, "{found} {row:?}");
        }
        compared += 1;
    }
    assert_eq!(compared, 240);
}

fn picture(control_points: Vec<GroundControlPoint>) -> Backdrop {
    Backdrop {
        id: BackdropId(Uuid::from_u128(1)),
        site_id: SiteId(Uuid::nil()),
        file_name: "from-above.jpg".into(),
        media_type: "image/jpeg".into(),
        width_px: 1200,
        height_px: 800,
        bytes: 1,
        control_points,
        opacity: 0.8,
        added_at: chrono::DateTime::UNIX_EPOCH,
        archived_at: None,
    }
}

#[test]
fn a_picture_with_north_up_lies_as_it_was_taken() {
    // 600 px to the right are 300 m to the east: half a metre a pixel, upright.
    let east = point_along(HOUSE, 90.0, 300.0);
    let points = vec![
        GroundControlPoint { x_px: 300.0, y_px: 400.0, place: HOUSE },
        GroundControlPoint { x_px: 900.0, y_px: 400.0, place: east },
    ];
    let found = georeference(&picture(points)).unwrap();
    assert!((found.metres_per_px - 0.5).abs() < 1e-9);
    assert!(found.turned_deg.min(360.0 - found.turned_deg) < 0.01, "{}", found.turned_deg);
    let north = way(at(found.span.south_deg, 8.2), at(found.span.north_deg, 8.2)).distance_m;
    assert!((north - 400.0).abs() < 1.0, "800 px are 400 m: {north}");
    assert_eq!(georeference(&picture(Vec::new())), None, "nobody has said yet where it lies");
}

#[test]
fn points_that_place_nothing_are_refused_with_what_would() {
    let size = (1200, 800);
    let tie = |x_px, y_px, place| GroundControlPoint { x_px, y_px, place };
    let said = |points: &[GroundControlPoint]| {
        check_control_points(points, size).first().map_or_else(String::new, |one| one.detail.clone())
    };
    let far = point_along(HOUSE, 70.0, 200.0);
    assert!(said(&[tie(0.0, 0.0, HOUSE)]).contains("two known points"));
    assert!(said(&[tie(10.0, 10.0, HOUSE), tie(15.0, 12.0, far)]).contains("same on the picture"));
    assert!(said(&[tie(10.0, 10.0, HOUSE), tie(900.0, 700.0, HOUSE)]).contains("same on the ground"));
    let swapped = at(HOUSE.longitude_deg, HOUSE.latitude_deg);
    assert!(said(&[tie(10.0, 10.0, HOUSE), tie(900.0, 700.0, swapped)]).contains("swapped"));
    let outside = check_control_points(&[tie(-5.0, 0.0, HOUSE), tie(900.0, 700.0, far)], size);
    assert_eq!(outside[0].pointer, "/control_points/0/x_px");
    assert!(said(&[tie(10.0, 10.0, HOUSE), tie(900.0, 700.0, far)]).is_empty() && said(&[]).is_empty());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Both known points come to stand where they are, however the picture was turned and scaled, up to some 18 km across: over
    /// 50 km, which nobody lays under a property, a straight picture is 0.2 % off.
    #[test]
    fn known_points_stand_where_they_are(x in 0.0..500.0f64, y in 0.0..800.0f64, right in 200.0..600.0f64,
            down in -300.0..300.0f64, bearing in 0.0..360.0f64, metres in 20.0..3000.0f64) {
        let second = point_along(HOUSE, bearing, metres);
        let ties = [(x, y, HOUSE), (x + right, (y + down).clamp(0.0, 800.0), second)]
            .map(|(x_px, y_px, place)| GroundControlPoint { x_px, y_px, place });
        let found = georeference(&picture(ties.to_vec())).unwrap();
        for tie in ties {
            let share_x = found.a * tie.x_px + found.c * tie.y_px + found.e;
            let share_y = found.b * tie.x_px + found.d * tie.y_px + found.f;
            let span = found.span;
            let there = at(
                span.north_deg - share_y * (span.north_deg - span.south_deg),
                span.west_deg + share_x * (span.east_deg - span.west_deg),
            );
            // Over some kilometres the meridians converge a little; a hand on a picture is not better.
            prop_assert!(way(there, tie.place).distance_m < 0.002 * metres.max(found.metres_per_px * 1200.0));
        }
        prop_assert!(found.span.holds(HOUSE) && found.span.holds(second));
    }

    /// Stretch by stretch or point by point, over one tile or across the seam of two with a void: the same heights.
    #[test]
    fn a_profile_has_the_height_of_each_of_its_points(bearing in 0.0..360.0f64, away in 200.0..9000.0f64, hole in 0usize..40_000) {
        let law = |column: usize, row: usize| ((column * 7 + row * 13) % 97) as i16;
        let tile = |west: f64, hole: Option<usize>| {
            let mut heights: Vec<i16> = (0..200 * 200).map(|node| law(node % 200, node / 200)).collect();
            if let Some(hole) = hole {
                heights[hole] = Heights::VOID;
            }
            let step = 1.0 / 1200.0;
            let grid = Grid::new(Frame::Geographic, (west, 61.5), (step, step), (200, 200), Heights::Whole(heights));
            (Arc::new(grid.unwrap()), SurfaceKind::Ground)
        };
        let ground = Ground::new(vec![tile(8.2 - 199.0 / 1200.0, Some(hole)), tile(8.2, None)]);
        let track = Track::new(HOUSE, point_along(HOUSE, bearing, away));
        let Ok(profile) = ground.profile(&track) else { return Ok(()) };
        for (distance, height) in profile.distances_m.iter().zip(&profile.heights_m) {
            if let Some(expected) = ground.height_m(track.at(*distance)) {
                // The track runs through the tile by a quadratic: off by millimetres, on slopes of a metre a metre.
                prop_assert!((height - expected).abs() < 0.2, "{distance} m: {height} against {expected}");
            }
        }
    }
}
