//! Texts as they come in, part by part: in Unicode's composed form, with what keeps a small file from filling the memory counted on
//! the way.

use open_beacon_core::limits::{LONGEST_ROW_BYTES, MOST_LINE_ENDS, MOST_VALUES, composed_bytes};
use std::io::{self, BufRead, Read};

/// How much is asked for at once, bytes.
const PART: usize = 64 << 10;

/// Reads on from `inner`, in composed form (NFC, UAX #15), without a byte order mark.
pub(crate) struct Composing<R> {
    inner: R,
    /// Read, and not yet composed: the next part may belong to its last character.
    raw: Vec<u8>,
    ready: Vec<u8>,
    at: usize,
    ended: bool,
    given: u64,
    values: u64,
    line_from: u64,
    /// Where line feeds and carriage returns stand in what was given; empty where nobody asks.
    pub(crate) breaks: Vec<(u64, u8)>,
    keeps_breaks: bool,
}

impl<R: Read> Composing<R> {
    pub(crate) fn new(inner: R, keeps_breaks: bool) -> Self {
        Self {
            inner,
            raw: Vec::new(),
            ready: Vec::new(),
            at: 0,
            ended: false,
            given: 0,
            values: 0,
            line_from: 0,
            breaks: Vec::new(),
            keeps_breaks,
        }
    }

    /// Makes the next part ready. It ends between two ASCII characters: nothing composes over them.
    fn fill(&mut self) -> io::Result<()> {
        self.ready.clear();
        self.at = 0;
        while self.ready.is_empty() && !self.ended {
            let before = self.raw.len();
            self.ended = self.inner.by_ref().take(PART as u64).read_to_end(&mut self.raw)? == 0;
            if self.raw.len() > LONGEST_ROW_BYTES + PART {
                return Err(too_long());
            }
            let from = before.saturating_sub(1);
            let last = self.raw[from..].windows(2).rposition(<[u8]>::is_ascii);
            let cut = if self.ended { self.raw.len() } else { last.map_or(0, |at| from + at + 1) };
            let rest = self.raw.split_off(cut);
            let part = std::mem::replace(&mut self.raw, rest);
            let begins = self.given == 0 && part.starts_with(b"\xef\xbb\xbf");
            self.ready.extend_from_slice(&composed_bytes(&part[if begins { 3 } else { 0 }..]));
        }
        self.count()
    }

    fn count(&mut self) -> io::Result<()> {
        for (at, byte) in (self.given..).zip(&self.ready) {
            match byte {
                b',' | b'[' | b'{' => self.values += 1,
                b'\n' | b'\r' => {
                    self.line_from = at;
                    if self.keeps_breaks {
                        self.breaks.push((at, *byte));
                    }
                    if self.breaks.len() > MOST_LINE_ENDS {
                        return Err(io::Error::other(format!(
                            "it has more than {MOST_LINE_ENDS} ends of lines"
                        )));
                    }
                }
                _ => {}
            }
            if at - self.line_from > LONGEST_ROW_BYTES as u64 && self.keeps_breaks {
                return Err(too_long());
            }
        }
        self.given += self.ready.len() as u64;
        if self.values > MOST_VALUES {
            return Err(io::Error::other(format!("it holds more than {MOST_VALUES} values")));
        }
        Ok(())
    }
}

fn too_long() -> io::Error {
    io::Error::other(format!("a line of it is longer than {} MiB", LONGEST_ROW_BYTES >> 20))
}

impl<R: Read> BufRead for Composing<R> {
    fn fill_buf(&mut self) -> io::Result<&[u8]> {
        if self.at == self.ready.len() {
            self.fill()?;
        }
        Ok(&self.ready[self.at..])
    }

    fn consume(&mut self, amount: usize) {
        self.at += amount;
    }
}

impl<R: Read> Read for Composing<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let read = self.fill_buf()?.read(into)?;
        self.consume(read);
        Ok(read)
    }
}

#[cfg(test)]
mod tests {
    use super::Composing;
    use open_beacon_core::limits::composed;
    use std::io::Read;

    /// Gives one byte, then two, then three at a time.
    struct Slow<'a>(&'a [u8], usize);

    impl Read for Slow<'_> {
        fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
            self.1 = self.1 % 3 + 1;
            let length = self.1.min(self.0.len()).min(into.len());
            into[..length].copy_from_slice(&self.0[..length]);
            self.0 = &self.0[length..];
            Ok(length)
        }
    }

    #[test]
    fn part_by_part_is_the_same_as_all_at_once() {
        let text = "Caf\u{65}\u{301}, 山 \u{1100}\u{1161}\u{11a8}\r\n\"e\u{301}\"\n".repeat(9000);
        let mut read = String::new();
        let mut reader = Composing::new(Slow(text.as_bytes(), 0), true);
        reader.read_to_string(&mut read).unwrap_or_default();
        assert_eq!(read, composed(&text));
        assert_eq!(reader.breaks.len(), 27_000);
        assert!(reader.breaks.iter().all(|(at, byte)| read.as_bytes()[*at as usize] == *byte));
    }

    #[test]
    fn what_has_no_end_is_refused() {
        let long = "é".repeat(3 << 20);
        let mut read = Vec::new();
        assert!(Composing::new(long.as_bytes(), false).read_to_end(&mut read).is_err());
        let many = "1,".repeat(13_000_000);
        assert!(Composing::new(many.as_bytes(), false).read_to_end(&mut read).is_err());
    }
}
