//! Tables of results made elsewhere.

use chrono::{DateTime, TimeDelta, TimeZone, Utc};
use chrono_tz::Europe::Oslo;
use open_beacon_core::model::*;
use open_beacon_exchange::notebook::{KnownSetup, NameMeans};
use open_beacon_exchange::results::*;
use proptest::prelude::*;
use std::collections::HashSet;
use uuid::Uuid;

fn setup(number: u128) -> SetupId {
    SetupId(Uuid::from_u128(number))
}

fn site() -> SiteId {
    SiteId(Uuid::from_u128(99))
}

fn known() -> Vec<KnownSetup> {
    let one = |number, position: &str, label: &str, azimuth_deg| KnownSetup {
        setup_id: setup(number),
        position: position.into(),
        label: label.into(),
        azimuth_deg,
        locked: false,
    };
    vec![
        one(1, "Kitchen window", "Kitchen window", None),
        one(2, "North gable", "North gable, 143°", Some(143.0)),
        one(3, "North gable", "North gable, 155°", Some(155.0)),
    ]
}

fn noon() -> DateTime<Utc> {
    Utc.with_ymd_and_hms(2026, 11, 20, 12, 0, 0).unwrap()
}

fn read_as(text: &str, reading: &ResultTableReading, names: &[NameMeans]) -> Result<ResultTable, String> {
    let known = known();
    let with = ReadingWith {
        reading,
        remembered: &[],
        names,
        known: &known,
        chosen: Some(setup(1)),
        site: site(),
        zone: Oslo,
        now: noon(),
    };
    read_results("results.csv", text, &with)
}

fn read(text: &str) -> ResultTable {
    read_as(text, &ResultTableReading::default(), &[]).unwrap()
}

fn asked(table: &ResultTable) -> Vec<TableAsks> {
    table.questions.iter().map(|question| question.asks).collect()
}

fn fields(table: &ResultTable) -> Vec<ResultField> {
    table.reading.columns.iter().map(|column| column.field).collect()
}

#[test]
fn a_table_with_everything_said_is_read_without_a_question() {
    let table = read(
        "time,position,bearing,band,pci,rsrp (dBm),sinr,download (Mbit/s),upload (Mbit/s),ping (ms),server,comment\n\
         2026-10-12T18:30:00+02:00,gable,143,n78,61,-92,24,266,23.6,36,test.example,rain\n",
    );
    assert_eq!((asked(&table), table.problems.len()), (vec![], 0), "{table:?}");
    let row = &table.understood[0];
    assert_eq!((row.setup_id, row.line), (setup(2), 2));
    assert_eq!(row.at, Utc.with_ymd_and_hms(2026, 10, 12, 16, 30, 0).unwrap());
    assert_eq!(row.band, Some(BandName { technology: Technology::Nr, band: 78 }));
    assert_eq!((row.pci, row.rsrp_dbm, row.sinr_db), (Some(61), Some(-92.0), Some(24.0)));
    assert_eq!(
        (row.download_mbps, row.upload_mbps, row.idle_latency_ms),
        (Some(266.0), Some(23.6), Some(36.0))
    );
    assert_eq!((row.server.as_str(), row.notes.as_str()), ("test.example", "rain"));
}

#[test]
fn averages_of_a_table_are_counted() {
    let heading = "time,position,bearing,download (Mbit/s),average of\n";
    let at = "2026-10-12T18:30:00+02:00,gable,143,266";
    let of = |cell: &str| read(&format!("{heading}{at},{cell}\n"));
    for (cell, wanted) in [("3", Some(3)), ("", None), ("1", None), ("100", Some(100))] {
        let table = of(cell);
        assert_eq!((asked(&table), table.problems.len()), (vec![], 0), "{table:?}");
        assert_eq!(table.understood[0].average_of, wanted, "{cell}");
    }
    for cell in ["0", "101", "2.5", "many"] {
        let table = of(cell);
        assert!(table.understood.is_empty(), "{cell}");
        assert!(format!("{:?}", table.problems).contains("no number of tests"), "{:?}", table.problems);
    }
}

