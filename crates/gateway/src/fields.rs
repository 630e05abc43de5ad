//! From a JSON document to a reading, by a map of JSON Pointers (RFC 6901).

use open_beacon_core::metrics::flag_oddities;
use open_beacon_core::model::{
    Carrier, CarrierRole, ChannelKind, ConnectionMode, Neighbour, Reading, Technology,
};
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// Where in the page each thing stands. Pointers below `carriers` and `neighbours` are relative to one entry of
/// the list.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldMap {
    pub mode: String,
    pub carriers: String,
    pub neighbours: String,
    pub technology: String,
    pub role: String,
    pub band: String,
    pub channel: String,
    pub channel_kind: String,
    pub bandwidth_mhz: String,
    pub pci: String,
    pub cell_identity: String,
    pub rsrp_dbm: String,
    pub rsrq_db: String,
    pub sinr_db: String,
    pub rssi_dbm: String,
    pub branch_rsrp_dbm: String,
    pub rank: String,
    pub cqi: String,
    pub mcs: String,
    pub transmit_power_dbm: String,
    pub timing_advance: String,
}

impl Default for FieldMap {
    /// The plain page documented in `docs/formats/gateway-status.md`.
    fn default() -> Self {
        let at = |pointer: &str| pointer.to_owned();
        Self {
            mode: at("/radio/mode"),
            carriers: at("/radio/carriers"),
            neighbours: at("/radio/neighbours"),
            technology: at("/technology"),
            role: at("/role"),
            band: at("/band"),
            channel: at("/channel"),
            channel_kind: at("/channel_kind"),
            bandwidth_mhz: at("/bandwidth_mhz"),
            pci: at("/pci"),
            cell_identity: at("/cell_identity"),
            rsrp_dbm: at("/rsrp"),
            rsrq_db: at("/rsrq"),
            sinr_db: at("/sinr"),
            rssi_dbm: at("/rssi"),
            branch_rsrp_dbm: at("/branch_rsrp"),
            rank: at("/rank"),
            cqi: at("/cqi"),
            mcs: at("/mcs"),
            transmit_power_dbm: at("/transmit_power"),
            timing_advance: at("/timing_advance"),
        }
    }
}

/// Why a page is not a status page by this map.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MapError {
    #[error("there is no list of carriers at {0}")]
    NoCarriers(String),
    #[error("{pointer} holds {found} where {wanted} is needed")]
    WrongType { pointer: String, found: String, wanted: &'static str },
}

/// Reads a whole page. Missing fields stay unknown; a field of the wrong type is an error that names it. Values
/// outside their reporting range are kept and flagged.
///
/// # Errors
/// [`MapError`] where there is no carrier list or a field has another type.
pub fn read_fields(page: &Value, map: &FieldMap) -> Result<Reading, MapError> {
    let carriers = page
        .pointer(&map.carriers)
        .and_then(Value::as_array)
        .ok_or_else(|| MapError::NoCarriers(map.carriers.clone()))?;
    let carriers = carriers.iter().map(|entry| carrier(entry, map)).collect::<Result<Vec<_>, _>>()?;
    let neighbours = match page.pointer(&map.neighbours).and_then(Value::as_array) {
        None => Vec::new(),
        Some(entries) => entries.iter().map(|entry| neighbour(entry, map)).collect::<Result<_, _>>()?,
    };
    let mode = match word(page, &map.mode)?.as_deref() {
        Some("lte") => ConnectionMode::Lte,
        Some("nsa") => ConnectionMode::Nsa,
        Some("sa") => ConnectionMode::Sa,
        Some("no_service") => ConnectionMode::NoService,
        _ => ConnectionMode::Unknown,
    };
    Ok(Reading { mode, carriers, neighbours })
}

