//! What a survey is made of: masts with their cells, what stands in the way, landmarks, and tiles of terrain.

use super::{BackdropId, BandName, KitId, LandmarkId, MastId, ObstacleId, SiteId, Technology, TileId};
use crate::geo::GeoPoint;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// One cell of a mast, as far as it is known.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MastCell {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    #[serde(default)]
    pub band: Option<u16>,
    /// EARFCN or NR-ARFCN.
    #[serde(default)]
    pub channel: Option<u32>,
    /// MHz
    #[serde(default)]
    pub bandwidth_mhz: Option<f64>,
    /// Physical cell identity, 0..=503 (LTE), 0..=1007 (NR).
    #[serde(default)]
    pub pci: Option<u16>,
    /// eNB or gNB identity.
    #[serde(default)]
    pub node: Option<u64>,
    /// Local cell number.
    #[serde(default)]
    pub local_cell: Option<u64>,
    /// Middle of its beam, degrees from true north, 0..360; none for all round or not known.
    #[serde(default)]
    pub bearing_deg: Option<f64>,
    /// Transmit power of the whole carrier on one port, dBm; the usual reference power where not known.
    #[serde(default)]
    pub power_dbm: Option<f64>,
    /// Share of the cell in use, 0..=1, for the interference it makes; a half where not known.
    #[serde(default)]
    pub load: Option<f64>,
}

impl MastCell {
    /// Its band, said or by its channel where that is in one band only.
    pub fn band_name(&self) -> Option<BandName> {
        let by_channel = || {
            let bands = crate::bands::bands_of_channel(self.technology, self.channel?);
            bands.first().copied()
        };
        Some(BandName { technology: self.technology, band: self.band.or_else(by_channel)? })
    }
}

/// A mast.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mast {
    /// Identifier.
    pub id: MastId,
    /// The site.
    pub site_id: SiteId,
    /// Name.
    pub name: String,
    /// Operator, as the user calls it.
    #[serde(default)]
    pub operator: String,
    /// Where.
    pub place: GeoPoint,
    /// Antennas above ground, m, 1..=350; the site's setting where not known.
    #[serde(default)]
    pub height_m: Option<f64>,
    /// Cells, one an entry.
    #[serde(default)]
    pub cells: Vec<MastCell>,
    /// Free text.
    #[serde(default)]
    pub notes: String,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// What stands in the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ObstacleKind {
    /// Trees in leaf, and needle trees at any season.
    TreesInLeaf,
    /// Trees without leaves.
    TreesBare,
    /// A building.
    Building,
    /// The house itself.
    House,
}

impl ObstacleKind {
    /// True for trees.
    pub fn is_trees(self) -> bool {
        matches!(self, Self::TreesInLeaf | Self::TreesBare)
    }
}

/// Trees or a building, drawn on the plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Obstacle {
    /// Identifier.
    pub id: ObstacleId,
    /// The site.
    pub site_id: SiteId,
    /// Name.
    pub name: String,
    /// Kind.
    pub kind: ObstacleKind,
    /// Corners of the outline, three or more, or points of a line, two or more, 200 at the most.
    pub outline: Vec<GeoPoint>,
    /// The outline is a line of this width, m, 0.5..=500; none for a closed outline.
    #[serde(default)]
    pub width_m: Option<f64>,
    /// Top above ground, m, 0..=120.
    pub height_m: f64,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// Something seen from the roof, to aim by.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Landmark {
    /// Identifier.
    pub id: LandmarkId,
    /// The site.
    pub site_id: SiteId,
    /// Name.
    pub name: String,
    /// Where.
    pub place: GeoPoint,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// What a terrain model's heights are of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SurfaceKind {
    /// Bare ground: trees and buildings come on top.
    #[default]
    Ground,
    /// Tree tops and roofs, as radar and laser first returns see them: part of the trees is in it already.
    Surface,
}

/// A corner-to-corner span.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GeoSpan {
    /// Southern edge, degrees.
    pub south_deg: f64,
    /// Western edge, degrees.
    pub west_deg: f64,
    /// Northern edge, degrees.
    pub north_deg: f64,
    /// Eastern edge, degrees.
    pub east_deg: f64,
}

impl GeoSpan {
    /// True within, edges included.
    pub fn holds(&self, point: GeoPoint) -> bool {
        (self.south_deg..=self.north_deg).contains(&point.latitude_deg)
            && (self.west_deg..=self.east_deg).contains(&point.longitude_deg)
    }
}