/// A spreadsheet of a country with decimal commas: semicolons, dots in dates, a comma in numbers, date and time apart.
#[test]
fn decimal_commas_and_dotted_dates_are_told_by_the_table_itself() {
    let text = "Datum;Time;Position;Download;Upload\n12.10.2026;18:30;Kitchen window;42,1;30,9\n";
    let table = read(text);
    use ResultField::*;
    assert_eq!(fields(&table), [Date, Clock, Place, Download, Upload]);
    assert_eq!(asked(&table), [TableAsks::Zone], "{:?}", table.questions);
    assert_eq!(table.reading.decimal, Some(DecimalSign::Comma));
    let answered = ResultTableReading { zone: Some(TableZone::House), ..ResultTableReading::default() };
    let table = read_as(text, &answered, &[]).unwrap();
    assert_eq!(asked(&table), []);
    let row = &table.understood[0];
    assert_eq!((row.download_mbps, row.upload_mbps), (Some(42.1), Some(30.9)));
    assert_eq!(row.at, Utc.with_ymd_and_hms(2026, 10, 12, 16, 30, 0).unwrap(), "summer time at the house");
    let utc = ResultTableReading { zone: Some(TableZone::Utc), ..answered };
    assert_eq!(read_as(text, &utc, &[]).unwrap().understood[0].at - row.at, TimeDelta::hours(2));
}

#[test]
fn what_can_be_read_in_two_ways_is_asked() {
    let table = read("time,download\n03/04/2026 18:30,\"1,234\"\n");
    assert_eq!(asked(&table), [TableAsks::Decimal, TableAsks::DateOrder, TableAsks::Zone]);
    assert!(table.questions[1].text.contains("03/04/2026 18:30"), "{}", table.questions[1].text);
    // One date that can only be read in one way tells of all.
    let table = read("time,download\n03/04/2026 18:30,12.5\n03/25/2026 18:30,13.5\n");
    assert_eq!(asked(&table), [TableAsks::Zone]);
    assert_eq!(table.reading.date_order, Some(DateOrder::MonthFirst));
    assert_eq!(table.reading.decimal, Some(DecimalSign::Point));
    // The same number twice is the same date in either order, and one number tells of the others.
    let table = read("time;download\n03/03/2026 18:30Z;1.234\n03/03/2026 18:40Z;56,7\n");
    assert_eq!(table.reading.decimal, Some(DecimalSign::Comma));
    let table = read("time;download\n2026-03-03 18:30Z;1.5\n2026-03-03 18:40Z;56,7\n");
    assert_eq!(asked(&table), [TableAsks::Decimal], "both signs as decimal signs");
}

/// A date that tells itself is read as it is, whatever the others are; with "UTC" or "Z" nothing is asked of the zone.
#[test]
fn every_date_that_tells_itself_is_believed() {
    let table =
        read("time,download\n25/03/2026 18:30 UTC,1.5\n03/26/2026 6:30 PM UTC,2.5\n03/03/2026 18:30Z,3.5\n");
    assert_eq!((asked(&table), table.problems.len()), (vec![], 0), "{:?}", table.problems);
    let days: Vec<String> =
        table.understood.iter().map(|row| row.at.format("%d.%m. %H:%M").to_string()).collect();
    assert_eq!(days, ["25.03. 18:30", "26.03. 18:30", "03.03. 18:30"]);
}

