//! What the columns of a masts table probably are.

use open_beacon_core::model::{MastColumn, MastField};

/// Words of headings by field, the surest first. Compared without case, spaces and signs.
const WORDS: [(MastField, &[&str]); 17] = [
    (MastField::Latitude, &["latitude", "lat", "breitengrad", "breddegrad", "latitud", "y"]),
    (MastField::Longitude, &["longitude", "lon", "lng", "long", "längengrad", "lengdegrad", "longitud", "x"]),
    (MastField::HeightFt, &["heightft", "heightfeet", "antennaheightft", "feet"]),
    (
        MastField::HeightM,
        &["heightm", "height", "antennaheight", "antennaheightm", "hoehe", "høyde", "hauteur", "agl"],
    ),
    (MastField::Technology, &["technology", "tech", "radio", "rat", "generation", "system"]),
    (MastField::Band, &["band", "bands", "frequencyband"]),
    (MastField::Channel, &["channel", "earfcn", "nrarfcn", "arfcn", "dlearfcn", "channelnumber"]),
    (MastField::BandwidthMhz, &["bandwidthmhz", "bandwidth", "bw", "width"]),
    (MastField::Pci, &["pci", "physicalcellid", "physicalcellidentity"]),
    (MastField::Node, &["node", "enb", "gnb", "enbid", "gnbid", "enodeb", "gnodeb", "basestation", "nodeid"]),
    (MastField::LocalCell, &["localcell", "sector", "sectorid", "localcellid", "lcid", "cell"]),
    (MastField::CellIdentity, &["cellidentity", "cellid", "eci", "nci", "ci", "cid", "globalcellid"]),
    (MastField::BearingDeg, &["bearingdeg", "bearing", "azimuth", "azimuthdeg", "direction", "heading"]),
    (MastField::PowerDbm, &["powerdbm", "power", "txpower", "txpowerdbm"]),
    (MastField::Operator, &["operator", "network", "provider", "carrier", "owner", "company", "betreiber"]),
    (MastField::Name, &["name", "sitename", "mast", "site", "tower", "station", "title", "label", "siteid"]),
    (MastField::Notes, &["notes", "note", "description", "comment", "remarks"]),
];

/// Words that say whose the value is or in what unit, and nothing of which field it is.
const FILLERS: [&str; 38] = [
    "of", "the", "a", "in", "tower", "mast", "site", "station", "antenna", "sector", "cell", "wgs84", "wgs",
    "decimal", "deg", "degrees", "degree", "dd", "m", "metres", "meters", "metre", "meter", "mhz", "dbm",
    "n", "e", "true", "dl", "mbit", "mbps", "kbit", "kbps", "gbit", "gbps", "db", "ms", "s",
];

fn plain(heading: &str) -> String {
    heading.chars().filter(|letter| letter.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// The ways a heading can be read, the closest first: whole, without what stands in brackets, without fillers.
fn readings(heading: &str) -> Vec<String> {
    let mut depth = 0_u32;
    let outside: String = heading
        .chars()
        .filter(|letter| {
            depth = match letter {
                '(' | '[' => depth + 1,
                _ => depth,
            };
            let keep = depth == 0;
            if matches!(letter, ')' | ']') {
                depth = depth.saturating_sub(1);
            }
            keep
        })
        .collect();
    let words = |text: &str| -> Vec<String> {
        text.split(|letter: char| !letter.is_alphanumeric())
            .filter(|word| !word.is_empty())
            .map(str::to_lowercase)
            .collect()
    };
    let telling = |text: &str| -> String {
        words(text).into_iter().filter(|word| !FILLERS.contains(&word.as_str())).collect()
    };
    let mut all = vec![plain(heading)];
    // A length in feet must not be read as one in metres.
    if words(heading).iter().any(|word| matches!(word.as_str(), "ft" | "feet")) {
        all.push(format!("{}ft", telling(&outside).trim_end_matches("ft").trim_end_matches("feet")));
    } else {
        all.extend([plain(&outside), telling(&outside)]);
    }
    all
}

/// A field for every heading: as it was mapped before, else by its words; each field once.
pub fn guess_columns(headings: &[String], remembered: &[MastColumn]) -> Vec<MastColumn> {
    let known = |heading: &str| {
        let before = remembered.iter().find(|before| plain(&before.heading) == plain(heading));
        before.map(|before| before.field)
    };
    let fields = guess_fields(headings, &WORDS, MastField::Ignored, known);
    let column = |(heading, field): (&String, MastField)| MastColumn { heading: heading.clone(), field };
    headings.iter().zip(fields).map(column).collect()
}

/// A field for every heading, for any kind of table: `known` by how it was mapped before, else by `words`; each field once.
pub(crate) fn guess_fields<F: Copy + PartialEq>(
    headings: &[String],
    words: &[(F, &[&str])],
    ignored: F,
    known: impl Fn(&str) -> Option<F>,
) -> Vec<F> {
    let mut found: Vec<F> = headings.iter().map(|heading| known(heading).unwrap_or(ignored)).collect();
    // The closest readings of all headings first, so that "Site" does not take the name from "Site name".
    for closeness in 0..3 {
        for (field, words) in words {
            let is_word = |heading: &str, word: &str| {
                readings(heading).get(closeness).is_some_and(|reading| reading == word)
            };
            let best = words.iter().find_map(|word| {
                headings.iter().zip(&found).position(|(heading, so_far)| {
                    *so_far == ignored && known(heading).is_none() && is_word(heading, word)
                })
            });
            if let Some(at) = best.filter(|_| !found.contains(field)) {
                found[at] = *field;
            }
        }
    }
    found
}
