//! Masts in and out.

use open_beacon_core::model::*;
use open_beacon_exchange::masts::*;
use proptest::prelude::*;
use uuid::Uuid;

fn site() -> SiteId {
    SiteId(Uuid::from_u128(7))
}

fn read(name: &str, bytes: &[u8]) -> ReadMasts {
    let table = read_mast_table(name, bytes).unwrap_or_else(|error| panic!("{name}: {error}"));
    masts_of(&table, &guess_columns(&table.headings, &[]), site())
}

fn two() -> Vec<Mast> {
    let text = "name,operator,latitude,longitude,height_m,technology,band,channel,bandwidth_mhz,pci,node,local_cell,bearing_deg,power_dbm,notes\n\
        Ridge,Huldermobil,61.3876,8.2615,36,LTE,3,1300,20,211,6699,2,320,46,by the path\n\
        Ridge,Huldermobil,61.3876,8.2615,36,NR,78,636666,90,611,,,320,,by the path\n\
        \"Fen, lower\",,61.5,8.1,,,,,,,,,,,\n";
    read("masts.csv", text.as_bytes()).masts
}

#[test]
fn masts_go_out_and_come_back_in_three_formats() {
    let masts = two();
    assert_eq!(masts.iter().map(|mast| mast.cells.len()).collect::<Vec<_>>(), [2, 0]);
    let outs = [
        ("a.csv", masts_to_csv(&masts)),
        ("a.geojson", masts_to_geojson(&masts)),
        ("a.kml", masts_to_kml(&masts)),
    ];
    for (name, bytes) in outs {
        let back = read(name, &bytes);
        assert!(back.problems.is_empty(), "{name}: {:?}", back.problems);
        assert_eq!(back.masts, masts, "{name}");
    }
}

#[test]
fn columns_of_any_name_are_guessed_and_a_mapping_is_remembered() {
    let text = "Standort;Breitengrad;Längengrad;Antenna height (ft);Radio;ECI;EARFCN;Azimuth\n\
        Höhe 1;61,3876;8,2615;120;LTE;1714946;1300;-40\n\
        Höhe 1;61,3876;8,2615;120;GSM;1;;0\n";
    let table = read_mast_table("a.csv", text.as_bytes()).unwrap();
    let mut columns = guess_columns(&table.headings, &[]);
    let field = |columns: &[MastColumn], heading: &str| {
        columns.iter().find(|one| one.heading == heading).map(|one| one.field)
    };
    assert_eq!(field(&columns, "Standort"), Some(MastField::Ignored));
    assert_eq!(field(&columns, "Antenna height (ft)"), Some(MastField::HeightFt));
    columns[0].field = MastField::Name;
    let found = masts_of(&table, &columns, site());
    assert_eq!((found.masts.len(), found.older), (1, 1));
    let mast = &found.masts[0];
    assert_eq!(mast.name, "Höhe 1");
    // 120 ft; a cell identity of 28 bits, the lower eight the local cell (TS 36.413 clause 9.2.1.37).
    assert!((mast.height_m.unwrap() - 36.576).abs() < 1e-9);
    assert_eq!((mast.cells[0].node, mast.cells[0].local_cell), (Some(6699), Some(2)));
    assert_eq!(mast.cells[0].bearing_deg, Some(320.0));
    assert_eq!(field(&guess_columns(&table.headings, &columns), "Standort"), Some(MastField::Name));
}

#[test]
fn rows_that_cannot_be_are_named_and_the_others_taken() {
    let text = "name,lat,lon,tech,band\n\
        A,61.4,8.2,LTE,3\n\
        B,ninety,8.2,LTE,3\n\
        C,0,0,LTE,3\n\
        D,95,8.2,LTE,3\n\
        E,61.5,8.2,smoke signals,3\n\
        F,,8.2,LTE,3\n\
        G,61.6,8.2,5G,n78\n";
    let found = read("a.csv", text.as_bytes());
    assert_eq!(found.masts.iter().map(|mast| mast.name.as_str()).collect::<Vec<_>>(), ["A", "G"]);
    assert_eq!(found.problems.iter().map(|one| one.line.unwrap()).collect::<Vec<_>>(), [3, 4, 5, 6, 7]);
    assert_eq!(found.masts[1].cells[0].technology, Technology::Nr);
    for (name, bytes, expected) in [
        ("a.kmz", &b"PK\x03\x04"[..], "Unpack"),
        ("a.csv", b"just one line", "one column"),
        ("a.csv", b"a,b\n", "no rows"),
        ("a.json", b"{\"type\":\"FeatureCollection\",\"features\":[]}", "no points"),
        ("a.kml", b"<kml><Document></Document></kml>", "no placemarks"),
        ("a.json", b"{broken", "no GeoJSON"),
    ] {
        let reason = read_mast_table(name, bytes).unwrap_err();
        assert!(reason.contains(expected), "{name}: {reason}");
    }
}

fn cells(text: &str) -> Vec<(Technology, u16, Option<f64>)> {
    let found = read("a.csv", text.as_bytes());
    assert!(found.problems.is_empty(), "{text}: {:?}", found.problems);
    let cells = found.masts.iter().flat_map(|mast| &mast.cells);
    cells.map(|cell| (cell.technology, cell.band.unwrap(), cell.bearing_deg)).collect()
}

