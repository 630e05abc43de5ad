//! A site's settings, section by section. Each has a version: what was made from an older one is refused with the newer value,
//! so that a phone and a laptop never overwrite each other.

use crate::guard::FromPhone;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::extract::State;
use axum::{Extension, Json};
use open_beacon_core::check::{Checker, FieldProblem};
use open_beacon_core::model::{SetupId, SiteId, SiteSettings};
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(change_settings))
}

/// A section as it is to be.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct SectionChange {
    /// Version that the change was made from; not needed for which setup is worked on or compared with.
    #[serde(default)]
    pub seen: Option<u64>,
    /// Of the section's type in `SiteSettings`.
    #[schema(value_type = Object)]
    pub value: Value,
}

/// Sections to change, by their names in `SiteSettings`.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct SettingsChange {
    pub sections: BTreeMap<String, SectionChange>,
}

/// Settings with the version of each section.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct VersionedSettings {
    pub settings: SiteSettings,
    pub versions: BTreeMap<String, u64>,
}

/// Choices that the last press wins, wherever it was made.
const LAST_PRESS_WINS: [&str; 2] = ["active_setup_id", "baseline_setup_id"];

/// Sections that say where this program sends what.
const ADDRESSES: [&str; 5] = ["gateway", "speed_test", "second_test_url", "stand_in_url", "stand_in_follows"];

/// Changes sections of a site's settings: all of them, or none where one was changed meanwhile.
#[utoipa::path(patch, path = "/api/sites/{id}/settings", params(("id" = SiteId, Path)), request_body = SettingsChange,
    responses((status = 200, body = VersionedSettings), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn change_settings(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    phone: Option<Extension<FromPhone>>,
    Body(change): Body<SettingsChange>,
) -> Result<Json<VersionedSettings>, Problem> {
    if phone.is_some() && change.sections.keys().any(|name| ADDRESSES.contains(&name.as_str())) {
        return Err(Problem::forbidden(
            "Addresses are set on the computer only. A phone may measure and note.",
        ));
    }
    let (before, kept) = app.db(move |store| Ok(changed(store, id, &change))).await??;
    if before.gateway != kept.settings.gateway {
        app.links.restart(id);
    }
    super::stand_in::follow(&app, id, &kept.settings).await;
    app.changed(id);
    Ok(Json(kept))
}

fn changed(
    store: &Store,
    id: SiteId,
    change: &SettingsChange,
) -> Result<(SiteSettings, VersionedSettings), Problem> {
    let (before, versions) = store.settings_with_versions(id)?;
    let Value::Object(mut sections) = serde_json::to_value(&before).unwrap_or_default() else {
        return Err(Problem::unreadable("The settings cannot be read."));
    };
    fresh(change, &sections, &versions)?;
    for (name, section) in &change.sections {
        if !sections.contains_key(name) {
            let known: Vec<&str> = sections.keys().map(String::as_str).collect();
            return Err(Problem::unreadable(format!(
                "There is no section {name}; there are {}.",
                known.join(", ")
            )));
        }
        sections.insert(name.clone(), section.value.clone());
    }
    let mut wanted: SiteSettings = serde_json::from_value(Value::Object(sections))
        .map_err(|error| Problem::unreadable(format!("A section cannot be read: {error}.")))?;
    Problem::unless_valid(Checker::default().settings(&wanted).done())?;
    let named = [wanted.active_setup_id, wanted.baseline_setup_id].into_iter().flatten();
    for chosen in named.chain(wanted.protocol.setups.iter().copied()) {
        belongs(store, chosen, id)?;
    }
    // What the gateway is locked to is settled with the gateway, not by a form.
    wanted.trials.kept = before.trials.kept.clone();
    wanted.trials.undo_read_at = wanted.trials.undo_read_at.max(before.trials.undo_read_at);
    let (settings, versions) = store.change_settings(id, &versions, &wanted)?;
    Ok((before, VersionedSettings { settings, versions }))
}

/// Refuses sections that were changed since they were seen.
fn fresh(
    change: &SettingsChange,
    now: &Map<String, Value>,
    versions: &BTreeMap<String, u64>,
) -> Result<(), Problem> {
    let version = |name: &str| versions.get(name).copied().unwrap_or(0);
    let stale: Vec<&String> = change
        .sections
        .iter()
        .filter(|(name, section)| {
            !LAST_PRESS_WINS.contains(&name.as_str()) && section.seen != Some(version(name))
        })
        .map(|(name, _)| name)
        .collect();
    if stale.is_empty() {
        return Ok(());
    }
    let errors = stale
        .iter()
        .map(|name| FieldProblem {
            pointer: format!("/{name}"),
            detail: format!(
                "{} was changed meanwhile, on another screen. Nothing was overwritten: look at the newer value and save again.",
                section_words(name)
            ),
        })
        .collect();
    let newer: Map<String, Value> = stale
        .iter()
        .map(|name| {
            let value = now.get(*name).cloned().unwrap_or_default();
            ((*name).clone(), serde_json::json!({"version": version(name), "value": value}))
        })
        .collect();
    Err(Problem::stale(errors, Value::Object(newer)))
}

fn section_words(name: &str) -> String {
    let words = match name {
        "speed_test" => "the speed test",
        "second_test_url" => "the second test address",
        "stand_in_url" | "stand_in_follows" => "the simulated antenna",
        "known_mast" => "the known mast",
        "units" => "the unit of lengths",
        "network" => "the operator in use",
        "link" | "outdoor" => "an assumption",
        "kit" => "the household",
        "aim_criterion" => "what to optimise for",
        "survey" => "the survey's assumptions",
        "trials" => "the plan of band trials",
        "protocol" => "the test plan",
        "result_table" => "how tables are read",
        other => return format!("The {}", other.replace('_', " ")),
    };
    let mut letters = words.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

fn belongs(store: &Store, setup: SetupId, site: SiteId) -> Result<(), StoreError> {
    if store.site_of_setup(setup)? == site {
        Ok(())
    } else {
        Err(StoreError::Refused("This setup belongs to another site.".into()))
    }
}
