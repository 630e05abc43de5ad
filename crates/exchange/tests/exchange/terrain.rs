//! Terrain files: the three formats of one ground give one profile; what is no tile is named.

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::SurfaceKind;
use open_beacon_core::terrain::{Frame, Grid, Ground, Track};
use open_beacon_exchange::terrain::read_tile;
use proptest::prelude::*;
use std::fmt::Write;
use std::io::Cursor;
use std::sync::Arc;
use tiff::encoder::{Compression, DeflateLevel, TiffEncoder, colortype};
use tiff::tags::Tag;

/// A ground of whole metres that differs everywhere: column and row of a tile of 1201 nodes.
fn height(column: usize, row: usize) -> i16 {
    let (x, y) = (column as f64 / 90.0, row as f64 / 70.0);
    (600.0 + 220.0 * x.sin() * y.cos() + 90.0 * (x * 3.1).cos()) as i16
}

const NODES: usize = 1201;

fn all_heights() -> Vec<i16> {
    (0..NODES * NODES).map(|node| height(node % NODES, node / NODES)).collect()
}

fn hgt(heights: &[i16]) -> Vec<u8> {
    heights.iter().flat_map(|height| height.to_be_bytes()).collect()
}

/// `place`: x and y of the first cell's corner or node as the two keys name them.
fn ascii(place: (&str, f64, &str, f64), heights: &[i16]) -> Vec<u8> {
    let (x_key, x, y_key, y) = place;
    let mut text = format!(
        "ncols {NODES}\nnrows {NODES}\n{x_key} {x}\n{y_key} {y}\ncellsize {}\nNODATA_value -9999\n",
        1.0 / 1200.0
    );
    for row in heights.chunks(NODES) {
        for height in row {
            let _ = write!(text, "{} ", if *height == i16::MIN { -9999 } else { *height });
        }
        text.push('\n');
    }
    text.into_bytes()
}

pub(crate) struct Geo {
    keys: Vec<u16>,
    scale: [f64; 3],
    tie: [f64; 6],
}

/// Keys of a GeoTIFF: model (1 projected, 2 geographic), raster (1 area, 2 point), and others.
fn keys(entries: &[(u16, u16)]) -> Vec<u16> {
    let mut all = vec![1, 1, 0, entries.len() as u16];
    for (key, value) in entries {
        all.extend([*key, 0, 1, *value]);
    }
    all
}

pub(crate) fn geotiff(geo: &Geo, columns: usize, rows: usize, heights: &[i16], pack: bool) -> Vec<u8> {
    let mut bytes = Cursor::new(Vec::new());
    let mut encoder = TiffEncoder::new(&mut bytes).unwrap();
    if pack {
        encoder = encoder.with_compression(Compression::Deflate(DeflateLevel::Balanced));
    }
    let mut image = encoder.new_image::<colortype::GrayI16>(columns as u32, rows as u32).unwrap();
    image.encoder().write_tag(Tag::Unknown(33_550), &geo.scale[..]).unwrap();
    image.encoder().write_tag(Tag::Unknown(33_922), &geo.tie[..]).unwrap();
    image.encoder().write_tag(Tag::Unknown(34_735), &geo.keys[..]).unwrap();
    image.write_data(heights).unwrap();
    bytes.into_inner()
}

const STEP: f64 = 1.0 / 1200.0;

pub(crate) fn geographic(raster: u16, half: f64) -> Geo {
    Geo {
        keys: keys(&[(1024, 2), (1025, raster), (2048, 4326)]),
        scale: [STEP, STEP, 0.0],
        tie: [0.0, 0.0, 0.0, 8.0 - half * STEP, 62.0 + half * STEP, 0.0],
    }
}

fn grid(name: &str, bytes: &[u8]) -> Grid {
    read_tile(name, bytes, None).unwrap_or_else(|error| panic!("{name}: {error}")).grid
}

fn profile(grid: Grid, from: GeoPoint, to: GeoPoint) -> Vec<f64> {
    let ground = Ground::new(vec![(Arc::new(grid), SurfaceKind::Ground)]);
    ground.profile(&Track::new(from, to)).unwrap().heights_m
}

fn at(latitude_deg: f64, longitude_deg: f64) -> GeoPoint {
    GeoPoint { latitude_deg, longitude_deg }
}

