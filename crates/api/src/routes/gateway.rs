//! Setting a gateway up: a close look at its live answer, and what signs in to it.

use super::style;
use crate::problem::{Body, Path, Problem, Query};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use open_beacon_core::check::Checker;
use open_beacon_core::judge::Finding;
use open_beacon_core::metrics::class_of_carrier;
use open_beacon_core::model::{GatewaySecrets, GatewaySettings, SiteId, SiteSettings};
use open_beacon_core::words;
use open_beacon_gateway::CloseLook;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(test_gateway))
        .routes(routes!(get_sign_in, put_sign_in))
        .routes(routes!(try_sign_in_again))
}

/// A gateway to look at, saved or not.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct GatewayTrial {
    pub gateway: GatewaySettings,
}

/// What a gateway answered, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct GatewayAnswer {
    pub look: CloseLook,
    /// What was read, in a sentence.
    pub sentence: Option<String>,
}

/// Looks at a gateway once and says all that came. Failed logins count as those of the watcher do.
#[utoipa::path(post, path = "/api/sites/{id}/gateway/test", params(("id" = SiteId, Path)), request_body = GatewayTrial,
    responses((status = 200, body = GatewayAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn test_gateway(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(trial): Body<GatewayTrial>,
) -> Result<Json<GatewayAnswer>, Problem> {
    Problem::unless_valid(Checker::default().gateway(&trial.gateway).done())?;
    let address = trial.gateway.status_url.clone();
    let (settings, secrets): (SiteSettings, GatewaySecrets) =
        app.db(move |store| Ok((store.settings(id)?, store.gateway_secrets(id, &address)?.0))).await?;
    let look = app.links.test_connection(id, &trial.gateway, secrets).await;
    let sentence = look.reading.as_ref().map(|reading| {
        let best = reading.carriers.iter().filter_map(class_of_carrier).map(|class| class.class).max();
        let connected = Finding::Connected { mode: reading.mode, carriers: reading.carriers.len(), best };
        words::sentence(&connected, style(&settings))
    });
    Ok(Json(GatewayAnswer { look, sentence }))
}

/// Whether a name and a password are kept. What they are is not told again.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SignInView {
    pub user: String,
    pub has_password: bool,
    /// Two logins failed; none is tried until the user says so.
    pub stopped: bool,
}

#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct SignInAsked {
    /// The device that is to be signed in to; the saved gateway where not said.
    address: Option<String>,
}

fn gateway_address(settings: &SiteSettings) -> String {
    settings.gateway.as_ref().map(|gateway| gateway.status_url.clone()).unwrap_or_default()
}

/// What is kept of a gateway's sign-in, for the device at this address: it is used for no other.
#[utoipa::path(get, path = "/api/sites/{id}/gateway/sign-in", params(("id" = SiteId, Path), SignInAsked),
    responses((status = 200, body = SignInView), (status = 404, body = Problem)))]
async fn get_sign_in(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<SignInAsked>,
) -> Result<Json<SignInView>, Problem> {
    let (secrets, failed) = app
        .db(move |store| {
            let saved = gateway_address(&store.settings(id)?);
            store.gateway_secrets(id, &asked.address.unwrap_or(saved))
        })
        .await?;
    Ok(Json(SignInView {
        user: secrets.user,
        has_password: !secrets.password.is_empty(),
        stopped: failed >= 2,
    }))
}

/// A name and a password; a password left out stays as it is.
#[derive(Clone, Deserialize, ToSchema)]
pub struct SignInBody {
    pub user: String,
    #[serde(default)]
    pub password: Option<String>,
    /// The device they are for; the saved gateway where not said.
    #[serde(default)]
    pub address: Option<String>,
}

/// Keeps name and password of a gateway, apart from all that is exported.
#[utoipa::path(put, path = "/api/sites/{id}/gateway/sign-in", params(("id" = SiteId, Path)), request_body = SignInBody,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn put_sign_in(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(body): Body<SignInBody>,
) -> Result<StatusCode, Problem> {
    let checker = Checker::default()
        .text("/user", &body.user)
        .text("/password", body.password.as_deref().unwrap_or(""));
    Problem::unless_valid(checker.done())?;
    let address = app
        .db(move |store| {
            let address =
                body.address.map_or_else(|| store.settings(id).map(|known| gateway_address(&known)), Ok)?;
            let before = store.gateway_secrets(id, &address)?.0;
            let password = body.password.unwrap_or(before.password);
            store.put_gateway_secrets(id, &address, &GatewaySecrets { user: body.user, password })?;
            Ok(address)
        })
        .await?;
    app.links.forgive_logins(id, &address).await;
    Ok(StatusCode::NO_CONTENT)
}

/// Tries to sign in again after two failed logins.
#[utoipa::path(post, path = "/api/sites/{id}/gateway/sign-in/again", params(("id" = SiteId, Path), SignInAsked),
    responses((status = 204), (status = 404, body = Problem)))]
async fn try_sign_in_again(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<SignInAsked>,
) -> Result<StatusCode, Problem> {
    let saved = app.db(move |store| Ok(gateway_address(&store.settings(id)?))).await?;
    let address = asked.address.unwrap_or(saved);
    app.links.forgive_logins(id, &address).await;
    Ok(StatusCode::NO_CONTENT)
}