/// When the clocks were set back (Oslo, 25 October 2026, 3:00 to 2:00), half past two came twice: the first is taken, and said.
#[test]
fn an_hour_that_came_twice_is_said() {
    let house = ResultTableReading { zone: Some(TableZone::House), ..ResultTableReading::default() };
    let table = read_as("time,download\n2026-10-25 02:30,10\n2026-10-25 03:30,11\n", &house, &[]).unwrap();
    assert_eq!(table.understood[0].at, Utc.with_ymd_and_hms(2026, 10, 25, 0, 30, 0).unwrap());
    assert!(table.understood[0].taken.contains(&"before the clocks were set back".to_owned()));
    assert!(!table.understood[1].taken.contains(&"before the clocks were set back".to_owned()));
}

#[test]
fn answers_hold() {
    let text = "time,download\n03/04/2026 18:30,\"1,234\"\n";
    let answered = |decimal, order| ResultTableReading {
        decimal: Some(decimal),
        date_order: Some(order),
        zone: Some(TableZone::Utc),
        ..ResultTableReading::default()
    };
    let rows = |reading| {
        let table = read_as(text, &reading, &[]).unwrap();
        assert_eq!(asked(&table), []);
        (table.understood[0].at.format("%d.%m.").to_string(), table.understood[0].download_mbps)
    };
    assert_eq!(rows(answered(DecimalSign::Comma, DateOrder::DayFirst)), ("03.04.".into(), Some(1.234)));
    assert_eq!(rows(answered(DecimalSign::Point, DateOrder::MonthFirst)), ("04.03.".into(), Some(1234.0)));
}

#[test]
fn units_are_those_of_the_heading_the_cell_or_the_choice() {
    let download = |heading: &str, cell: &str| {
        let table = read(&format!("time;{heading}\n2026-10-12T18:30:00Z;{cell}\n"));
        (table.understood.first().and_then(|row| row.download_mbps), table.problems)
    };
    assert_eq!(download("download_kbps", "42100").0, Some(42.1));
    assert_eq!(download("Download (MB/s)", "5").0, Some(40.0));
    assert_eq!(download("Download (Mb/s)", "5").0, Some(5.0));
    assert_eq!(download("download [bit/s]", "42100000").0, Some(42.1));
    assert_eq!(download("down", "42100 kbit/s").0, Some(42.1));
    // Rates that no mobile line has are asked about, and with the answer they are what they are.
    let text = "time;Download\n2026-10-12T18:30:00Z;12500\n";
    assert_eq!(asked(&read(text)), [TableAsks::Unit]);
    assert!(read(text).questions[0].text.contains("goes up to 12500"));
    let mut said = read(text).reading;
    said.columns[1].unit = "kbit/s".into();
    let table = read_as(text, &said, &[]).unwrap();
    assert_eq!((asked(&table), table.understood[0].download_mbps), (vec![], Some(12.5)));
    // A number that cannot be one in this unit is refused with the question that helps.
    let (none, problems) = download("Download", "42100000");
    assert_eq!(none, None);
    assert!(problems[0].reason.ends_with("Is the column's unit right?"), "{}", problems[0].reason);
    assert_eq!(problems[0].line, Some(2));
}

/// A name that fits no setup, or several, is asked once and holds for all its rows.
#[test]
fn names_are_asked_once() {
    let text = "time,setup,download\n2026-10-12T18:30:00Z,barn,10\n2026-10-12T18:40:00Z,barn,11\n2026-10-12T18:50:00Z,kitchen,12\n";
    let table = read(text);
    assert_eq!(asked(&table), [TableAsks::Name]);
    assert_eq!((table.questions[0].name.as_str(), table.questions[0].maybe.len()), ("barn", 3));
    assert_eq!(table.understood.len(), 1);
    let means = [NameMeans { name: "barn".into(), setup_id: setup(3) }];
    let table = read_as(text, &ResultTableReading::default(), &means).unwrap();
    let of: Vec<SetupId> = table.understood.iter().map(|row| row.setup_id).collect();
    assert_eq!((asked(&table), of), (vec![], vec![setup(3), setup(3), setup(1)]));
    // Without a column for it, rows are of the setup that was chosen.
    assert_eq!(read("time,download\n2026-10-12T18:30:00Z,10\n").understood[0].setup_id, setup(1));
}

