//! Files that only their owner may read.

use std::path::Path;

/// Of files, on systems that have such modes.
pub(crate) const PRIVATE_FILE: u32 = 0o600;
/// Of folders.
const PRIVATE_FOLDER: u32 = 0o700;

/// Makes a folder with everything above it; where it is made now, only its owner may open it.
///
/// # Errors
/// Those of the disk.
pub fn create_private_folder(folder: &Path) -> std::io::Result<()> {
    let known = folder.exists();
    std::fs::create_dir_all(folder)?;
    #[cfg(unix)]
    if !known {
        use std::os::unix::fs::PermissionsExt;
        std::fs::set_permissions(folder, std::fs::Permissions::from_mode(PRIVATE_FOLDER))?;
    }
    #[cfg(not(unix))]
    let _ = (known, PRIVATE_FOLDER);
    Ok(())
}

/// Makes an empty file of this mode, or gives it to the file that is there. A database gives its mode to the log beside it.
pub(crate) fn create_private(file: &Path, mode: u32) -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
        let opened = std::fs::OpenOptions::new().append(true).create(true).mode(mode).open(file)?;
        if opened.metadata()?.permissions().mode() & 0o777 != mode {
            opened.set_permissions(std::fs::Permissions::from_mode(mode))?;
        }
    }
    #[cfg(not(unix))]
    {
        let _ = mode;
        std::fs::OpenOptions::new().append(true).create(true).open(file)?;
    }
    Ok(())
}

/// Whether other users of this computer can open a folder.
pub fn is_open_to_others(folder: &Path) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        std::fs::metadata(folder).is_ok_and(|data| data.permissions().mode() & 0o077 != 0)
    }
    #[cfg(not(unix))]
    {
        let _ = folder;
        false
    }
}
