//! What the columns of a table of results probably are.

use super::numbers::unit_in;
use crate::masts::guess_fields;
use open_beacon_core::model::{ResultColumn, ResultField};

/// Words of headings by field, the surest first. Compared without case, spaces and signs.
const WORDS: [(ResultField, &[&str]); 16] = [
    (
        ResultField::Time,
        &["time", "datetime", "timestamp", "dateandtime", "measuredat", "startedat", "when", "zeit", "tid"],
    ),
    (ResultField::Date, &["date", "day", "datum", "dato"]),
    (ResultField::Clock, &["clock", "timeofday", "localtime", "uhrzeit"]),
    (ResultField::Place, &["position", "setup", "place", "location", "spot", "where", "mount"]),
    (ResultField::Bearing, &["bearing", "azimuth", "direction", "heading", "aim"]),
    (ResultField::Band, &["band", "frequencyband", "lteband", "nrband"]),
    (ResultField::Pci, &["pci", "physicalcellid", "physicalcellidentity"]),
    (ResultField::Rsrp, &["rsrp", "ssrsrp", "signalpower", "signalstrength", "signal"]),
    (ResultField::Sinr, &["sinr", "sssinr", "snr", "rssnr", "signaltonoise"]),
    (ResultField::Rsrq, &["rsrq", "ssrsrq", "signalquality"]),
    (ResultField::Download, &["download", "down", "dl", "downlink", "downloadspeed", "downloadrate"]),
    (ResultField::Upload, &["upload", "up", "ul", "uplink", "uploadspeed", "uploadrate"]),
    (ResultField::Latency, &["latency", "ping", "idlelatency", "rtt", "roundtrip", "roundtriptime"]),
    (ResultField::AverageOf, &["averageof", "avgof", "meanof", "testsaveraged", "numberoftests"]),
    (ResultField::Server, &["server", "servername", "testserver", "host"]),
    (ResultField::Notes, &["notes", "note", "comment", "comments", "remarks", "remark"]),
];

/// A field and a unit for every heading: as it was mapped before, else by its words.
pub(super) fn guess(headings: &[String], remembered: &[ResultColumn]) -> Vec<ResultColumn> {
    let known = |heading: &str| remembered.iter().find(|before| before.heading == heading);
    let mut fields =
        guess_fields(headings, &WORDS, ResultField::Ignored, |heading| known(heading).map(|one| one.field));
    // Beside a date, what is called time is the time of day.
    let of = |fields: &[ResultField], field| fields.iter().position(|one| *one == field);
    if of(&fields, ResultField::Date).is_some()
        && of(&fields, ResultField::Clock).is_none()
        && let Some(at) = of(&fields, ResultField::Time)
    {
        fields[at] = ResultField::Clock;
    }
    let column = |(heading, field): (&String, ResultField)| ResultColumn {
        heading: heading.clone(),
        field,
        unit: known(heading).map_or_else(|| unit_in(heading, field), |before| before.unit.clone()),
    };
    headings.iter().zip(fields).map(column).collect()
}
