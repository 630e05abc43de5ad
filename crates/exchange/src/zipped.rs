//! A site as a zip: one CSV a table, and the attachments as they are.

use crate::cells::{Column, write};
use crate::columnar::write_parquet;
use crate::json::Room;
use crate::tables;
use open_beacon_core::limits::{
    LARGEST_IMPORT_BYTES, LARGEST_TABLE_BYTES, MOST_ROWS, MOST_TABLE_BYTES, MOST_VALUES,
};
use open_beacon_core::model::{
    Attachment, BUNDLE_FORMAT, BUNDLE_VERSION, Backdrop, Carrier, FileContent, SampleId, Site, SiteBundle,
    SiteSettings, SweepPhoto, TerrainTile,
};
use serde::{Deserialize, Serialize};
use std::io::{Error, ErrorKind, Result, Write};
use zip::write::{SimpleFileOptions, StreamWriter};
use zip::{CompressionMethod, ZipWriter};

#[derive(Serialize, Deserialize)]
pub(crate) struct Manifest {
    pub(crate) format: String,
    pub(crate) version: u32,
}

#[derive(Serialize, Deserialize)]
pub(crate) struct SiteRow {
    #[serde(flatten)]
    pub(crate) site: Site,
    pub(crate) settings: SiteSettings,
}

#[derive(Serialize, Deserialize)]
pub(crate) struct CarrierRow {
    pub(crate) sample_id: SampleId,
    pub(crate) place: u32,
    #[serde(flatten)]
    pub(crate) carrier: Carrier,
}

/// What a site's tables and files are given to, one at a time.
trait Outgoing {
    fn table<T: Serialize>(
        &mut self,
        name: &str,
        columns: &[Column],
        rows: impl IntoIterator<Item = T>,
    ) -> Result<()>;

    fn file(&mut self, name: &str, content: &FileContent) -> Result<()>;
}

/// A zip on its way out.
struct Zip<W: Write>(ZipWriter<StreamWriter<W>>);

impl<W: Write> Zip<W> {
    fn begin(&mut self, name: &str) -> Result<()> {
        let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
        Ok(self.0.start_file(name, options)?)
    }
}

impl<W: Write> Outgoing for Zip<W> {
    fn table<T: Serialize>(
        &mut self,
        name: &str,
        columns: &[Column],
        rows: impl IntoIterator<Item = T>,
    ) -> Result<()> {
        self.begin(name)?;
        write(columns, rows.into_iter(), &mut self.0)
    }

    fn file(&mut self, name: &str, content: &FileContent) -> Result<()> {
        self.begin(name)?;
        self.0.write_all(&content.read()?)
    }
}

/// The tables alone, each as a Parquet file in a zip.
struct ParquetZip<W: Write>(Zip<W>);

impl<W: Write + Send> Outgoing for ParquetZip<W> {
    fn table<T: Serialize>(
        &mut self,
        name: &str,
        columns: &[Column],
        rows: impl IntoIterator<Item = T>,
    ) -> Result<()> {
        self.0.begin(&name.replace(".csv", ".parquet"))?;
        write_parquet(columns, rows.into_iter(), &mut self.0.0).map_err(Error::other)
    }

    fn file(&mut self, _: &str, _: &FileContent) -> Result<()> {
        Ok(())
    }
}

/// Writes the site's tables as Parquet files in a zip, for programs that work on columns. It is not read again.
///
/// # Errors
/// Those of the target.
pub fn write_parquet_zip(bundle: &SiteBundle, target: impl Write + Send) -> Result<()> {
    let mut out = ParquetZip(Zip(ZipWriter::new_stream(target)));
    give(bundle, &mut out)?;
    out.0.0.finish()?.into_inner().flush()
}

/// How much of a zip is read again.
#[derive(Clone, Copy, Debug)]
pub struct ZipLimit {
    /// Rows of one table.
    pub rows: usize,
    /// Cells of one table.
    pub values: u64,
    /// Bytes of one table.
    pub table_bytes: u64,
    /// Bytes of all tables.
    pub all_bytes: u64,
    /// Bytes of all other files: pictures and terrain get no smaller in a zip.
    pub file_bytes: u64,
}

/// What an import takes.
pub const TAKEN: ZipLimit = ZipLimit {
    rows: MOST_ROWS,
    values: MOST_VALUES,
    table_bytes: LARGEST_TABLE_BYTES,
    all_bytes: MOST_TABLE_BYTES,
    file_bytes: LARGEST_IMPORT_BYTES,
};

/// Counts what a zip would hold, and keeps none of it.
struct Tally {
    limit: ZipLimit,
    all_bytes: u64,
    file_bytes: u64,
}

fn beyond(name: &str, most: u64, what: &str) -> Result<()> {
    let words = format!("{name} takes it above the {most} {what} that are read again");
    Err(Error::new(ErrorKind::FileTooLarge, words))
}

impl Outgoing for Tally {
    fn table<T: Serialize>(
        &mut self,
        name: &str,
        columns: &[Column],
        rows: impl IntoIterator<Item = T>,
    ) -> Result<()> {
        let mut counted = 0_usize;
        let mut room = Room(u64::MAX);
        write(columns, rows.into_iter().inspect(|_| counted += 1), &mut room)?;
        let bytes = u64::MAX - room.0;
        self.all_bytes += bytes;
        let of = self.limit;
        let (what, most) = if counted > of.rows {
            ("rows", of.rows as u64)
        } else if counted as u64 * columns.len() as u64 > of.values {
            ("values", of.values)
        } else if bytes > of.table_bytes {
            ("bytes", of.table_bytes)
        } else if self.all_bytes > of.all_bytes {
            ("bytes in all tables", of.all_bytes)
        } else {
            return Ok(());
        };
        beyond(name, most, what)
    }