#[test]
fn three_formats_of_one_ground_give_one_profile() {
    let heights = all_heights();
    let ends = (at(61.21, 8.13), at(61.42, 8.61));
    let expected = profile(grid("N61E008.hgt", &hgt(&heights)), ends.0, ends.1);
    let half = STEP / 2.0;
    let others = [
        ("point.asc", ascii(("xllcenter", 8.0, "yllcenter", 61.0), &heights)),
        ("area.asc", ascii(("xllcorner", 8.0 - half, "yllcorner", 61.0 - half), &heights)),
        ("point.tif", geotiff(&geographic(2, 0.0), NODES, NODES, &heights, true)),
        ("area.tif", geotiff(&geographic(1, 0.5), NODES, NODES, &heights, false)),
    ];
    for (name, bytes) in others {
        let found = profile(grid(name, &bytes), ends.0, ends.1);
        let worst = expected.iter().zip(&found).map(|(a, b)| (a - b).abs()).fold(0.0, f64::max);
        assert!(found.len() == expected.len() && worst < 0.01, "{name}: {worst} m");
    }
    let wrong = profile(
        grid("area.tif", &geotiff(&geographic(1, 0.0), NODES, NODES, &heights, false)),
        ends.0,
        ends.1,
    );
    assert!(wrong.iter().zip(&expected).any(|(a, b)| (a - b).abs() > 0.5), "half a step is seen");
}

#[test]
fn tiles_join_without_a_seam_and_thinned_columns_are_told() {
    let plane = |west: f64| -> Vec<i16> {
        (0..NODES * NODES).map(|node| (100.0 * (west + (node % NODES) as f64 / 1200.0)) as i16).collect()
    };
    let left = grid("N61E008.hgt", &hgt(&plane(8.0)));
    let right = grid("N61E009.hgt", &hgt(&plane(9.0)));
    let ground =
        Ground::new([left, right].map(|grid| (Arc::new(grid), SurfaceKind::Ground)).into_iter().collect());
    let found = ground.profile(&Track::new(at(61.5, 8.9), at(61.5, 9.1))).unwrap();
    assert!(found.heights_m.windows(2).all(|pair| (0.0..=1.01).contains(&(pair[1] - pair[0]))));
    // Towards the poles columns are thinned: 1201 rows of 601.
    let thin: Vec<i16> = (0..1201 * 601).map(|node| (node % 601) as i16).collect();
    let thinned = grid("N71E025.hgt", &hgt(&thin));
    assert_eq!(thinned.size(), (601, 1201));
    assert!((thinned.height_m(25.5, 71.5).unwrap() - 300.0).abs() < 1e-9);
    let (east_m, north_m) = thinned.step_m();
    // 1/600 degree at 71.5° N: 185.5 m · cos 71.5° = 58.9 m.
    assert!((east_m - 58.9).abs() < 0.1 && (north_m - 92.8).abs() < 0.1);
    let south = grid("S33W071.hgt", &hgt(&thin));
    assert!(south.span().holds(at(-32.5, -70.5)) && !south.span().holds(at(-33.5, -70.5)));
}

#[test]
fn utm_files_lie_where_their_zone_puts_them() {
    // The node at the house's own UTM coordinates is the house's height.
    let house = at(61.4213, 8.2087);
    let (x, y) = Frame::Utm(32, true).project(house);
    let (columns, rows) = (81, 61);
    let heights: Vec<i16> =
        (0..columns * rows).map(|node| if node == 30 * columns + 40 { 500 } else { 100 }).collect();
    let geo = Geo {
        keys: keys(&[(1024, 1), (1025, 2), (3072, 32_632)]),
        scale: [25.0, 25.0, 0.0],
        tie: [0.0, 0.0, 0.0, x - 1000.0, y + 750.0, 0.0],
    };
    let ground = Ground::new(vec![(
        Arc::new(grid("a.tif", &geotiff(&geo, columns, rows, &heights, false))),
        SurfaceKind::Ground,
    )]);
    assert!((ground.height_m(house).unwrap() - 500.0).abs() < 1.0);
    let feet = Geo { keys: keys(&[(1024, 1), (1025, 2), (3072, 32_632), (4099, 9002)]), ..geo };
    let read = read_tile("a.tif", &geotiff(&feet, columns, rows, &heights, false), None).unwrap();
    assert!((read.grid.extremes().unwrap().highest_m - 500.0 * 0.3048).abs() < 1e-3 && read.notes.len() == 1);
    // An ASCII grid in metres takes the zone of the house, and says so; without a house it asks for one.
    let text = format!(
        "ncols 3\nnrows 2\nxllcorner {}\nyllcorner {}\ncellsize 50\n1 2 3\n4 5 6\n",
        x - 75.0,
        y - 50.0
    );
    let read = read_tile("b.asc", text.as_bytes(), Some(house)).unwrap();
    assert_eq!(read.grid.frame, Frame::Utm(32, true));
    assert!(read.notes[0].contains("zone 32"));
    assert!(read_tile("b.asc", text.as_bytes(), None).unwrap_err().contains("position"));
}

