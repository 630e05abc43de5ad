//! How much is taken from outside at once: the figures, and what is told where one is passed. Files are shared, and a small one
//! must not fill the memory or keep the processor busy.

use icu_normalizer::ComposingNormalizerBorrowed;
use std::borrow::Cow;

/// Most levels of nesting in a page, a KML file or a JSON document.
pub const MOST_NESTING: usize = 200;
/// Most elements of a page or a KML file.
pub const MOST_ELEMENTS: usize = 200_000;
/// Most rows of one table of an export.
pub const MOST_ROWS: usize = 400_000;
/// Most masts of a site: a survey looks at every one of them.
pub const MOST_MASTS: usize = 2_000;
/// Most tests that a typed figure is the average of.
pub const MOST_AVERAGED: u16 = 100;
/// Most carriers of one reading.
pub const MOST_CARRIERS: usize = 64;
/// Most problems of a file that are told one by one.
pub const MOST_PROBLEMS: usize = 100;
/// Longest side of a picture, pixels.
pub const LONGEST_SIDE_PX: u32 = 20_000;
/// Most rows of a masts file, and values of one that is GeoJSON: twenty a row.
pub const MOST_MAST_ROWS: usize = 50_000;
/// See [`MOST_MAST_ROWS`].
pub const MOST_MAST_VALUES: usize = 20 * MOST_MAST_ROWS;
/// Most rows of a table of results.
pub const MOST_RESULT_ROWS: usize = 20_000;
/// Most points of an antenna pattern: a quarter of a degree, once round.
pub const MOST_PATTERN_POINTS: usize = 1441;

/// Largest request where nothing else is said, bytes.
pub const LARGEST_REQUEST_BYTES: usize = 2 << 20;
/// Largest picture, bytes.
pub const LARGEST_PICTURE_BYTES: usize = 12 << 20;
/// Largest masts file in its JSON envelope, bytes.
pub const LARGEST_MASTS_BYTES: usize = 32 << 20;
/// Largest terrain file, bytes; it is looked at on disk.
pub const LARGEST_TERRAIN_BYTES: u64 = 64 << 20;
/// Largest export that is brought in, bytes; it is looked at on disk.
pub const LARGEST_IMPORT_BYTES: u64 = 1 << 30;
/// What of a file that is too long is taken and not kept, bytes, before the connection is closed: a browser reads the answer when it
/// has sent everything.
pub const PASSED_OVER_BYTES: u64 = 1 << 30;
/// Longest pasted text, bytes.
pub const LONGEST_PASTE_BYTES: usize = 256 << 10;
/// Longest page of a gateway, bytes.
pub const LONGEST_PAGE_BYTES: usize = 1 << 20;
/// Most answers of a recording of a gateway's page.
pub const MOST_RECORDED: usize = 40;
/// Longest answer that is recorded, bytes.
pub const LONGEST_RECORDED_BYTES: usize = 128 << 10;
/// Largest recording with its recipe as JSON, bytes: quotes and line ends take two.
pub const LARGEST_RECORDING_BYTES: usize = 2 * MOST_RECORDED * LONGEST_RECORDED_BYTES;
/// Longest answer of a modem, bytes.
pub const LONGEST_MODEM_ANSWER_BYTES: usize = 4096;

/// Largest JSON export, bytes: the files in it are held. A zip may be larger.
pub const LARGEST_JSON_BYTES: u64 = 256 << 20;
/// Longest line of a JSON document and longest row of a table, bytes.
pub const LONGEST_ROW_BYTES: usize = 4 << 20;
/// Most values of a JSON document, or cells of a table.
pub const MOST_VALUES: u64 = 12_000_000;
/// Most ends of lines of a table, those in its texts too.
pub const MOST_LINE_ENDS: usize = 4_000_000;
/// Most that the tables of a zip may unpack to, bytes: a small file must not fill the memory.
pub const MOST_TABLE_BYTES: u64 = 512 << 20;
/// Most that one table of a zip may unpack to, bytes.
pub const LARGEST_TABLE_BYTES: u64 = 96 << 20;
/// Most that one other file of a zip may unpack to, bytes.
pub const LARGEST_FILE_BYTES: u64 = 256 << 20;
/// Most that all other files of a zip may unpack to, bytes.
pub const MOST_FILE_BYTES: u64 = 2 << 30;

/// How much of a terrain file is taken.
#[derive(Clone, Copy, Debug)]
pub struct TerrainLimit {
    /// Heights.
    pub nodes: usize,
    /// Of a file that is held whole while it is read, bytes: text and .hgt.
    pub held_bytes: u64,
    /// Of heights as they stand in a GeoTIFF, bytes.
    pub decoded_bytes: usize,
}

/// Of a terrain file that is new: 25 tiles of a kilometre at 1 m, twice a degree at 1″.
pub const NEW_TERRAIN: TerrainLimit =
    TerrainLimit { nodes: 25_000_000, held_bytes: LARGEST_TERRAIN_BYTES, decoded_bytes: 100_000_000 };
