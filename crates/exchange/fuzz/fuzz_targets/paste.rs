//! Any bytes as a pasted page: no panic, and every value that comes out of plain text stands in it.
#![no_main]

use libfuzzer_sys::fuzz_target;
use open_beacon_exchange::paste::read_paste;

fuzz_target!(|text: &str| {
    if let Ok(pasted) = read_paste(text) {
        for field in &pasted.fields {
            assert!(text.contains(&field.text) || text.contains('<') || text.trim_start().starts_with(['{', '[']));
        }
    }
});