#[test]
fn signal_needs_its_band() {
    let text = "time,rsrp,snr\n2026-10-12T18:30:00Z,97,12\n";
    assert_eq!(asked(&read(text)), [TableAsks::Band]);
    let said = ResultTableReading { band: "B20".into(), ..ResultTableReading::default() };
    let table = read_as(text, &said, &[]).unwrap();
    let row = &table.understood[0];
    assert_eq!((asked(&table), row.rsrp_dbm, row.taken.len()), (vec![], Some(-97.0), 2), "{row:?}");
    assert_eq!(row.band.map(|band| band.technology), Some(Technology::Lte));
}

#[test]
fn what_cannot_be_is_left_out_with_its_reason() {
    let table = read(
        "time,band,pci,download,rsrp\n\
         2026-03-29 02:30:00,,,10,\n\
         2027-10-12T18:30:00Z,,,10,\n\
         2026-10-12,,,10,\n\
         yesterday,,,10,\n\
         2026-10-12T18:30:00Z,,,,\n\
         2026-10-12T18:30:00Z,band seven,,10,\n\
         2026-10-12T18:30:00Z,B20,700,,-97\n\
         2026-10-12T18:30:00Z,n78,700,,-97\n",
    );
    let house = ResultTableReading { zone: Some(TableZone::House), ..ResultTableReading::default() };
    assert_eq!(asked(&table), [TableAsks::Zone]);
    assert_eq!(table.understood.len(), 1, "the identity 700 is one of NR");
    let reasons: Vec<&str> = table.problems.iter().map(|one| one.reason.as_str()).collect();
    let says = [
        "clocks were set forward",
        "tomorrow",
        "no time of day",
        "is no date",
        "no figures",
        "n78 or B20",
        "0 to 503",
    ];
    assert_eq!(reasons.len(), says.len(), "{reasons:?}");
    for (reason, says) in reasons.iter().zip(says) {
        assert!(reason.contains(says), "{reason}");
    }
    assert_eq!(house.columns, []);
    assert!(read_as("", &house, &[]).unwrap_err().contains("empty"));
    assert!(read_as("a,b\n", &house, &[]).unwrap_err().contains("no rows"));
    assert_eq!(asked(&read("a,b\n1,2\n")), [TableAsks::Columns, TableAsks::Columns]);
}

/// Carriers of one instant are one reading, rows within two minutes one run; rows that say the same are one.
#[test]
fn rows_become_runs() {
    let text = "time,setup,band,rsrp,download\n\
        2026-10-12T18:30:00Z,kitchen,n78,-92,\n\
        2026-10-12T18:30:00Z,kitchen,B20,-80,\n\
        2026-10-12T18:31:00Z,kitchen,,,266\n\
        2026-10-12T18:31:00Z,kitchen,,,266\n\
        2026-10-12T18:50:00Z,kitchen,,,250\n\
        2026-10-12T18:30:30Z,gable 143,,,400\n";
    let table = read(text);
    assert_eq!((table.understood.len(), table.twice, asked(&table)), (5, 1, vec![]), "{:?}", table.questions);
    let runs = runs_of(&table.understood, "results.csv", Instrument::Phone, site());
    assert_eq!(runs.len(), 3);
    let whole = runs.iter().find(|one| one.samples.len() == 1).unwrap();
    assert_eq!((whole.samples[0].reading.carriers.len(), whole.tests.len()), (2, 1));
    assert_eq!(whole.run.source, Source::Typed);
    assert_eq!(whole.run.conditions.instrument, Instrument::Phone);
    assert_eq!(whole.run.conditions.notes, "From results.csv");
    assert!(runs.iter().flat_map(|one| &one.tests).all(|test| test.source == Source::Typed));
    let ids: HashSet<Uuid> = runs.iter().map(|one| one.run.id.0).collect();
    assert_eq!(ids.len(), 3);
}

