//! Takes out of an answer what is nobody's business, and leaves its shape: a recording is made to be shared.

use regex::{Captures, Regex};
use serde_json::Value;
use std::sync::LazyLock;

/// Identities and keys by their form: addresses of network cards (IEEE 802) and of the Internet (RFC 791), runs of 14 to 20
/// digits, as identities of devices, subscribers and cards are (TS 23.003 clauses 2.2 and 6.2, ITU-T E.118).
static FORMS: LazyLock<Vec<Regex>> = LazyLock::new(|| {
    [
        r"(?-u:\b)(?:[0-9A-Fa-f]{2}[:-]){5}[0-9A-Fa-f]{2}(?-u:\b)",
        r"(?-u:\b)(?:[0-9]{1,3}[.]){3}[0-9]{1,3}(?-u:\b)",
        r"(?-u:\b)[0-9]{14,20}(?-u:\b)",
    ]
    .iter()
    .map(|form| Regex::new(form).unwrap_or_else(|error| unreachable!("a fixed pattern: {error}")))
    .collect()
});

/// Parts of names under which pages keep what is secret or tells one person from another (common practice, no source).
const SECRET_PARTS: [&str; 16] = [
    "imei", "imsi", "iccid", "msisdn", "serial", "ssid", "passw", "pwd", "psk", "token", "session", "cookie",
    "csrf", "phone", "nonce", "secret",
];
/// The same, where the whole name says it.
const SECRET_NAMES: [&str; 5] = ["mac", "pin", "puk", "user", "username"];
/// Shorter values would be found everywhere.
const SHORTEST: usize = 4;

/// A letter or digit in place of each: numbers stay numbers, and no value leads back to what it was.
fn masked(text: &str) -> String {
    let one = |c: char| match c {
        c if c.is_ascii_digit() => '1',
        c if c.is_alphanumeric() => 'x',
        c => c,
    };
    text.chars().map(one).collect()
}

fn is_secret(name: &str) -> bool {
    let plain: String = name.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_lowercase();
    plain.ends_with("key")
        || SECRET_NAMES.contains(&plain.as_str())
        || SECRET_PARTS.iter().any(|part| plain.contains(part))
}

/// Values that stand under a name that says that they are secret.
fn secret_values(page: &Value, secret: bool, found: &mut Vec<String>) {
    match page {
        Value::Object(object) => {
            for (name, value) in object {
                secret_values(value, secret || is_secret(name), found);
            }
        }
        Value::Array(list) => list.iter().for_each(|value| secret_values(value, secret, found)),
        Value::String(text) if secret => found.push(text.trim().to_owned()),
        Value::Number(number) if secret => found.push(number.to_string()),
        _ => {}
    }
}

/// A value as it may stand in JSON, in markup and in an address.
fn ways_of_writing(value: &str) -> [String; 4] {
    let json = serde_json::to_string(value).unwrap_or_default();
    let markup = value.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;");
    let in_address = |byte: u8| match byte {
        b'A'..=b'Z' | b'a'..=b'z' | b'0'..=b'9' | b'-' | b'.' | b'_' | b'~' => char::from(byte).to_string(),
        other => format!("%{other:02X}"),
    };
    [value.to_owned(), json.trim_matches('"').to_owned(), markup, value.bytes().map(in_address).collect()]
}

/// The body with every whole one of these values masked, in one pass however many they are.
fn mask_all(body: &str, values: &[String]) -> String {
    if values.is_empty() {
        return body.to_owned();
    }
    let all = values.iter().map(|value| regex::escape(value)).collect::<Vec<_>>().join("|");
    // Too many to be told apart: then nothing of it is shown.
    let Ok(whole) = Regex::new(&format!(r"(^|[^A-Za-z0-9])({all})($|[^A-Za-z0-9])")) else {
        return masked(body);
    };
    let once = |text: &str| {
        let around = |found: &Captures<'_>| format!("{}{}{}", &found[1], masked(&found[2]), &found[3]);
        whole.replace_all(text, around).into_owned()
    };
    // Two that stand side by side share the sign between them.
    once(&once(body))
}

/// An answer without the values of `known` secrets, without what stands under a name that says that it is secret, and without
/// what has the form of an identity. Cell identities stay: without them a recording tests nothing.
pub fn without_secrets(body: &str, page: Option<&Value>, known: &[String]) -> String {
    let mut values = known.to_vec();
    if let Some(page) = page {
        secret_values(page, false, &mut values);
    }
    values.retain(|value| value.chars().count() >= SHORTEST);
    let mut values: Vec<String> = values.iter().flat_map(|value| ways_of_writing(value)).collect();
    values.sort_by(|a, b| b.len().cmp(&a.len()).then_with(|| a.cmp(b)));
    values.dedup();
    let named = mask_all(body, &values);
    FORMS.iter().fold(named, |body, form| {
        form.replace_all(&body, |found: &Captures<'_>| {
            // Digits behind a point are a fraction, no identity.
            let at = found.get(0).map_or(0, |whole| whole.start());
            if body[..at].ends_with('.') { found[0].to_owned() } else { masked(&found[0]).replace('x', "1") }
        })
        .into_owned()
    })
}
