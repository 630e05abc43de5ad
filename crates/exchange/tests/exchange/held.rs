//! How much of a file is held at once: files in a zip stay where they are, and what would fill the memory is refused with its limit.

use crate::demo_bundle;
use open_beacon_core::limits::LARGEST_JSON_BYTES;
use open_beacon_exchange::terrain::{read_new_tile, read_tile};
use open_beacon_exchange::{
    TAKEN, ZipLimit, beyond_zip, fits_json, from_bytes, from_source, to_json, to_zip, with_new_ids,
};
use std::io::{Cursor, Read, Result, Seek, SeekFrom, Write};
use std::sync::{Arc, Mutex};
use uuid::Uuid;

/// A file that can be emptied while others hold it.
#[derive(Clone)]
struct Lent {
    bytes: Arc<Mutex<Vec<u8>>>,
    at: u64,
}

impl Read for Lent {
    fn read(&mut self, into: &mut [u8]) -> Result<usize> {
        let bytes = self.bytes.lock().unwrap();
        let mut from = bytes.get(self.at as usize..).unwrap_or_default();
        let read = from.read(into)?;
        self.at += read as u64;
        Ok(read)
    }
}

impl Seek for Lent {
    fn seek(&mut self, to: SeekFrom) -> Result<u64> {
        let mut cursor = Cursor::new(self.bytes.lock().unwrap().clone());
        cursor.set_position(self.at);
        self.at = cursor.seek(to)?;
        Ok(self.at)
    }
}

#[test]
fn files_of_a_zip_are_read_when_they_are_wanted() {
    let whole = demo_bundle();
    let bytes = Arc::new(Mutex::new(to_zip(&whole)));
    let read = from_source(Lent { bytes: Arc::clone(&bytes), at: 0 }).unwrap();
    assert_eq!(read, whole);
    let copy = with_new_ids(read.clone(), Uuid::now_v7).unwrap();
    let contents = |of: &open_beacon_core::model::SiteBundle| {
        let attachments = of.attachments.iter().map(|file| file.content.clone());
        attachments.chain(of.tiles.iter().map(|file| file.content.clone())).collect::<Vec<_>>()
    };
    assert_eq!(contents(&copy), contents(&whole), "a copy has the same files");
    assert!(contents(&copy).len() > 1 && contents(&copy).iter().all(|content| content.read().is_ok()));
    bytes.lock().unwrap().clear();
    assert!(contents(&copy).iter().all(|content| content.read().is_err()), "nothing of them was held");
}

#[test]
fn a_json_export_is_measured_before_it_leaves() {
    let bundle = demo_bundle();
    let bytes = to_json(&bundle).len() as u64;
    assert!(fits_json(&bundle, bytes).unwrap());
    assert!(!fits_json(&bundle, bytes - 1).unwrap(), "it would not come back");
}

/// Each limit is passed by one only, and named; at the limit it comes back.
#[test]
fn a_zip_that_would_not_come_back_is_told_before_it_leaves() {
    let bundle = demo_bundle();
    assert_eq!(beyond_zip(&bundle, TAKEN).unwrap(), None);
    let samples = bundle.samples.len();
    let carriers: usize = bundle.samples.iter().map(|sample| sample.reading.carriers.len()).sum();
    assert!(carriers > samples && carriers > bundle.speed_tests.len());
    assert_eq!(beyond_zip(&bundle, ZipLimit { rows: carriers, ..TAKEN }).unwrap(), None);
    let told = |limit| beyond_zip(&bundle, limit).unwrap().expect("it is passed");
    let rows = told(ZipLimit { rows: carriers - 1, ..TAKEN });
    assert!(rows.contains("carriers.csv") && rows.contains(&format!("{} rows", carriers - 1)), "{rows}");
    assert!(told(ZipLimit { values: 1_000, ..TAKEN }).contains("values"));
    assert!(told(ZipLimit { table_bytes: 2_000, ..TAKEN }).contains("2000 bytes that"));
    assert!(told(ZipLimit { all_bytes: 20_000, ..TAKEN }).contains("in all tables"));
    let files: u64 = bundle.attachments.iter().map(|file| file.content.bytes()).sum();
    assert!(files > 0 && told(ZipLimit { file_bytes: files - 1, ..TAKEN }).contains("other files"));
}

