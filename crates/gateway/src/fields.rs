//! From a page to a reading, by a map of JSON Pointers (RFC 6901).

use open_beacon_domain::metrics::{CodeKind, decode, flag_oddities};
use open_beacon_domain::model::{
    Carrier, CarrierGroup, CarrierRole, ChannelKind, ConnectionMode, FieldAt, FieldMap, FieldUnit, Neighbour,
    PageField, Reading, Technology,
};
use serde_json::Value;

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
/// [`MapError`] where no place of carriers is there, or a field has another type.
pub fn read_fields(page: &Value, map: &FieldMap) -> Result<Reading, MapError> {
    let mut carriers = Vec::new();
    let mut found = false;
    for group in &map.carriers {
        let Some(entries) = entries(page, group) else { continue };
        found = true;
        for entry in entries {
            carriers.push(carrier(entry, group)?);
        }
    }
    if !found {
        let at = map.carriers.first().map(|group| group.at.clone()).unwrap_or_default();
        return Err(MapError::NoCarriers(at));
    }
    // A part of the page about a technology that is not in use says nothing of it.
    if map.carriers.len() > 1 {
        carriers.retain(says_something);
    }
    let mut neighbours = Vec::new();
    for group in &map.neighbours {
        for entry in entries(page, group).unwrap_or_default() {
            neighbours.push(neighbour(entry, group)?);
        }
    }
    let said = map.mode.as_ref().map(|field| word(page, field)).transpose()?.flatten();
    let mode = match said.as_deref() {
        Some("lte" | "4g" | "e-utra" | "e-utran") => ConnectionMode::Lte,
        Some("nsa" | "en-dc" | "endc" | "nr5g-nsa" | "5g nsa") => ConnectionMode::Nsa,
        Some("sa" | "nr5g-sa" | "5g sa") => ConnectionMode::Sa,
        Some("no_service" | "no service" | "none") => ConnectionMode::NoService,
        Some(_) => ConnectionMode::Unknown,
        None if map.mode.is_some() => ConnectionMode::Unknown,
        None => mode_of(&carriers),
    };
    Ok(Reading { mode, carriers, neighbours })
}

/// Where a page tells no mode, the carriers do.
fn mode_of(carriers: &[Carrier]) -> ConnectionMode {
    let has = |technology| carriers.iter().any(|one| one.technology == technology);
    match (has(Technology::Lte), has(Technology::Nr)) {
        (true, true) => ConnectionMode::Nsa,
        (true, false) => ConnectionMode::Lte,
        (false, true) => ConnectionMode::Sa,
        (false, false) => ConnectionMode::NoService,
    }
}

fn says_something(carrier: &Carrier) -> bool {
    [carrier.rsrp_dbm, carrier.rsrq_db, carrier.sinr_db, carrier.rssi_dbm].iter().any(Option::is_some)
        || carrier.pci.is_some()
}

/// The carriers of a group: the entries of a list, or the one object; none where nothing stands there.
fn entries<'a>(page: &'a Value, group: &CarrierGroup) -> Option<Vec<&'a Value>> {
    match page.pointer(&group.at)? {
        Value::Array(list) => Some(list.iter().filter(|one| !one.is_null()).collect()),
        one @ Value::Object(_) => Some(vec![one]),
        _ => None,
    }
}

/// One carrier's part of the page, with the technology that its codes are read by.
struct Entry<'a> {
    value: &'a Value,
    group: &'a CarrierGroup,
    technology: Technology,
}

impl<'a> Entry<'a> {
    fn new(value: &'a Value, group: &'a CarrierGroup) -> Result<Self, MapError> {
        Ok(Self { value, group, technology: technology(value, group)? })
    }

    fn field(&self, field: PageField) -> Option<&'a FieldAt> {
        self.group.fields.iter().find(|one| one.field == field)
    }

    fn word(&self, field: PageField) -> Result<Option<String>, MapError> {
        self.field(field).map_or(Ok(None), |at| word(self.value, at))
    }

    fn number(&self, field: PageField) -> Result<Option<f64>, MapError> {
        let Some(at) = self.field(field) else { return Ok(None) };
        let Some(value) = present(self.value, &at.at) else { return Ok(None) };
        number(value, at, self.technology)
    }

    fn whole<T: TryFrom<u64>>(&self, field: PageField) -> Result<Option<T>, MapError> {
        let Some(at) = self.field(field) else { return Ok(None) };
        let Some(value) = present(self.value, &at.at) else { return Ok(None) };
        whole(value, at)
    }
}

