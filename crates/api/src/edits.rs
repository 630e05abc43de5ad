//! Edits carry the values they were made on: what was changed meanwhile on another screen is not overwritten, and both values
//! are told.

use crate::problem::Problem;
use crate::state::AppState;
use open_beacon_core::check::FieldProblem;
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use std::sync::PoisonError;
use utoipa::ToSchema;

/// The values an edit was made on, as they were answered; without them the edit is stored whatever is there now.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Seen(Option<Map<String, Value>>);

/// An edit, with the values it was made on. What is stored now is answered with 409 where it differs from both.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct Edited<T> {
    #[serde(flatten)]
    pub body: T,
    #[serde(default)]
    #[schema(value_type = Option<std::collections::BTreeMap<String, Value>>)]
    pub seen: Seen,
}

impl Seen {
    /// Whether `stored` may become `changed`: each value is as it was seen, or is already what it is to become.
    ///
    /// # Errors
    /// [`Problem::stale`] with the fields that are neither, and with what is stored.
    pub(crate) fn still<T: Serialize>(&self, stored: &T, changed: &T) -> Result<(), Problem> {
        let Some(seen) = &self.0 else { return Ok(()) };
        let json = |value: &T| serde_json::to_value(value).map_err(StoreError::from);
        let (stored, changed) = (json(stored)?, json(changed)?);
        let none = Value::Null;
        let stale: Vec<FieldProblem> = seen
            .iter()
            .filter(|(key, seen)| {
                let now = stored.get(key.as_str()).unwrap_or(&none);
                !same(now, seen) && !same(now, changed.get(key.as_str()).unwrap_or(&none))
            })
            .map(|(key, _)| FieldProblem {
                pointer: format!("/{key}"),
                detail: "This was changed meanwhile, on another screen. Nothing was overwritten.".into(),
            })
            .collect();
        if stale.is_empty() { Ok(()) } else { Err(Problem::stale(stale, stored)) }
    }
}

/// Equal as values: 6 is 6.0, and what is not there is null.
fn same(one: &Value, other: &Value) -> bool {
    match (one, other) {
        (Value::Number(one), Value::Number(other)) => one.as_f64() == other.as_f64(),
        (Value::Array(one), Value::Array(other)) => {
            one.len() == other.len() && one.iter().zip(other).all(|(one, other)| same(one, other))
        }
        (Value::Object(one), Value::Object(other)) => {
            let held = |of: &Map<String, Value>, key: &str| of.get(key).cloned().unwrap_or_default();
            one.keys().chain(other.keys()).all(|key| same(&held(one, key), &held(other, key)))
        }
        _ => one == other,
    }
}

impl AppState {
    /// Looks at what is stored and changes it, one edit after another.
    ///
    /// # Errors
    /// What the call answers.
    pub(crate) async fn edit<T: Send + 'static>(
        &self,
        call: impl FnOnce(&Store) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let editing = self.editing.clone();
        self.db(move |store| {
            let _one = editing.lock().unwrap_or_else(PoisonError::into_inner);
            Ok(call(store))
        })
        .await?
    }
}
