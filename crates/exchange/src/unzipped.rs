//! A site out of a zip. Its tables are read one at a time, its other files when they are wanted: what is held at once stays small.

use crate::cells::{Column, read};
use crate::json::known_format;
use crate::zipped::{CarrierRow, Manifest, SiteRow, backdrop_name, content_name, photo_name, tile_name};
use crate::{RowProblem, tables};
use open_beacon_core::limits::{LARGEST_FILE_BYTES, LARGEST_TABLE_BYTES, MOST_FILE_BYTES, MOST_TABLE_BYTES};
use open_beacon_core::model::{
    Attachment, AttachmentFile, BUNDLE_FORMAT, BUNDLE_VERSION, Backdrop, BackdropFile, Carrier,
    ContentSource, FileContent, Sample, SampleId, SiteBundle, SweepPhoto, SweepPhotoFile, TerrainTile,
    TileFile,
};
use serde::Deserialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::HashMap;
use std::io::{self, Read, Seek, SeekFrom};
use zip::ZipArchive;

/// Reads a site.
///
/// # Errors
/// Every row that cannot be taken, with file and line.
pub(crate) fn from_zip<R: Source>(reader: R) -> Result<SiteBundle, Vec<RowProblem>> {
    let mut files = Files::open(reader).map_err(|reason| vec![RowProblem::new("zip", None, reason)])?;
    let mut problems = Vec::new();
    let manifest = files.unpacked("manifest.json").ok().flatten().map(|file| file.take(1 << 20));
    match manifest.map(serde_json::from_reader::<_, Manifest>).transpose() {
        Err(_) | Ok(None) => {
            problems.push(RowProblem::new("manifest.json", None, "it is missing; this is not a site export"))
        }
        Ok(Some(manifest)) => {
            if let Err(reason) = known_format(&manifest.format, manifest.version) {
                problems.push(RowProblem::new("manifest.json", None, reason));
            }
        }
    }
    let mut sites: Vec<(u64, SiteRow)> = table(&mut files, "site.csv", tables::SITE, &mut problems);
    let positions = values(table(&mut files, "positions.csv", tables::POSITIONS, &mut problems));
    let setups = values(table(&mut files, "setups.csv", tables::SETUPS, &mut problems));
    let runs = values(table(&mut files, "runs.csv", tables::RUNS, &mut problems));
    let samples = samples_with_carriers(&mut files, &mut problems);
    let speed_tests = values(table(&mut files, "speed_tests.csv", tables::SPEED_TESTS, &mut problems));
    let sittings = values(later_table(&mut files, "sittings.csv", tables::SITTINGS, &mut problems));
    let kits = values(later_table(&mut files, "kits.csv", tables::KITS, &mut problems));
    let parts = values(later_table(&mut files, "parts.csv", tables::PARTS, &mut problems));
    let masts = values(later_table(&mut files, "masts.csv", tables::MASTS, &mut problems));
    let obstacles = values(later_table(&mut files, "obstacles.csv", tables::OBSTACLES, &mut problems));
    let landmarks = values(later_table(&mut files, "landmarks.csv", tables::LANDMARKS, &mut problems));
    let rows: Vec<(u64, TerrainTile)> = later_table(&mut files, "tiles.csv", tables::TILES, &mut problems);
    let tiles = with_content(rows, "tiles.csv", tile_name, &mut files, &mut problems)
        .into_iter()
        .map(|(tile, content)| TileFile { tile, content })
        .collect();
    let sweeps = values(later_table(&mut files, "sweeps.csv", tables::SWEEPS, &mut problems));
    let sweep_stops = values(later_table(&mut files, "sweep_stops.csv", tables::SWEEP_STOPS, &mut problems));
    let band_rounds = values(later_table(&mut files, "band_rounds.csv", tables::BAND_ROUNDS, &mut problems));
    let trials = values(later_table(&mut files, "trials.csv", tables::TRIALS, &mut problems));
    let predictions = values(later_table(&mut files, "predictions.csv", tables::PREDICTIONS, &mut problems));
    let speed_courses =
        values(later_table(&mut files, "speed_courses.csv", tables::SPEED_COURSES, &mut problems));
    let amendments = values(later_table(&mut files, "amendments.csv", tables::AMENDMENTS, &mut problems));
    let as_built = values(later_table(&mut files, "as_built.csv", tables::AS_BUILT, &mut problems));
    let events = values(later_table(&mut files, "events.csv", tables::EVENTS, &mut problems));
    let rows: Vec<(u64, Backdrop)> =
        later_table(&mut files, "backdrops.csv", tables::BACKDROPS, &mut problems);
    let backdrops = with_content(rows, "backdrops.csv", backdrop_name, &mut files, &mut problems)
        .into_iter()
        .map(|(backdrop, content)| BackdropFile { backdrop, content })
        .collect();
    let rows: Vec<(u64, SweepPhoto)> =
        later_table(&mut files, "sweep_photos.csv", tables::SWEEP_PHOTOS, &mut problems);
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
            predictions,
            speed_courses,
            events,
            amendments,
            as_built,
        }),
        _ => Err(problems),
    }
}

