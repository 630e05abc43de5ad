//! A site as a zip: one CSV a table, and the attachments as they are.

use crate::cells::{read, write};
use crate::json::known_format;
use crate::{RowProblem, tables};
use open_beacon_core::model::{
    Attachment, AttachmentFile, BUNDLE_FORMAT, BUNDLE_VERSION, Backdrop, BackdropFile, Carrier, Sample,
    SampleId, Site, SiteBundle, SiteSettings, SweepPhoto, SweepPhotoFile, TerrainTile, TileFile,
};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap};
use std::io::{Cursor, Read, Write};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

/// Most that a zip may unpack to, bytes: a small file must not fill the memory.
const MOST_UNPACKED: u64 = 512 << 20;

#[derive(Serialize, Deserialize)]
struct Manifest {
    format: String,
    version: u32,
}

#[derive(Serialize, Deserialize)]
struct SiteRow {
    #[serde(flatten)]
    site: Site,
    settings: SiteSettings,
}

#[derive(Serialize, Deserialize)]
struct CarrierRow {
    sample_id: SampleId,
    place: u32,
    #[serde(flatten)]
    carrier: Carrier,
}

/// The site as a zip.
pub fn to_zip(bundle: &SiteBundle) -> Vec<u8> {
    let mut content = Vec::new();
    write_zip(bundle, &mut content).expect("writing to memory does not fail");
    content
}

/// Writes the site as a zip, table by table, so that it can leave while it is made.
///
/// # Errors
/// Those of the target.
pub fn write_zip(bundle: &SiteBundle, target: impl Write) -> std::io::Result<()> {
    let manifest = Manifest { format: BUNDLE_FORMAT.into(), version: BUNDLE_VERSION };
    let site = SiteRow { site: bundle.site.clone(), settings: bundle.settings.clone() };
    let carriers = bundle.samples.iter().flat_map(|sample| {
        sample.reading.carriers.iter().enumerate().map(|(place, carrier)| CarrierRow {
            sample_id: sample.id,
            place: place as u32,
            carrier: carrier.clone(),
        })
    });
    let mut writer = ZipWriter::new_stream(target);
    let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    let mut add = |name: &str, content: &[u8]| {
        writer.start_file(name, options)?;
        writer.write_all(content)
    };
    add("manifest.json", &serde_json::to_vec(&manifest)?)?;
    add("site.csv", &write(tables::SITE, std::iter::once(site)))?;
    add("positions.csv", &write(tables::POSITIONS, bundle.positions.iter()))?;
    add("setups.csv", &write(tables::SETUPS, bundle.setups.iter()))?;
    add("runs.csv", &write(tables::RUNS, bundle.runs.iter()))?;
    add("samples.csv", &write(tables::SAMPLES, bundle.samples.iter()))?;
    add("carriers.csv", &write(tables::CARRIERS, carriers))?;
    add("kits.csv", &write(tables::KITS, bundle.kits.iter()))?;
    add("parts.csv", &write(tables::PARTS, bundle.parts.iter()))?;
    add("masts.csv", &write(tables::MASTS, bundle.masts.iter()))?;
    add("obstacles.csv", &write(tables::OBSTACLES, bundle.obstacles.iter()))?;
    add("landmarks.csv", &write(tables::LANDMARKS, bundle.landmarks.iter()))?;
    add("tiles.csv", &write(tables::TILES, bundle.tiles.iter().map(|file| &file.tile)))?;
    add("backdrops.csv", &write(tables::BACKDROPS, bundle.backdrops.iter().map(|file| &file.backdrop)))?;
    add("sweeps.csv", &write(tables::SWEEPS, bundle.sweeps.iter()))?;
    add("sweep_stops.csv", &write(tables::SWEEP_STOPS, bundle.sweep_stops.iter()))?;
    let photos = bundle.sweep_photos.iter().map(|file| &file.photo);
    add("sweep_photos.csv", &write(tables::SWEEP_PHOTOS, photos))?;
    add("band_rounds.csv", &write(tables::BAND_ROUNDS, bundle.band_rounds.iter()))?;
    add("trials.csv", &write(tables::TRIALS, bundle.trials.iter()))?;
    add("sittings.csv", &write(tables::SITTINGS, bundle.sittings.iter()))?;
    add("speed_tests.csv", &write(tables::SPEED_TESTS, bundle.speed_tests.iter()))?;
    let attachments = bundle.attachments.iter().map(|file| &file.attachment);
    add("attachments.csv", &write(tables::ATTACHMENTS, attachments))?;
    for file in &bundle.attachments {
        add(&content_name(&file.attachment), &file.content)?;
    }
    for file in &bundle.tiles {
        add(&tile_name(&file.tile), &file.content)?;
    }
    for file in &bundle.backdrops {
        add(&backdrop_name(&file.backdrop), &file.content)?;
    }
    for file in &bundle.sweep_photos {
        add(&photo_name(&file.photo), &file.content)?;
    }
    writer.finish()?.into_inner().flush()
}

