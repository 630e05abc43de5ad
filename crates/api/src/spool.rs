//! Files on their way in: kept on disk, without a name, while they are looked at, so that a large one does not fill the memory.

use crate::problem::Problem;
use axum::body::Body;
use futures::StreamExt;
use open_beacon_core::model::{ContentSource, FileContent};
use open_beacon_store::StoreError;
use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};
use tokio_util::sync::{CancellationToken, DropGuard};

/// What of a file that is too long is taken and not kept, bytes, before the connection is closed.
const PASSED_OVER: u64 = 1 << 30;

/// A file that was sent, read at a place of each clone's own; it goes when the last is dropped.
#[derive(Clone, Debug)]
pub(crate) struct Spool {
    file: Arc<Mutex<File>>,
    length: u64,
    at: u64,
    gone: CancellationToken,
}

impl Spool {
    /// Takes a body of at most `most` bytes into a file in `folder`. It is read for as long as the guard is held: where whoever sent it
    /// leaves, the call that waits is dropped, the guard with it, and what was begun ends at its next reading.
    ///
    /// # Errors
    /// 413 where it is longer; 400 where it ends early; what the disk says.
    pub(crate) async fn taken(body: Body, most: u64, folder: &Path) -> Result<(Self, DropGuard), Problem> {
        let mut file = tempfile::tempfile_in(folder).map_err(StoreError::from)?;
        let mut length = 0;
        let mut parts = body.into_data_stream();
        while let Some(part) = parts.next().await {
            let part =
                part.map_err(|_| Problem::unreadable("The file did not come whole. Send it again."))?;
            length += part.len() as u64;
            if length > most + PASSED_OVER {
                break;
            }
            // A browser reads the answer when it has sent everything.
            if length > most {
                continue;
            }
            let written = tokio::task::spawn_blocking(move || file.write_all(&part).map(|()| file));
            file = written
                .await
                .map_err(io::Error::other)
                .and_then(|written| written)
                .map_err(StoreError::from)?;
        }
        if length > most {
            return Err(Problem::too_large(format!("A file of at most {} MiB is read.", most >> 20)));
        }
        let gone = CancellationToken::new();
        let spool = Self { file: Arc::new(Mutex::new(file)), length, at: 0, gone: gone.clone() };
        Ok((spool, gone.drop_guard()))
    }

    /// How long it is, bytes.
    pub(crate) fn bytes(&self) -> u64 {
        self.length
    }

    /// As the content of a file that is to be kept.
    pub(crate) fn content(&self) -> FileContent {
        FileContent::there(self.length, self.clone())
    }
}

impl ContentSource for Spool {
    fn read(&self) -> io::Result<Vec<u8>> {
        let mut whole = Vec::new();
        Self { at: 0, ..self.clone() }.read_to_end(&mut whole)?;
        Ok(whole)
    }
}

impl Read for Spool {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        if self.gone.is_cancelled() {
            return Err(io::Error::new(io::ErrorKind::ConnectionAborted, "whoever sent it has left"));
        }
        let mut file = self.file.lock().unwrap_or_else(PoisonError::into_inner);
        file.seek(SeekFrom::Start(self.at))?;
        let read = file.read(into)?;
        self.at += read as u64;
        Ok(read)
    }
}

impl Seek for Spool {
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

#[cfg(test)]
mod tests {
    use super::Spool;
    use axum::body::Body;
    use std::io::{Read, Seek};

    #[tokio::test]
    async fn what_nobody_waits_for_is_not_read_on() {
        let folder = std::env::temp_dir();
        let taken = Spool::taken(Body::from("a site"), 10, &folder).await;
        let Ok((mut spool, waits)) = taken else { panic!("it fits") };
        let mut text = String::new();
        assert!(spool.read_to_string(&mut text).is_ok() && text == "a site" && spool.rewind().is_ok());
        drop(waits);
        assert!(spool.read_to_string(&mut text).is_err());
        let too_long = Spool::taken(Body::from("a whole valley"), 10, &folder).await;
        assert_eq!(too_long.err().map(|problem| problem.status), Some(413));
    }
}
