//! Sites, their settings, and the tree of positions and setups.

use super::created;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::views::site::{SiteView, view};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::Response;
use chrono::Utc;
use open_beacon_core::check::{Checker, FieldProblem};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{Site, SiteId, SiteSettings};
use open_beacon_store::{Aggregate, Archivable, Store};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(list_sites, create_site))
        .routes(routes!(get_site, update_site))
        .routes(routes!(archive_site))
        .routes(routes!(restore_site))
        .routes(routes!(duplicate_site))
        .routes(routes!(wake_site))
}

/// What a site is made or changed from.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct SiteBody {
    pub name: String,
    #[serde(default)]
    pub place: Option<GeoPoint>,
    /// IANA name, for instance `Europe/Oslo`.
    pub time_zone: String,
    #[serde(default)]
    pub notes: String,
}

/// A new site; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewSite {
    pub id: SiteId,
    #[serde(flatten)]
    pub body: SiteBody,
}

impl SiteBody {
    fn check(&self) -> Result<chrono_tz::Tz, Problem> {
        let mut problems = Checker::default()
            .name("/name", &self.name, "North farm")
            .text("/notes", &self.notes)
            .place("/place", self.place)
            .done();
        match self.time_zone.parse::<chrono_tz::Tz>() {
            Ok(zone) if problems.is_empty() => return Ok(zone),
            Ok(_) => {}
            Err(_) => problems.push(FieldProblem {
                pointer: "/time_zone".into(),
                detail: "An IANA time zone, for instance Europe/Oslo.".into(),
            }),
        }
        Err(Problem::invalid(problems))
    }
}

/// All sites, the newest first, archived ones too.
#[utoipa::path(get, path = "/api/sites", responses((status = 200, body = Vec<Site>)))]
async fn list_sites(State(app): State<AppState>) -> Result<Json<Vec<Site>>, Problem> {
    app.db(Store::sites).await.map(Json)
}

/// Adds a site.
#[utoipa::path(post, path = "/api/sites", request_body = NewSite,
    responses((status = 201, body = Site), (status = 200, body = Site, description = "a repeat"), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn create_site(
    State(app): State<AppState>,
    Body(new): Body<NewSite>,
) -> Result<(StatusCode, Json<Site>), Problem> {
    let time_zone = new.body.check()?;
    let site = Site {
        id: new.id,
        name: new.body.name.trim().to_owned(),
        place: new.body.place,
        time_zone,
        notes: new.body.notes.clone(),
        created_at: Utc::now(),
        archived_at: None,
    };
    let (made, site) = app
        .db(move |store| {
            let made = store.create_site(&site, &new)?;
            Ok((made, store.site(site.id)?))
        })
        .await?;
    Ok((created(made), Json(site)))
}

/// One site with its positions, setups, settings and stages.
#[utoipa::path(get, path = "/api/sites/{id}", params(("id" = SiteId, Path)),
    responses((status = 200, body = SiteView), (status = 404, body = Problem)))]
async fn get_site(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    // It says how many days are left to give a kit back, and days begin at some quarter of an hour.
    let question = format!("site {id} at {}", Utc::now().timestamp() / 900);
    app.kept_answer(question, &Aggregate::ALL, app.db(move |store| view(store, id))).await
}

/// Lets a site that came from a file send what its settings say: somebody has seen what that is.
#[utoipa::path(post, path = "/api/sites/{id}/wake", params(("id" = SiteId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn wake_site(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<StatusCode, Problem> {
    app.db(move |store| store.site(id).and_then(|_| store.set_asleep(id, false))).await?;
    app.links.restart(id);
    app.changed(id);
    Ok(StatusCode::NO_CONTENT)
}

/// Changes name, place, time zone and notes.
#[utoipa::path(put, path = "/api/sites/{id}", params(("id" = SiteId, Path)), request_body = Edited<SiteBody>,
    responses((status = 200, body = Site), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn update_site(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(Edited { body, seen }): Body<Edited<SiteBody>>,
) -> Result<Json<Site>, Problem> {
    let time_zone = body.check()?;
    let site = app
        .edit(move |store| {
            let stored = store.site(id)?;
            let mut site = stored.clone();
            site.name = body.name.trim().to_owned();
            site.place = body.place;
            site.time_zone = time_zone;
            site.notes = body.notes;
            seen.still(&stored, &site)?;
            store.update_site(&site)?;
            Ok(site)
        })
        .await?;
    app.changed(id);
    Ok(Json(site))
}

/// Puts a site away. Nothing is lost.
#[utoipa::path(post, path = "/api/sites/{id}/archive", params(("id" = SiteId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_site(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<StatusCode, Problem> {
    app.db(move |store| store.set_archived(Archivable::Site, &id.to_string(), Some(Utc::now()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings an archived site back.
#[utoipa::path(post, path = "/api/sites/{id}/restore", params(("id" = SiteId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_site(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<StatusCode, Problem> {
    app.db(move |store| store.set_archived(Archivable::Site, &id.to_string(), None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A new identifier for a copy.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct DuplicateSite {
    pub id: SiteId,
    pub name: String,
}

/// Makes a new site with the same settings and place, without positions or runs.
#[utoipa::path(post, path = "/api/sites/{id}/duplicate", params(("id" = SiteId, Path)), request_body = DuplicateSite,
    responses((status = 201, body = Site), (status = 200, body = Site), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn duplicate_site(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(copy): Body<DuplicateSite>,
) -> Result<(StatusCode, Json<Site>), Problem> {
    Problem::unless_valid(Checker::default().name("/name", &copy.name, "North farm, copy").done())?;
    let (made, site) = app
        .db(move |store| {
            let original = store.site(id)?;
            let settings =
                SiteSettings { active_setup_id: None, baseline_setup_id: None, ..store.settings(id)? };
            let site = Site {
                id: copy.id,
                name: copy.name.clone(),
                created_at: Utc::now(),
                archived_at: None,
                ..original
            };
            let made = store.create_site(&site, &copy)?;
            if made == open_beacon_store::Created::Now {
                store.set_asleep(site.id, store.is_asleep(id)?)?;
                store.put_settings(site.id, &settings)?;
            }
            Ok((made, store.site(copy.id)?))
        })
        .await?;
    Ok((created(made), Json(site)))
}