/// The same table read again is the same results; so is a test that somebody typed in, a few seconds off and rounded.
#[test]
fn what_is_here_already_is_found() {
    let text = "time,setup,band,rsrp,download,upload\n2026-10-12T18:30:00Z,kitchen,n78,-92,266.2,23.6\n2026-10-12T19:30:00Z,kitchen,n78,-93,250,\n";
    let mut rows = read(text).understood;
    let runs = runs_of(&rows, "results.csv", Instrument::Gateway, site());
    let tests = runs.iter().flat_map(|one| one.tests.iter().map(|test| test.id.0));
    let ids: HashSet<Uuid> =
        tests.chain(runs.iter().flat_map(|one| one.samples.iter().map(|sample| sample.id.0))).collect();
    assert_eq!(ids.len(), 4);
    leave_out_known(&mut rows, site(), &ids, &[]);
    assert!(rows.iter().all(|row| !row.new_signal && !row.new_speeds));
    assert_eq!(runs_of(&rows, "results.csv", Instrument::Gateway, site()), []);

    let mut rows = read(text).understood;
    let typed = KnownTest {
        setup_id: setup(1),
        at: rows[0].at + TimeDelta::seconds(40),
        download_mbps: Some(266.0),
        upload_mbps: Some(23.6),
    };
    leave_out_known(&mut rows, site(), &HashSet::new(), &[typed]);
    assert_eq!(
        rows.iter().map(|row| (row.new_signal, row.new_speeds)).collect::<Vec<_>>(),
        [(true, false), (true, true)]
    );
}

/// A result without rates is not taken for another one of its minute.
#[test]
fn two_latencies_of_a_minute_are_two() {
    let mut rows = read("time,setup,ping\n2026-10-12T18:30:00Z,kitchen,36\n").understood;
    let other = KnownTest { setup_id: setup(1), at: rows[0].at, download_mbps: None, upload_mbps: None };
    leave_out_known(&mut rows, site(), &HashSet::new(), &[other]);
    assert!(rows[0].new_speeds);
}

/// Mapping is remembered by heading; a column that is mapped leaves no guess for another.
#[test]
fn columns_are_mapped_as_the_last_time() {
    let remembered =
        [ResultColumn { heading: "Wert".into(), field: ResultField::Download, unit: "kbit/s".into() }];
    let (known, reading) = (known(), ResultTableReading::default());
    let with = ReadingWith {
        reading: &reading,
        remembered: &remembered,
        names: &[],
        known: &known,
        chosen: Some(setup(1)),
        site: site(),
        zone: Oslo,
        now: noon(),
    };
    let table = read_results("results.csv", "time;Wert\n2026-10-12T18:30:00Z;42100\n", &with).unwrap();
    assert_eq!(table.understood[0].download_mbps, Some(42.1));
}

#[derive(Clone, Copy, Debug)]
struct Style {
    decimal: DecimalSign,
    order: Option<DateOrder>,
    mark: char,
    kilo: bool,
    twelve: bool,
}

fn styles() -> impl Strategy<Value = Style> {
    let order = prop_oneof![Just(None), Just(Some(DateOrder::DayFirst)), Just(Some(DateOrder::MonthFirst))];
    let decimal = prop_oneof![Just(DecimalSign::Point), Just(DecimalSign::Comma)];
    (decimal, order, prop_oneof![Just(';'), Just('\t'), Just(',')], any::<bool>(), any::<bool>())
        .prop_map(|(decimal, order, mark, kilo, twelve)| Style { decimal, order, mark, kilo, twelve })
}

