//! Prints what a survey's computations take against their targets, and against the reference library where Python has
//! pycraf (`PYTHON=… cargo bench --bench survey`). Nothing fails here.

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::point_along;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::Facts;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::model::*;
use open_beacon_core::propagation::p526::{Terrain, WavePolarisation, delta_bullington};
use open_beacon_core::survey::raster::{Asked, RasterQuantity, row};
use open_beacon_core::terrain::{Ground, Track};
use open_beacon_exchange::terrain::read_tile;
use std::io::Cursor;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Instant;
use tiff::encoder::{Compression, DeflateLevel, TiffEncoder, colortype};
use tiff::tags::Tag;
use uuid::Uuid;

const NODES: usize = 3601;

/// Hilly ground of whole metres with some roughness, the same in every run.
fn heights() -> Vec<i16> {
    let mut draw = fastrand::Rng::with_seed(7);
    (0..NODES * NODES)
        .map(|node| {
            let (x, y) = ((node % NODES) as f64 / 300.0, (node / NODES) as f64 / 260.0);
            let rough = f64::from(draw.u8(..16)) / 4.0;
            (500.0 + 180.0 * x.sin() * y.cos() + 40.0 * (5.0 * x).cos() + rough) as i16
        })
        .collect()
}

fn geotiff(heights: &[i16]) -> Vec<u8> {
    let mut bytes = Cursor::new(Vec::new());
    let packed = Compression::Deflate(DeflateLevel::Balanced);
    let mut encoder = TiffEncoder::new(&mut bytes).expect("in memory").with_compression(packed);
    let mut image = encoder.new_image::<colortype::GrayI16>(NODES as u32, NODES as u32).expect("in memory");
    let step = 1.0 / 3600.0;
    let keys: [u16; 12] = [1, 1, 0, 2, 1024, 0, 1, 2, 1025, 0, 1, 2];
    let tags = image.encoder();
    tags.write_tag(Tag::Unknown(33_550), &[step, step, 0.0][..]).expect("in memory");
    tags.write_tag(Tag::Unknown(33_922), &[0.0, 0.0, 0.0, 8.0, 62.0, 0.0][..]).expect("in memory");
    tags.write_tag(Tag::Unknown(34_735), &keys[..]).expect("in memory");
    image.write_data(heights).expect("in memory");
    bytes.into_inner()
}

/// The median of seven, in seconds.
fn median(mut run: impl FnMut()) -> f64 {
    let mut all: Vec<f64> = (0..7)
        .map(|_| {
            let began = Instant::now();
            run();
            began.elapsed().as_secs_f64()
        })
        .collect();
    all.sort_by(f64::total_cmp);
    all[3]
}

fn line(what: &str, found: f64, target: f64, unit: &str) {
    println!("{what:<58} {found:>9.3} {unit:<3} target {target:>6.1}, {:.2} of it", found / target);
}

/// Resident memory, MB, where the system tells.
fn resident_mb() -> Option<f64> {
    let text = std::fs::read_to_string("/proc/self/status").ok()?;
    let row = text.lines().find(|row| row.starts_with("VmRSS"))?;
    Some(row.split_whitespace().nth(1)?.parse::<f64>().ok()? / 1000.0)
}

fn main() {
    let all = heights();
    let hgt: Vec<u8> = all.iter().flat_map(|height| height.to_be_bytes()).collect();
    let tiff = geotiff(&all);
    drop(all);
    let read = |name: &str, bytes: &[u8]| read_tile(name, bytes, None).expect("a tile").grid;
    line("a tile of 3601 x 3601 from .hgt", median(|| drop(read("N61E008.hgt", &hgt))), 0.1, "s");
    line("the same from a deflated GeoTIFF", median(|| drop(read("a.tif", &tiff))), 0.6, "s");
    let before = resident_mb();
    let four = ["N61E008.hgt", "N61E009.hgt", "N60E008.hgt", "N60E009.hgt"].map(|name| read(name, &hgt));
    if let (Some(before), Some(after)) = (before, resident_mb()) {
        line("memory of four such tiles", after - before, 150.0, "MB");
    }
    let ground = Ground::new(four.map(|grid| (Arc::new(grid), SurfaceKind::Ground)).into());
    let house = GeoPoint { latitude_deg: 61.4, longitude_deg: 8.6 };
    let ends: Vec<GeoPoint> =
        (0..200).map(|index| point_along(house, f64::from(index) * 1.8, 20_000.0)).collect();
    let loss = |to: &GeoPoint| {
        let profile = ground.profile(&Track::new(house, *to)).expect("covered");
        let terrain = Terrain {
            distances_m: &profile.distances_m,
            heights_m: &profile.heights_m,
            first_above_m: 6.0,
            last_above_m: 35.0,
        };
        delta_bullington(&terrain, 1815.0, 4.0 / 3.0, WavePolarisation::Vertical).expect("a profile").loss_db
    };
    let mut sum = 0.0;
    let each_us = median(|| sum += ends.iter().map(loss).sum::<f64>()) / ends.len() as f64 * 1e6;
    line("a path of 20 km on 30 m terrain, profile and diffraction", each_us, 35.0, "us");
    let count = ends.len() as f64;
    let mut metres = 0.0;
    let track_us =
        median(|| metres += ends.iter().map(|to| Track::new(house, *to).way.distance_m).sum::<f64>()) / count
            * 1e6;
    let tracks: Vec<Track> = ends.iter().map(|to| Track::new(house, *to)).collect();
    let profile_us = median(|| {
        metres +=
            tracks.iter().map(|track| ground.profile(track).map_or(0.0, |one| one.heights_m[9])).sum::<f64>();
    }) / count
        * 1e6;
    let warm_us = median(|| {
        metres +=
            (0..200).map(|_| ground.profile(&tracks[0]).map_or(0.0, |one| one.heights_m[9])).sum::<f64>();
    }) / count
        * 1e6;
    println!("  the same profile again and again, in the cache: {warm_us:.1} us");
    println!("  of it track {track_us:.1} us, profile {profile_us:.1} us ({metres:.0})");
    raster(&ground, house);
    reference(&ground, house, &ends, each_us);
    println!("(checksum {sum:.1})");
}

