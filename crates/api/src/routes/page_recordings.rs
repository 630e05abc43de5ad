//! Recording what a gateway's page answers, and trying a recipe on a recording.

use crate::page_recording::{PageRecordingView, Recorded};
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::{DefaultBodyLimit, State};
use open_beacon_core::check::Checker;
use open_beacon_core::limits::{LARGEST_RECORDING_BYTES, LONGEST_RECORDED_BYTES, MOST_RECORDED};
use open_beacon_core::model::{GatewayRecipe, GatewaySettings, SiteId};
use open_beacon_gateway::{LineUse, PageRecording, Workshop, examine};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    let tried = OpenApiRouter::new()
        .routes(routes!(try_recipe))
        .layer(DefaultBodyLimit::max(LARGEST_RECORDING_BYTES));
    OpenApiRouter::new().routes(routes!(get_page_recording, record_page, stop_page_recording)).merge(tried)
}

/// The gateway that is to be recorded, saved or not, and what goes on over the line.
#[derive(Clone, Debug, Deserialize, ToSchema)]
struct PageRecordingAsked {
    gateway: GatewaySettings,
    line: LineUse,
}

/// The recording of a site's gateway: how far it has come, and its answers when it stands still.
#[utoipa::path(get, path = "/api/sites/{id}/gateway/test/recording", params(("id" = SiteId, Path)),
    responses((status = 200, body = PageRecordingView), (status = 404, body = Problem)))]
async fn get_page_recording(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<Json<PageRecordingView>, Problem> {
    app.db(move |store| store.site(id)).await?;
    Ok(Json(app.page_recordings.view(id)))
}

/// Records ten answers of a gateway's page in the background. An idle line begins anew, traffic goes on.
#[utoipa::path(post, path = "/api/sites/{id}/gateway/test/recording", params(("id" = SiteId, Path)),
    request_body = PageRecordingAsked, responses((status = 200, body = PageRecordingView),
        (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn record_page(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<PageRecordingAsked>,
) -> Result<Json<PageRecordingView>, Problem> {
    Problem::unless_valid(Checker::default().gateway(&asked.gateway).page(&asked.gateway).done())?;
    let address = asked.gateway.status_url.clone();
    let secrets = app.db(move |store| {
        store.settings(id)?;
        Ok(store.gateway_secrets(id, &address)?.0)
    });
    let of = Recorded { site: id, secrets: secrets.await?, gateway: asked.gateway, line: asked.line };
    let stop = app.page_recordings.begin(id, of.line, &app.stopping).map_err(Problem::conflict)?;
    let (recordings, links) = (app.page_recordings.clone(), app.links.clone());
    tokio::spawn(async move { recordings.take(&links, of, stop).await });
    Ok(Json(app.page_recordings.view(id)))
}

/// Ends a recording that is under way; what was taken stays.
#[utoipa::path(delete, path = "/api/sites/{id}/gateway/test/recording", params(("id" = SiteId, Path)),
    responses((status = 200, body = PageRecordingView), (status = 404, body = Problem)))]
async fn stop_page_recording(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<Json<PageRecordingView>, Problem> {
    app.db(move |store| store.site(id)).await?;
    app.page_recordings.stop(id);
    Ok(Json(app.page_recordings.view(id)))
}

/// A recipe, and answers to try it on.
#[derive(Clone, Debug, Deserialize, ToSchema)]
struct RecipeTrial {
    recipe: GatewayRecipe,
    recording: PageRecording,
}

/// Tries a recipe on a recording: what it reads of each answer, which values move, what can be proposed. Nothing is sent.
#[utoipa::path(post, path = "/api/gateway-recipes/try", request_body = RecipeTrial,
    responses((status = 200, body = Workshop), (status = 422, body = Problem)))]
async fn try_recipe(
    State(app): State<AppState>,
    Body(trial): Body<RecipeTrial>,
) -> Result<Json<Workshop>, Problem> {
    let bodies = trial.recording.answers.iter().map(|answer| answer.body.len());
    let checker = Checker::default()
        .recipe("/recipe", &trial.recipe)
        .listed("/recording/answers", bodies.len(), MOST_RECORDED)
        .long("/recording/answers", bodies.max(), LONGEST_RECORDED_BYTES);
    Problem::unless_valid(checker.done())?;
    Ok(Json(app.db(move |_| Ok(examine(&trial.recipe, &trial.recording))).await?))
}
