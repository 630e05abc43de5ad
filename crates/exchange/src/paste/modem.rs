//! Answers of the standard's modem commands: `+CESQ`, `+CSQ`, `+CEREG`, `+C5GREG` (3GPP TS 27.007).

use super::gather::{Gatherer, Group};
use super::value::{Found, Value};
use super::{Confidence, PasteTarget};
use open_beacon_core::metrics::{CodeKind, Metric, decode};
use open_beacon_core::model::Technology;

/// Reads one line if it is such an answer.
pub(super) fn read(line: &str, gathered: &mut Gatherer) -> bool {
    let Some((name, values)) = line.trim().strip_prefix('+').and_then(|rest| rest.split_once(':')) else {
        return false;
    };
    let fields: Vec<&str> = values.split(',').map(|field| field.trim().trim_matches('"')).collect();
    match name {
        "CESQ" => {
            let kinds = [
                (4, CodeKind::Rsrq),
                (5, CodeKind::Rsrp),
                (6, CodeKind::SsRsrq),
                (7, CodeKind::SsRsrp),
                (8, CodeKind::SsSinr),
            ];
            for (at, kind) in kinds {
                code(line, kind, fields.get(at).copied(), gathered);
            }
            true
        }
        "CSQ" => {
            code(line, CodeKind::CsqRssi, fields.first().copied(), gathered);
            true
        }
        "CEREG" => registration(line, Technology::Lte, &fields, gathered),
        "C5GREG" => registration(line, Technology::Nr, &fields, gathered),
        _ => false,
    }
}

fn code(line: &str, kind: CodeKind, text: Option<&str>, gathered: &mut Gatherer) {
    let Some(Ok(number)) = text.map(str::parse::<u16>) else { return };
    let Ok(decoded) = decode(kind, number) else {
        gathered.leave(format!("{}: {number} is no code of this kind", line.trim()));
        return;
    };
    let Some(interval) = decoded else { return };
    let (technology, metric) = kind.metric();
    let target = match metric {
        Metric::Rsrp => PasteTarget::Rsrp,
        Metric::Rsrq => PasteTarget::Rsrq,
        Metric::Sinr => PasteTarget::Sinr,
        Metric::Rssi => PasteTarget::Rssi,
    };
    let found = Found {
        value: Value::Number(target, interval.shown()),
        text: number.to_string(),
        confidence: Confidence::High,
        note: Some("A code of the standard: the middle of its interval is shown.".into()),
    };
    let group = Group { technology: Some(technology), ..Group::default() };
    if let Err(unused) = gathered.take(&group, line, found) {
        gathered.leave(format!("{}: {unused}", line.trim()));
    }
}

/// `+CEREG: 2,1,"1A2B","01A2B302",7`: the cell identity is the hexadecimal field after the area code.
fn registration(line: &str, technology: Technology, fields: &[&str], gathered: &mut Gatherer) -> bool {
    let hexadecimal = |field: &&&str| field.len() >= 7 && field.chars().all(|c| c.is_ascii_hexdigit());
    let Some(field) = fields.iter().find(hexadecimal) else { return false };
    let Ok(identity) = u64::from_str_radix(field, 16) else { return false };
    let found = Found {
        value: Value::Whole(PasteTarget::CellIdentity, identity),
        text: (*field).to_owned(),
        confidence: Confidence::High,
        note: None,
    };
    let group = Group { technology: Some(technology), ..Group::default() };
    gathered.take(&group, line, found).is_ok()
}
