//! A file on disk that several read at places of their own.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::sync::{Arc, Mutex, PoisonError};

/// A file, read at a place of each clone's own; it is closed when the last is dropped.
#[derive(Clone, Debug)]
pub struct SharedFile {
    file: Arc<Mutex<File>>,
    length: u64,
    at: u64,
}

impl SharedFile {
    /// A file of `length` bytes, read from its beginning.
    pub fn new(file: File, length: u64) -> Self {
        Self { file: Arc::new(Mutex::new(file)), length, at: 0 }
    }

    /// How long it is, bytes.
    pub fn length_bytes(&self) -> u64 {
        self.length
    }

    /// Where it is read next, bytes from the beginning.
    pub(crate) fn place(&self) -> u64 {
        self.at
    }
}

impl Read for SharedFile {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let mut file = self.file.lock().unwrap_or_else(PoisonError::into_inner);
        file.seek(SeekFrom::Start(self.at))?;
        let read = file.read(into)?;
        self.at += read as u64;
        Ok(read)
    }
}

impl Seek for SharedFile {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        let at = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::End(by) => self.length.checked_add_signed(by),
            SeekFrom::Current(by) => self.at.checked_add_signed(by),
        };
        self.at = at.ok_or_else(|| io::Error::from(io::ErrorKind::InvalidInput))?;
        Ok(self.at)
    }
}
