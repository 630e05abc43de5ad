//! HTML and XML as plain lines: cells become tabs, rows become lines, elements named after a value become "name: value".

use super::words::{folded, label_at, modifier};

/// True where the text has tags.
pub(super) fn looks_like_markup(text: &str) -> bool {
    let start = text.trim_start();
    start.starts_with('<') && text.contains("</") || text.contains("</td>") || text.contains("</tr>")
}

fn name_words(name: &str) -> Vec<String> {
    super::json::key_words(name).iter().map(|word| folded(word)).collect()
}

fn is_label(name: &str) -> bool {
    let words = name_words(name);
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    (0..words.len()).any(|from| label_at(&words[from..]).is_some())
}

fn is_group(name: &str) -> bool {
    let words = name_words(name);
    !words.is_empty() && words.iter().all(|word| modifier(word).is_some())
}

/// Text of a marked-up page.
pub(super) fn as_text(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    let mut skip_until: Option<&str> = None;
    while let Some(open) = rest.find('<') {
        let before = &rest[..open];
        if skip_until.is_none() {
            out.push_str(&unescaped(before));
        }
        let Some(close) = rest[open..].find('>') else {
            // A lone "<" is text.
            out.push_str(&rest[open..]);
            rest = "";
            break;
        };
        let tag = &rest[open + 1..open + close];
        rest = &rest[open + close + 1..];
        let name =
            tag.trim_start_matches('/').split(|c: char| c.is_whitespace() || c == '/').next().unwrap_or("");
        let name = name.to_lowercase();
        let closing = tag.starts_with('/');
        if let Some(end) = skip_until {
            if closing && name == end {
                skip_until = None;
            }
            continue;
        }
        match name.as_str() {
            "script" if !closing => skip_until = Some("script"),
            "style" if !closing => skip_until = Some("style"),
            "td" | "th" if closing => out.push('\t'),
            "tr" | "p" | "div" | "li" | "br" | "h1" | "h2" | "h3" | "h4" | "table" | "dd" | "title" => {
                out.push('\n')
            }
            "dt" if closing => out.push_str(": "),
            _ if closing && (is_label(&name) || is_group(&name)) => out.push('\n'),
            _ if closing => {}
            _ if is_label(&name) => {
                // <rsrp>-97</rsrp>
                out.push('\n');
                out.push_str(&super::json::key_words(&name).join(" "));
                out.push_str(": ");
            }
            _ if is_group(&name) => {
                out.push('\n');
                out.push_str(&super::json::key_words(&name).join(" "));
                out.push('\n');
            }
            _ => {}
        }
    }
    if skip_until.is_none() {
        out.push_str(&unescaped(rest));
    }
    out
}

fn unescaped(text: &str) -> String {
    text.replace("&nbsp;", " ")
        .replace("&minus;", "-")
        .replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&amp;", "&")
}