#[test]
fn voids_are_kept_apart_from_heights() {
    let mut heights = all_heights();
    heights[5] = i16::MIN;
    heights[6] = i16::MIN;
    for (name, bytes) in [
        ("N61E008.hgt", hgt(&heights)),
        ("a.asc", ascii(("xllcenter", 8.0, "yllcenter", 61.0), &heights)),
        ("a.tif", geotiff(&geographic(2, 0.0), NODES, NODES, &heights, true)),
    ] {
        assert_eq!(grid(name, &bytes).extremes().unwrap().voids, 2, "{name}");
    }
}

#[test]
fn what_is_no_tile_is_named_with_what_would_work() {
    let whole = geotiff(&geographic(2, 0.0), 40, 40, &[7; 1600], false);
    let plain = Geo { keys: keys(&[(1024, 1), (3072, 3857)]), ..geographic(2, 0.0) };
    let huge = "ncols 2\nnrows 2\nxllcorner 8\nyllcorner 61\ncellsize 0.01\n9900 1 2 3\n";
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("a.zip", b"PK\x03\x04rest".to_vec(), "Unpack it"),
        ("a.gz", vec![0x1f, 0x8b, 8], "gzip"),
        ("N61E008.hgt", vec![0; 1000], "cut short"),
        ("heights.hgt", vec![0; 2 * 1201 * 1201], "N61E008.hgt"),
        ("cut.tif", whole[..whole.len() / 2].to_vec(), "GeoTIFF"),
        ("map.tif", geotiff(&plain, 40, 40, &[7; 1600], false), "EPSG:3857"),
        (
            "a.asc",
            b"ncols 3\nnrows 2\nxllcorner 8\nyllcorner 61\ncellsize 0.1\n1 2 3 4".to_vec(),
            "cut short",
        ),
        ("b.asc", b"ncols 3\nxllcorner 8\nyllcorner 61\ncellsize 0.1\n1 2 3".to_vec(), "nrows"),
        ("c.asc", b"ncols 3\nnrows 1\n".to_vec(), "no size"),
        ("d.asc", huge.into(), "feet"),
        ("e.bin", vec![0, 1, 2, 3], "none of the kinds"),
    ];
    for (name, bytes, expected) in cases {
        let reason = read_tile(name, &bytes, None).unwrap_err();
        assert!(reason.contains(expected), "{name}: {reason}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Whatever the bytes, an answer and never a panic.
    #[test]
    fn broken_files_never_panic(cut in 0usize..3000, flips in prop::collection::vec((0usize..3000, 0u8..=255), 0..6)) {
        let mut bytes = geotiff(&geographic(2, 0.0), 30, 30, &[7; 900], true);
        for (at, to) in flips {
            let length = bytes.len();
            bytes[at % length] = to;
        }
        bytes.truncate(cut);
        let _ = read_tile("a.tif", &bytes, None);
        let text: Vec<u8> = bytes.iter().map(|byte| byte % 96 + 32).collect();
        let _ = read_tile("a.asc", &text, None);
    }
}

#[test]
fn a_site_with_terrain_goes_out_and_comes_back_to_the_last_byte() {
    let bundle = crate::demo_bundle();
    assert!(!bundle.tiles.is_empty() && !bundle.masts.is_empty());
    for bytes in [open_beacon_exchange::to_zip(&bundle), open_beacon_exchange::to_json(&bundle)] {
        let back = open_beacon_exchange::from_bytes(&bytes).unwrap();
        assert_eq!(back.tiles, bundle.tiles);
        assert_eq!(
            (back.masts, back.obstacles, back.landmarks),
            (bundle.masts.clone(), bundle.obstacles.clone(), bundle.landmarks.clone())
        );
    }
    // The demo's own terrain is a file of the open format like any other.
    let file = &bundle.tiles[0];
    let read = read_tile(&file.tile.file_name, &file.content.read().unwrap(), None).unwrap();
    let found = read.grid.extremes().unwrap();
    assert_eq!(read.grid.size(), (file.tile.columns as usize, file.tile.rows as usize));
    assert!(
        (found.lowest_m - file.tile.lowest_m).abs() < 0.01
            && (found.highest_m - file.tile.highest_m).abs() < 0.01
    );
    let mut cut = bundle.clone();
    cut.masts[0].cells[0].pci = Some(2000);
    cut.obstacles[0].outline.truncate(1);
    cut.landmarks[1].site_id = open_beacon_core::model::SiteId(uuid::Uuid::from_u128(9));
    cut.sweeps[0].beamwidth_deg = 0.0;
    cut.backdrops[0].backdrop.width_px = 0;
    let problems = open_beacon_exchange::from_bytes(&open_beacon_exchange::to_json(&cut)).unwrap_err();
    let files: Vec<&str> = problems.iter().map(|one| one.file.as_str()).collect();
    for file in ["masts.csv", "obstacles.csv", "landmarks.csv", "sweeps.csv", "backdrops.csv"] {
        assert!(files.contains(&file), "{problems:?}");
    }
}
