use open_beacon_domain::metrics::{EntryError, Note, Quantity, read_entry};
use open_beacon_domain::model::Technology;
use proptest::prelude::*;

fn value(quantity: Quantity, text: &str) -> (f64, Vec<Note>) {
    let entry = read_entry(quantity, Technology::Lte, text).unwrap_or_else(|error| panic!("{text}: {error}"));
    (entry.value, entry.notes)
}

#[test]
fn a_missing_minus_is_added_and_said() {
    assert_eq!(value(Quantity::Rsrp, "97"), (-97.0, vec![Note::MadeNegative]));
    assert_eq!(value(Quantity::Rsrp, "-97"), (-97.0, vec![]));
    assert_eq!(value(Quantity::Rsrq, "11"), (-11.0, vec![Note::MadeNegative]));
    assert_eq!(value(Quantity::Rssi, "65 dBm"), (-65.0, vec![Note::MadeNegative]));
    // A SINR may well be positive.
    assert_eq!(value(Quantity::Sinr, "12"), (12.0, vec![]));
    // RSRQ just above zero is unusual, not impossible.
    assert_eq!(value(Quantity::Rsrq, "2"), (2.0, vec![]));
}

#[test]
fn pasted_spellings_are_understood() {
    for text in ["−97 dBm", "-97dBm", " – 97,0 dBm ", "-97.0", "\u{2014}97"] {
        assert_eq!(value(Quantity::Rsrp, text).0, -97.0, "{text}");
    }
    assert_eq!(value(Quantity::Rate, "1,2 Gbit/s"), (1200.0, vec![Note::DecimalComma, Note::Converted]));
    assert_eq!(value(Quantity::Rate, "800 kbps"), (0.8, vec![Note::Converted]));
    assert_eq!(value(Quantity::Rate, "20 MB/s"), (160.0, vec![Note::BytesToBits]));
    assert_eq!(value(Quantity::Rate, "20 Mb/s"), (20.0, vec![]));
    assert_eq!(value(Quantity::Latency, "0.03 s"), (30.0, vec![Note::Converted]));
    assert!((value(Quantity::Length, "21 ft").0 - 6.4008).abs() < 1e-9);
    assert_eq!(value(Quantity::Bearing, "131°").0, 131.0);
    assert_eq!(value(Quantity::Tilt, "-1.5°").0, -1.5);
}

#[test]
fn what_cannot_be_read_says_what_would_work() {
    let error = |quantity, text| read_entry(quantity, Technology::Lte, text).unwrap_err();
    assert_eq!(error(Quantity::Rsrp, "  "), EntryError::Empty);
    assert!(error(Quantity::Rsrp, "good").to_string().contains("−97"));
    assert!(matches!(error(Quantity::Rsrp, "97 Mbit/s"), EntryError::UnknownUnit { .. }));
    assert!(error(Quantity::Rate, "5 bananas").to_string().contains("Mbit/s"));
    assert!(matches!(error(Quantity::Rate, "1.234,5"), EntryError::TwoDecimalSigns { .. }));
    assert!(matches!(error(Quantity::Sinr, "-"), EntryError::NotANumber { .. }));
}

#[test]
fn a_value_outside_the_range_is_read_and_marked() {
    let entry = read_entry(Quantity::Sinr, Technology::Lte, "60").unwrap();
    assert!(!entry.in_range);
    assert_eq!((entry.range.low, entry.range.high), (-23.0, 40.0));
    // −35 dBm: too strong for LTE's range, inside NR's.
    assert!(!read_entry(Quantity::Rsrp, Technology::Lte, "-35").unwrap().in_range);
    assert!(read_entry(Quantity::Rsrp, Technology::Nr, "-35").unwrap().in_range);
    // An explicit plus is honoured, and then outside.
    let plus = read_entry(Quantity::Rsrp, Technology::Lte, "+97").unwrap();
    assert_eq!((plus.value, plus.in_range), (97.0, false));
}

const ALL: [Quantity; 10] = [
    Quantity::Rsrp,
    Quantity::Rsrq,
    Quantity::Sinr,
    Quantity::Rssi,
    Quantity::Rate,
    Quantity::Latency,
    Quantity::Length,
    Quantity::Bearing,
    Quantity::Tilt,
    Quantity::Bandwidth,
];

proptest! {
    /// No text makes it panic, and what it reads is finite.
    #[test]
    fn any_text_is_survived(text in "\\PC{0,24}", which in 0usize..10) {
        if let Ok(entry) = read_entry(ALL[which], Technology::Nr, &text) {
            prop_assert!(entry.value.is_finite());
            prop_assert!(text.chars().any(|c| c.is_ascii_digit()), "a number from nothing: {text}");
        }
    }

    /// What is written with a sign and a unit comes back as it was.
    #[test]
    fn a_written_value_comes_back(tenths in -1560i32..=-440) {
        let dbm = f64::from(tenths) / 10.0;
        let entry = read_entry(Quantity::Rsrp, Technology::Lte, &format!("{dbm:.1} dBm")).unwrap();
        prop_assert!((entry.value - dbm).abs() < 1e-9);
        prop_assert!(entry.in_range && entry.notes.is_empty());
    }
}
