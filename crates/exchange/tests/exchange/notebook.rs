//! Lines of a notebook: what is read, and what is asked.

use open_beacon_core::bands::band_name;
use open_beacon_core::model::SetupId;
use open_beacon_exchange::notebook::{KnownSetup, MOST_LINES, NameMeans, NotebookLine, read_notebook};
use proptest::prelude::*;
use uuid::Uuid;

fn setup(n: u128, position: &str, azimuth_deg: Option<f64>, locked: bool) -> KnownSetup {
    let bearing = azimuth_deg.map_or_else(String::new, |azimuth| format!(" at {azimuth}°"));
    KnownSetup {
        setup_id: SetupId(Uuid::from_u128(n)),
        position: position.into(),
        label: format!("{position}{bearing}"),
        azimuth_deg,
        locked,
    }
}

pub fn known() -> Vec<KnownSetup> {
    vec![
        setup(1, "Kitchen sill", Some(140.0), false),
        setup(2, "East gable", Some(53.0), false),
        setup(3, "East gable", Some(143.0), false),
        setup(4, "East gable", Some(143.0), true),
        setup(5, "West gable", Some(250.0), false),
        setup(6, "Attic, south", None, false),
    ]
}

fn read(text: &str) -> Vec<NotebookLine> {
    read_notebook(text, &known(), Some(SetupId(Uuid::from_u128(6))), &[])
}

fn one(text: &str) -> NotebookLine {
    read(text).remove(0)
}

/// Setup, band, RSRP, SINR, down, up, latency; what was not read is minus a thousand.
fn figures(line: &NotebookLine) -> (u128, String, [f64; 5]) {
    let band = line.band.map_or_else(String::new, |band| band_name(band.technology, band.band));
    let all = [line.rsrp_dbm, line.sinr_db, line.download_mbps, line.upload_mbps, line.idle_latency_ms];
    (line.setup_id.map_or(0, |id| id.0.as_u128()), band, all.map(|value| value.unwrap_or(-1000.0)))
}

const NONE: f64 = -1000.0;

#[test]
fn what_can_be_read_in_one_way_is_read() {
    for (text, wanted) in [
        ("east gable 143 n78 -92 24 266/23.6/36", (3, "n78", [-92.0, 24.0, 266.0, 23.6, 36.0])),
        ("E gable 53 B20 -101 8 42,5/7", (2, "B20", [-101.0, 8.0, 42.5, 7.0, NONE])),
        ("kitchen 33.4/7.65/35", (1, "", [NONE, NONE, 33.4, 7.65, 35.0])),
        (
            "west gable 250° n78 97 dBm 12 dB 120 Mbit/s 15 Mbit/s 41 ms",
            (5, "n78", [-97.0, 12.0, 120.0, 15.0, 41.0]),
        ),
        ("attic n28 RSRP −88 SINR 11.5 down 60 up 30 ping 38", (6, "n28", [-88.0, 11.5, 60.0, 30.0, 38.0])),
        ("attic n28 rsrp:-88, sinr:11.5; 60/30", (6, "n28", [-88.0, 11.5, 60.0, 30.0, NONE])),
        ("attic 240 75 33", (6, "", [NONE, NONE, 240.0, 75.0, 33.0])),
        ("attic n78 97 24 266 23.6 36", (6, "n78", [-97.0, 24.0, 266.0, 23.6, 36.0])),
        ("n78 97 24 266/23.6", (6, "n78", [-97.0, 24.0, 266.0, 23.6, NONE])),
        ("attic 30 MB/s 0.02 Gbit/s 38 ms", (6, "", [NONE, NONE, 240.0, 20.0, 38.0])),
        ("attic down 30 MB/s up 20 Mbit/s ping 38 ms", (6, "", [NONE, NONE, 240.0, 20.0, 38.0])),
        ("attic down 30 900kbit/s", (6, "", [NONE, NONE, 30.0, 0.9, NONE])),
        ("attic 30MB/s 900kbit/s", (6, "", [NONE, NONE, 240.0, 0.9, NONE])),
        ("attic B20 rsrp 97 dBm sinr 12 dB", (6, "B20", [-97.0, 12.0, NONE, NONE, NONE])),
        ("east gable 143° T n78 -92", (3, "n78", [-92.0, NONE, NONE, NONE, NONE])),
    ] {
        let line = one(text);
        let (setup, band, all) = wanted;
        assert_eq!(figures(&line), (setup, band.to_owned(), all), "{text}: {line:?}");
        assert_eq!(line.question, None, "{text}");
    }
    assert!(one("attic n78 97 24 266/23.6").taken.contains(&"minus sign added".to_owned()));
}

#[test]
fn an_average_is_marked() {
    for (text, of) in [
        ("attic 266/23.6/36 avg 3", Some(3)),
        ("attic average of 5 266/23.6", Some(5)),
        ("attic n78 -92 24 266/23.6/36 mean of 10 rain", Some(10)),
        ("attic 266/23.6/36 avg 1", None),
        ("attic 266/23.6/36", None),
        // Without a speed there is nothing that it would be of.
        ("attic n78 -92 24 avg 3", None),
    ] {
        let line = one(text);
        assert_eq!((line.average_of, &line.question), (of, &None), "{text}: {line:?}");
    }
    assert_eq!(one("attic n78 -92 24 266/23.6/36 mean of 10 rain").notes, "rain");
    // A word that no number follows stays a note.
    let note = one("attic 266/23.6 avg");
    assert_eq!((note.average_of, note.notes.as_str()), (None, "avg"));
}

