//! Visits as a calendar, read by another library than the one that wrote it, and by the letter of RFC 5545.

use chrono::{DateTime, TimeZone, Utc};
use ical::IcalParser;
use open_beacon_core::model::SiteId;
use open_beacon_exchange::{CalendarEntry, calendar};
use proptest::prelude::*;
use uuid::Uuid;

fn now() -> DateTime<Utc> {
    Utc.with_ymd_and_hms(2026, 11, 28, 9, 0, 0).unwrap()
}

fn entry(title: &str, detail: &str) -> CalendarEntry {
    let starts_at = Utc.with_ymd_and_hms(2026, 11, 28, 18, 0, 0).unwrap();
    CalendarEntry { starts_at, minutes: 35, title: title.into(), detail: detail.into() }
}

/// Name and value of every property of every event.
fn read(text: &str) -> Vec<Vec<(String, String)>> {
    let calendars: Vec<_> = IcalParser::new(text.as_bytes()).map(Result::unwrap).collect();
    assert_eq!(calendars.len(), 1);
    let of = |event: &ical::parser::ical::component::IcalEvent| {
        event.properties.iter().map(|one| (one.name.clone(), one.value.clone().unwrap_or_default())).collect()
    };
    calendars[0].events.iter().map(of).collect()
}

/// Text as RFC 5545, section 3.3.11, escapes it.
fn unescaped(value: &str) -> String {
    let (mut text, mut letters) = (String::new(), value.chars());
    while let Some(letter) = letters.next() {
        match letter {
            '\\' => match letters.next() {
                Some('n' | 'N') => text.push('\n'),
                Some(other) => text.push(other),
                None => {}
            },
            other => text.push(other),
        }
    }
    text
}

#[test]
fn a_calendar_has_what_others_need() {
    let site = SiteId(Uuid::from_u128(1));
    let text =
        calendar(site, &[entry("Speed tests at Croft", "Two tests at Sill, then four at Gable.")], now());
    for line in ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Open Beacon//Test plan//EN", "END:VCALENDAR"] {
        assert!(text.lines().any(|one| one == line), "{line}: {text}");
    }
    let events = read(&text);
    let of =
        |name: &str| events[0].iter().find(|one| one.0 == name).map(|one| one.1.clone()).unwrap_or_default();
    assert_eq!((of("DTSTART"), of("DTEND")), ("20261128T180000Z".into(), "20261128T183500Z".into()));
    assert_eq!(of("DTSTAMP"), "20261128T090000Z");
    assert_eq!(unescaped(&of("DESCRIPTION")), "Two tests at Sill, then four at Gable.");
    // The same visit is the same event, another hour another one.
    let again = calendar(site, &[entry("Speed tests", "")], now());
    assert_eq!(read(&again)[0].iter().find(|one| one.0 == "UID").unwrap().1, of("UID"));
    let other = calendar(SiteId(Uuid::from_u128(2)), &[entry("Speed tests", "")], now());
    assert_ne!(read(&other)[0].iter().find(|one| one.0 == "UID").unwrap().1, of("UID"));
    assert!(read(&calendar(site, &[], now())).is_empty());
}

proptest! {
    /// Whatever a setup is called: lines end as they must and are short, and the text comes back.
    #[test]
    fn any_text_comes_back(title in "[^\\p{Cc}]{0,90}", detail in "[^\\p{Cc}]{0,300}") {
        let text = calendar(SiteId(Uuid::from_u128(1)), &[entry(&title, &detail)], now());
        prop_assert!(text.ends_with("END:VCALENDAR\r\n"));
        for line in text.split("\r\n") {
            // 75 octets should not be passed (section 3.1); the library does not count the space of a folded line.
            prop_assert!(line.len() <= 80 && !line.contains(['\r', '\n']), "{line:?}");
        }
        prop_assert_eq!(read(&text).len(), 1);
        // Lines are unfolded here (section 3.1): the library loses a colon at the start of a value.
        let whole = text.replace("\r\n ", "");
        let of = |name: &str| whole.lines().find_map(|line| line.strip_prefix(name)).map(unescaped);
        prop_assert_eq!(of("SUMMARY:"), Some(title));
        prop_assert_eq!(of("DESCRIPTION:"), Some(detail));
    }
}
