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
    (MastField::Name, &["name", "mast", "site", "sitename", "tower", "station", "title", "label", "siteid"]),
    (MastField::Notes, &["notes", "note", "description", "comment", "remarks"]),
];

fn plain(heading: &str) -> String {
    heading.chars().filter(|letter| letter.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// A field for every heading: as it was mapped before, else by its words; each field once.
pub fn guess_columns(headings: &[String], remembered: &[MastColumn]) -> Vec<MastColumn> {
    let mut taken: Vec<MastField> = Vec::new();
    let mut found: Vec<MastColumn> = headings
        .iter()
        .map(|heading| {
            let before = remembered.iter().find(|column| plain(&column.heading) == plain(heading));
            let field = before.map_or(MastField::Ignored, |column| column.field);
            if field != MastField::Ignored {
                taken.push(field);
            }
            MastColumn { heading: heading.clone(), field }
        })
        .collect();
    for (field, words) in WORDS {
        if taken.contains(&field) {
            continue;
        }
        let best = words.iter().find_map(|word| {
            found.iter().position(|column| {
                let remembered =
                    remembered.iter().any(|before| plain(&before.heading) == plain(&column.heading));
                column.field == MastField::Ignored && !remembered && plain(&column.heading) == *word
            })
        });
        if let Some(at) = best {
            found[at].field = field;
            taken.push(field);
        }
    }
    found
}