/// What a zip is read from: a file on disk or bytes. Clones read at places of their own.
pub trait Source: Read + Seek + Clone + Send + Sync + 'static {}
impl<R: Read + Seek + Clone + Send + Sync + 'static> Source for R {}

/// The files in a zip. Tables are unpacked one at a time; other files stay where they are until they are wanted.
struct Files<R> {
    archive: ZipArchive<R>,
    places: HashMap<String, usize>,
    /// Files that are no tables, by their names without the ending.
    stems: HashMap<String, usize>,
    /// What tables may still unpack to, bytes.
    left: u64,
    /// What other files may still unpack to, bytes.
    files_left: u64,
}

impl<R: Source> Files<R> {
    fn open(mut reader: R) -> Result<Self, String> {
        let damaged = |error: &dyn std::fmt::Display| format!("the zip cannot be opened: {error}");
        not_too_many(&mut reader).map_err(|error| damaged(&error))?;
        let mut archive = ZipArchive::new(reader).map_err(|error| damaged(&error))?;
        let (mut places, mut stems) = (HashMap::new(), HashMap::new());
        for index in 0..archive.len() {
            let entry = archive.by_index(index).map_err(|error| format!("the zip is damaged: {error}"))?;
            if entry.is_dir() {
                continue;
            }
            let name =
                entry.name().map_err(|error| format!("a file name in the zip cannot be read: {error}"))?;
            if !name.ends_with(".csv") {
                stems.insert(stem(&name).to_owned(), index);
            }
            places.insert(name.into_owned(), index);
        }
        Ok(Self { archive, places, stems, left: MOST_TABLE_BYTES, files_left: MOST_FILE_BYTES })
    }

    /// A table as it is unpacked, no more of it than is allowed; `None` where there is none.
    fn unpacked(&mut self, name: &str) -> Result<Option<impl Read>, String> {
        let Some(index) = self.places.get(name) else { return Ok(None) };
        let entry = self.archive.by_index(*index).map_err(|error| format!("it is damaged: {error}"))?;
        Ok(Some(Bounded { entry, left: LARGEST_TABLE_BYTES, of_all: &mut self.left }))
    }

    /// A file that is no table, found by its name without the ending: earlier versions took that from the type as it was told.
    fn content(&mut self, wanted: &str) -> Result<FileContent, String> {
        let Some(index) = self.stems.remove(stem(wanted)) else {
            return Err(format!("{wanted} is missing"));
        };
        let bytes =
            self.archive.by_index(index).map_err(|error| format!("{wanted} is damaged: {error}"))?.size();
        if bytes > LARGEST_FILE_BYTES {
            return Err(format!("{wanted} unpacks to more than {} MiB", LARGEST_FILE_BYTES >> 20));
        }
        // Each is unpacked to look at it, however small it is in the zip.
        let too_many = || format!("the files unpack to more than {} GiB", MOST_FILE_BYTES >> 30);
        self.files_left = self.files_left.checked_sub(bytes).ok_or_else(too_many)?;
        Ok(FileContent::there(bytes, InZip { archive: self.archive.clone(), index, bytes }))
    }
}

/// A file's name without its ending.
fn stem(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(before, _)| before)
}

/// A table on its way out of a zip.
struct Bounded<'a, E> {
    entry: E,
    left: u64,
    of_all: &'a mut u64,
}

impl<E: Read> Read for Bounded<'_, E> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let read = self.entry.read(into)?;
        let most =
            |what: &str, most: u64| io::Error::other(format!("{what} to more than {} MiB", most >> 20));
        self.left =
            self.left.checked_sub(read as u64).ok_or_else(|| most("it unpacks", LARGEST_TABLE_BYTES))?;
        *self.of_all = self
            .of_all
            .checked_sub(read as u64)
            .ok_or_else(|| most("the tables unpack", MOST_TABLE_BYTES))?;
        Ok(read)
    }
}

/// A file in a zip.
struct InZip<R> {
    archive: ZipArchive<R>,
    index: usize,
    bytes: u64,
}

impl<R: Source> ContentSource for InZip<R> {
    fn read(&self) -> io::Result<Vec<u8>> {
        let mut content = Vec::new();
        // Each reading goes by a place of its own.
        let mut archive = self.archive.clone();
        archive.by_index(self.index)?.take(self.bytes + 1).read_to_end(&mut content)?;
        Ok(content)
    }
}

