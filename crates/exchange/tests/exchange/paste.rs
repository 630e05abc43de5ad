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

fn carriers(text: &str) -> Vec<String> {
    read_paste(text).unwrap().carriers.iter().map(line).collect()
}

#[test]
fn bands_are_read_in_every_spelling() {
    let of = |text: &str| {
        let carriers = read_paste(&format!("Band: {text}\nRSRP: -90 dBm")).unwrap().carriers;
        carriers.iter().map(|carrier| (carrier.technology, carrier.band.unwrap_or(0))).collect::<Vec<_>>()
    };
    use Technology::{Lte, Nr};
    assert_eq!(of("3"), [(Lte, 3)]);
    assert_eq!(of("B20 (800 MHz)"), [(Lte, 20)]);
    assert_eq!(of("LTE Band 7"), [(Lte, 7)]);
    assert_eq!(of("n78"), [(Nr, 78)]);
    assert_eq!(of("NR5G BAND 28"), [(Nr, 28)]);
    assert_eq!(of("EUTRAN-BAND3"), [(Lte, 3)]);
    assert_eq!(of("B3+B20"), [(Lte, 3), (Lte, 20)]);
    assert_eq!(of("1800 MHz"), [(Lte, 0)], "a frequency is no band number");
}

#[test]
fn values_are_read_with_their_signs_and_units() {
    let of = |text: &str| read_paste(text).unwrap().carriers.first().and_then(|carrier| carrier.rsrp_dbm);
    for text in
        ["RSRP:-97", "RSRP = -97dBm", "rsrp\t−97 dBm", "RSRP (dBm): -97", "RSRP [dBm] -97", "RSRP: - 97"]
    {
        assert_eq!(of(text), Some(-97.0), "{text}");
    }
    assert_eq!(of("RSRP: -97.5 dBm"), Some(-97.5));
    assert_eq!(of("RSRP: -97,5 dBm"), Some(-97.5));
    assert_eq!(of("RSRP: n/a"), None);
    assert_eq!(of("RSRP: 32767"), None, "a number that stands for nothing");
    assert_eq!(of("The RSRP is what counts"), None, "a word in a sentence");
}

#[test]
fn several_values_on_a_line_take_the_first_and_say_so() {
    let pasted = read_paste("RSRP: -97 dBm / -99 dBm / -101 dBm").unwrap();
    assert_eq!(pasted.carriers[0].rsrp_dbm, Some(-97.0));
    assert_eq!(pasted.fields[0].confidence, Confidence::Medium);
    assert!(pasted.fields[0].note.as_deref().unwrap().contains("Several values"));
}

#[test]
fn loose_words_are_believed_only_where_nothing_else_fits() {
    for text in
        ["Signal strength: -20 dBm", "Signal strength: 70", "Signal quality: 12 dB", "Signal quality: 85 %"]
    {
        let pasted = read_paste(text).unwrap();
        assert!(pasted.carriers.is_empty(), "{text}: {:?}", pasted.carriers);
        assert_eq!(pasted.not_understood.len(), 1, "{text}");
    }
    assert_eq!(carriers("Signal quality: -11 dB"), ["lte primary rsrq=-11"]);
}

#[test]
fn modes_are_told_apart() {
    let mode = |text: &str| read_paste(&format!("Network mode: {text}\nRSRP: -90")).unwrap().mode;
    assert_eq!(mode("5G NSA"), ConnectionMode::Nsa);
    assert_eq!(mode("EN-DC"), ConnectionMode::Nsa);
    assert_eq!(mode("5G standalone"), ConnectionMode::Sa);
    assert_eq!(mode("LTE"), ConnectionMode::Lte);
    assert_eq!(mode("4G+"), ConnectionMode::Lte);
    assert_eq!(mode("No service"), ConnectionMode::NoService);
}

#[test]
fn a_second_connection_mode_is_handed_back() {
    let pasted = read_paste("Network type: LTE\nRSRP: -90\nMode: 5G SA").unwrap();
    assert_eq!(pasted.mode, ConnectionMode::Lte);
    assert_eq!(pasted.not_understood, ["Mode: 5G SA"]);
}

