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
/// Most carriers of one reading.
pub const MOST_CARRIERS: usize = 64;
/// Most problems of a file that are told one by one.
pub const MOST_PROBLEMS: usize = 100;
/// Longest side of a picture, pixels.
pub const LONGEST_SIDE_PX: u32 = 20_000;

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
