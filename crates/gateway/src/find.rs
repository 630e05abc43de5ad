//! Where a value stands on a page: a JSON Pointer (RFC 6901) whose steps may also go into a list by name, and what says that
//! nothing stands there.

use open_beacon_domain::model::FieldAt;
use serde_json::Value;

/// What pages write where they know nothing.
const UNKNOWN: [&str; 9] = ["", "-", "--", "---", "n/a", "na", "null", "none", "unknown"];

/// The value at a pointer. A step `[name=RSRP]` goes into the first entry of a list whose `name` is `RSRP`, without regard to
/// case and to a colon at its end.
pub(crate) fn find<'a>(page: &'a Value, pointer: &str) -> Option<&'a Value> {
    if !pointer.contains("/[") {
        return page.pointer(pointer);
    }
    let mut here = page;
    for step in pointer.strip_prefix('/')?.split('/') {
        let named = step.strip_prefix('[').and_then(|step| step.strip_suffix(']')?.split_once('='));
        here = match (named, here) {
            (Some((key, wanted)), Value::Array(list)) => {
                let (key, wanted) = (plain(key), label(&plain(wanted)));
                list.iter().find(|one| {
                    one.get(&key).and_then(Value::as_str).is_some_and(|name| label(name) == wanted)
                })?
            }
            (None, here) => here.pointer(&format!("/{step}"))?,
            _ => return None,
        };
    }
    Some(here)
}

/// A step without its escapes (RFC 6901, clause 4).
fn plain(step: &str) -> String {
    step.replace("~1", "/").replace("~0", "~")
}

/// A label as it is compared.
pub(crate) fn label(text: &str) -> String {
    text.trim().trim_end_matches([':', ' ']).to_lowercase()
}

/// A value that is there, not null, and not a way of saying "unknown".
pub(crate) fn present<'a>(entry: &'a Value, pointer: &str) -> Option<&'a Value> {
    find(entry, pointer).filter(|value| match value {
        Value::Null => false,
        Value::String(text) => !UNKNOWN.contains(&text.trim().to_lowercase().as_str()),
        _ => true,
    })
}

/// What stands at a field's place, or at the first of its other places that has something.
pub(crate) fn standing<'a>(entry: &'a Value, field: &FieldAt) -> Option<&'a Value> {
    std::iter::once(&field.at).chain(&field.or).find_map(|at| present(entry, at))
}