#[test]
fn the_same_value_twice_is_one_carrier_and_another_is_a_second() {
    assert_eq!(carriers("RSRP: -90\nSINR: 9\nRSRP: -90"), ["lte primary rsrp=-90 sinr=9"]);
    assert_eq!(
        carriers("RSRP: -90\nSINR: 9\nRSRP: -95"),
        ["lte primary rsrp=-90 sinr=9", "lte secondary rsrp=-95"]
    );
}

#[test]
fn modem_answers_with_unknown_and_impossible_codes() {
    assert!(carriers("+CESQ: 99,99,255,255,255,255").is_empty());
    let odd = read_paste("+CESQ: 99,99,255,255,99,44").unwrap();
    assert_eq!(odd.carriers[0].rsrp_dbm, Some(-96.5));
    assert!(odd.not_understood[0].contains("99 is no code"));
    assert_eq!(carriers("+CSQ: 20,99"), ["lte primary rssi=-73"]);
    assert_eq!(carriers("+CEREG: 2,1,\"1A2B\",\"01A2B302\",7"), ["lte primary cell=27439874"]);
    let other = read_paste("+XYZ: 1,2").unwrap();
    assert_eq!(other.not_understood, ["+XYZ: 1,2"]);
}

#[test]
fn json_of_other_shapes_is_read_or_handed_back() {
    assert_eq!(
        carriers(r#"{"data":[{"rat":"LTE","rsrp":"-93 dBm"},{"rat":"NR","rsrp":"-88 dBm"}]}"#).len(),
        2
    );
    let neighbours = read_paste(r#"{"rsrp":-93,"neighbours":[{"pci":305,"rsrp":-104}]}"#).unwrap();
    assert_eq!(neighbours.carriers.len(), 1);
    assert_eq!(neighbours.not_understood.len(), 2);
    let uplink = read_paste(r#"{"dl_bandwidth":"20 MHz","ul_bandwidth":"10 MHz","rsrp":-93}"#).unwrap();
    assert_eq!(uplink.carriers[0].bandwidth_mhz, Some(20.0));
    let broken = read_paste(r#"{"rsrp": -93, "#).unwrap();
    assert_eq!(broken.carriers[0].rsrp_dbm, Some(-93.0), "half a document is still text");
    let nothing = read_paste("[]").unwrap();
    assert!(nothing.carriers.is_empty() && nothing.fields.is_empty());
}

#[test]
fn fields_name_their_place_in_the_text() {
    let pasted = read_paste(r#"{"lte":{"rsrp":-93}}"#).unwrap();
    assert_eq!((pasted.fields[0].label.as_str(), pasted.fields[0].text.as_str()), ("lte.rsrp", "-93"));
    assert_eq!(pasted.fields[0].carrier, Some(0));
    let moded = read_paste("Network type: LTE\nRSRP: -90").unwrap();
    assert_eq!((moded.fields[0].target, moded.fields[0].carrier), (PasteTarget::Mode, None));
}

/// What was once read wrong without a word: NR's figures on a nameless LTE carrier.
#[test]
fn two_carriers_on_one_line_are_kept_apart() {
    let wanted = [
        "lte anchor band=3 channel=1575 cell=1714946 rsrp=-108 rsrq=-13 sinr=4",
        "nr primary band=78 channel=636666 rsrp=-112 sinr=1",
    ];
    for text in [
        "LTE  Band 3  EARFCN 1575  RSRP -108  RSRQ -13  SINR 4  Cell 0x1A2B02 / 5G NR: band n78 ARFCN 636666 RSRP -112 SINR 1",
        "LTE Band 3 EARFCN 1575 RSRP -108 RSRQ -13 SINR 4 Cell 0x1A2B02 / 5G NR: band n78 ARFCN 636666 RSRP -112 SINR 1",
        "LTE  Band 3  EARFCN 1575  RSRP -108  RSRQ -13  SINR 4  Cell 0x1A2B02  5G NR  band n78  ARFCN 636666  RSRP -112  SINR 1",
        "LTE: band 3, EARFCN 1575, RSRP -108 dBm, RSRQ -13 dB, SINR 4 dB, Cell 0x1A2B02; NR: band n78, ARFCN 636666, RSRP -112 dBm, SINR 1 dB",
        "band B3 EARFCN 1575 RSRP -108 RSRQ -13 SINR 4 Cell 0x1A2B02 band n78 ARFCN 636666 RSRP -112 SINR 1",
        "LTE | B3 | EARFCN 1575 | RSRP -108 | RSRQ -13 | SINR 4 | Cell 0x1A2B02 | NR | n78 | ARFCN 636666 | RSRP -112 | SINR 1",
    ] {
        assert_eq!(carriers(text), wanted, "{text}");
    }
    let postfix = "RSRP -108 dBm (LTE), SINR 4 dB (LTE), RSRP -112 dBm (NR), SINR 1 dB (NR)";
    assert_eq!(carriers(postfix), ["lte anchor rsrp=-108 sinr=4", "nr primary rsrp=-112 sinr=1"]);
}

#[test]
fn a_channel_number_that_only_nr_has_begins_an_nr_carrier() {
    assert_eq!(
        carriers("LTE RSRP -108 EARFCN 1575\nARFCN 636666\nRSRP -112"),
        ["lte anchor channel=1575 rsrp=-108", "nr primary channel=636666 rsrp=-112"]
    );
}

/// A value whose carrier is named by nothing but its place in the text is probable at the most.
#[test]
fn a_carrier_that_the_text_does_not_name_costs_confidence() {
    let unsure = |text: &str| -> Vec<String> {
        let pasted = read_paste(text).unwrap();
        let unsure = pasted.fields.iter().filter(|field| field.confidence < Confidence::High);
        unsure.map(|field| format!("{:?} {}", field.target, field.text)).collect()
    };
    // One carrier: nothing to mix up.
    assert!(unsure("LTE\nRSRP: -90\nSINR: 9").is_empty());
    // A second value begins a second carrier, by guess.
    assert_eq!(unsure("RSRP: -90\nSINR: 9\nRSRP: -95"), ["Rsrp -90", "Sinr 9", "Rsrp -95"]);
    // Several bands, one set of values: probably the first one's.
    assert_eq!(unsure("Active bands: B3 + B20\nRSRP: -93 dBm"), ["Rsrp -93 dBm"]);
    // Named by label, by row, by heading, by line.
    assert!(unsure("LTE RSRP: -90\nNR RSRP: -95").is_empty());
    assert!(unsure("Band\tRSRP\nB3\t-93\nB7\t-99").is_empty());
    assert!(unsure("Primary cell\nBand: B3\nRSRP: -93\nSecondary cell 1\nBand: B7\nRSRP: -99").is_empty());
    assert!(unsure("LTE B3 RSRP -97\nNR n78 RSRP -101 SINR 4").is_empty());
    assert!(unsure(r#"{"cells":[{"band":"B3","rsrp":-90},{"band":"B7","rsrp":-95}]}"#).is_empty());
    // A band's number alone is LTE's and NR's.
    assert_eq!(unsure(r#"{"cells":[{"band":3,"rsrp":-90},{"band":7,"rsrp":-95}]}"#), ["Band 3", "Band 7"]);
}

/// What stands at a field of the only carrier, with how sure that is; none where it was not understood.
fn field(text: &str, target: PasteTarget) -> Option<(String, Confidence)> {
    let pasted = read_paste(text).ok()?;
    let found = pasted.fields.iter().find(|field| field.target == target)?;
    Some((found.text.clone(), found.confidence))
}

/// A digit read out of damaged text is silently wrong: what is not wholly a number is none.
#[test]
fn damaged_numbers_are_no_numbers() {
    for text in
        ["SINR: l2.5 dB", "SINR: l2,5 dB", "SINR: 1O.5 dB", "SINR: lO", "RSRP: -9S.5 dBm", "SINR l2.5"]
    {
        for target in [PasteTarget::Sinr, PasteTarget::Rsrp] {
            assert_eq!(field(text, target), None, "{text}");
        }
    }
    assert_eq!(field("SINR: 12.5 dB", PasteTarget::Sinr).map(|found| found.0).as_deref(), Some("12.5 dB"));
    let bands = read_paste("LTE\nBand: B1,B3,7\nRSRP: -97 dBm").unwrap();
    assert!(!bands.carriers.is_empty(), "a list of bands is no damaged number");
}

/// Marks between thousands: German, English and French writing of NR-ARFCN 428000 and EARFCN 1300.
#[test]
fn channel_numbers_with_marks_between_thousands() {
    for (text, channel) in [
        ("NR\nARFCN: 428.000\nRSRP: -97 dBm", 428_000),
        ("LTE\nEARFCN: 1,300\nRSRP: -97 dBm", 1_300),
        ("NR\nARFCN: 427 970\nRSRP: -97 dBm", 427_970),
        ("NR\nARFCN: 636\u{202f}666\nRSRP: -97 dBm", 636_666),
        ("LTE\nEARFCN: 1300\nRSRP: -97 dBm", 1_300),
    ] {
        let pasted = read_paste(text).unwrap();
        assert_eq!(pasted.carriers[0].channel, Some(channel), "{text}");
    }
    let marked = field("NR\nARFCN: 428.000\nRSRP: -97 dBm", PasteTarget::Channel).unwrap();
    assert_eq!(marked.1, Confidence::Medium, "it is asked about");
    // Two numbers beside each other are not one.
    let two = read_paste("LTE EARFCN 300 100 RB RSRP -97 dBm").unwrap();
    assert_ne!(two.carriers[0].channel, Some(300_100));
}

/// TS 36.211, 6.11: PCI 0 to 503; TS 38.211, 7.4.2.1: 0 to 1007.
#[test]
fn physical_cell_identities_have_an_end() {
    let of = |text: &str| field(text, PasteTarget::Pci);
    assert_eq!(of("LTE\nPCI: 2111\nRSRP: -97 dBm"), None);
    assert_eq!(of("LTE\nPCI: 65535\nRSRP: -97 dBm"), None);
    assert_eq!(of("LTE\nPCI: 503\nRSRP: -97 dBm").unwrap().1, Confidence::High);
    assert_eq!(of("NR\nPCI: 1007\nRSRP: -97 dBm").unwrap().1, Confidence::High);
    assert_eq!(of("LTE\nPCI: 611\nRSRP: -97 dBm").unwrap().1, Confidence::Low);
}

/// What a carrier is must be said by a word or by a channel number that only one technology has; else it is asked about.
#[test]
fn a_technology_that_is_not_said_is_not_sure() {
    let band = |text: &str| field(text, PasteTarget::Band).unwrap().1;
    assert_eq!(band("Band: 3\nRSRP: -97 dBm\nSINR: 8 dB"), Confidence::Medium);
    assert_eq!(band("Band: 3\nEARFCN: 1300\nRSRP: -97 dBm"), Confidence::High);
    assert_eq!(band("Band: B3\nRSRP: -97 dBm\nLTE"), Confidence::High);
    assert_eq!(band("NR\nBand: n78\nRSRP: -97 dBm"), Confidence::High);
}

/// In each language the physical cell identity is not the cell's own.
#[test]
fn the_physical_cell_identity_is_known_in_nine_languages() {
    for label in [
        "Physical cell ID",
        "Physische Zell-ID",
        "Physikalische Zellkennung",
        "ID de cellule physique",
        "ID de celda física",
        "Identificador físico de celda",
        "ID cella fisica",
        "ID físico da célula",
        "Fysisk celle-ID",
        "Fysiskt cell-ID",
        "Fizyczny identyfikator komórki",
    ] {
        let text = format!("LTE\nRSRP: -97 dBm\n{label}: 211");
        assert_eq!(field(&text, PasteTarget::Pci).map(|found| found.0).as_deref(), Some("211"), "{label}");
        assert_eq!(field(&text, PasteTarget::CellIdentity), None, "{label}");
    }
}

#[test]
fn widths_in_kilohertz_and_fill_values() {
    let width =
        |text: &str| read_paste(&format!("LTE\nRSRP: -97 dBm\n{text}")).unwrap().carriers[0].bandwidth_mhz;
    assert_eq!(width("Bandwidth: 20000"), Some(20.0));
    assert_eq!(width("Bandwidth: 20000 kHz"), Some(20.0));
    assert_eq!(width("Bandwidth: 20 MHz"), Some(20.0));
    assert_eq!(width("Larghezza di banda: 10 MHz"), Some(10.0));
    assert_eq!(field("LTE\nSINR: 255\nRSRP: -97 dBm", PasteTarget::Sinr), None);
    assert_eq!(field("LTE\nRSRP: -255 dBm\nSINR: 4", PasteTarget::Rsrp), None);
}