#[test]
fn one_row_may_list_several_bands_and_sectors() {
    use Technology::{Lte, Nr};
    let head = "name,lat,lon,bands,azimuth\n";
    let of = |bands: &str, azimuth: &str| cells(&format!("{head}A,61.4,8.2,\"{bands}\",\"{azimuth}\"\n"));
    assert_eq!(of("B3,n78", ""), [(Lte, 3, None), (Nr, 78, None)]);
    assert_eq!(of("B20,B3,n78", ""), [(Lte, 20, None), (Lte, 3, None), (Nr, 78, None)]);
    assert_eq!(of("B20 + n28", "45"), [(Lte, 20, Some(45.0)), (Nr, 28, Some(45.0))]);
    assert_eq!(of("B3", "90,270"), [(Lte, 3, Some(90.0)), (Lte, 3, Some(270.0))]);
    assert_eq!(of("B3", "0/120/240").len(), 3);
    assert_eq!(of("B3", "0,120,240").len(), 3);
    assert_eq!(of("n78", "12,5"), [(Nr, 78, Some(12.5))], "a decimal comma");
    assert_eq!(of("n78", "12.25"), [(Nr, 78, Some(12.25))]);
    assert_eq!(of("B3;n78", "350; 110").len(), 4, "each band in each sector");
    let either = read("a.csv", format!("{head}A,61.4,8.2,B3,\"90,27\"\n").as_bytes());
    assert!(either.problems[0].reason.contains("90; 27"), "{:?}", either.problems);
}

#[test]
fn what_can_be_of_one_cell_only_is_not_given_to_several() {
    let text =
        "name,lat,lon,tech,bands,pci,earfcn\nA,61.4,8.2,,\"B3,B20\",211,1300\nB,61.5,8.2,NR,B78,611,\n";
    let found = read("a.csv", text.as_bytes());
    assert_eq!(found.masts[0].cells.iter().map(|cell| cell.pci).collect::<Vec<_>>(), [None, None]);
    // EARFCN 1300 is of band 3 (TS 36.101 table 5.7.3-1: 1200 to 1949).
    assert_eq!(found.masts[0].cells.iter().map(|cell| cell.channel).collect::<Vec<_>>(), [Some(1300), None]);
    assert!(found.problems[0].reason.contains("taken without them"), "{:?}", found.problems);
    let only = &found.masts[1].cells[0];
    assert_eq!((only.technology, only.band, only.pci), (Technology::Nr, Some(78), Some(611)));
}

#[test]
fn headings_with_units_and_owners_are_recognised() {
    use MastField::*;
    let of = |headings: &[&str]| -> Vec<MastField> {
        let headings: Vec<String> = headings.iter().map(|one| (*one).to_owned()).collect();
        guess_columns(&headings, &[]).into_iter().map(|column| column.field).collect()
    };
    assert_eq!(
        of(&["Tower name", "Lat (N)", "Lon (E)", "Height of tower m", "Sector azimuth (deg)", "Bands"]),
        [Name, Latitude, Longitude, HeightM, BearingDeg, Band]
    );
    assert_eq!(
        of(&["Site", "Site name", "Latitude [WGS84]", "Mast height (feet)"]),
        [Ignored, Name, Latitude, HeightFt]
    );
    assert_eq!(of(&["Height ft", "Height m"]), [HeightFt, HeightM]);
    assert_eq!(of(&["Cell ID", "PCI", "DL EARFCN"]), [CellIdentity, Pci, Channel]);
    assert_eq!(of(&["Status", "Date built"]), [Ignored, Ignored], "nothing is guessed from nothing");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// Whatever the table, an answer and never a panic; each field is guessed once; what comes out is on the earth.
    #[test]
    fn any_table_is_survived(
        headings in prop::collection::vec("[a-zA-Z _()°]{0,12}|lat|lon|name|band|earfcn|eci|height ft", 2..8),
        rows in prop::collection::vec(prop::collection::vec("[-0-9.,°NSEW nBx]{0,10}|LTE|NR|GSM", 0..9), 1..6),
    ) {
        let table = MastTable { kind: "CSV".into(), headings, rows };
        let columns = guess_columns(&table.headings, &[]);
        for (at, column) in columns.iter().enumerate() {
            let twice = columns[..at].iter().any(|before| before.field == column.field);
            prop_assert!(column.field == MastField::Ignored || !twice);
        }
        let found = masts_of(&table, &columns, site());
        for mast in &found.masts {
            prop_assert!(mast.place.check().is_ok());
        }
        prop_assert!(found.problems.len() + found.older <= table.rows.len());
    }

    /// Any text given as a file is a table or a reason.
    #[test]
    fn any_text_is_survived(text in "[\\{\\}<>a-z0-9:,;\"\n /]{0,200}") {
        if let Err(reason) = read_mast_table("a.csv", text.as_bytes()) {
            prop_assert!(reason.len() > 5);
        }
    }
}

/// A point without a place once brought the reader down.
#[test]
fn a_placemark_without_a_place_is_no_mast() {
    let mark = |inside: &str| {
        format!("<kml><Document><Placemark><name>x</name>{inside}</Placemark></Document></kml>")
    };
    for empty in [
        "<Point></Point>",
        "<Point/>",
        "<Point><coordinates/></Point>",
        "<Point><coordinates> , </coordinates></Point>",
        "<Point><coordinates>8.2</coordinates></Point>",
    ] {
        let reason = read_mast_table("a.kml", mark(empty).as_bytes()).unwrap_err();
        assert!(reason.contains("no placemarks"), "{empty}: {reason}");
    }
    let whole = mark("<Point><coordinates>\n 8.2,61.4,120 \n</coordinates></Point>");
    let table = read_mast_table("a.kml", whole.as_bytes()).unwrap();
    assert_eq!(table.rows.len(), 1);
    let cell = |name: &str| {
        table.rows[0][table.headings.iter().position(|heading| heading == name).unwrap()].clone()
    };
    assert_eq!(
        (cell("latitude"), cell("longitude"), cell("name")),
        ("61.4".into(), "8.2".into(), "x".into())
    );
}
