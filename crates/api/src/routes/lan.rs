//! Phones on the local network: the code on the screen, pairing, and turning away again.

use crate::pairing::{digest, new_token};
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::model::{DeviceId, PairedDevice};
use qrcode::QrCode;
use qrcode::render::svg;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The cookie that holds a device's token.
pub const COOKIE: &str = "open-beacon-device";

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_lan))
        .routes(routes!(renew_code))
        .routes(routes!(pair))
        .routes(routes!(revoke))
        .routes(routes!(get_time))
}

/// A code on the screen with the drawing that a phone reads.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CodeView {
    pub code: String,
    pub expires_at: DateTime<Utc>,
    /// Where the drawing leads.
    pub url: String,
    /// An SVG document.
    pub drawing: String,
}

/// How phones reach this program.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LanView {
    /// False where it was not started with `--lan`: phones cannot reach it.
    pub on: bool,
    pub secure: bool,
    pub origin: Option<String>,
    /// The same by number, where a phone does not know names that end in .local.
    pub by_address: Vec<String>,
    /// Page that leads through trusting the authority, and its drawing.
    pub trust_url: Option<String>,
    pub trust_drawing: Option<String>,
    pub authority_sha256: Option<String>,
    pub code: Option<CodeView>,
    pub devices: Vec<PairedDevice>,
}

fn drawing(url: &str) -> String {
    QrCode::new(url.as_bytes())
        .map(|code| code.render::<svg::Color<'_>>().min_dimensions(220, 220).quiet_zone(true).build())
        .unwrap_or_default()
}

/// Addresses of this machine on its networks, without those that lead nowhere else.
pub fn own_addresses() -> Vec<std::net::IpAddr> {
    let all = if_addrs::get_if_addrs().unwrap_or_default();
    let mut found: Vec<_> = all.into_iter().filter(|one| !one.is_loopback()).map(|one| one.ip()).collect();
    found.retain(std::net::IpAddr::is_ipv4);
    found
}

fn view(app: &AppState, devices: Vec<PairedDevice>) -> LanView {
    let Some(lan) = app.lan.get() else {
        return LanView {
            on: false,
            secure: false,
            origin: None,
            by_address: Vec::new(),
            trust_url: None,
            trust_drawing: None,
            authority_sha256: None,
            code: None,
            devices,
        };
    };
    let addresses = own_addresses();
    let trust_url = lan.trust_port.and_then(|port| Some(format!("http://{}:{port}/", addresses.first()?)));
    let code = app.pairing.current(Utc::now()).map(|code| {
        let url = format!("{}/pair#{}", lan.origin(), code.text);
        CodeView { drawing: drawing(&url), url, code: code.text, expires_at: code.expires_at }
    });
    LanView {
        on: true,
        secure: lan.secure,
        origin: Some(lan.origin()),
        by_address: addresses.iter().map(|address| lan.origin_of(&address.to_string())).collect(),
        trust_drawing: trust_url.as_deref().map(drawing),
        trust_url,
        authority_sha256: lan.authority_sha256.clone(),
        code,
        devices,
    }
}

/// How phones reach this program, and which were let in. Answered on this computer only.
#[utoipa::path(get, path = "/api/lan", responses((status = 200, body = LanView)))]
async fn get_lan(State(app): State<AppState>) -> Result<Json<LanView>, Problem> {
    let devices = app.db(open_beacon_store::Store::devices).await?;
    Ok(Json(view(&app, devices)))
}

/// Shows a new one-time code for ten minutes. Answered on this computer only.
#[utoipa::path(post, path = "/api/lan/code", responses((status = 200, body = LanView), (status = 409, body = Problem)))]
async fn renew_code(State(app): State<AppState>) -> Result<Json<LanView>, Problem> {
    if app.lan.get().is_none() {
        return Err(Problem::conflict("Phones cannot reach this program. Start it with --lan."));
    }
    app.pairing.renew(Utc::now());
    let devices = app.db(open_beacon_store::Store::devices).await?;
    Ok(Json(view(&app, devices)))
}

/// A device that wants in.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct PairBody {
    pub code: String,
    pub name: String,
}

/// Lets a device in by the code on the screen; its token comes back as a cookie that scripts cannot read.
#[utoipa::path(post, path = "/api/pair", request_body = PairBody,
    responses((status = 201, body = PairedDevice), (status = 403, body = Problem), (status = 422, body = Problem)))]
async fn pair(State(app): State<AppState>, Body(body): Body<PairBody>) -> Result<impl IntoResponse, Problem> {
    Problem::unless_valid(Checker::default().name("/name", &body.name, "Phone on the roof").done())?;
    if !app.pairing.open_with(&body.code, Utc::now()) {
        return Err(Problem::forbidden(
            "This code does not open: codes hold ten minutes and open once. Show a new one on the computer, under Settings.",
        ));
    }
    let token = new_token();
    let device = PairedDevice {
        id: DeviceId(uuid::Uuid::now_v7()),
        name: body.name.trim().to_owned(),
        paired_at: Utc::now(),
        last_seen_at: None,
        revoked_at: None,
    };
    let (kept, sum) = (device.clone(), digest(&token));
    app.db(move |store| store.pair_device(&kept, &sum)).await?;
    let secure = if app.lan.get().is_some_and(|lan| lan.secure) { "; Secure" } else { "" };
    let cookie = format!("{COOKIE}={token}; HttpOnly; SameSite=Strict; Path=/; Max-Age=31536000{secure}");
    Ok((StatusCode::CREATED, [(header::SET_COOKIE, cookie)], Json(device)))
}

/// Turns a device away from now on. Answered on this computer only.
#[utoipa::path(delete, path = "/api/lan/devices/{id}", params(("id" = DeviceId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn revoke(State(app): State<AppState>, Path(id): Path<DeviceId>) -> Result<StatusCode, Problem> {
    app.db(move |store| store.revoke_device(id, Utc::now())).await?;
    // Nobody listening is fine.
    let _ = app.turned_away.send(());
    Ok(StatusCode::NO_CONTENT)
}

/// This computer's clock, for phones to measure how far theirs is off.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct TimeView {
    pub now: DateTime<Utc>,
}

/// The time.
#[utoipa::path(get, path = "/api/time", responses((status = 200, body = TimeView)))]
async fn get_time() -> Json<TimeView> {
    Json(TimeView { now: Utc::now() })
}