/// A file of terrain, kept with the site; its content stands apart.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TerrainTile {
    /// Identifier.
    pub id: TileId,
    /// The site.
    pub site_id: SiteId,
    /// Name of the file as it was given.
    pub file_name: String,
    /// "SRTM .hgt", "ESRI ASCII grid", "GeoTIFF".
    pub format: String,
    /// Whether it is bare ground or has trees and houses on it.
    pub surface: SurfaceKind,
    /// What it covers.
    pub span: GeoSpan,
    /// Number of columns.
    pub columns: u32,
    /// Rows, one an entry.
    pub rows: u32,
    /// Between nodes, m, at the middle: west to east, south to north.
    pub step_east_m: f64,
    /// Height of a cell, m.
    pub step_north_m: f64,
    /// Nodes without a height.
    pub voids: u32,
    /// Lowest point, m above sea level.
    pub lowest_m: f64,
    /// Highest point, m above sea level.
    pub highest_m: f64,
    /// Size, bytes.
    pub bytes: u64,
    /// When it was added.
    pub added_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// A point known both on a picture and on the earth.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GroundControlPoint {
    /// From the picture's left edge, pixels.
    pub x_px: f64,
    /// From its upper edge, pixels.
    pub y_px: f64,
    /// Where.
    pub place: GeoPoint,
}

/// The user's own aerial picture behind the plan; its content stands apart.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Backdrop {
    /// Identifier.
    pub id: BackdropId,
    /// The site.
    pub site_id: SiteId,
    /// Name of the file as it was given.
    pub file_name: String,
    /// "image/png", "image/jpeg" or "image/webp".
    pub media_type: String,
    /// Width, pixels.
    pub width_px: u32,
    /// Height, pixels.
    pub height_px: u32,
    /// Size, bytes.
    pub bytes: u64,
    /// Two known points place it; none yet where it was just added.
    #[serde(default)]
    #[serde(alias = "tie_points")]
    pub control_points: Vec<GroundControlPoint>,
    /// How much of it is seen, 0.1..=1.
    pub opacity: f64,
    /// When it was added.
    pub added_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// What a wall or roof is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Material {
    /// Timber.
    Timber,
    /// Brick; clay tiles are taken alike.
    Brick,
    /// Concrete.
    Concrete,
    /// Plasterboard.
    Plasterboard,
    /// Glass.
    Glass,
    /// Glass with a metal coat.
    CoatedGlass,
    /// Foil-backed insulation.
    Foil,
    /// Sheet metal.
    Metal,
}

/// What stands around the antenna.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Clutter {
    /// Water or bare plain.
    Water,
    /// Fields.
    Open,
    /// Houses and gardens.
    Suburban,
    /// Town or trees.
    Woodland,
    /// Close streets.
    DenseTown,
}

/// What a survey reckons with.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurveySettings {
    /// The kit whose antenna is reckoned with; the outdoor panel of the assumptions where none is.
    pub kit_id: Option<KitId>,
    /// Effective earth radius factor, 0.5..=10; 4/3 where not said.
    pub earth_factor: Option<f64>,
    /// Roof over an attic, and wall round a room; the statistics of P.2109 where not said.
    pub roof: Option<Material>,
    /// What the wall is made of.
    pub wall: Option<Material>,
    /// What stands all round the house and is not drawn; none in the open or where it is drawn.
    pub clutter: Option<Clutter>,
    /// Columns of the last masts table, as they were mapped.
    pub mast_columns: Vec<MastColumn>,
}

/// A column of a masts table and what it is taken as.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MastColumn {
    /// Its heading.
    pub heading: String,
    /// Which field it is.
    pub field: MastField,
}

/// What a column of a masts table can be.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum MastField {
    /// Name.
    Name,
    /// Operator.
    Operator,
    /// Latitude.
    Latitude,
    /// Longitude.
    Longitude,
    /// Height, m.
    HeightM,
    /// Height, ft.
    HeightFt,
    /// Technology.
    Technology,
    /// Band.
    Band,
    /// Channel.
    Channel,
    /// Bandwidth, MHz.
    BandwidthMhz,
    /// Physical cell identity.
    Pci,
    /// Node.
    Node,
    /// Local cell.
    LocalCell,
    /// eNB and local cell, or gNB and local cell, in one number.
    CellIdentity,
    /// Bearing, degrees.
    BearingDeg,
    /// Power, dBm.
    PowerDbm,
    /// Notes.
    Notes,
    /// Left out.
    Ignored,
}
