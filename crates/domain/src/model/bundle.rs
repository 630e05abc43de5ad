//! A whole site as one value, for export and import.

use super::{
    Amendment, AsBuilt, Attachment, Backdrop, BandRound, FileContent, KeptPrediction, Kit, Landmark, Mast,
    Obstacle, Part, Position, Run, Sample, Setup, Site, SiteEvent, SiteSettings, Sitting, SpeedCourse,
    SpeedTest, Sweep, SweepPhoto, SweepStop, TerrainTile, Trial,
};
use serde::{Deserialize, Serialize};

/// Name of the format, the same in every version.
pub const BUNDLE_FORMAT: &str = "open-beacon-site";
/// Version of the format this program writes.
pub const BUNDLE_VERSION: u32 = 11;

/// A site with everything recorded on it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SiteBundle {
    /// Always `open-beacon-site`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// The site.
    pub site: Site,
    /// Settings of the site.
    pub settings: SiteSettings,
    /// Positions.
    pub positions: Vec<Position>,
    /// Setups.
    pub setups: Vec<Setup>,
    /// Runs.
    pub runs: Vec<Run>,
    /// Samples.
    pub samples: Vec<Sample>,
    /// Speed tests.
    pub speed_tests: Vec<SpeedTest>,
    /// Visits to one hour that the tests are of; from version 2 on.
    #[serde(default)]
    pub sittings: Vec<Sitting>,
    /// Files with their content.
    pub attachments: Vec<AttachmentFile>,
    /// Kits considered or bought.
    #[serde(default)]
    pub kits: Vec<Kit>,
    /// The parts that the kits name, as they stood in the catalogue.
    #[serde(default)]
    pub parts: Vec<Part>,
    /// Masts.
    #[serde(default)]
    pub masts: Vec<Mast>,
    /// Trees and buildings on the plan.
    #[serde(default)]
    pub obstacles: Vec<Obstacle>,
    /// Landmarks to aim by.
    #[serde(default)]
    pub landmarks: Vec<Landmark>,
    /// Files of terrain, as they were given.
    #[serde(default)]
    pub tiles: Vec<TileFile>,
    /// Aerial pictures behind the plan.
    #[serde(default)]
    pub backdrops: Vec<BackdropFile>,
    /// Sweeps.
    #[serde(default)]
    pub sweeps: Vec<Sweep>,
    /// Points of sweeps.
    #[serde(default)]
    pub sweep_stops: Vec<SweepStop>,
    /// Pictures of sweeps, with content.
    #[serde(default)]
    pub sweep_photos: Vec<SweepPhotoFile>,
    /// Rounds of band trials.
    #[serde(default)]
    pub band_rounds: Vec<BandRound>,
    /// Visits to choices of bands.
    #[serde(default)]
    pub trials: Vec<Trial>,
    /// What was foretold of setups before they were measured; from version 5 on.
    #[serde(default)]
    pub predictions: Vec<KeptPrediction>,
    /// How speed tests went; from version 6 on.
    #[serde(default)]
    pub speed_courses: Vec<SpeedCourse>,
    /// What happened at the site; from version 8 on.
    #[serde(default)]
    pub events: Vec<SiteEvent>,
    /// Corrections of typed runs; from version 8 on.
    #[serde(default)]
    pub amendments: Vec<Amendment>,
    /// Sheets of what was built; from version 10 on.
    #[serde(default)]
    pub as_built: Vec<AsBuilt>,
}

/// A photograph of a sweep with its content.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepPhotoFile {
    /// What is known of the picture.
    #[serde(flatten)]
    pub photo: SweepPhoto,
    /// Base64 (RFC 4648, section 4).
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "byte"))]
    pub content: FileContent,
}

/// An aerial picture with its content.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BackdropFile {
    /// What is known of the picture.
    #[serde(flatten)]
    pub backdrop: Backdrop,
    /// Base64 (RFC 4648, section 4).
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "byte"))]
    pub content: FileContent,
}

/// A terrain file with its content.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TileFile {
    /// What is known of the tile.
    #[serde(flatten)]
    pub tile: TerrainTile,
    /// Base64 (RFC 4648, section 4).
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "byte"))]
    pub content: FileContent,
}

/// An attachment with its content.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AttachmentFile {
    /// What is known of the file.
    #[serde(flatten)]
    pub attachment: Attachment,
    /// Base64 (RFC 4648, section 4).
    #[cfg_attr(feature = "schema", schema(value_type = String, format = "byte"))]
    pub content: FileContent,
}
