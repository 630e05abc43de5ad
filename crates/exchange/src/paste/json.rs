//! JSON: keys are labels, objects are carriers.

use super::gather::{Gatherer, Group};
use super::value::read_value;
use super::words::{Modifier, Term, folded, label_at, means_nothing, modifier};
use serde_json::Value;

/// The text as a JSON object or list, also where something stands before or after it.
pub(super) fn document(text: &str) -> Option<Value> {
    let trimmed = text.trim();
    let whole = serde_json::from_str::<Value>(trimmed).ok();
    whole.filter(|value| value.is_object() || value.is_array())
}

/// A key's words: split at marks and where capitals begin ("lteRsrp", "SS-RSRP", "nr5g_rsrp_dbm").
pub(super) fn key_words(key: &str) -> Vec<String> {
    let mut words: Vec<String> = vec![String::new()];
    let mut before_lower = false;
    for c in key.chars() {
        if !c.is_alphanumeric() {
            words.push(String::new());
        } else {
            if c.is_uppercase() && before_lower {
                words.push(String::new());
            }
            if let Some(last) = words.last_mut() {
                last.push(c);
            }
        }
        before_lower = c.is_lowercase() || c.is_ascii_digit();
    }
    words.retain(|word| !word.is_empty());
    words
}

/// Reads a whole document into carriers.
pub(super) fn read(document: &Value, gathered: &mut Gatherer) {
    walk(document, &mut Vec::new(), Group::default(), gathered);
}

fn walk(value: &Value, path: &mut Vec<String>, group: Group, gathered: &mut Gatherer) {
    match value {
        Value::Object(fields) => {
            let mut inner = group;
            // An entry says itself what it is: {"type": "NR", …}, {"cell": "SCC1", …}.
            for word in fields.values().filter_map(Value::as_str).flat_map(key_words) {
                if let Some(found @ (Modifier::Technology(_) | Modifier::Role(_) | Modifier::Index(_))) =
                    modifier(&folded(&word))
                    && fields.len() > 1
                    && !fields.values().any(|value| value.is_object() || value.is_array())
                {
                    inner.take_softly(found);
                }
            }
            for (key, value) in fields {
                path.push(key.clone());
                let mut deeper = inner.clone();
                if value.is_object() || value.is_array() {
                    for word in key_words(key) {
                        if let Some(found) = modifier(&folded(&word)) {
                            deeper.take(found);
                        }
                    }
                }
                walk(value, path, deeper, gathered);
                path.pop();
            }
        }
        Value::Array(items) => {
            let objects = items.iter().any(Value::is_object);
            for (at, item) in items.iter().enumerate() {
                let mut deeper = group.clone();
                if objects {
                    deeper.place.push(at);
                }
                walk(item, path, deeper, gathered);
            }
        }
        leaf => take_leaf(leaf, path, group, gathered),
    }
}

fn take_leaf(leaf: &Value, path: &[String], mut group: Group, gathered: &mut Gatherer) {
    let text = match leaf {
        Value::String(text) => text.clone(),
        other => other.to_string(),
    };
    if means_nothing(&text) {
        return;
    }
    let Some(key) = path.last() else { return };
    let words: Vec<String> = key_words(key).iter().map(|word| folded(word)).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    let label = (0..words.len()).filter_map(|from| label_at(&words[from..]).map(|label| (from, label)));
    // The longest label of the key; on a tie the last ("cell_band" is a band).
    let label = label.max_by_key(|(from, (_, _, taken))| (*taken, *from));
    let shown = path.join(".");
    // In a list of carriers "technology" and the like tell the entries apart; they say nothing of the connection.
    if !group.place.is_empty() && label.is_some_and(|(_, (term, ..))| term == Term::Mode) {
        return;
    }
    let Some((from, (term, sure, taken))) = label.filter(|(_, (term, ..))| *term != Term::Passed) else {
        let says_which = modifier(&folded(&text)).is_some();
        if !says_which {
            gathered.leave(format!("{shown}: {text}"));
        }
        return;
    };
    for (at, word) in words.iter().enumerate() {
        if (from..from + taken).contains(&at) {
            continue;
        }
        if let Some(found) = modifier(word) {
            group.take(found);
        } else if matches!(*word, "ul" | "uplink" | "max" | "min") {
            gathered.leave(format!("{shown}: {text}"));
            return;
        }
    }
    if group.neighbour {
        gathered.leave(format!("{shown}: {text}"));
        return;
    }
    match read_value(term, sure, &text, group.technology) {
        Some(values) => {
            for (at, value) in values.into_iter().enumerate() {
                if let Err(unused) = gathered.take_nth(at, &group, &shown, value) {
                    gathered.leave(format!("{shown}: {unused}"));
                }
            }
        }
        None => gathered.leave(format!("{shown}: {text}")),
    }
}