fn carrier(entry: &Value, map: &FieldMap) -> Result<Carrier, MapError> {
    let technology = technology(entry, map)?;
    let role = match word(entry, &map.role)?.as_deref() {
        Some("anchor") => CarrierRole::Anchor,
        Some("primary") => CarrierRole::Primary,
        Some("secondary") => CarrierRole::Secondary,
        _ => CarrierRole::Unknown,
    };
    let mut carrier = Carrier::empty(technology, role);
    carrier.band = whole(entry, &map.band)?;
    carrier.channel = whole(entry, &map.channel)?;
    carrier.channel_kind = match word(entry, &map.channel_kind)?.as_deref() {
        Some("carrier") => ChannelKind::Carrier,
        Some("ssb") => ChannelKind::Ssb,
        _ => ChannelKind::Unknown,
    };
    carrier.bandwidth_mhz = number(entry, &map.bandwidth_mhz)?;
    carrier.pci = whole(entry, &map.pci)?;
    carrier.cell_identity = whole(entry, &map.cell_identity)?;
    carrier.rsrp_dbm = number(entry, &map.rsrp_dbm)?;
    carrier.rsrq_db = number(entry, &map.rsrq_db)?;
    carrier.sinr_db = number(entry, &map.sinr_db)?;
    carrier.rssi_dbm = number(entry, &map.rssi_dbm)?;
    carrier.branch_rsrp_dbm = numbers(entry, &map.branch_rsrp_dbm)?;
    carrier.rank = whole(entry, &map.rank)?;
    carrier.cqi = whole(entry, &map.cqi)?;
    carrier.mcs = whole(entry, &map.mcs)?;
    carrier.transmit_power_dbm = number(entry, &map.transmit_power_dbm)?;
    carrier.timing_advance = whole(entry, &map.timing_advance)?;
    flag_oddities(&mut carrier);
    Ok(carrier)
}

fn neighbour(entry: &Value, map: &FieldMap) -> Result<Neighbour, MapError> {
    Ok(Neighbour {
        technology: technology(entry, map)?,
        band: whole(entry, &map.band)?,
        channel: whole(entry, &map.channel)?,
        pci: whole(entry, &map.pci)?,
        rsrp_dbm: number(entry, &map.rsrp_dbm)?,
        rsrq_db: number(entry, &map.rsrq_db)?,
    })
}

fn technology(entry: &Value, map: &FieldMap) -> Result<Technology, MapError> {
    match word(entry, &map.technology)?.as_deref() {
        Some("lte") => Ok(Technology::Lte),
        Some("nr") => Ok(Technology::Nr),
        other => Err(MapError::WrongType {
            pointer: map.technology.clone(),
            found: other.map_or_else(|| "nothing".to_owned(), |word| format!("“{word}”")),
            wanted: "“lte” or “nr”",
        }),
    }
}

/// A value that is there and not null.
fn present<'a>(entry: &'a Value, pointer: &str) -> Option<&'a Value> {
    entry.pointer(pointer).filter(|value| !value.is_null())
}

fn wrong(pointer: &str, value: &Value, wanted: &'static str) -> MapError {
    let mut found = value.to_string();
    if found.len() > 60 {
        found = format!("{}…", found.chars().take(60).collect::<String>());
    }
    MapError::WrongType { pointer: pointer.to_owned(), found, wanted }
}

fn word(entry: &Value, pointer: &str) -> Result<Option<String>, MapError> {
    let Some(value) = present(entry, pointer) else { return Ok(None) };
    let text = value.as_str().ok_or_else(|| wrong(pointer, value, "a word"))?;
    Ok(Some(text.to_lowercase()))
}

/// Numbers may be written as text, as many pages do.
fn number(entry: &Value, pointer: &str) -> Result<Option<f64>, MapError> {
    let Some(value) = present(entry, pointer) else { return Ok(None) };
    let read =
        value.as_f64().or_else(|| value.as_str()?.trim().parse().ok()).filter(|number| number.is_finite());
    read.map(Some).ok_or_else(|| wrong(pointer, value, "a number"))
}

fn numbers(entry: &Value, pointer: &str) -> Result<Vec<f64>, MapError> {
    let Some(value) = present(entry, pointer) else { return Ok(Vec::new()) };
    let list = value.as_array().ok_or_else(|| wrong(pointer, value, "a list of numbers"))?;
    list.iter().map(|item| item.as_f64().ok_or_else(|| wrong(pointer, item, "a number"))).collect()
}

fn whole<T: TryFrom<u64>>(entry: &Value, pointer: &str) -> Result<Option<T>, MapError> {
    let Some(value) = present(entry, pointer) else { return Ok(None) };
    let read = value.as_u64().or_else(|| value.as_str()?.trim().parse().ok());
    read.and_then(|number| T::try_from(number).ok())
        .map(Some)
        .ok_or_else(|| wrong(pointer, value, "a whole number in range"))
}
