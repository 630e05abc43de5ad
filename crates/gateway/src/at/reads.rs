//! Reads that a user gave: a question, and one line of its answer with fields in braces.

use crate::fields::number;
use crate::http::{DriverError, nonsense};
use open_beacon_domain::metrics::flag_oddities;
use open_beacon_domain::model::{Carrier, CarrierRole, FieldAt, ModemRead, PageField, Reading};
use serde_json::Value;

/// Puts what the user's own reads found into the reading: into the carrier of that technology, or a new one.
pub(super) fn read_more(
    reads: &[ModemRead],
    answers: &[Vec<String>],
    reading: &mut Reading,
) -> Result<(), DriverError> {
    for (read, lines) in reads.iter().zip(answers) {
        let found = lines.iter().find_map(|line| Some((line, matched(&read.answer, line)?)));
        let Some((line, fields)) = found else {
            // A modem that is not attached has nothing to say; one that says something else is told of.
            if lines.is_empty() {
                continue;
            }
            return Err(nonsense(
                format!("{} answers otherwise than “{}”", read.command, read.answer),
                &lines.join(" "),
            ));
        };
        let place = reading.carriers.iter().position(|one| one.technology == read.technology);
        let at = place.unwrap_or_else(|| {
            reading.carriers.push(Carrier::empty(read.technology, CarrierRole::Primary));
            reading.carriers.len() - 1
        });
        let carrier = &mut reading.carriers[at];
        for (name, text) in fields {
            put(carrier, &name, &text, read).map_err(|problem| nonsense(problem, line))?;
        }
        carrier.flags.clear();
        flag_oddities(carrier);
    }
    Ok(())
}

/// What stands in each pair of braces of `pattern`, if the line is written so; spaces round fields do not matter.
fn matched(pattern: &str, line: &str) -> Option<Vec<(String, String)>> {
    let (head, fields) = pattern.split_once(':')?;
    let rest = line.strip_prefix(head)?.strip_prefix(':')?;
    let wanted: Vec<&str> = fields.split(',').map(str::trim).collect();
    let there: Vec<&str> = rest.split(',').map(|field| field.trim().trim_matches('"')).collect();
    // Modems append fields over the years; what is named must be there.
    if there.len() < wanted.len() {
        return None;
    }
    let mut found = Vec::new();
    for (wanted, there) in wanted.iter().zip(there) {
        if let Some(name) = wanted.strip_prefix('{').and_then(|name| name.strip_suffix('}')) {
            found.push((name.to_owned(), there.to_owned()));
        } else if *wanted != "*" && wanted.trim_matches('"') != there {
            return None;
        }
    }
    Some(found)
}

fn put(carrier: &mut Carrier, name: &str, text: &str, read: &ModemRead) -> Result<(), String> {
    let field: PageField = serde_json::from_value(Value::from(name))
        .map_err(|_| format!("“{}” names no field; rsrp_dbm, sinr_db or band, for instance", name))?;
    if matches!(text, "" | "-" | "--") {
        return Ok(());
    }
    let own = FieldAt::plain(field, name);
    let how = read.fields.iter().find(|one| one.field == field).unwrap_or(&own);
    let how = FieldAt { at: name.to_owned(), ..how.clone() };
    let digits = match field {
        PageField::Band => text.trim_start_matches(|c: char| c.is_ascii_alphabetic() || c == ' ' || c == '-'),
        _ => text,
    };
    let value = number(&Value::from(digits), &how, read.technology).map_err(|error| error.to_string())?;
    let whole = || {
        let fine = value.is_none_or(|value| value >= 0.0 && value.fract() == 0.0 && value < 1e12);
        if fine {
            Ok(value.map(|value| value as u64))
        } else {
            Err(format!("{name} holds {text} where a whole number is needed"))
        }
    };
    match field {
        PageField::RsrpDbm => carrier.rsrp_dbm = value,
        PageField::RsrqDb => carrier.rsrq_db = value,
        PageField::SinrDb => carrier.sinr_db = value,
        PageField::RssiDbm => carrier.rssi_dbm = value,
        PageField::BandwidthMhz => carrier.bandwidth_mhz = value,
        PageField::TransmitPowerDbm => carrier.transmit_power_dbm = value,
        PageField::Band => carrier.band = whole()?.and_then(|band| band.try_into().ok()),
        PageField::Channel => carrier.channel = whole()?.and_then(|channel| channel.try_into().ok()),
        PageField::Pci => carrier.pci = whole()?.and_then(|pci| pci.try_into().ok()),
        PageField::CellIdentity => carrier.cell_identity = whole()?,
        PageField::Rank => carrier.rank = whole()?.and_then(|rank| rank.try_into().ok()),
        PageField::Cqi => carrier.cqi = whole()?.and_then(|cqi| cqi.try_into().ok()),
        PageField::Mcs => carrier.mcs = whole()?.and_then(|mcs| mcs.try_into().ok()),
        PageField::TimingAdvance => carrier.timing_advance = whole()?.and_then(|ta| ta.try_into().ok()),
        PageField::Mode
        | PageField::Technology
        | PageField::Role
        | PageField::ChannelKind
        | PageField::BranchRsrpDbm => {
            return Err(format!("{name} cannot be read from a modem's line"));
        }
    }
    Ok(())
}