/// How the name of a file of this type ends: of what is kept, nothing else gets into a name.
fn ending(media_type: &str) -> &'static str {
    match media_type {
        "image/png" => "png",
        "image/jpeg" => "jpeg",
        "image/webp" => "webp",
        "text/plain" => "plain",
        _ => "bin",
    }
}

/// Named by identifier, so that no file name of a user's becomes a path.
fn content_name(attachment: &Attachment) -> String {
    format!("attachments/{}.{}", attachment.id, ending(&attachment.media_type))
}

fn tile_name(tile: &TerrainTile) -> String {
    format!("terrain/{}.bin", tile.id)
}

fn backdrop_name(backdrop: &Backdrop) -> String {
    format!("backdrops/{}.{}", backdrop.id, ending(&backdrop.media_type))
}

fn photo_name(photo: &SweepPhoto) -> String {
    format!("photos/{}.{}", photo.id, ending(&photo.media_type))
}

/// Reads a site.
///
/// # Errors
/// Every row that cannot be taken, with file and line.
pub fn from_zip(bytes: &[u8]) -> Result<SiteBundle, Vec<RowProblem>> {
    let mut files = unpack(bytes).map_err(|reason| vec![RowProblem::new("zip", None, reason)])?;
    let mut problems = Vec::new();
    let manifest = files.remove("manifest.json").unwrap_or_default();
    match serde_json::from_slice::<Manifest>(&manifest) {
        Err(_) => {
            problems.push(RowProblem::new("manifest.json", None, "it is missing; this is not a site export"))
        }
        Ok(manifest) => {
            if let Err(reason) = known_format(&manifest.format, manifest.version) {
                problems.push(RowProblem::new("manifest.json", None, reason));
            }
        }
    }
    let mut sites: Vec<(u64, SiteRow)> = table(&files, "site.csv", tables::SITE, &mut problems);
    let positions = values(table(&files, "positions.csv", tables::POSITIONS, &mut problems));
    let setups = values(table(&files, "setups.csv", tables::SETUPS, &mut problems));
    let runs = values(table(&files, "runs.csv", tables::RUNS, &mut problems));
    let samples = samples_with_carriers(&files, &mut problems);
    let speed_tests = values(table(&files, "speed_tests.csv", tables::SPEED_TESTS, &mut problems));
    // Exports from before the Kit, Survey, Aim and Bands stages, and before sittings, have no such files.
    let later = [
        ("kits.csv", tables::KITS),
        ("parts.csv", tables::PARTS),
        ("masts.csv", tables::MASTS),
        ("obstacles.csv", tables::OBSTACLES),
        ("landmarks.csv", tables::LANDMARKS),
        ("tiles.csv", tables::TILES),
        ("backdrops.csv", tables::BACKDROPS),
        ("sweeps.csv", tables::SWEEPS),
        ("sweep_stops.csv", tables::SWEEP_STOPS),
        ("sweep_photos.csv", tables::SWEEP_PHOTOS),
        ("band_rounds.csv", tables::BAND_ROUNDS),
        ("trials.csv", tables::TRIALS),
        ("sittings.csv", tables::SITTINGS),
    ];
    for (name, heading) in later {
        files.entry(name.into()).or_insert_with(|| write(heading, std::iter::empty::<()>()));
    }
    let sittings = values(table(&files, "sittings.csv", tables::SITTINGS, &mut problems));
    let kits = values(table(&files, "kits.csv", tables::KITS, &mut problems));
    let parts = values(table(&files, "parts.csv", tables::PARTS, &mut problems));
    let masts = values(table(&files, "masts.csv", tables::MASTS, &mut problems));
    let obstacles = values(table(&files, "obstacles.csv", tables::OBSTACLES, &mut problems));
    let landmarks = values(table(&files, "landmarks.csv", tables::LANDMARKS, &mut problems));
    let rows: Vec<(u64, TerrainTile)> = table(&files, "tiles.csv", tables::TILES, &mut problems);
    let tiles = with_content(rows, "tiles.csv", tile_name, &mut files, &mut problems)
        .into_iter()
        .map(|(tile, content)| TileFile { tile, content })
        .collect();
    let sweeps = values(table(&files, "sweeps.csv", tables::SWEEPS, &mut problems));
    let sweep_stops = values(table(&files, "sweep_stops.csv", tables::SWEEP_STOPS, &mut problems));
    let band_rounds = values(table(&files, "band_rounds.csv", tables::BAND_ROUNDS, &mut problems));
    let trials = values(table(&files, "trials.csv", tables::TRIALS, &mut problems));
    let rows: Vec<(u64, Backdrop)> = table(&files, "backdrops.csv", tables::BACKDROPS, &mut problems);
    let backdrops = with_content(rows, "backdrops.csv", backdrop_name, &mut files, &mut problems)
        .into_iter()
        .map(|(backdrop, content)| BackdropFile { backdrop, content })
        .collect();
    let rows: Vec<(u64, SweepPhoto)> = table(&files, "sweep_photos.csv", tables::SWEEP_PHOTOS, &mut problems);
    let sweep_photos = with_content(rows, "sweep_photos.csv", photo_name, &mut files, &mut problems)
        .into_iter()
        .map(|(photo, content)| SweepPhotoFile { photo, content })
        .collect();
    let attachments = attachments(&mut files, &mut problems);
    if sites.len() != 1 && problems.is_empty() {
        problems.push(RowProblem::new(
            "site.csv",
            None,
            format!("one site is needed, there are {}", sites.len()),
        ));
    }
    match sites.pop() {
        Some((_, SiteRow { site, settings })) if problems.is_empty() => Ok(SiteBundle {
            format: BUNDLE_FORMAT.into(),
            version: BUNDLE_VERSION,
            site,
            settings,
            positions,
            setups,
            runs,
            samples,
            speed_tests,
            sittings,
            attachments,
            kits,
            parts,
            masts,
            obstacles,
            landmarks,
            tiles,
            backdrops,
            sweeps,
            sweep_stops,
            sweep_photos,
            band_rounds,
            trials,
        }),
        _ => Err(problems),
    }
}