fn carrier(entry: &Value, group: &CarrierGroup) -> Result<Carrier, MapError> {
    use PageField as F;
    let entry = Entry::new(entry, group)?;
    let role = match entry.word(F::Role)?.as_deref() {
        Some("anchor") => CarrierRole::Anchor,
        Some("primary" | "pcc" | "pcell") => CarrierRole::Primary,
        Some("secondary" | "scc" | "scell") => CarrierRole::Secondary,
        _ => CarrierRole::Unknown,
    };
    let mut carrier = Carrier::empty(entry.technology, role);
    carrier.band = entry.whole(F::Band)?;
    carrier.channel = entry.whole(F::Channel)?;
    carrier.channel_kind = match entry.word(F::ChannelKind)?.as_deref() {
        Some("carrier") => ChannelKind::Carrier,
        Some("ssb") => ChannelKind::Ssb,
        _ => ChannelKind::Unknown,
    };
    carrier.bandwidth_mhz = entry.number(F::BandwidthMhz)?;
    carrier.pci = entry.whole(F::Pci)?;
    carrier.cell_identity = entry.whole(F::CellIdentity)?;
    carrier.rsrp_dbm = entry.number(F::RsrpDbm)?;
    carrier.rsrq_db = entry.number(F::RsrqDb)?;
    carrier.sinr_db = entry.number(F::SinrDb)?;
    carrier.rssi_dbm = entry.number(F::RssiDbm)?;
    carrier.branch_rsrp_dbm = branches(&entry)?;
    carrier.rank = entry.whole(F::Rank)?;
    carrier.cqi = entry.whole(F::Cqi)?;
    carrier.mcs = entry.whole(F::Mcs)?;
    carrier.transmit_power_dbm = entry.number(F::TransmitPowerDbm)?;
    carrier.timing_advance = entry.whole(F::TimingAdvance)?;
    flag_oddities(&mut carrier);
    Ok(carrier)
}

fn neighbour(entry: &Value, group: &CarrierGroup) -> Result<Neighbour, MapError> {
    let entry = Entry::new(entry, group)?;
    Ok(Neighbour {
        technology: entry.technology,
        band: entry.whole(PageField::Band)?,
        channel: entry.whole(PageField::Channel)?,
        pci: entry.whole(PageField::Pci)?,
        rsrp_dbm: entry.number(PageField::RsrpDbm)?,
        rsrq_db: entry.number(PageField::RsrqDb)?,
    })
}

fn technology(entry: &Value, group: &CarrierGroup) -> Result<Technology, MapError> {
    let at = group.fields.iter().find(|one| one.field == PageField::Technology);
    let said = at.map(|at| word(entry, at)).transpose()?.flatten();
    match said.as_deref() {
        Some("lte" | "4g" | "e-utra" | "e-utran") => Ok(Technology::Lte),
        Some("nr" | "5g" | "nr5g") => Ok(Technology::Nr),
        other => Err(MapError::WrongType {
            pointer: at.map(|at| at.at.clone()).unwrap_or_default(),
            found: other.map_or_else(|| "nothing".to_owned(), |word| format!("“{word}”")),
            wanted: "“lte” or “nr”",
        }),
    }
}

/// What pages write where they know nothing.
const UNKNOWN: [&str; 7] = ["", "-", "--", "---", "n/a", "na", "null"];

/// A value that is there, not null, and not a way of saying "unknown".
fn present<'a>(entry: &'a Value, pointer: &str) -> Option<&'a Value> {
    entry.pointer(pointer).filter(|value| match value {
        Value::Null => false,
        Value::String(text) => !UNKNOWN.contains(&text.trim().to_lowercase().as_str()),
        _ => true,
    })
}

fn wrong(pointer: &str, value: &Value, wanted: &'static str) -> MapError {
    let mut found = value.to_string();
    if found.len() > 60 {
        found = format!("{}…", found.chars().take(60).collect::<String>());
    }
    MapError::WrongType { pointer: pointer.to_owned(), found, wanted }
}

/// A word in small letters; the page's own words are put into ours.
fn word(entry: &Value, at: &FieldAt) -> Result<Option<String>, MapError> {
    if !at.fixed.is_empty() {
        return Ok(Some(at.fixed.to_lowercase()));
    }
    let Some(value) = present(entry, &at.at) else { return Ok(None) };
    let text = match value {
        Value::String(text) => text.trim().to_lowercase(),
        // Numbers stand for words on many pages, but only where the map says for which.
        Value::Number(number) if !at.words.is_empty() => number.to_string(),
        _ => return Err(wrong(&at.at, value, "a word")),
    };
    let ours = at.words.iter().find(|pair| pair.name.trim().to_lowercase() == text);
    Ok(Some(ours.map_or(text, |pair| pair.value.trim().to_lowercase())))
}

