//! The HTTP interface under `/api`: parse, call, answer. No rule of the job lives here.
//!
//! | Module | |
//! |---|---|
//! | [`state`] | what every route can reach |
//! | [`routes`] | one file a stage or thing |
//! | [`answers`] | heavy answers, kept while nothing changes |
//! | `late` | points that a phone took while out of reach |
//! | [`link`] | watching gateways and handing their readings round |
//! | [`jobs`], [`recording`] | recordings and speed tests that run in the background |
//! | [`measurer`] | one lease a site for whatever measures |
//! | [`sweeping`], `stops` | stops of sweeps likewise |
//! | [`round_registry`], `rounds` | rounds of band trials likewise |
//! | `edits` | edits carry the values they were made on |
//! | `heard_bands` | what is read to know a site's bands and the kit in use |
//! | `page_recording` | answers of a gateway's page, for its recipe |
//! | [`locking`] | telling a gateway its bands, so that it comes back |
//! | [`grounds`] | terrain of sites, read once |
//! | [`rasters`] | maps of predicted signal, made in the background |
//! | [`pairing`] | letting phones in |
//! | [`rehearse`] | invented sites with a simulated gateway |
//! | [`problem`] | errors as RFC 9457 problem details |
//! | `outside` | the time of day and what carries requests to devices |
//! | [`guard`] | who may talk to this server |

pub mod answers;
mod catalogue;
mod clocks;
mod contract;
mod edits;
mod foretelling;
pub mod grounds;
pub mod guard;
mod heard_bands;
mod importing;
pub mod jobs;
mod late;
pub mod link;
pub mod locking;
pub mod measurer;
mod outside;
mod page_recording;
pub mod pairing;
mod pictures;
pub mod problem;
pub mod rasters;
pub mod recording;
pub mod rehearse;
pub mod repeats;
pub mod round_registry;
mod rounds;
pub mod routes;
mod sampling;
mod served;
pub mod shared_file;
pub mod site_record;
mod spool;
pub use open_beacon_core::words::outward;
pub mod state;
mod stops;
pub mod sweeping;
mod views;

pub use guard::{Gate, Guard};
pub use outside::Outside;
pub use state::AppState;

use axum::Router;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Open Beacon",
        description = "Choose, place and aim a cellular antenna, and judge by measurement. Powers in dBm, ratios in dB, \
            rates in Mbit/s, times in ms where the name says so, angles in degrees, bearings clockwise from true north."
    ),
    components(schemas(routes::events::Event, open_beacon_core::model::SiteBundle))
)]
struct Document;

fn documented() -> (Router<AppState>, utoipa::openapi::OpenApi) {
    let (routes, document) =
        OpenApiRouter::with_openapi(Document::openapi()).merge(routes::all()).split_for_parts();
    (routes, contract::as_served(document))
}

/// The OpenAPI document.
pub fn openapi() -> utoipa::openapi::OpenApi {
    documented().1
}

/// All routes under `/api`, with the document at `/api/openapi.json`.
pub fn router(state: AppState) -> Router {
    let (routes, document) = documented();
    let text = document.to_json().unwrap_or_else(|error| unreachable!("the document serialises: {error}"));
    let document = axum::routing::get(move || {
        let text = text.clone();
        async move { ([("content-type", "application/json")], text) }
    });
    routes
        .route("/api/openapi.json", document)
        .route(
            "/api/{*rest}",
            axum::routing::any(|| async { problem::Problem::not_found("There is nothing at this address.") }),
        )
        .with_state(state)
}
