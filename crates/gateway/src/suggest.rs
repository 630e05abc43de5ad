//! A first map from what can be recognised on a page, to be looked over by the user.

use crate::find::find;
use open_beacon_domain::bands::bands_of_channel;
use open_beacon_domain::model::{CarrierGroup, FieldAt, FieldMap, FieldUnit, PageField, Technology};
use serde_json::Value;
use std::collections::BTreeMap;

/// The field that a name on a page most likely is. Names are compared in small letters without other signs.
fn field_named(name: &str) -> Option<PageField> {
    use PageField as F;
    let plain: String = name.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_lowercase();
    let bare = ["lte", "nr5g", "nr", "5g", "4g", "ss", "serving", "cell"].iter().fold(
        plain.as_str(),
        |name, prefix| match name.strip_prefix(prefix) {
            Some(rest) if rest.len() >= 3 => rest,
            _ => name,
        },
    );
    let bare =
        ["dbm", "db", "mhz", "khz"].iter().fold(bare, |name, suffix| match name.strip_suffix(suffix) {
            Some(rest) if rest.len() >= 2 => rest,
            _ => name,
        });
    Some(match bare {
        "rsrp" | "signalpower" | "power" => F::RsrpDbm,
        "rsrq" | "signalquality" => F::RsrqDb,
        "sinr" | "snr" | "signaltonoise" => F::SinrDb,
        "rssi" => F::RssiDbm,
        "band" | "bandnumber" | "activeband" | "freqband" => F::Band,
        "earfcn" | "nrarfcn" | "arfcn" | "channel" | "dlearfcn" | "dlchannel" => F::Channel,
        "pci" | "physcellid" | "physicalcellid" | "pcid" => F::Pci,
        "cellid" | "cellidentity" | "eci" | "nci" => F::CellIdentity,
        "bandwidth" | "bw" | "dlbandwidth" => F::BandwidthMhz,
        "technology" | "rat" | "mode" | "type" | "networktype" => F::Technology,
        "role" => F::Role,
        "rank" | "ri" => F::Rank,
        "cqi" => F::Cqi,
        "mcs" | "dlmcs" => F::Mcs,
        "txpower" | "transmitpower" => F::TransmitPowerDbm,
        "timingadvance" | "ta" => F::TimingAdvance,
        _ => return None,
    })
}

fn tells_technology(value: &Value) -> bool {
    let said = value.as_str().map(str::to_lowercase);
    matches!(said.as_deref(), Some("lte" | "4g" | "nr" | "5g" | "nr5g"))
}

/// Whether the technology can be told from where something stands: a part that begins with `lte` or `nr`. Not from what
/// is merely in a name, for SINR ends in it.
fn technology_of(place: &str) -> Option<&'static str> {
    let place = place.to_lowercase();
    let begins =
        |with: [&str; 2]| place.split('/').any(|part| with.iter().any(|name| part.starts_with(name)));
    match (begins(["nr", "5g"]), begins(["lte", "4g"])) {
        (true, false) => Some("nr"),
        (false, true) => Some("lte"),
        _ => None,
    }
}

/// Whether the technology can be told from a value: a band written as TS 38.101-1 and TS 36.101 do (`n78`, `B3`), a channel
/// number that only one of them has.
fn technology_in(group: &Value, field: &FieldAt) -> Option<&'static str> {
    let entry = group.as_array().map_or(Some(group), |list| list.first())?;
    let said = match find(entry, &field.at)? {
        Value::String(text) => text.trim().to_lowercase(),
        other => other.to_string(),
    };
    match field.field {
        PageField::Band => match said.split_at_checked(1)? {
            ("n", rest) if rest.parse::<u16>().is_ok() => Some("nr"),
            ("b", rest) if rest.parse::<u16>().is_ok() => Some("lte"),
            _ => None,
        },
        PageField::Channel => {
            let channel = said.parse().ok()?;
            let lte = !bands_of_channel(Technology::Lte, channel).is_empty();
            match (lte, bands_of_channel(Technology::Nr, channel).is_empty()) {
                (true, true) => Some("lte"),
                (false, false) => Some("nr"),
                _ => None,
            }
        }
        _ => None,
    }
}

