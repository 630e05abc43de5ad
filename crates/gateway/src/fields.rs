//! From a page to a reading, by a map of JSON Pointers (RFC 6901).

use crate::find::{find, standing};
use open_beacon_domain::bands::bands_of_channel;
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
    /// Nothing is no evidence of no service: a torn or foreign page shows nothing, too.
    #[error("the page shows no carrier, and does not say that there is no service")]
    NothingShown,
    #[error(
        "{technology} is said of channel {channel}, which only {other} has: is this another carrier's row?"
    )]
    OtherTechnology { technology: &'static str, channel: u32, other: &'static str },
}

/// Reads a whole page. Missing fields stay unknown; a field of the wrong type is an error that names it. Values
/// outside their reporting range are kept and flagged.
///
/// # Errors
/// [`MapError`] where no place of carriers is there, or a field has another type.
pub fn read_fields(page: &Value, map: &FieldMap) -> Result<Reading, MapError> {
    read_carriers(page, map, false)
}

/// [`read_fields`]; `keep_named`: a carrier that is only named, without any value, stays a carrier, so that what it lacks can be told.
///
/// # Errors
/// Those of [`read_fields`].
pub(crate) fn read_carriers(page: &Value, map: &FieldMap, keep_named: bool) -> Result<Reading, MapError> {
    let mut carriers = Vec::new();
    let (mut found, mut empty_list) = (false, false);
    for group in &map.carriers {
        let Some(entries) = entries(page, group) else { continue };
        found = true;
        empty_list |= find(page, &group.at).is_some_and(|there| there.as_array().is_some_and(Vec::is_empty));
        // The page itself says that there is a carrier of this kind.
        let told = group.fields.iter().any(|one| one.field == PageField::Technology && one.fixed.is_empty());
        for entry in entries {
            let (carrier, filled) = carrier(entry, group)?;
            // A part of the page about a technology that is not in use says nothing of it.
            let stays = match map.carriers.len() {
                0 | 1 => told && !filled || is_named(&carrier),
                _ => says_something(&carrier) || keep_named && is_named(&carrier),
            };
            carriers.extend(stays.then_some(carrier));
        }
    }
    if !found {
        let at = map.carriers.first().map(|group| group.at.clone()).unwrap_or_default();
        return Err(MapError::NoCarriers(at));
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
        None if carriers.is_empty() => ConnectionMode::NoService,
        None if map.mode.is_some() => ConnectionMode::Unknown,
        None => mode_of(&carriers),
    };
    let told = matches!(mode, ConnectionMode::NoService) && said.is_some();
    if carriers.is_empty() && !told && !empty_list {
        return Err(MapError::NothingShown);
    }
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

/// A row about some carrier, though it may show no values.
fn is_named(carrier: &Carrier) -> bool {
    says_something(carrier)
        || carrier.band.is_some()
        || carrier.channel.is_some()
        || carrier.cell_identity.is_some()
}

fn says_something(carrier: &Carrier) -> bool {
    [carrier.rsrp_dbm, carrier.rsrq_db, carrier.sinr_db, carrier.rssi_dbm].iter().any(Option::is_some)
        || carrier.pci.is_some()
}

/// The carriers of a group: the entries of a list, or the one object; none where nothing stands there.
fn entries<'a>(page: &'a Value, group: &CarrierGroup) -> Option<Vec<&'a Value>> {
    match find(page, &group.at)? {
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
        let Some(value) = standing(self.value, at) else { return Ok(None) };
        number(value, at, self.technology)
    }

    fn whole<T: TryFrom<u64>>(&self, field: PageField) -> Result<Option<T>, MapError> {
        let Some(at) = self.field(field) else { return Ok(None) };
        let Some(value) = standing(self.value, at) else { return Ok(None) };
        whole(value, at)
    }
}

/// One carrier, and whether zeros were only filled in for its values.
fn carrier(entry: &Value, group: &CarrierGroup) -> Result<(Carrier, bool), MapError> {
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
    let filled = unfill(&mut carrier);
    of_its_technology(&carrier)?;
    flag_oddities(&mut carrier);
    Ok((carrier, filled))
}

/// Zero everywhere is what a device fills in where it has nothing: no cell is received with 0 dBm.
fn unfill(carrier: &mut Carrier) -> bool {
    let zero = |value: Option<f64>| value.is_none_or(|value| value == 0.0);
    let others = [carrier.rsrq_db, carrier.sinr_db, carrier.rssi_dbm];
    if carrier.rsrp_dbm != Some(0.0) || !others.into_iter().all(zero) {
        return false;
    }
    (carrier.rsrp_dbm, carrier.rsrq_db) = (None, None);
    (carrier.sinr_db, carrier.rssi_dbm) = (None, None);
    carrier.pci = carrier.pci.filter(|pci| *pci != 0);
    carrier.band = carrier.band.filter(|band| *band != 0);
    carrier.channel = carrier.channel.filter(|channel| *channel != 0);
    carrier.cell_identity = carrier.cell_identity.filter(|identity| *identity != 0);
    true
}

/// A table that vanished shifts the next one into its place: a channel that only the other technology has tells.
fn of_its_technology(carrier: &Carrier) -> Result<(), MapError> {
    let (own, technology, other_technology, other) = match carrier.technology {
        Technology::Lte => (Technology::Lte, "LTE", Technology::Nr, "NR"),
        Technology::Nr => (Technology::Nr, "NR", Technology::Lte, "LTE"),
    };
    match carrier.channel {
        Some(channel)
            if bands_of_channel(own, channel).is_empty()
                && !bands_of_channel(other_technology, channel).is_empty() =>
        {
            Err(MapError::OtherTechnology { technology, channel, other })
        }
        _ => Ok(()),
    }
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
    let Some(value) = standing(entry, at) else { return Ok(None) };
    let text = match value {
        Value::String(text) => text.trim().to_lowercase(),
        // Numbers stand for words on many pages, but only where the map says for which.
        Value::Number(number) if !at.words.is_empty() => number.to_string(),
        _ => return Err(wrong(&at.at, value, "a word")),
    };
    let ours = at.words.iter().find(|pair| pair.name.trim().to_lowercase() == text);
    Ok(Some(ours.map_or(text, |pair| pair.value.trim().to_lowercase())))
}

/// The number of a text, with a label before it or none, and a unit behind it or none: `-97 dBm`, `SINR: 12,5 dB`, `20MHz`, `−8,5`.
fn number_in(text: &str) -> Option<f64> {
    leading_number(text).or_else(|| {
        let (label, rest) = text.split_once([':', '='])?;
        label.chars().any(char::is_alphabetic).then(|| leading_number(rest))?
    })
}

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
    let read = value.as_f64().or_else(|| number_in(value.as_str()?)).filter(|number| number.is_finite());
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
    let Some(value) = standing(entry.value, at) else { return Ok(Vec::new()) };
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
