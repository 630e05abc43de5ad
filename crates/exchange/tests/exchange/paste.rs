//! Pasted pages: invented ones in many styles, and whatever else a clipboard may hold.

use open_beacon_core::metrics::Metric;
use open_beacon_core::model::{Carrier, CarrierRole, ConnectionMode, Technology};
use open_beacon_exchange::paste::{Confidence, PasteError, PasteTarget, Pasted, read_paste};
use proptest::prelude::*;
use std::fmt::Write;
use std::path::Path;

fn line(carrier: &Carrier) -> String {
    let technology = match carrier.technology {
        Technology::Lte => "lte",
        Technology::Nr => "nr",
    };
    let role = match carrier.role {
        CarrierRole::Anchor => "anchor",
        CarrierRole::Primary => "primary",
        CarrierRole::Secondary => "secondary",
        CarrierRole::Unknown => "unknown",
    };
    let mut out = format!("{technology} {role}");
    let mut put = |name: &str, value: Option<String>| {
        if let Some(value) = value {
            write!(out, " {name}={value}").unwrap();
        }
    };
    let number = |value: Option<f64>| value.map(|value| value.to_string());
    put("band", carrier.band.map(|value| value.to_string()));
    put("channel", carrier.channel.map(|value| value.to_string()));
    put("bandwidth", number(carrier.bandwidth_mhz));
    put("pci", carrier.pci.map(|value| value.to_string()));
    put("cell", carrier.cell_identity.map(|value| value.to_string()));
    put("rsrp", number(carrier.rsrp_dbm));
    put("rsrq", number(carrier.rsrq_db));
    put("sinr", number(carrier.sinr_db));
    put("rssi", number(carrier.rssi_dbm));
    put("rank", carrier.rank.map(|value| value.to_string()));
    put("cqi", carrier.cqi.map(|value| value.to_string()));
    put("ta", carrier.timing_advance.map(|value| value.to_string()));
    put("tx", number(carrier.transmit_power_dbm));
    let name = |metric: &Metric| format!("{metric:?}").to_lowercase();
    let flags: Vec<String> = carrier.flags.iter().map(|flag| name(&flag.metric)).collect();
    put("flags", (!flags.is_empty()).then(|| flags.join(",")));
    out
}

fn told(pasted: &Pasted) -> String {
    let mode = match pasted.mode {
        ConnectionMode::Lte => "lte",
        ConnectionMode::Nsa => "nsa",
        ConnectionMode::Sa => "sa",
        ConnectionMode::NoService => "no service",
        ConnectionMode::Unknown => "unknown",
    };
    let mut lines = vec![format!("mode {mode}")];
    lines.extend(pasted.carriers.iter().map(line));
    lines.extend(pasted.not_understood.iter().map(|text| format!("left {text}")));
    lines.join("\n")
}

#[test]
fn every_page_is_understood_as_written_beside_it() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/exchange/pages");
    let mut names: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    names.sort();
    assert!(names.len() >= 30);
    let mut wrong = Vec::new();
    for path in names {
        let whole = std::fs::read_to_string(&path).unwrap();
        let (text, wanted) = whole.split_once("\n----\n").unwrap();
        let pasted = read_paste(text).unwrap();
        if told(&pasted) != wanted.trim_end() {
            let name = path.file_name().unwrap().display().to_string();
            wrong.push(format!("{name}\nwanted\n{}\ngot\n{}\n", wanted.trim_end(), told(&pasted)));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn confidence_says_what_was_mended() {
    let pasted = read_paste("RSRP 97\nRSRQ: -11,5 dB\nSignal strength: -95 dBm\nSINR: 12 dB").unwrap();
    let of = |target| pasted.fields.iter().find(|field| field.target == target).unwrap();
    assert_eq!(of(PasteTarget::Rsrp).confidence, Confidence::Medium);
    assert!(of(PasteTarget::Rsrp).note.as_deref().unwrap().contains("minus sign is missing"));
    assert_eq!(of(PasteTarget::Rsrq).confidence, Confidence::Medium);
    assert_eq!(of(PasteTarget::Sinr).confidence, Confidence::High);
    let loose = read_paste("Signal strength: -95 dBm").unwrap();
    assert_eq!(loose.fields[0].confidence, Confidence::Low);
}

#[test]
fn nothing_and_too_much_are_errors_in_words() {
    assert_eq!(read_paste(" \n\t"), Err(PasteError::Empty));
    assert_eq!(read_paste(&"x".repeat(300 << 10)), Err(PasteError::TooLong));
}

/// Digits of a text, so that a value can be looked for without its sign and decimal sign.
fn stands_in(text: &str, value: &str) -> bool {
    text.contains(value)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    /// Any text at all: no panic, and every value that comes out stands in the text.
    #[test]
    fn no_number_is_invented(text in "\\PC{0,200}") {
        if let Ok(pasted) = read_paste(&text) {
            for field in &pasted.fields {
                prop_assert!(stands_in(&text, &field.text), "{:?} is not in the text", field);
            }
        }
    }

    /// Texts made of the pieces that pages are made of.
    #[test]
    fn no_number_is_invented_from_pieces(pieces in prop::collection::vec(prop_oneof![
        Just("RSRP"), Just("SINR"), Just("rsrq"), Just(":"), Just("="), Just("-97"), Just("12,5"), Just("\t"), Just("\n"),
        Just("LTE"), Just("n78"), Just("B3"), Just("SCC1"), Just("{"), Just("}"), Just("\""), Just("<td>"), Just("</td>"),
        Just("dBm"), Just("|"), Just(" "), Just("+CESQ:"), Just(","), Just("255"), Just("Band"), Just("−"), Just("é"),
    ], 0..60)) {
        let text = pieces.concat();
        if let Ok(pasted) = read_paste(&text) {
            for field in &pasted.fields {
                prop_assert!(stands_in(&text, &field.text) || text.contains('<'), "{:?} in {text:?}", field);
            }
            for carrier in &pasted.carriers {
                for metric in Metric::ALL {
                    prop_assert!(carrier.value(metric).is_none_or(f64::is_finite));
                }
            }
        }
    }

    /// A page made from a reading says the same reading.
    #[test]
    fn a_page_of_known_values_comes_back(rsrp in -140_i32..-50, rsrq in -20_i32..-4, sinr in -10_i32..30, pci in 0_u16..504) {
        let text = format!("RSRP: {rsrp} dBm\nRSRQ: {rsrq} dB\nSINR: {sinr} dB\nPCI: {pci}\n");
        let pasted = read_paste(&text).unwrap();
        prop_assert_eq!(pasted.carriers.len(), 1);
        let carrier = &pasted.carriers[0];
        prop_assert_eq!(carrier.rsrp_dbm, Some(f64::from(rsrp)));
        prop_assert_eq!(carrier.rsrq_db, Some(f64::from(rsrq)));
        prop_assert_eq!(carrier.sinr_db, Some(f64::from(sinr)));
        prop_assert_eq!(carrier.pci, Some(pci));
        prop_assert!(pasted.not_understood.is_empty());
    }
}