#[test]
fn what_is_left_out_holds_from_the_line_before() {
    let lines = read(
        "east gable 143 n78 -92 24 266/23.6/36\n\n143 -93 23 250/22/37\n-91 25 270/24/35\n53 B20 -101 8 42/7/40\n",
    );
    let setups: Vec<u128> = lines.iter().map(|line| figures(line).0).collect();
    assert_eq!(setups, [3, 3, 3, 2]);
    assert_eq!(lines.iter().map(|line| line.line).collect::<Vec<_>>(), [1, 3, 4, 5]);
    assert_eq!(lines.iter().map(|line| figures(line).1).collect::<Vec<_>>(), ["n78", "n78", "n78", "B20"]);
    assert_eq!(lines[2].taken, ["setup as before", "band as before"]);
    assert!(lines.iter().all(|line| line.question.is_none()), "{lines:?}");
}

#[test]
fn what_is_unclear_is_asked() {
    for (text, asked) in [
        ("attic 97 24", "What is 97 24?"),
        ("attic n78 -92 24 266", "What is -92 24 266?"),
        ("gable 99/9", "Several setups may be meant"),
        ("east gable 99/9", "Several setups may be meant"),
        ("east gable 200 n78 -92 24", "No setup there points to east gable 200°"),
        ("roof 99/9", "No position is called “roof”"),
        ("attic -92 dBm 24 dB", "Which band is the signal of?"),
        ("attic", "No figure is read from it"),
        ("attic n78 -170 dBm", "-170 dBm cannot be signal power"),
        ("attic B20 -40 dBm", "-40 dBm cannot be signal power: it runs from -156 to -44"),
        ("attic n78 -92 dBm 55 dB", "55 dB cannot be signal-to-noise"),
        ("attic n78 -92 dBm -95 dBm", "-92 and -95 would both be signal power"),
        ("attic n78 B20 -92 dBm", "Two bands"),
        ("attic 99999/9", "cannot be the download"),
        ("attic 99/9 avg 2.5", "How many tests is it the average of?"),
        ("attic 99/9 avg 500", "A whole number up to 100"),
    ] {
        let line = one(text);
        assert!(
            line.question.as_deref().is_some_and(|said| said.contains(asked)),
            "{text}: {:?}",
            line.question
        );
    }
    assert_eq!(one("roof 99/9").maybe.len(), 6);
    assert_eq!(one("east gable 99/9").maybe.len(), 2, "the locked one is not meant by itself");
    let nowhere = read_notebook("99/9", &known(), None, &[]).remove(0);
    assert!(nowhere.question.unwrap().starts_with("Which setup"));
}

/// What a name means is said once and holds for every line that says the same.
#[test]
fn a_choice_holds_for_all_that_say_the_same() {
    let name = one("roof 99/9").name;
    let means = [NameMeans { name, setup_id: SetupId(Uuid::from_u128(4)) }];
    let lines = read_notebook("roof 99/9\nattic 50/5\nroof 98/8\n97/7", &known(), None, &means);
    assert_eq!(lines.iter().map(|line| figures(line).0).collect::<Vec<_>>(), [4, 6, 4, 4]);
    assert!(lines.iter().all(|line| line.question.is_none()), "{lines:?}");
}

#[test]
fn nothing_that_was_written_is_lost() {
    let line = one("attic 14:20 240/75/33 rain, wind from west");
    assert_eq!((line.clock.as_deref(), &line.notes[..]), (Some("14:20"), "rain wind from west"));
    assert_eq!(one("attic 9:05 240/75").clock.as_deref(), Some("09:05"));
    assert_eq!(one("attic 240/75 up").notes, "up");
    assert_eq!(one("attic 240/75 cable of 6m").notes, "cable of 6m");
    assert_eq!(read(&"attic 1/1\n".repeat(MOST_LINES + 5)).len(), MOST_LINES);
}

proptest! {
    /// A result written out is read back as it was, however it is spelled.
    #[test]
    fn what_is_written_is_read_back(
        (rsrp, sinr) in (-140i32..=-45, -20i32..=40),
        (down, up, ping) in (0u32..20_000, 0u32..2_000, 1u32..2_000),
        place in 0usize..3, spelled in 0usize..4,
    ) {
        let (name, wanted) = [("east gable 143", 3), ("west gable 250", 5), ("attic", 6)][place];
        let (down, up) = (f64::from(down) / 10.0, f64::from(up) / 10.0);
        let text = match spelled {
            0 => format!("{name} n78 {rsrp} {sinr} {down}/{up}/{ping}"),
            1 => format!("{name} n78 {rsrp} dBm {sinr} dB {down} Mbit/s {up} Mbit/s {ping} ms"),
            2 => format!("{name}, n78, rsrp {rsrp}, sinr {sinr}, down {down}, up {up}, ping {ping}").replace('.', ","),
            _ => format!("{name};n78;{rsrp};{sinr};{down}/{up}/{ping}").replace('-', "−"),
        };
        let line = one(&text);
        prop_assert_eq!(&line.question, &None, "{}", text);
        let all = [f64::from(rsrp), f64::from(sinr), down, up, f64::from(ping)];
        prop_assert_eq!(figures(&line), (wanted, "n78".to_owned(), all), "{}", text);
    }

    /// Whatever is pasted, a line is read or asked about, and no number is beyond what can be.
    #[test]
    fn any_text_is_read_or_asked_about(text in "[ a-z0-9/.,:;°\\-+\n]{0,120}") {
        for line in read(&text) {
            let fine = line.question.is_some() || line.setup_id.is_some();
            prop_assert!(fine, "{line:?}");
            if line.question.is_none() {
                prop_assert!(line.rsrp_dbm.is_none_or(|value| (-156.0..=-31.0).contains(&value)));
                prop_assert!(line.download_mbps.is_none_or(|value| (0.0..=20_000.0).contains(&value)));
            }
        }
    }
}
