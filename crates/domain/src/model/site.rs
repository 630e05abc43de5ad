//! A site and the positions on it.

use super::{PositionId, SiteId};
use crate::geo::GeoPoint;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// One household's place, with its own positions, runs and settings.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Site {
    /// Identifier.
    pub id: SiteId,
    /// Name.
    pub name: String,
    /// Where the house stands, if known.
    #[serde(default)]
    pub place: Option<GeoPoint>,
    /// IANA time zone of the site; times are stored in UTC and shown in this zone.
    #[cfg_attr(feature = "schema", schema(value_type = String, example = "Europe/Oslo"))]
    pub time_zone: chrono_tz::Tz,
    /// Free text.
    #[serde(default)]
    pub notes: String,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// How an antenna is held at a position, from the most sheltered to the most exposed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Mount {
    /// On a table or sill inside the house.
    Indoor,
    /// Held to the glass, for instance by suction cups.
    Window,
    /// Under the roof.
    Attic,
    /// On an outside wall.
    Wall,
    /// On the gable or an old dish bracket.
    Gable,
    /// On a mast or bracket on the roof.
    RoofMast,
    /// Strapped to a chimney.
    Chimney,
    /// On a pole away from the house.
    Pole,
    /// Something else.
    Other,
}

impl Mount {
    /// True inside walls and roof.
    pub fn is_indoors(self) -> bool {
        matches!(self, Self::Indoor | Self::Window | Self::Attic)
    }
}

/// A place on the property where an antenna can stand.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Position {
    /// Identifier.
    pub id: PositionId,
    /// The site.
    pub site_id: SiteId,
    /// Name.
    pub name: String,
    /// Coordinates of the position itself, if they are known apart from the site's.
    #[serde(default)]
    pub place: Option<GeoPoint>,
    /// Height of the antenna above ground, m, 0..=200.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, maximum = 200.0))]
    pub height_above_ground_m: Option<f64>,
    /// What it stands on.
    pub mount: Mount,
    /// Where in the house it is, for positions inside.
    #[serde(default)]
    pub spot: Spot,
    /// Free text.
    #[serde(default)]
    pub notes: String,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// Where in the house a position is.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spot {
    /// "Ground floor", "upstairs".
    pub floor: String,
    /// Room.
    pub room: String,
    /// Direction that the spot's wall or window faces, degrees from true north, 0..360.
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, exclusive_maximum = 360.0))]
    pub facing_deg: Option<f64>,
    /// Which window is near, if any.
    pub window: String,
}
