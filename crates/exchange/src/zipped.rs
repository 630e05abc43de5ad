//! A site as a zip: one CSV a table, and the attachments as they are.

use crate::cells::{Column, write};
use crate::tables;
use open_beacon_core::model::{
    Attachment, BUNDLE_FORMAT, BUNDLE_VERSION, Backdrop, Carrier, SampleId, Site, SiteBundle, SiteSettings,
    SweepPhoto, TerrainTile,
};
use serde::{Deserialize, Serialize};
use std::io::Write;
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

/// A zip on its way out: one table or file at a time.
struct Outgoing<W: Write>(ZipWriter<StreamWriter<W>>);

impl<W: Write> Outgoing<W> {
    fn begin(&mut self, name: &str) -> std::io::Result<()> {
        let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
        Ok(self.0.start_file(name, options)?)
    }

    fn table<T: Serialize>(
        &mut self,
        name: &str,
        columns: &[Column],
        rows: impl IntoIterator<Item = T>,
    ) -> std::io::Result<()> {
        self.begin(name)?;
        write(columns, rows.into_iter(), &mut self.0)
    }

    fn file(&mut self, name: &str, content: &[u8]) -> std::io::Result<()> {
        self.begin(name)?;
        self.0.write_all(content)
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
    let mut out = Outgoing(ZipWriter::new_stream(target));
    out.file("manifest.json", &serde_json::to_vec(&manifest)?)?;
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
    out.table("sittings.csv", tables::SITTINGS, &bundle.sittings)?;
    out.table("speed_tests.csv", tables::SPEED_TESTS, &bundle.speed_tests)?;
    let attachments = bundle.attachments.iter().map(|file| &file.attachment);
    out.table("attachments.csv", tables::ATTACHMENTS, attachments)?;
    for file in &bundle.attachments {
        out.file(&content_name(&file.attachment), &file.content.read()?)?;
    }
    for file in &bundle.tiles {
        out.file(&tile_name(&file.tile), &file.content.read()?)?;
    }
    for file in &bundle.backdrops {
        out.file(&backdrop_name(&file.backdrop), &file.content.read()?)?;
    }
    for file in &bundle.sweep_photos {
        out.file(&photo_name(&file.photo), &file.content.read()?)?;
    }
    out.0.finish()?.into_inner().flush()
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
