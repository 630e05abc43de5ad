//! Content of files: held, or read from where it is kept when it is wanted. Photographs and terrain of one house come to hundreds of
//! megabytes; whoever passes a site on holds one file at a time.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::borrow::Cow;
use std::fmt;
use std::io;
use std::sync::Arc;

/// Where the content of one file is kept.
pub trait ContentSource: Send + Sync {
    /// All of it.
    ///
    /// # Errors
    /// Where it cannot be read.
    fn read(&self) -> io::Result<Vec<u8>>;
}

#[derive(Clone)]
enum Kept {
    Here(Arc<Vec<u8>>),
    There(Arc<dyn ContentSource>),
}

/// Content of a file; cheap to clone.
#[derive(Clone)]
pub struct FileContent {
    bytes: u64,
    kept: Kept,
}

impl FileContent {
    /// Content that is read when it is wanted, and its size in bytes.
    pub fn there(bytes: u64, source: impl ContentSource + 'static) -> Self {
        Self { bytes, kept: Kept::There(Arc::new(source)) }
    }

    /// Its size, bytes.
    pub fn bytes(&self) -> u64 {
        self.bytes
    }

    /// The content.
    ///
    /// # Errors
    /// Where it cannot be read, or has another size than was told.
    pub fn read(&self) -> io::Result<Cow<'_, [u8]>> {
        match &self.kept {
            Kept::Here(content) => Ok(Cow::Borrowed(content)),
            Kept::There(source) => {
                let content = source.read()?;
                if content.len() as u64 == self.bytes {
                    Ok(Cow::Owned(content))
                } else {
                    let detail = format!("{} bytes in place of {}", content.len(), self.bytes);
                    Err(io::Error::new(io::ErrorKind::InvalidData, detail))
                }
            }
        }
    }
}

impl Default for FileContent {
    fn default() -> Self {
        Vec::new().into()
    }
}

impl From<Vec<u8>> for FileContent {
    fn from(content: Vec<u8>) -> Self {
        Self { bytes: content.len() as u64, kept: Kept::Here(Arc::new(content)) }
    }
}

impl fmt::Debug for FileContent {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} bytes", self.bytes)
    }
}

/// The same bytes; what cannot be read is equal to nothing.
impl PartialEq for FileContent {
    fn eq(&self, other: &Self) -> bool {
        self.bytes == other.bytes
            && matches!((self.read(), other.read()), (Ok(one), Ok(other)) if one == other)
    }
}

/// Base64 (RFC 4648, section 4).
impl Serialize for FileContent {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let content = self.read().map_err(serde::ser::Error::custom)?;
        serializer.serialize_str(&STANDARD.encode(content))
    }
}

impl<'de> Deserialize<'de> for FileContent {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = Cow::<str>::deserialize(deserializer)?;
        STANDARD.decode(text.as_bytes()).map(Self::from).map_err(serde::de::Error::custom)
    }
}
