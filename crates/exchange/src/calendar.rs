//! Visits as a calendar (iCalendar, RFC 5545).

use chrono::{DateTime, Duration, Utc};
use icalendar::{Calendar, Component, Event, EventLike};
use open_beacon_core::model::SiteId;
use uuid::Uuid;

/// An appointment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CalendarEntry {
    pub starts_at: DateTime<Utc>,
    pub minutes: i64,
    pub title: String,
    pub detail: String,
}

/// The calendar of a site. Identifiers follow from site and hour: a calendar taken in again doubles nothing.
pub fn calendar(site: SiteId, entries: &[CalendarEntry], now: DateTime<Utc>) -> String {
    let mut calendar = Calendar::empty();
    calendar.append_property(("VERSION", "2.0")).append_property(("PRODID", "-//Open Beacon//Test plan//EN"));
    calendar.append_property(("CALSCALE", "GREGORIAN"));
    for entry in entries {
        let id = Uuid::new_v5(&site.0, entry.starts_at.to_rfc3339().as_bytes());
        calendar.push(
            Event::new()
                .uid(&id.to_string())
                .timestamp(now)
                .starts(entry.starts_at)
                .ends(entry.starts_at + Duration::minutes(entry.minutes.max(1)))
                .summary(&entry.title)
                .description(&entry.detail)
                .done(),
        );
    }
    calendar.to_string()
}