/// Of one that is here already: earlier versions took more.
pub const STORED_TERRAIN: TerrainLimit =
    TerrainLimit { nodes: 200_000_000, held_bytes: 256 << 20, decoded_bytes: 1 << 30 };

/// Elements of HTML that may be left open, or never have an end: they do not nest by themselves.
const OPEN_ENDED: [&str; 31] = [
    "area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr",
    "param", "p", "li", "dt", "dd", "tr", "td", "th", "thead", "tbody", "tfoot", "option", "optgroup",
    "colgroup", "caption", "html", "head", "body",
];

/// Whether markup is nested no deeper and no larger than is read. Counts tags as they stand, without building anything: readers
/// of markup go down level by level, and some of them look back over all levels at every one.
///
/// # Errors
/// Which limit is passed, in words.
pub fn check_markup(text: &str, html: bool) -> Result<(), String> {
    let (mut depth, mut elements) = (0_usize, 0_usize);
    // Names are told without regard to case; every part of the text is passed once only.
    let lower = text.to_ascii_lowercase();
    let mut rest = lower.as_str();
    while let Some(at) = rest.find('<') {
        rest = &rest[at + 1..];
        let skipped = [("!--", "-->"), ("![cdata[", "]]>")].iter().find(|(begin, _)| rest.starts_with(begin));
        if let Some((_, end)) = skipped {
            rest = rest.find(end).map_or("", |at| &rest[at + end.len()..]);
            continue;
        }
        let closes = rest.starts_with('/');
        let name: String = rest
            .trim_start_matches('/')
            .chars()
            .take_while(|c| !c.is_whitespace() && !matches!(c, '>' | '/' | '<'))
            .take(40)
            .collect();
        if !name.starts_with(|c: char| c.is_alphabetic() || c == '_') {
            continue;
        }
        if html && OPEN_ENDED.contains(&name.as_str()) {
            elements += usize::from(!closes);
        } else if closes {
            depth = depth.saturating_sub(1);
        } else {
            elements += 1;
            let tag = &rest[..rest.find(['<', '>']).unwrap_or(rest.len())];
            // In HTML a slash at the end of a tag closes nothing.
            if html || !tag.ends_with('/') {
                depth += 1;
            }
        }
        if depth > MOST_NESTING {
            return Err(format!("it is nested more than {MOST_NESTING} levels deep"));
        }
        if elements > MOST_ELEMENTS {
            return Err(format!("it has more than {MOST_ELEMENTS} elements"));
        }
        if html && matches!(name.as_str(), "script" | "style") && !closes {
            let end = format!("</{name}");
            rest = rest.find(&end).map_or("", |at| &rest[at..]);
        }
    }
    Ok(())
}

/// Whether a text shows anything: spaces, invisible and direction-changing characters alone do not.
pub fn is_visible(text: &str) -> bool {
    !text.chars().all(|c| c.is_whitespace() || c.is_control() || is_invisible(c))
}

/// A text in Unicode's composed form (NFC, UAX #15): the same name typed on two devices is the same name.
pub fn composed(text: &str) -> Cow<'_, str> {
    ComposingNormalizerBorrowed::new_nfc().normalize(text)
}

/// [`composed`] for the bytes of a text file; bytes that are no text stay as they are.
pub fn composed_bytes(bytes: &[u8]) -> Cow<'_, [u8]> {
    match std::str::from_utf8(bytes).map(composed) {
        Ok(Cow::Owned(text)) => Cow::Owned(text.into_bytes()),
        _ => Cow::Borrowed(bytes),
    }
}

/// Characters without a shape of their own (Unicode general category Cf, and the fillers), from memory.
pub fn is_invisible(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}' | '\u{1160}' | '\u{17b4}' | '\u{17b5}' | '\u{180b}'..='\u{180e}'
        | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{2800}' | '\u{3164}'
        | '\u{fe00}'..='\u{fe0f}' | '\u{feff}' | '\u{ffa0}' | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e0fff}')
}

/// A picture's media type by its first bytes: PNG (RFC 2083), JPEG (ITU-T T.81) or WebP (RFC 9649).
pub fn picture_type(content: &[u8]) -> Option<&'static str> {
    match content {
        [0x89, b'P', b'N', b'G', ..] => Some("image/png"),
        [0xFF, 0xD8, 0xFF, ..] => Some("image/jpeg"),
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => Some("image/webp"),
        _ => None,
    }
}

/// A file's media type by its content: a picture, plain text, or bytes.
pub fn media_type_of(content: &[u8]) -> &'static str {
    let is_text = || {
        std::str::from_utf8(content)
            .is_ok_and(|text| !text.chars().any(|c| c.is_control() && !matches!(c, '\n' | '\r' | '\t')))
    };
    picture_type(content).unwrap_or_else(|| if is_text() { "text/plain" } else { "application/octet-stream" })
}
