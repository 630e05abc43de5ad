//! Files on their way in: kept on disk, without a name, while they are looked at, so that a large one does not fill the memory.

use crate::importing::{ImportStage, Imports, Waits, Watched};
use crate::problem::Problem;
use crate::shared_file::SharedFile;
use axum::body::Body;
use futures::StreamExt;
use open_beacon_core::limits::PASSED_OVER_BYTES;
use open_beacon_core::model::{ContentSource, FileContent};
use open_beacon_store::StoreError;
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::path::Path;
use std::sync::Arc;
use tokio::sync::OwnedSemaphorePermit;

/// A file that was sent, read at a place of each clone's own; it goes when the last is dropped.
#[derive(Clone, Debug)]
pub(crate) struct Spool {
    file: SharedFile,
    watched: Watched,
    // Work that goes on for a moment after the call has ended still has its turn.
    turn: Arc<OwnedSemaphorePermit>,
}

impl Spool {
    /// Takes a body of at most `most` bytes into a file in `folder`, and waits for its turn. It is read for as long as `waits` is held:
    /// where whoever sent it leaves, the call that waits is dropped, the guard with it, and what was begun ends at its next reading.
    ///
    /// # Errors
    /// 413 where it is longer; 400 where it ends early; 409 where it was stopped; what the disk says.
    pub(crate) async fn taken(
        body: Body,
        most: u64,
        folder: &Path,
        imports: &Imports,
        waits: &Waits,
    ) -> Result<Self, Problem> {
        let mut file = tempfile::tempfile_in(folder).map_err(StoreError::from)?;
        let mut length = 0;
        let mut parts = body.into_data_stream();
        while let Some(part) = parts.next().await {
            let part =
                part.map_err(|_| Problem::unreadable("The file did not come whole. Send it again."))?;
            length += part.len() as u64;
            if length > most + PASSED_OVER_BYTES {
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
        imports.here(waits);
        let watched = waits.watched();
        let turn = tokio::select! {
            turn = imports.turn() => turn,
            () = watched.stop.cancelled() => return Err(StoreError::Stopped.into()),
        };
        Ok(Self { file: SharedFile::new(file, length), watched, turn })
    }

    /// How long it is, bytes.
    pub(crate) fn length_bytes(&self) -> u64 {
        self.file.length_bytes()
    }

    /// Its turn, to be held as long as what was read of it.
    pub(crate) fn turn(&self) -> Arc<OwnedSemaphorePermit> {
        self.turn.clone()
    }

    /// As the content of a file that is to be kept.
    pub(crate) fn content(&self) -> FileContent {
        FileContent::there(self.length_bytes(), self.clone())
    }
}

impl ContentSource for Spool {
    fn read(&self) -> io::Result<Vec<u8>> {
        let mut whole = Vec::new();
        let mut from_start = self.clone();
        from_start.rewind()?;
        from_start.read_to_end(&mut whole)?;
        Ok(whole)
    }
}

impl Read for Spool {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        if self.watched.at(ImportStage::Reading, self.file.place(), self.length_bytes()).is_break() {
            return Err(io::Error::new(io::ErrorKind::ConnectionAborted, "it was stopped"));
        }
        self.file.read(into)
    }
}

impl Seek for Spool {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        self.file.seek(to)
    }
}

#[cfg(test)]
mod tests {
    use super::Spool;
    use crate::importing::Imports;
    use axum::body::Body;
    use std::io::{Read, Seek};
    use std::time::Duration;
    use tokio::time::timeout;
    use uuid::Uuid;

    #[tokio::test]
    async fn what_nobody_waits_for_is_not_read_on_and_the_next_has_its_turn() {
        let (folder, imports) = (std::env::temp_dir(), Imports::default());
        let (first, second) = (imports.begun(Some(Uuid::nil())), imports.begun(None));
        let taken = Spool::taken(Body::from("a site"), 10, &folder, &imports, &first).await;
        let Ok(mut spool) = taken else { panic!("it fits") };
        let mut text = String::new();
        assert!(spool.read_to_string(&mut text).is_ok() && text == "a site" && spool.rewind().is_ok());
        assert_eq!(imports.progress(Uuid::nil()).map(|at| (at.done, at.of)), Some((6, 6)));
        let mut next = Box::pin(Spool::taken(Body::from("another"), 10, &folder, &imports, &second));
        let soon = Duration::from_millis(50);
        assert!(timeout(soon, &mut next).await.is_err(), "one after the other");
        drop(first);
        assert!(spool.read_to_string(&mut text).is_err());
        assert_eq!(imports.progress(Uuid::nil()), None);
        assert!(timeout(soon, &mut next).await.is_err(), "what was begun is still at it");
        drop(spool);
        assert!(next.await.is_ok());
        let third = imports.begun(Some(Uuid::nil()));
        let too_long = Spool::taken(Body::from("a whole valley"), 10, &folder, &imports, &third).await;
        assert_eq!(too_long.err().map(|problem| problem.status), Some(413));
        assert!(!imports.stop(Uuid::nil()), "what is refused is not under way");
        imports.here(&third);
        assert!(imports.stop(Uuid::nil()) && third.watched().go_on().is_err());
    }
}