type Files = BTreeMap<String, Vec<u8>>;

fn unpack(bytes: &[u8]) -> Result<Files, String> {
    let mut archive =
        ZipArchive::new(Cursor::new(bytes)).map_err(|error| format!("the zip cannot be opened: {error}"))?;
    let mut files = Files::new();
    let mut left = MOST_UNPACKED;
    for index in 0..archive.len() {
        let entry = archive.by_index(index).map_err(|error| format!("the zip is damaged: {error}"))?;
        if entry.is_dir() {
            continue;
        }
        let name = match entry.name() {
            Ok(name) => name.into_owned(),
            Err(error) => return Err(format!("a file name in the zip cannot be read: {error}")),
        };
        let mut content = Vec::new();
        // One byte more than allowed tells a file that fits from one that does not.
        entry
            .take(left + 1)
            .read_to_end(&mut content)
            .map_err(|error| format!("{name} is damaged: {error}"))?;
        left = left.checked_sub(content.len() as u64).ok_or("it unpacks to more than 512 MiB")?;
        files.insert(name, content);
    }
    Ok(files)
}

fn table<T: serde::de::DeserializeOwned>(
    files: &Files,
    name: &str,
    columns: &[crate::cells::Column],
    problems: &mut Vec<RowProblem>,
) -> Vec<(u64, T)> {
    let Some(bytes) = files.get(name) else {
        problems.push(RowProblem::new(name, None, "the file is missing"));
        return Vec::new();
    };
    read(name, columns, bytes).unwrap_or_else(|found| {
        problems.extend(found);
        Vec::new()
    })
}

