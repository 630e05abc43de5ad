//! Whether an answer is a status page at all: what fails here is a failed look with its reason, never a sample.

use crate::find::{find, label};
use crate::page::asks_for_login;
use open_beacon_domain::model::{Carrier, PageChecks, PageCondition, PageField, PageFormat, Reading};
use serde_json::Value;

/// Names under which pages report that they could not answer (common practice, no source).
const ERROR_KEYS: [&str; 7] = ["error", "error_code", "errorcode", "errcode", "errno", "err", "error_msg"];

/// Whether the text of an answer is whole. `closed`: an earlier answer of this page was seen to close its HTML.
///
/// # Errors
/// What is missing, in words.
pub(crate) fn whole(body: &str, checks: &PageChecks, closed: bool) -> Result<(), String> {
    let end = body.trim_end();
    if !checks.end_mark.is_empty() && !end.ends_with(checks.end_mark.trim()) {
        return Err(format!("the page is torn: it does not end with {}", checks.end_mark.trim()));
    }
    if closed && !closes(body) {
        return Err("the page is torn: it does not end as it did before".into());
    }
    Ok(())
}

/// Whether HTML is closed at the end of an answer.
pub(crate) fn closes(body: &str) -> bool {
    body.trim_end().to_ascii_lowercase().ends_with("</html>")
}

/// Whether a page asks to be signed in to, by the recipe's signs or by a field for a password.
pub(crate) fn wants_login(body: &str, checks: &PageChecks) -> bool {
    let stated = |sign: &String| !sign.trim().is_empty() && body.contains(sign.trim());
    checks.login_signs.iter().any(stated) || asks_for_login(body)
}

fn holds(body: &str, page: &Value, condition: &PageCondition) -> bool {
    let wanted = label(&condition.is);
    if condition.at.is_empty() {
        return body.to_lowercase().contains(&wanted);
    }
    find(page, &condition.at).is_some_and(|value| match value {
        Value::String(text) => label(text) == wanted,
        other => label(&other.to_string()) == wanted,
    })
}

/// Whether the page reports an error instead of its values: a code other than zero, or words.
pub(crate) fn reported_error(page: &Value) -> Option<String> {
    let fails = |value: &Value| match value {
        Value::Number(code) => code.as_f64() != Some(0.0),
        Value::Bool(failed) => *failed,
        Value::String(text) => {
            let said = label(text);
            !matches!(said.as_str(), "" | "0" | "ok" | "none" | "no" | "false" | "success" | "no error")
        }
        _ => false,
    };
    page.as_object()?.iter().find_map(|(key, value)| {
        let named = ERROR_KEYS.contains(&key.to_lowercase().as_str());
        (named && fails(value)).then(|| format!("the page reports an error ({key}: {value})"))
    })
}

/// What a recipe's conditions make of a page: `Some` where they are evidence of no service.
///
/// # Errors
/// Which condition does not hold, in words.
pub(crate) fn conditions(
    body: &str,
    page: &Value,
    format: PageFormat,
    checks: &PageChecks,
) -> Result<Option<Reading>, String> {
    if let Some(failed) = checks.must_hold.iter().find(|one| !holds(body, page, one)) {
        let place = if failed.at.is_empty() { "in it".to_owned() } else { format!("at {}", failed.at) };
        return Err(format!("the page is not the one wanted: “{}” does not stand {place}", failed.is));
    }
    let no_service =
        !checks.no_service.is_empty() && checks.no_service.iter().all(|one| holds(body, page, one));
    if no_service {
        return Ok(Some(Reading::no_service()));
    }
    match reported_error(page).filter(|_| format != PageFormat::Html) {
        Some(problem) => Err(problem),
        None => Ok(None),
    }
}

/// Whether every carrier shows what the recipe requires of it.
///
/// # Errors
/// Which field of which carrier is missing, in words.
pub(crate) fn complete(reading: &Reading, checks: &PageChecks) -> Result<(), String> {
    for (at, carrier) in reading.carriers.iter().enumerate() {
        if let Some(missing) = checks.required.iter().find(|field| !shows(carrier, **field)) {
            return Err(format!("the page is torn: carrier {} shows no {}", at + 1, field_words(*missing)));
        }
    }
    Ok(())
}

/// Whether a carrier has a field.
pub(crate) fn shows(carrier: &Carrier, field: PageField) -> bool {
    match field {
        PageField::Band => carrier.band.is_some(),
        PageField::Channel => carrier.channel.is_some(),
        PageField::BandwidthMhz => carrier.bandwidth_mhz.is_some(),
        PageField::Pci => carrier.pci.is_some(),
        PageField::CellIdentity => carrier.cell_identity.is_some(),
        PageField::RsrpDbm => carrier.rsrp_dbm.is_some(),
        PageField::RsrqDb => carrier.rsrq_db.is_some(),
        PageField::SinrDb => carrier.sinr_db.is_some(),
        PageField::RssiDbm => carrier.rssi_dbm.is_some(),
        PageField::BranchRsrpDbm => !carrier.branch_rsrp_dbm.is_empty(),
        PageField::Rank => carrier.rank.is_some(),
        PageField::Cqi => carrier.cqi.is_some(),
        PageField::Mcs => carrier.mcs.is_some(),
        PageField::TransmitPowerDbm => carrier.transmit_power_dbm.is_some(),
        PageField::TimingAdvance => carrier.timing_advance.is_some(),
        PageField::Mode | PageField::Technology | PageField::Role | PageField::ChannelKind => true,
    }
}

fn field_words(field: PageField) -> String {
    let name = serde_json::to_value(field).ok();
    let name = name.as_ref().and_then(Value::as_str).unwrap_or_default();
    let unit = name.trim_end_matches("_dbm").trim_end_matches("_db").trim_end_matches("_mhz");
    match field {
        PageField::RsrpDbm | PageField::RsrqDb | PageField::SinrDb | PageField::RssiDbm | PageField::Pci => {
            unit.to_uppercase()
        }
        _ => unit.replace('_', " "),
    }
}
