//! Texts with `${…}` in them: what a login step sends.

use base64::Engine;
use md5::{Digest, Md5};
use sha1::Sha1;
use sha2::Sha256;
use std::collections::BTreeMap;

/// What is known while signing in.
pub(super) type Known = BTreeMap<String, String>;

/// How what is put in is escaped.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Escape {
    None,
    Form,
    Json,
}

/// Fills a text. `${user}` puts in a name's value, `${password+nonce|sha256}` joins and digests.
///
/// # Errors
/// Which name or filter is not known, or that a brace is not closed.
pub(super) fn fill(text: &str, known: &Known, escape: Escape) -> Result<String, String> {
    let mut filled = String::new();
    let mut rest = text;
    while let Some(start) = rest.find("${") {
        let (before, after) = rest.split_at(start);
        let end = after.find('}').ok_or_else(|| format!("“{after}” has no closing brace"))?;
        filled.push_str(before);
        filled.push_str(&escaped(&worth(&after[2..end], known)?, escape));
        rest = &after[end + 1..];
    }
    filled.push_str(rest);
    Ok(filled)
}

fn worth(inner: &str, known: &Known) -> Result<String, String> {
    let mut parts = inner.split('|');
    let mut value = String::new();
    for name in parts.next().unwrap_or_default().split('+') {
        let name = name.trim();
        match name.strip_prefix('\'').and_then(|name| name.strip_suffix('\'')) {
            Some(itself) => value.push_str(itself),
            None => value
                .push_str(known.get(name).ok_or_else(|| format!("nothing called “{name}” is known here"))?),
        }
    }
    for filter in parts {
        value = match filter.trim() {
            "sha256" => hex(&Sha256::digest(value.as_bytes())),
            "sha1" => hex(&Sha1::digest(value.as_bytes())),
            "md5" => hex(&Md5::digest(value.as_bytes())),
            "base64" => base64::engine::general_purpose::STANDARD.encode(value.as_bytes()),
            "upper" => value.to_uppercase(),
            other => {
                return Err(format!(
                    "there is no filter “{other}”; sha256, sha1, md5, base64 and upper are known"
                ));
            }
        };
    }
    Ok(value)
}

pub(super) fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}

fn escaped(value: &str, escape: Escape) -> String {
    match escape {
        Escape::None => value.chars().filter(|c| !c.is_control()).collect(),
        Escape::Json => {
            let quoted = serde_json::Value::from(value).to_string();
            quoted[1..quoted.len() - 1].to_owned()
        }
        Escape::Form => {
            let kept = |byte: &u8| byte.is_ascii_alphanumeric() || b"-._~".contains(byte);
            value
                .bytes()
                .map(|byte| if kept(&byte) { char::from(byte).to_string() } else { format!("%{byte:02X}") })
                .collect()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn known() -> Known {
        [("user", "keeper"), ("password", "a&b\"c"), ("nonce", "17")]
            .map(|(name, value)| (name.to_owned(), value.to_owned()))
            .into()
    }

    #[test]
    fn what_is_put_in_is_escaped_for_where_it_goes() {
        let of = |text, escape| fill(text, &known(), escape).unwrap_or_default();
        assert_eq!(of("u=${user}&p=${password}", Escape::Form), "u=keeper&p=a%26b%22c");
        assert_eq!(of("{\"p\":\"${password}\"}", Escape::Json), "{\"p\":\"a&b\\\"c\"}");
        assert_eq!(of("${'x:'+user|upper}", Escape::None), "X:KEEPER");
    }

    /// FIPS 180-4's "abc" (sha256, sha1), RFC 1321 A.5's "abc" (md5), RFC 4648 section 10's "foobar".
    #[test]
    fn digests_are_the_standards() {
        let of = |text| fill(text, &known(), Escape::None).unwrap_or_default();
        assert_eq!(of("${'abc'|sha256}"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
        assert_eq!(of("${'abc'|sha1}"), "a9993e364706816aba3e25717850c26c9cd0d89d");
        assert_eq!(of("${'abc'|md5}"), "900150983cd24fb0d6963f7d28e17f72");
        assert_eq!(of("${'foobar'|base64}"), "Zm9vYmFy");
    }

    #[test]
    fn what_is_not_known_is_said() {
        let of = |text| fill(text, &known(), Escape::None).err().unwrap_or_default();
        assert!(of("${token}").contains("“token”"));
        assert!(of("${user|rot13}").contains("“rot13”"));
        assert!(of("${user").contains("no closing brace"));
    }
}
