//! Files in an export: what they are is told by their content, never by what the export says of them.

use crate::RowProblem;
use open_beacon_core::limits::media_type_of;
use open_beacon_core::model::{FileContent, SiteBundle};

/// Reads every file once, and gives it the type that its content has. What is none of the known ones stays, as plain bytes that are
/// only ever downloaded. Answers which cannot be read.
pub(crate) fn type_by_content(bundle: &mut SiteBundle) -> Vec<RowProblem> {
    let mut problems = Vec::new();
    let mut examine = |table: &str, index: usize, content: &FileContent| match content.read() {
        Ok(content) => Some(media_type_of(&content)),
        Err(error) => {
            let reason = format!("the file cannot be read: {error}");
            problems.push(RowProblem::new(table, Some(index as u64 + 2), reason));
            None
        }
    };
    for (index, file) in bundle.attachments.iter_mut().enumerate() {
        if let Some(found) = examine("attachments.csv", index, &file.content) {
            found.clone_into(&mut file.attachment.media_type);
        }
    }
    for (index, file) in bundle.backdrops.iter_mut().enumerate() {
        if let Some(found) = examine("backdrops.csv", index, &file.content) {
            found.clone_into(&mut file.backdrop.media_type);
        }
    }
    for (index, file) in bundle.sweep_photos.iter_mut().enumerate() {
        if let Some(found) = examine("sweep_photos.csv", index, &file.content) {
            found.clone_into(&mut file.photo.media_type);
        }
    }
    for (index, file) in bundle.tiles.iter().enumerate() {
        examine("tiles.csv", index, &file.content);
    }
    problems
}
