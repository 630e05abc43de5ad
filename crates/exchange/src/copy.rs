//! A copy of a site under new identifiers, for importing beside the original.

use open_beacon_core::model::SiteBundle;
use serde_json::Value;
use std::collections::HashMap;
use uuid::Uuid;

/// Tables of an export that keep their identifiers: parts are the catalogue's, not the site's.
const KEPT: [&str; 1] = ["parts"];

/// Gives everything a new identifier from `make`, keeping what belongs together together: an identifier of a row of this export
/// is another one wherever it stands, in a column of its own or deep inside a value.
///
/// # Errors
/// Where a bundle is no such JSON as it is exported; that would be a fault of this program.
pub fn with_new_ids(
    bundle: SiteBundle,
    mut make: impl FnMut() -> Uuid,
) -> Result<SiteBundle, serde_json::Error> {
    let mut whole = serde_json::to_value(bundle)?;
    let mut new: HashMap<String, String> = HashMap::new();
    let mut known = |row: &Value| {
        if let Some(id) = row.get("id").and_then(Value::as_str) {
            new.entry(id.to_owned()).or_insert_with(|| make().to_string());
        }
    };
    for (name, part) in whole.as_object().into_iter().flatten() {
        match part {
            Value::Array(rows) if !KEPT.contains(&name.as_str()) => {
                rows.iter().for_each(&mut known);
                for note in rows.iter().filter_map(|row| row.get("notes")?.as_array()).flatten() {
                    known(note);
                }
            }
            Value::Object(_) => known(part),
            _ => {}
        }
    }
    rename(&mut whole, &new);
    serde_json::from_value(whole)
}

fn rename(value: &mut Value, new: &HashMap<String, String>) {
    match value {
        Value::String(text) => {
            if let Some(id) = new.get(text.as_str()) {
                text.clone_from(id);
            }
        }
        Value::Array(values) => values.iter_mut().for_each(|one| rename(one, new)),
        Value::Object(fields) => fields.values_mut().for_each(|one| rename(one, new)),
        _ => {}
    }
}