fn raster(ground: &Ground, house: GeoPoint) {
    let settings = SiteSettings::default();
    let cell = MastCell {
        technology: Technology::Lte,
        band: Some(3),
        channel: Some(1300),
        bandwidth_mhz: Some(20.0),
        pci: None,
        node: None,
        local_cell: None,
        bearing_deg: None,
        power_dbm: None,
        load: None,
    };
    let masts = [Mast {
        id: MastId(Uuid::nil()),
        site_id: SiteId(Uuid::nil()),
        name: "A".into(),
        operator: String::new(),
        place: point_along(house, 143.0, 4700.0),
        height_m: Some(36.0),
        cells: vec![cell],
        notes: String::new(),
        archived_at: None,
    }];
    let env = Environment::new(Facts {
        masts: &masts,
        obstacles: &[],
        ground,
        settings: &settings,
        house: Some(house),
        observations: Vec::new(),
        mode: ConnectionMode::Lte,
    });
    let panel = settings.outdoor.kinds[1];
    let asked = Asked {
        span: GeoSpan { south_deg: 61.355, north_deg: 61.445, west_deg: 8.506, east_deg: 8.694 },
        columns: 300,
        rows: 300,
        height_m: 6.0,
        mast: 0,
        cell: 0,
        antenna: AimAntenna::Assumed(&panel),
        quantity: RasterQuantity::Signal,
    };
    let seconds = median(|| {
        let next = AtomicUsize::new(0);
        let work = || {
            while let Some(one) = Some(next.fetch_add(1, Ordering::Relaxed)).filter(|one| *one < asked.rows) {
                assert!(row(&env, &asked, one).is_some());
            }
        };
        std::thread::scope(|scope| {
            for _ in 0..2 {
                scope.spawn(work);
            }
        });
    });
    line("a raster of 300 x 300, 10 km across, two cores", seconds, 1.5, "s");
}

/// The reference library on the same profiles, path by path.
fn reference(ground: &Ground, house: GeoPoint, ends: &[GeoPoint], own_us: f64) {
    let rows: Vec<String> = ends[..20]
        .iter()
        .map(|to| {
            let profile = ground.profile(&Track::new(house, *to)).expect("covered");
            let pairs = profile.distances_m.iter().zip(&profile.heights_m);
            pairs.map(|(d, h)| format!("{d:.3}:{h:.2}")).collect::<Vec<_>>().join(" ")
        })
        .collect();
    let file = std::env::temp_dir().join("open-beacon-profiles.txt");
    let python = std::env::var("PYTHON").unwrap_or_else(|_| "python3".into());
    let script = concat!(env!("CARGO_MANIFEST_DIR"), "/benches/survey_reference.py");
    let told = std::fs::write(&file, rows.join("\n"))
        .and_then(|()| std::process::Command::new(&python).arg(script).arg(&file).output());
    let number =
        |done: std::process::Output| String::from_utf8_lossy(&done.stdout).trim().parse::<f64>().ok();
    match told.ok().and_then(number) {
        Some(us) => println!(
            "reference library, path by path: {us:.0} us, {:.0} times as long; target 100",
            us / own_us
        ),
        None => println!("reference library: not found; pip install pycraf and give PYTHON=its python"),
    }
}