    fn file(&mut self, name: &str, content: &FileContent) -> Result<()> {
        self.file_bytes += content.bytes();
        let most = self.limit.file_bytes;
        if self.file_bytes > most { beyond(name, most, "bytes in other files") } else { Ok(()) }
    }
}

/// Which limit keeps the site's zip from being imported again, in words; none where it comes back.
///
/// # Errors
/// Where a file of it cannot be read.
pub fn beyond_zip(bundle: &SiteBundle, limit: ZipLimit) -> Result<Option<String>> {
    match give(bundle, &mut Tally { limit, all_bytes: 0, file_bytes: 0 }) {
        Err(error) if error.kind() == ErrorKind::FileTooLarge => Ok(Some(error.to_string())),
        given => given.map(|()| None),
    }
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
pub fn write_zip(bundle: &SiteBundle, target: impl Write) -> Result<()> {
    let mut out = Zip(ZipWriter::new_stream(target));
    give(bundle, &mut out)?;
    out.0.finish()?.into_inner().flush()
}

/// The tables and files of a site, in the order in which they stand in a zip.
fn give(bundle: &SiteBundle, out: &mut impl Outgoing) -> Result<()> {
    let manifest = Manifest { format: BUNDLE_FORMAT.into(), version: BUNDLE_VERSION };
    let site = SiteRow { site: bundle.site.clone(), settings: bundle.settings.clone() };
    let carriers = bundle.samples.iter().flat_map(|sample| {
        sample.reading.carriers.iter().enumerate().map(|(place, carrier)| CarrierRow {
            sample_id: sample.id,
            place: place as u32,
            carrier: carrier.clone(),
        })
    });
    out.file("manifest.json", &FileContent::from(serde_json::to_vec(&manifest)?))?;
    out.table("site.csv", tables::SITE, [site])?;
    out.table("positions.csv", tables::POSITIONS, &bundle.positions)?;
    out.table("setups.csv", tables::SETUPS, &bundle.setups)?;
    out.table("runs.csv", tables::RUNS, &bundle.runs)?;
    out.table("samples.csv", tables::SAMPLES, &bundle.samples)?;
    out.table("carriers.csv", tables::CARRIERS, carriers)?;
    out.table("kits.csv", tables::KITS, &bundle.kits)?;
    out.table("parts.csv", tables::PARTS, &bundle.parts)?;
    out.table("masts.csv", tables::MASTS, &bundle.masts)?;
    out.table("obstacles.csv", tables::OBSTACLES, &bundle.obstacles)?;
    out.table("landmarks.csv", tables::LANDMARKS, &bundle.landmarks)?;
    out.table("tiles.csv", tables::TILES, bundle.tiles.iter().map(|file| &file.tile))?;
    out.table("backdrops.csv", tables::BACKDROPS, bundle.backdrops.iter().map(|file| &file.backdrop))?;
    out.table("sweeps.csv", tables::SWEEPS, &bundle.sweeps)?;
    out.table("sweep_stops.csv", tables::SWEEP_STOPS, &bundle.sweep_stops)?;
    let photos = bundle.sweep_photos.iter().map(|file| &file.photo);
    out.table("sweep_photos.csv", tables::SWEEP_PHOTOS, photos)?;
    out.table("band_rounds.csv", tables::BAND_ROUNDS, &bundle.band_rounds)?;
    out.table("trials.csv", tables::TRIALS, &bundle.trials)?;
    out.table("predictions.csv", tables::PREDICTIONS, &bundle.predictions)?;
    out.table("speed_courses.csv", tables::SPEED_COURSES, &bundle.speed_courses)?;
    out.table("amendments.csv", tables::AMENDMENTS, &bundle.amendments)?;
    out.table("as_built.csv", tables::AS_BUILT, &bundle.as_built)?;
    out.table("events.csv", tables::EVENTS, &bundle.events)?;
    out.table("sittings.csv", tables::SITTINGS, &bundle.sittings)?;
    out.table("speed_tests.csv", tables::SPEED_TESTS, &bundle.speed_tests)?;
    let attachments = bundle.attachments.iter().map(|file| &file.attachment);
    out.table("attachments.csv", tables::ATTACHMENTS, attachments)?;
    for file in &bundle.attachments {
        out.file(&content_name(&file.attachment), &file.content)?;
    }
    for file in &bundle.tiles {
        out.file(&tile_name(&file.tile), &file.content)?;
    }
    for file in &bundle.backdrops {
        out.file(&backdrop_name(&file.backdrop), &file.content)?;
    }
    for file in &bundle.sweep_photos {
        out.file(&photo_name(&file.photo), &file.content)?;
    }
    Ok(())
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
pub(crate) fn content_name(attachment: &Attachment) -> String {
    format!("attachments/{}.{}", attachment.id, ending(&attachment.media_type))
}

pub(crate) fn tile_name(tile: &TerrainTile) -> String {
    format!("terrain/{}.bin", tile.id)
}

pub(crate) fn backdrop_name(backdrop: &Backdrop) -> String {
    format!("backdrops/{}.{}", backdrop.id, ending(&backdrop.media_type))
}

pub(crate) fn photo_name(photo: &SweepPhoto) -> String {
    format!("photos/{}.{}", photo.id, ending(&photo.media_type))
}