/// Refuses a zip of more files than an export has before a list of them is made. By its end record (PKWARE APPNOTE 6.3.10,
/// section 4.3.16); where that says 65,535 it is one of the larger kind.
pub(crate) fn not_too_many(reader: &mut (impl Read + Seek)) -> io::Result<()> {
    let length = reader.seek(SeekFrom::End(0))?;
    let last = length.min(22 + 65_535);
    reader.seek(SeekFrom::Start(length - last))?;
    let mut end = Vec::new();
    reader.take(last).read_to_end(&mut end)?;
    reader.rewind()?;
    let many = end.windows(12).filter(|at| at.starts_with(b"PK\x05\x06")).any(|at| at[10..] == [0xFF, 0xFF]);
    if many { Err(io::Error::other("it holds 65,535 files or more")) } else { Ok(()) }
}

/// Rows of a table that every export has.
fn table<R: Source, T: DeserializeOwned>(
    files: &mut Files<R>,
    name: &str,
    columns: &[Column],
    problems: &mut Vec<RowProblem>,
) -> Vec<(u64, T)> {
    if !files.places.contains_key(name) {
        problems.push(RowProblem::new(name, None, "the file is missing"));
    }
    later_table(files, name, columns, problems)
}

/// Rows of a table; none where there is no such file, as in exports from before the Kit, Survey, Aim and Bands stages and before
/// sittings.
fn later_table<R: Source, T: DeserializeOwned>(
    files: &mut Files<R>,
    name: &str,
    columns: &[Column],
    problems: &mut Vec<RowProblem>,
) -> Vec<(u64, T)> {
    let mut rows = Vec::new();
    each_row(files, name, columns, problems, |line, row| {
        rows.push((line, row));
        Ok(())
    });
    rows
}

/// Gives each row of a table to `take`, without keeping the others.
fn each_row<R: Source, T: DeserializeOwned>(
    files: &mut Files<R>,
    name: &str,
    columns: &[Column],
    problems: &mut Vec<RowProblem>,
    take: impl FnMut(u64, T) -> Result<(), String>,
) {
    match files.unpacked(name) {
        Ok(None) => {}
        Ok(Some(table)) => problems.extend(read(name, columns, table, take)),
        Err(reason) => problems.push(RowProblem::new(name, None, reason)),
    }
}

fn values<T>(rows: Vec<(u64, T)>) -> Vec<T> {
    rows.into_iter().map(|(_, row)| row).collect()
}

/// A sample as its own table holds it: without carriers.
#[derive(Deserialize)]
struct SampleRow {
    #[serde(flatten)]
    rest: serde_json::Map<String, Value>,
}

fn samples_with_carriers<R: Source>(files: &mut Files<R>, problems: &mut Vec<RowProblem>) -> Vec<Sample> {
    let mut samples: Vec<Sample> = Vec::new();
    if !files.places.contains_key("samples.csv") || !files.places.contains_key("carriers.csv") {
        problems.push(RowProblem::new("samples.csv", None, "the file or that of its carriers is missing"));
    }
    each_row(files, "samples.csv", tables::SAMPLES, problems, |_, mut row: SampleRow| {
        row.rest.insert("carriers".into(), Value::Array(Vec::new()));
        samples.push(serde_json::from_value(Value::Object(row.rest)).map_err(|error| error.to_string())?);
        Ok(())
    });
    let places: HashMap<SampleId, usize> =
        samples.iter().enumerate().map(|(at, sample)| (sample.id, at)).collect();
    let mut carriers: Vec<Vec<(u32, Carrier)>> = vec![Vec::new(); samples.len()];
    each_row(files, "carriers.csv", tables::CARRIERS, problems, |_, row: CarrierRow| {
        let missing = || format!("there is no sample {}", row.sample_id);
        let of_sample = &mut carriers[*places.get(&row.sample_id).ok_or_else(missing)?];
        of_sample.reserve_exact(1);
        of_sample.push((row.place, row.carrier));
        Ok(())
    });
    for (sample, mut carriers) in samples.iter_mut().zip(carriers) {
        carriers.sort_by_key(|(place, _)| *place);
        sample.reading.carriers = carriers.into_iter().map(|(_, carrier)| carrier).collect();
    }
    samples
}

fn attachments<R: Source>(files: &mut Files<R>, problems: &mut Vec<RowProblem>) -> Vec<AttachmentFile> {
    let rows: Vec<(u64, Attachment)> = table(files, "attachments.csv", tables::ATTACHMENTS, problems);
    with_content(rows, "attachments.csv", content_name, files, problems)
        .into_iter()
        .map(|(attachment, content)| AttachmentFile { attachment, content })
        .collect()
}

/// Rows with the files that belong to them.
fn with_content<R: Source, T>(
    rows: Vec<(u64, T)>,
    table: &str,
    name: impl Fn(&T) -> String,
    files: &mut Files<R>,
    problems: &mut Vec<RowProblem>,
) -> Vec<(T, FileContent)> {
    let mut found = Vec::new();
    for (line, row) in rows {
        match files.content(&name(&row)) {
            Ok(content) => found.push((row, content)),
            Err(reason) => problems.push(RowProblem::new(table, Some(line), reason)),
        }
    }
    found
}