fn written(style: Style, at: DateTime<Utc>, (rsrp, down, up): (i32, i32, Option<i32>)) -> String {
    let date = match style.order {
        None => at.format("%Y-%m-%d"),
        Some(DateOrder::DayFirst) => at.format("%d/%m/%Y"),
        Some(DateOrder::MonthFirst) => at.format("%m/%d/%Y"),
    };
    let clock = at.format(if style.twelve { "%I:%M:%S %p" } else { "%H:%M:%S" });
    // Tenths of Mbit/s; in kbit/s they are whole hundreds.
    let rate = |tenths: i32| {
        let text =
            if style.kilo { (tenths * 100).to_string() } else { format!("{}.{}", tenths / 10, tenths % 10) };
        if style.decimal == DecimalSign::Comma { text.replace('.', ",") } else { text }
    };
    let cells = [
        date.to_string(),
        clock.to_string(),
        format!("{rsrp} dBm"),
        rate(down),
        up.map(rate).unwrap_or_default(),
    ];
    cells
        .map(|cell| if cell.contains(style.mark) { format!("\"{cell}\"") } else { cell })
        .join(&style.mark.to_string())
}

proptest! {
    /// However a table is written, with what it does not tell answered, the same results come of it.
    #[test]
    fn results_survive_every_way_of_writing(
        style in styles(),
        rows in proptest::collection::vec((0..400_000_i64, -140..-44_i32, 1..20_000_i32, proptest::option::of(1..9_000_i32)), 1..20),
    ) {
        let unit = if style.kilo { "kbit/s" } else { "Mbit/s" };
        let heading = ["date", "time", "rsrp", &format!("down ({unit})"), &format!("up ({unit})")].join(&style.mark.to_string());
        let begin = Utc.with_ymd_and_hms(2026, 1, 2, 0, 0, 0).unwrap();
        let at = |minutes: i64| begin + TimeDelta::minutes(minutes) + TimeDelta::seconds(minutes % 60);
        let lines: Vec<String> = rows.iter().map(|(minutes, rsrp, down, up)| written(style, at(*minutes), (*rsrp, *down, *up))).collect();
        let reading = ResultTableReading {
            decimal: Some(style.decimal),
            date_order: style.order,
            zone: Some(TableZone::Utc),
            band: "n78".into(),
            ..ResultTableReading::default()
        };
        let table = read_as(&format!("{heading}\n{}\n", lines.join("\n")), &reading, &[]).unwrap();
        prop_assert_eq!(&table.questions, &[]);
        prop_assert_eq!(&table.problems, &[]);
        prop_assert_eq!(table.understood.len() + table.twice, rows.len());
        for row in &table.understood {
            let (minutes, rsrp, down, up) = rows[row.line as usize - 2];
            prop_assert_eq!(row.at, at(minutes));
            prop_assert_eq!(row.rsrp_dbm, Some(f64::from(rsrp)));
            let near = |read: Option<f64>, tenths: Option<i32>| match (read, tenths) {
                (Some(read), Some(tenths)) => (read - f64::from(tenths) / 10.0).abs() < 1e-9,
                (read, tenths) => read.is_none() && tenths.is_none(),
            };
            prop_assert!(near(row.download_mbps, Some(down)) && near(row.upload_mbps, up), "{:?}", row);
        }
    }

    /// Any text is read or refused; what is understood is whole.
    #[test]
    fn any_text_is_read_or_refused(text in "(time|rsrp|download|,|;|\t|\n|\"|[0-9./:-]{1,12}|[a-z ]{1,6}|\\PC){0,60}") {
        if let Ok(table) = read_as(&text, &ResultTableReading::default(), &[]) {
            prop_assert!(table.understood.len() + table.twice + table.problems.len() <= table.rows);
            prop_assert!(table.understood.iter().all(|row| row.new_signal || row.new_speeds));
            let runs = runs_of(&table.understood, "any.csv", Instrument::Gateway, site());
            prop_assert!(runs.iter().all(|one| !one.samples.is_empty() || !one.tests.is_empty()));
        }
    }
}