fn values<T>(rows: Vec<(u64, T)>) -> Vec<T> {
    rows.into_iter().map(|(_, row)| row).collect()
}

/// A sample as its own table holds it: without carriers.
#[derive(Deserialize)]
struct SampleRow {
    #[serde(flatten)]
    rest: serde_json::Map<String, serde_json::Value>,
}

fn samples_with_carriers(files: &Files, problems: &mut Vec<RowProblem>) -> Vec<Sample> {
    let rows: Vec<(u64, SampleRow)> = table(files, "samples.csv", tables::SAMPLES, problems);
    let carriers: Vec<(u64, CarrierRow)> = table(files, "carriers.csv", tables::CARRIERS, problems);
    let mut samples = Vec::with_capacity(rows.len());
    for (line, mut row) in rows {
        row.rest.insert("carriers".into(), serde_json::Value::Array(Vec::new()));
        match serde_json::from_value::<Sample>(serde_json::Value::Object(row.rest)) {
            Ok(sample) => samples.push(sample),
            Err(error) => problems.push(RowProblem::new("samples.csv", Some(line), error.to_string())),
        }
    }
    let places: HashMap<SampleId, usize> =
        samples.iter().enumerate().map(|(at, sample)| (sample.id, at)).collect();
    let mut carriers = carriers;
    carriers.sort_by_key(|(_, row)| row.place);
    for (line, row) in carriers {
        match places.get(&row.sample_id) {
            Some(at) => samples[*at].reading.carriers.push(row.carrier),
            None => problems.push(RowProblem::new(
                "carriers.csv",
                Some(line),
                format!("there is no sample {}", row.sample_id),
            )),
        }
    }
    samples
}

fn attachments(files: &mut Files, problems: &mut Vec<RowProblem>) -> Vec<AttachmentFile> {
    let rows: Vec<(u64, Attachment)> = table(files, "attachments.csv", tables::ATTACHMENTS, problems);
    with_content(rows, "attachments.csv", content_name, files, problems)
        .into_iter()
        .map(|(attachment, content)| AttachmentFile { attachment, content })
        .collect()
}

/// Rows with the files that belong to them.
fn with_content<T>(
    rows: Vec<(u64, T)>,
    table: &str,
    name: impl Fn(&T) -> String,
    files: &mut Files,
    problems: &mut Vec<RowProblem>,
) -> Vec<(T, Vec<u8>)> {
    let mut found = Vec::new();
    for (line, row) in rows {
        let wanted = name(&row);
        let stem = wanted.rsplit_once('.').map_or(wanted.as_str(), |(stem, _)| stem);
        // Earlier versions took the ending from the type as it was told.
        let there =
            files.keys().find(|key| key.rsplit_once('.').is_some_and(|(before, _)| before == stem)).cloned();
        match there.and_then(|key| files.remove(&key)) {
            Some(content) => found.push((row, content)),
            None => problems.push(RowProblem::new(table, Some(line), format!("{wanted} is missing"))),
        }
    }
    found
}
