//! What happened at the demo site beside the measuring.

use chrono::{DateTime, Duration, Utc};
use open_beacon_core::model::{EventId, EventKind, SiteEvent, SiteId};
use uuid::Uuid;

/// Invented events of the days from `first_day` on.
pub(crate) fn happened(
    site_id: SiteId,
    first_day: DateTime<Utc>,
    id: impl Fn(&str) -> Uuid,
) -> Vec<SiteEvent> {
    let all = [
        (40, EventKind::Weather, "Sleet from the north-west until noon"),
        (54, EventKind::Network, "Two men with a van at the Skarvnut mast"),
        (70, EventKind::House, "New plywood sheet in the attic window"),
    ];
    let event = |(hour, kind, text): (i64, EventKind, &str)| {
        let happened_at = first_day + Duration::hours(hour);
        let id = EventId(id(&format!("event/{hour}")));
        SiteEvent {
            id,
            site_id,
            happened_at,
            kind,
            text: text.into(),
            noted_at: happened_at,
            archived_at: None,
        }
    };
    all.into_iter().map(event).collect()
}
