//! Photographs and screenshots kept with a run.

use crate::contents::{stored, to_keep};
use crate::convert::{Result as Row_, id, millis, time};
use crate::creation::{Created, claim, hex};
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{Attachment, AttachmentFile, AttachmentId, RunId, SetupId, SiteId};
use rusqlite::{Connection, Row};
use sha2::{Digest, Sha256};

const COLUMNS: &str = "attachment.id, attachment.run_id, attachment.file_name, attachment.media_type,
    attachment.bytes, attachment.sha256, attachment.added_at";

fn from_row(row: &Row) -> Row_<Attachment> {
    Ok(Attachment {
        id: id(row, "id")?,
        run_id: id(row, "run_id")?,
        file_name: row.get("file_name")?,
        media_type: row.get("media_type")?,
        bytes: row.get::<_, i64>("bytes")?.cast_unsigned(),
        sha256: row.get("sha256")?,
        added_at: time(row, "added_at")?,
    })
}

pub(crate) fn insert(db: &Connection, file: &AttachmentFile) -> Result<(), StoreError> {
    let attachment = &file.attachment;
    db.execute(
        "INSERT INTO attachment (id, run_id, file_name, media_type, bytes, sha256, added_at, content)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
        (
            attachment.id.to_string(),
            attachment.run_id.to_string(),
            &attachment.file_name,
            &attachment.media_type,
            attachment.bytes.cast_signed(),
            &attachment.sha256,
            millis(attachment.added_at),
            to_keep(&file.content, "attachment")?,
        ),
    )?;
    Ok(())
}

/// Attachments with content, selected by `filter` (a JOIN and WHERE over `attachment`, one parameter).
pub(crate) fn select_files(
    db: &Connection,
    filter: &str,
    parameter: &str,
) -> Result<Vec<AttachmentFile>, StoreError> {
    let sql = format!(
        "SELECT {COLUMNS}, length(attachment.content) AS size FROM attachment {filter} ORDER BY attachment.added_at, attachment.id"
    );
    let mut statement = db.prepare(&sql)?;
    let rows = statement.query_map([parameter], |row| {
        let attachment = from_row(row)?;
        let content = stored(db, "attachment", attachment.id.to_string(), row.get("size")?);
        Ok(AttachmentFile { attachment, content })
    })?;
    Ok(rows.collect::<Row_<_>>()?)
}

impl Store {
    /// Keeps a file with a run. Size and digest are taken from the content.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] where the identifier was used for other content.
    pub fn add_attachment(
        &self,
        id: AttachmentId,
        run_id: RunId,
        file_name: &str,
        media_type: &str,
        content: Vec<u8>,
        added_at: DateTime<Utc>,
    ) -> Result<Attachment, StoreError> {
        let attachment = Attachment {
            id,
            run_id,
            file_name: file_name.to_owned(),
            media_type: media_type.to_owned(),
            bytes: content.len() as u64,
            sha256: hex(&Sha256::digest(&content)),
            added_at,
        };
        let mut db = self.write();
        let transaction = db.transaction()?;
        let body = (run_id, file_name, media_type, &attachment.sha256);
        if claim(&transaction, &id.to_string(), "attachment", &body)? == Created::Now {
            insert(
                &transaction,
                &AttachmentFile { attachment: attachment.clone(), content: content.into() },
            )?;
        }
        transaction.commit()?;
        Ok(attachment)
    }

    /// A run's attachments without their content.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn attachments_of_run(&self, run: RunId) -> Result<Vec<Attachment>, StoreError> {
        let db = self.read();
        let sql = format!("SELECT {COLUMNS} FROM attachment WHERE run_id = ?1 ORDER BY added_at, id");
        let mut statement = db.prepare_cached(&sql)?;
        let rows = statement.query_map([run.to_string()], from_row)?;
        Ok(rows.collect::<Row_<_>>()?)
    }

    /// All attachments of a site without their content, each with the setup of its run, archived runs left out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn attachments_of_site(&self, site: SiteId) -> Result<Vec<(Attachment, SetupId)>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT {COLUMNS}, run.setup_id AS setup_id FROM {} JOIN attachment ON attachment.run_id = run.id
             WHERE position.site_id = ?1 AND run.archived_at IS NULL",
            crate::runs::RUNS_OF_SITE
        );
        let mut statement = db.prepare_cached(&sql)?;
        let one = |row: &Row| Ok((from_row(row)?, self::id(row, "setup_id")?));
        Ok(statement.query_map([site.to_string()], one)?.collect::<Row_<_>>()?)
    }

    /// One attachment with its content.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn attachment(&self, id: AttachmentId) -> Result<AttachmentFile, StoreError> {
        select_files(&self.read(), "WHERE attachment.id = ?1", &id.to_string())?
            .pop()
            .ok_or(StoreError::NotFound("attachment"))
    }
}
