//! What happened at a site that a later comparison may have to know of: rain began, the mast's crew was seen.

use super::{EventId, SiteId};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// What an event is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum EventKind {
    /// Rain, snow, wind, leaves.
    Weather,
    /// A mast or the operator's network.
    Network,
    /// The gateway: its software, a restart, another place.
    Gateway,
    /// Plan, account or SIM.
    Plan,
    /// House, antenna or cables.
    House,
    /// Anything else.
    #[default]
    Other,
}

/// Something that happened, noted by the user.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SiteEvent {
    /// Identifier.
    pub id: EventId,
    /// The site.
    pub site_id: SiteId,
    /// When it happened or began.
    pub happened_at: DateTime<Utc>,
    /// What it is about.
    #[serde(default)]
    pub kind: EventKind,
    /// What happened, in the user's words.
    pub text: String,
    /// When it was noted.
    pub noted_at: DateTime<Utc>,
    /// When it was archived; none while it counts.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}
