//! Routes, one file a thing.

pub mod address;
mod amendments;
pub mod as_built;
pub mod attachments;
pub mod backdrops;
pub mod bands;
pub mod baseline;
pub mod calc;
pub mod carry_on;
pub mod catalogue;
pub mod compare;
pub mod events;
pub mod exchange;
pub mod gateway;
mod gateway_place;
pub mod jobs;
pub mod kit_plan;
pub mod kits;
pub mod lan;
pub mod log;
pub mod masts;
mod metrics;
pub mod notebook;
mod page_recordings;
pub mod path_slice;
pub mod positions;
mod preflight;
pub mod raster;
pub mod rehearsals;
mod result_tables;
pub mod roof;
pub mod runs;
pub mod settings;
pub mod setups;
pub mod site_events;
pub mod sites;
pub mod stand_in;
pub mod survey;
pub mod sweeps;
pub mod terrain;
pub mod test_plan;
pub mod timeline;
pub mod track;
mod typed_stops;
pub mod worklist;

pub(super) use crate::catalogue::style;
use crate::state::AppState;
use axum::http::StatusCode;
use open_beacon_core::model::{Setup, SetupId, SiteId};
use open_beacon_store::{Created, Store, StoreError};
use utoipa_axum::router::OpenApiRouter;

/// All routes.
pub fn all() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .merge(sites::routes())
        .merge(positions::routes())
        .merge(settings::routes())
        .merge(setups::routes())
        .merge(runs::routes())
        .merge(amendments::routes())
        .merge(attachments::routes())
        .merge(jobs::routes())
        .merge(log::routes())
        .merge(notebook::routes())
        .merge(result_tables::routes())
        .merge(preflight::routes())
        .merge(compare::routes())
        .merge(as_built::routes())
        .merge(worklist::routes())
        .merge(test_plan::routes())
        .merge(timeline::routes())
        .merge(metrics::routes())
        .merge(site_events::routes())
        .merge(track::routes())
        .merge(events::routes())
        .merge(stand_in::routes())
        .merge(baseline::routes())
        .merge(address::routes())
        .merge(gateway::routes())
        .merge(gateway_place::routes())
        .merge(page_recordings::routes())
        .merge(catalogue::routes())
        .merge(kits::routes())
        .merge(kit_plan::routes())
        .merge(survey::routes())
        .merge(carry_on::routes())
        .merge(masts::routes())
        .merge(terrain::routes())
        .merge(backdrops::routes())
        .merge(sweeps::routes())
        .merge(typed_stops::routes())
        .merge(bands::routes())
        .merge(path_slice::routes())
        .merge(raster::routes())
        .merge(lan::routes())
        .merge(rehearsals::routes())
        .merge(roof::routes())
        .merge(exchange::routes())
        .merge(calc::routes())
}

/// 201 for the first time, 200 for a repeat.
fn created(created: Created) -> StatusCode {
    match created {
        Created::Now => StatusCode::CREATED,
        Created::Before => StatusCode::OK,
    }
}

/// A setup with its site and its name as the user knows it.
fn labelled(store: &Store, id: SetupId) -> Result<(Setup, SiteId, String), StoreError> {
    let setup = store.setup(id)?;
    let position = store.position(setup.position_id)?;
    let label = open_beacon_core::words::setup_label(&position, &setup.spec);
    Ok((setup, position.site_id, label))
}