fn refusal(bytes: &[u8]) -> String {
    let problems = from_bytes(bytes).expect_err("it must not be taken");
    problems.into_iter().map(|one| one.reason + "; ").collect()
}

#[test]
fn what_would_fill_the_memory_is_refused_with_its_limit() {
    let long = vec![b' '; LARGEST_JSON_BYTES as usize + 1];
    assert!(refusal(&long).contains("256 MiB"), "{}", refusal(&long));

    // A list of 65,535 files by the end record, and of a number that is written elsewhere.
    let mut many = b"PK\x03\x04".to_vec();
    many.extend(b"PK\x05\x06\0\0\0\0\xff\xff\xff\xff\0\0\0\0\0\0\0\0\0\0");
    assert!(refusal(&many).contains("65,535"), "{}", refusal(&many));

    // One cell without an end, in one line, in long ones, and in nothing but ends of lines.
    let long = "x".repeat(1023) + "\n";
    for (part, limit) in [
        ("x", "longer than 4 MiB"),
        (long.as_str(), "more than 96 MiB"),
        ("\n", "more than 4000000 ends of lines"),
    ] {
        let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
        zip.start_file("samples.csv", zip::write::SimpleFileOptions::default()).unwrap();
        zip.write_all(b"id,run_id\n\"").unwrap();
        let block = part.repeat((1 << 20) / part.len());
        (0..97).for_each(|_| zip.write_all(block.as_bytes()).unwrap());
        let bomb = zip.finish().unwrap().into_inner();
        assert!(bomb.len() < 1 << 20, "{} bytes", bomb.len());
        assert!(refusal(&bomb).contains(limit), "{}", refusal(&bomb));
    }
}

/// Photographs of a few kilobytes each that unpack to 2.2 GB together.
#[test]
fn files_that_unpack_without_end_are_refused_before_they_are_unpacked() {
    let mut bundle = demo_bundle();
    let photo = bundle.attachments[0].clone();
    bundle.attachments = (0..11).map(|_| photo.clone()).collect();
    for one in &mut bundle.attachments {
        one.attachment.id.0 = Uuid::now_v7();
    }
    let whole = to_zip(&bundle);
    let mut zeros = zip::ZipWriter::new(Cursor::new(Vec::new()));
    zeros.start_file("zeros", zip::write::SimpleFileOptions::default()).unwrap();
    let block = vec![0; 1 << 20];
    (0..200).for_each(|_| zeros.write_all(&block).unwrap());
    let mut zeros = zip::ZipArchive::new(zeros.finish().unwrap()).unwrap();
    let mut from = zip::ZipArchive::new(Cursor::new(whole)).unwrap();
    let mut to = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for index in 0..from.len() {
        let entry = from.by_index_raw(index).unwrap();
        let name = entry.name().unwrap().into_owned();
        if name.starts_with("attachments/") {
            to.raw_copy_file_rename(zeros.by_index_raw(0).unwrap(), name).unwrap();
        } else {
            to.raw_copy_file(entry).unwrap();
        }
    }
    let bomb = to.finish().unwrap().into_inner();
    assert!(bomb.len() < 8 << 20, "{} bytes", bomb.len());
    assert!(refusal(&bomb).contains("more than 2 GiB"), "{}", refusal(&bomb));
}

#[test]
fn a_new_terrain_file_is_of_what_is_needed() {
    let heading =
        |columns: u32| format!("ncols {columns}\nnrows 6000\nxllcorner 8\nyllcorner 61\ncellsize 0.0001\n");
    let reason = |text: &str| read_new_tile("big.asc", Cursor::new(text.as_bytes()), None).unwrap_err();
    assert!(reason(&heading(6000)).contains("too many"), "{}", reason(&heading(6000)));
    assert!(reason(&heading(4000)).contains("fewer"), "{}", reason(&heading(4000)));
    let long = heading(3000) + &" ".repeat(64 << 20);
    assert!(reason(&long).contains("64 MiB"), "{}", reason(&long));
    // What an earlier version took is still read.
    assert!(read_tile("big.asc", heading(6000).as_bytes(), None).unwrap_err().contains("fewer"));
}
