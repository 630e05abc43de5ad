//! Tables in Parquet: what stands in the CSV stands there, as numbers and times. Read here by the library that writes it; by another one
//! with `tests/data-frame/read_parquet.py`.

use super::demo_bundle;
use bytes::Bytes;
use open_beacon_core::model::{SampleId, SiteBundle};
use open_beacon_exchange::write_parquet_zip;
use parquet::basic::LogicalType;
use parquet::file::reader::{FileReader, SerializedFileReader};
use parquet::record::{Field, Row};
use std::collections::BTreeMap;
use std::io::{Cursor, Read};
use uuid::Uuid;
use zip::ZipArchive;

fn tables(bundle: &SiteBundle) -> BTreeMap<String, SerializedFileReader<Bytes>> {
    let mut content = Vec::new();
    write_parquet_zip(bundle, &mut content).unwrap();
    let mut archive = ZipArchive::new(Cursor::new(content)).unwrap();
    let names: Vec<String> =
        (0..archive.len()).map(|at| archive.by_index(at).unwrap().name().unwrap().into_owned()).collect();
    let mut read = |name: String| {
        let mut bytes = Vec::new();
        archive.by_name(&name).unwrap().read_to_end(&mut bytes).unwrap();
        (name, SerializedFileReader::new(Bytes::from(bytes)).unwrap())
    };
    names.into_iter().map(&mut read).collect()
}

fn rows(table: &SerializedFileReader<Bytes>) -> Vec<Row> {
    table.get_row_iter(None).unwrap().map(Result::unwrap).collect()
}

fn field<'a>(row: &'a Row, name: &str) -> &'a Field {
    row.get_column_iter().find(|(column, _)| *column == name).unwrap().1
}

#[test]
fn every_value_is_there_as_what_it_is() {
    let bundle = demo_bundle();
    let tables = tables(&bundle);
    assert!(tables.keys().all(|name| name.ends_with(".parquet")), "no pictures: {:?}", tables.keys());
    let tests = rows(&tables["speed_tests.parquet"]);
    assert_eq!(tests.len(), bundle.speed_tests.len());
    for (row, test) in tests.iter().zip(&bundle.speed_tests) {
        assert_eq!(field(row, "id"), &Field::Str(test.id.to_string()));
        let wanted = test.figures.download_mbps.map_or(Field::Null, Field::Double);
        assert_eq!(field(row, "download_mbps"), &wanted);
        assert_eq!(field(row, "started_at"), &Field::TimestampMillis(test.started_at.timestamp_millis()));
        assert_eq!(field(row, "server"), &Field::Str(test.server.clone()));
    }
    let carriers: usize = bundle.samples.iter().map(|sample| sample.reading.carriers.len()).sum();
    assert_eq!(rows(&tables["carriers.parquet"]).len(), carriers);
    // Texts as they are: nothing is put before what a spreadsheet would run.
    let events = rows(&tables["events.parquet"]);
    let last = bundle.events.last().unwrap();
    assert_eq!(field(&events[events.len() - 1], "text"), &Field::Str(last.text.clone()));
    let schema = tables["runs.parquet"].metadata().file_metadata().schema_descr_ptr();
    let kind = |name: &str| {
        let at = schema.columns().iter().position(|column| column.name() == name).unwrap();
        schema.column(at).logical_type_ref().cloned()
    };
    assert!(matches!(kind("started_at"), Some(LogicalType::Timestamp(_))), "{:?}", kind("started_at"));
    assert_eq!(kind("notes"), Some(LogicalType::String));
    assert_eq!(kind("planned_samples"), None);
}

/// Rows are held some thousands at a time, and none is lost between.
#[test]
fn a_long_table_is_written_in_parts() {
    let mut bundle = demo_bundle();
    let one = bundle.samples[0].clone();
    bundle.samples = (0..45_001_u128)
        .map(|n| {
            let mut sample = one.clone();
            sample.id = SampleId(Uuid::from_u128(n));
            sample
        })
        .collect();
    let tables = tables(&bundle);
    let samples = &tables["samples.parquet"];
    assert_eq!((samples.num_row_groups(), samples.metadata().file_metadata().num_rows()), (3, 45_001));
    let ids: std::collections::HashSet<String> = rows(samples)
        .iter()
        .filter_map(|row| match field(row, "id") {
            Field::Str(id) => Some(id.clone()),
            _ => None,
        })
        .collect();
    assert_eq!(ids.len(), 45_001);
}
