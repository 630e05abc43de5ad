//! What the answer to a download says of itself, and whether its body can be compressed.

use flate2::Compression;
use flate2::write::DeflateEncoder;
use reqwest::Response;
use reqwest::header::{AGE, CONTENT_ENCODING, VIA};
use std::io::Write;
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, Ordering};

/// So much of a body is looked at: several windows of the coding (RFC 1951: 32 KiB).
const LOOKED_AT_BYTES: usize = 256 << 10;

/// Of the first answer's body.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Told {
    pub(crate) content_encoding: Option<String>,
    pub(crate) via: Option<String>,
    pub(crate) beginning: Vec<u8>,
}

/// Looks at one answer of all that a download gets.
#[derive(Debug, Default)]
pub(crate) struct BodyLook {
    claimed: AtomicBool,
    told: Mutex<Told>,
}

impl BodyLook {
    /// Whether the caller's answer is the one that is looked at: the first.
    pub(crate) fn claim(&self, answer: &Response) -> bool {
        if self.claimed.swap(true, Ordering::Relaxed) {
            return false;
        }
        let header = |name: &str| Some(answer.headers().get(name)?.to_str().ok()?.trim().to_owned());
        let coding = header(CONTENT_ENCODING.as_str()).filter(|coding| coding != "identity");
        let old = header(AGE.as_str()).and_then(|age| age.parse::<u64>().ok()).is_some_and(|age| age > 0);
        let plain = answer.url().scheme() == "http";
        let via = header(VIA.as_str()).or_else(|| old.then(|| "a cache".to_owned())).filter(|_| plain);
        let mut told = self.told.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        *told = Told { content_encoding: coding, via, beginning: Vec::new() };
        true
    }

    /// Keeps a part of the body, up to what is looked at.
    pub(crate) fn add(&self, part: &[u8]) {
        let mut told = self.told.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let room = LOOKED_AT_BYTES.saturating_sub(told.beginning.len());
        told.beginning.extend_from_slice(&part[..part.len().min(room)]);
    }

    pub(crate) fn into_told(self) -> Told {
        self.told.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner)
    }
}

/// What remains of bytes when they are compressed (RFC 1951), share of their length; none of fewer than two windows.
pub(crate) fn packed_share(bytes: &[u8]) -> Option<f64> {
    if bytes.len() < LOOKED_AT_BYTES / 4 {
        return None;
    }
    let mut encoder = DeflateEncoder::new(Vec::new(), Compression::fast());
    encoder.write_all(bytes).ok()?;
    Some(encoder.finish().ok()?.len() as f64 / bytes.len() as f64)
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use super::*;
    use crate::transfer::noise;

    #[test]
    fn noise_keeps_its_length_and_what_repeats_does_not() {
        let share = |bytes: &[u8]| packed_share(bytes).unwrap();
        assert!(share(&noise(128 << 10)) > 0.99);
        assert!(share(&vec![0; 128 << 10]) < 0.02);
        let page: Vec<u8> = "signal power, dBm; ".bytes().cycle().take(128 << 10).collect();
        assert!(share(&page) < 0.05);
        // What looks random and comes again within the window.
        let block = noise(16 << 10);
        let again: Vec<u8> = block.iter().copied().cycle().take(128 << 10).collect();
        assert!(share(&again) < 0.3);
        assert_eq!(packed_share(&[0; 1000]), None, "too short to tell");
    }
}
