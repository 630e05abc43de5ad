//! Reads whatever was pasted from a gateway's status page: text, tables, JSON, HTML, modem answers.
//!
//! Every number that comes out stands in the text; nothing is guessed. What was not understood is handed back.

mod gather;
mod json;
mod label;
mod markup;
mod modem;
mod text;
mod token;
mod value;
mod words;

use open_beacon_core::limits::{LONGEST_PASTE_BYTES, composed};
use open_beacon_core::model::{Carrier, ConnectionMode};
use serde::{Deserialize, Serialize};

/// A field of a reading that a text can give.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PasteTarget {
    Rsrp,
    Rsrq,
    Sinr,
    Rssi,
    Band,
    Channel,
    Bandwidth,
    Pci,
    CellIdentity,
    Mode,
    Rank,
    Cqi,
    Mcs,
    TimingAdvance,
    TransmitPower,
}

/// How sure the reading of one field is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Confidence {
    /// A word that pages use for several things, or a number without its sign at such a word.
    Low,
    /// The field's own name, but something had to be mended (a missing sign, a decimal comma, a second value), or
    /// the text does not say which of several carriers the value belongs to.
    Medium,
    /// The field's own name, a plain value, and a carrier named by its label, its row, its line or its heading.
    High,
}

/// One value that was understood.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PastedField {
    /// Which of the carriers; `None` for what belongs to the whole connection.
    pub carrier: Option<usize>,
    pub target: PasteTarget,
    /// The label as it stands in the text.
    pub label: String,
    /// The value as it stands in the text.
    pub text: String,
    pub confidence: Confidence,
    /// Why the confidence is not high, in words.
    pub note: Option<String>,
}

/// A text as it was understood.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pasted {
    pub mode: ConnectionMode,
    pub carriers: Vec<Carrier>,
    /// In the order of the text.
    pub fields: Vec<PastedField>,
    /// Parts of the text that were not used, in its order.
    pub not_understood: Vec<String>,
}

/// Why a text cannot be read at all.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PasteError {
    #[error("Nothing was pasted. Copy the text of the gateway's status page and paste it here.")]
    Empty,
    #[error("This is longer than 256 KiB. Paste only the part with the signal values.")]
    TooLong,
}

/// Reads a pasted text.
///
/// # Errors
/// [`PasteError`] for an empty text or one that is too long. A text in which nothing is understood is no error: all
/// of it comes back in [`Pasted::not_understood`].
pub fn read_paste(text: &str) -> Result<Pasted, PasteError> {
    if text.trim().is_empty() {
        return Err(PasteError::Empty);
    }
    if text.len() > LONGEST_PASTE_BYTES {
        return Err(PasteError::TooLong);
    }
    let text = &*composed(text);
    let mut gathered = gather::Gatherer::default();
    if let Some(document) = json::document(text) {
        json::read(&document, &mut gathered);
    } else if markup::looks_like_markup(text) {
        text::read(&markup::as_text(text), &mut gathered);
    } else {
        text::read(text, &mut gathered);
    }
    Ok(gathered.finish())
}