/// A map of what was recognised; none where no signal strength was.
pub fn suggest_map(page: &Value) -> Option<FieldMap> {
    let mut groups: BTreeMap<String, Vec<FieldAt>> = BTreeMap::new();
    walk(page, "", None, &mut groups);
    // What stands under a heading is found again when a table vanishes; what only has a place is not.
    if groups.keys().any(|at| at.starts_with("/named/")) {
        groups.retain(|at, _| at.starts_with("/named/"));
        let listed: Vec<String> =
            groups.keys().filter_map(|at| Some(at.strip_suffix("/list")?.to_owned())).collect();
        groups.retain(|at, _| {
            at.strip_suffix("/rows").is_none_or(|table| !listed.iter().any(|one| one == table))
        });
    }
    let mut map = FieldMap { mode: None, carriers: Vec::new(), neighbours: Vec::new() };
    for (at, mut fields) in groups {
        if !fields.iter().any(|one| one.field == PageField::RsrpDbm) {
            continue;
        }
        if !fields.iter().any(|one| one.field == PageField::Technology) {
            let from = fields
                .iter()
                .map(|one| one.at.as_str())
                .find_map(technology_of)
                .or_else(|| technology_of(&at))
                .or_else(|| fields.iter().find_map(|field| technology_in(find(page, &at)?, field)));
            let mut fixed = FieldAt::plain(PageField::Technology, "");
            from.unwrap_or("lte").clone_into(&mut fixed.fixed);
            fields.insert(0, fixed);
        }
        let group = CarrierGroup { at, fields };
        if group.at.to_lowercase().contains("neigh") {
            map.neighbours.push(group);
        } else {
            map.carriers.push(group);
        }
    }
    (!map.carriers.is_empty()).then_some(map)
}

/// `list`: the nearest list above, with what leads on from its entries.
fn walk(value: &Value, at: &str, list: Option<(&str, &str)>, groups: &mut BTreeMap<String, Vec<FieldAt>>) {
    match value {
        Value::Object(object) => {
            for (name, child) in object {
                let step = format!("/{}", name.replace('~', "~0").replace('/', "~1"));
                match child {
                    Value::Object(_) | Value::Array(_) => {
                        let below = list.map(|(list, inner)| (list.to_owned(), format!("{inner}{step}")));
                        let below = below.as_ref().map(|(list, inner)| (list.as_str(), inner.as_str()));
                        walk(child, &format!("{at}{step}"), below, groups);
                    }
                    leaf => {
                        let Some(field) = field_named(name) else { continue };
                        if field == PageField::Technology && !tells_technology(leaf) {
                            continue;
                        }
                        let (group, pointer) = match list {
                            Some((list, inner)) => (list.to_owned(), format!("{inner}{step}")),
                            None => (at.to_owned(), step),
                        };
                        let fields = groups.entry(group).or_default();
                        if fields.iter().all(|one| one.field != field) {
                            let (unit, scale) = (unit_of(field, leaf), scale_of(field, leaf));
                            fields.push(FieldAt { unit, scale, ..FieldAt::plain(field, &pointer) });
                        }
                    }
                }
            }
        }
        // One entry stands for all of a list; lists of plain values and lists in lists hold no carriers.
        Value::Array(entries) if list.is_none() => {
            if let Some(first) = entries.iter().find(|one| one.is_object()) {
                walk(first, at, Some((at, "")), groups);
            }
        }
        _ => {}
    }
}

/// A value far outside what can be, of which a tenth can be, is in tenths.
fn scale_of(field: PageField, value: &Value) -> f64 {
    let can_be = match field {
        PageField::RsrpDbm => -160.0..=-20.0,
        PageField::RsrqDb => -45.0..=25.0,
        PageField::SinrDb => -25.0..=45.0,
        _ => return 1.0,
    };
    match value.as_f64() {
        Some(number) if !can_be.contains(&number) && can_be.contains(&(number / 10.0)) => 0.1,
        _ => 1.0,
    }
}

fn unit_of(field: PageField, value: &Value) -> FieldUnit {
    match (field, value) {
        (PageField::CellIdentity, Value::String(text)) if text.parse::<u64>().is_err() => FieldUnit::Hex,
        (PageField::BandwidthMhz, Value::Number(number))
            if number.as_f64().is_some_and(|number| number > 400.0) =>
        {
            FieldUnit::Khz
        }
        _ => FieldUnit::Own,
    }
}
