//! Files in an export: what they are is told by their content, never by what the export says of them.

use open_beacon_core::limits::media_type_of;
use open_beacon_core::model::SiteBundle;

/// Gives every file the type that its content has. What is none of the known ones stays, as plain bytes that are only ever
/// downloaded.
pub(crate) fn type_by_content(bundle: &mut SiteBundle) {
    for file in &mut bundle.attachments {
        media_type_of(&file.content).clone_into(&mut file.attachment.media_type);
    }
    for file in &mut bundle.backdrops {
        media_type_of(&file.content).clone_into(&mut file.backdrop.media_type);
    }
    for file in &mut bundle.sweep_photos {
        media_type_of(&file.content).clone_into(&mut file.photo.media_type);
    }
}