/// The number at the start of a text, with a unit behind it or none: `-97 dBm`, `20MHz`, `−8,5`.
fn leading_number(text: &str) -> Option<f64> {
    let text = text.trim().replace('\u{2212}', "-");
    let body = text.trim_start_matches(['+', '-']);
    let end = body.find(|c: char| !c.is_ascii_digit() && c != '.' && c != ',').unwrap_or(body.len());
    let start = text.len() - body.len();
    let unit = body[end..].trim();
    let fine = start <= 1
        && end > 0
        && unit.len() <= 8
        && unit.chars().all(|c| c.is_ascii_alphabetic() || matches!(c, '%' | '°'));
    let number: f64 = text[..start + end].replace(',', ".").parse().ok()?;
    (fine && number.is_finite()).then_some(number)
}

fn code_kind(field: PageField, technology: Technology) -> Option<CodeKind> {
    match (field, technology) {
        (PageField::RsrpDbm, Technology::Lte) => Some(CodeKind::Rsrp),
        (PageField::RsrqDb, Technology::Lte) => Some(CodeKind::Rsrq),
        (PageField::RsrpDbm, Technology::Nr) => Some(CodeKind::SsRsrp),
        (PageField::RsrqDb, Technology::Nr) => Some(CodeKind::SsRsrq),
        (PageField::SinrDb, Technology::Nr) => Some(CodeKind::SsSinr),
        (PageField::RssiDbm, _) => Some(CodeKind::CsqRssi),
        _ => None,
    }
}

/// Numbers may be written as text, as many pages do.
pub(crate) fn number(value: &Value, at: &FieldAt, technology: Technology) -> Result<Option<f64>, MapError> {
    let read = value.as_f64().or_else(|| leading_number(value.as_str()?)).filter(|number| number.is_finite());
    let number = read.ok_or_else(|| wrong(&at.at, value, "a number"))? * at.scale;
    match at.unit {
        FieldUnit::Own => Ok(Some(number)),
        FieldUnit::Khz => Ok(Some(number / 1e3)),
        FieldUnit::Hz => Ok(Some(number / 1e6)),
        FieldUnit::Hex => whole::<u64>(value, at).map(|read| read.map(|read| read as f64)),
        FieldUnit::Code => {
            let refused = || wrong(&at.at, value, "a code of the standard");
            let kind = code_kind(at.field, technology).ok_or_else(refused)?;
            let code = (number.fract() == 0.0 && (0.0..=255.0).contains(&number)).then_some(number as u16);
            let decoded = decode(kind, code.ok_or_else(refused)?).map_err(|_| refused())?;
            Ok(decoded.map(|interval| interval.shown()))
        }
    }
}

fn branches(entry: &Entry<'_>) -> Result<Vec<f64>, MapError> {
    let Some(at) = entry.field(PageField::BranchRsrpDbm) else { return Ok(Vec::new()) };
    let Some(value) = present(entry.value, &at.at) else { return Ok(Vec::new()) };
    let list = value.as_array().ok_or_else(|| wrong(&at.at, value, "a list of numbers"))?;
    let read = list.iter().map(|item| number(item, at, entry.technology));
    read.filter_map(Result::transpose).collect()
}

/// A whole number; of a band also as `B20` or `n78`.
fn whole<T: TryFrom<u64>>(value: &Value, at: &FieldAt) -> Result<Option<T>, MapError> {
    let text = value.as_str().map(str::trim);
    let read = match (at.unit, text) {
        (FieldUnit::Hex, Some(text)) => {
            let digits = text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")).unwrap_or(text);
            u64::from_str_radix(digits, 16).ok()
        }
        (_, Some(text)) if at.field == PageField::Band => {
            let digits = text.trim_start_matches(|c: char| c.is_ascii_alphabetic() || c == ' ' || c == '-');
            digits.parse().ok()
        }
        (_, Some(text)) => text.parse().ok(),
        (_, None) => value.as_u64().or_else(|| {
            let scaled = value.as_f64()? * at.scale;
            (at.scale != 1.0 && scaled >= 0.0).then_some(scaled.round() as u64)
        }),
    };
    read.and_then(|number| T::try_from(number).ok())
        .map(Some)
        .ok_or_else(|| wrong(&at.at, value, "a whole number in range"))
}
