//! Sites, their settings, and the tree of positions and setups.

use super::created;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{NaiveDate, Utc};
use open_beacon_core::check::{Checker, FieldProblem};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::judge::{Planned, SetupTally, StageStatus, say, stage_states};
use open_beacon_core::model::{
    AntennaSwitch, BandRound, Kit, KitId, Mast, Position, RoundEnd, Setup, Site, SiteId, SiteSettings, Sweep,
    TerrainTile,
};
use open_beacon_store::{Archivable, Store, StoreError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
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

/// A setup in the tree.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SetupNode {
    pub setup: Setup,
    /// Position and aim.
    pub label: String,
    /// The aim alone.
    pub aim: String,
    /// What the gateway is locked to, in words; none where it is free.
    pub lock: Option<String>,
    /// What it was made from, in words.
    pub origin: String,
    pub sittings: usize,
    pub runs: usize,
    pub samples: usize,
    /// Complete speed tests.
    pub tests: usize,
}

/// A position in the tree.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PositionNode {
    pub position: Position,
    pub setups: Vec<SetupNode>,
}

/// A site with everything the shell shows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SiteView {
    pub site: Site,
    pub settings: SiteSettings,
    /// Version of each section of the settings, by its name; 0 where it was never changed.
    pub settings_versions: BTreeMap<String, u64>,
    /// Archived ones too.
    pub positions: Vec<PositionNode>,
    pub stages: Vec<StageStatus>,
    /// The next day by which a bought kit must go back, if there is one.
    pub return_deadline: Option<ReturnDeadline>,
}

/// A bought kit's last day to be given back: tests are planned to end before.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ReturnDeadline {
    pub kit_id: KitId,
    pub kit_name: String,
    pub return_by: NaiveDate,
    pub in_days: i64,
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
async fn get_site(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Json<SiteView>, Problem> {
    app.db(move |store| view(store, id)).await.map(Json)
}

fn view(store: &Store, id: SiteId) -> Result<SiteView, StoreError> {
    let site = store.site(id)?;
    let counts = store.setup_counts(id)?;
    let setups = store.setups(id)?;
    let positions: Vec<PositionNode> = store
        .positions(id)?
        .into_iter()
        .map(|position| {
            let node = |setup: &Setup| {
                let counts = counts.get(&setup.id).copied().unwrap_or_default();
                SetupNode {
                    label: say::setup_label(&position, &setup.spec),
                    aim: say::setup_aim(&setup.spec),
                    lock: say::lock_words(&setup.spec.lock),
                    origin: say::origin_words(&setup.origin).into(),
                    sittings: counts.sittings,
                    setup: setup.clone(),
                    runs: counts.runs,
                    samples: counts.samples,
                    tests: counts.tests,
                }
            };
            let setups = setups.iter().filter(|setup| setup.position_id == position.id).map(node).collect();
            PositionNode { position, setups }
        })
        .collect();
    let in_use = positions.iter().filter(|node| node.position.archived_at.is_none());
    let tallies: Vec<SetupTally> = in_use
        .flat_map(|node| &node.setups)
        .filter(|node| node.setup.archived_at.is_none())
        .map(|node| SetupTally {
            stock_antennas: node.setup.spec.antenna == AntennaSwitch::Internal,
            samples: node.samples,
            tests: node.tests,
        })
        .collect();
    let kits: Vec<Kit> = store.kits(id)?.into_iter().filter(|kit| kit.archived_at.is_none()).collect();
    let masts: Vec<Mast> = store.entities(id)?;
    let tiles: Vec<TerrainTile> = store.entities(id)?;
    let mut sweeps: Vec<Sweep> = store.entities(id)?;
    sweeps.retain(|sweep| sweep.archived_at.is_none());
    let mut band_rounds: Vec<BandRound> = store.entities(id)?;
    band_rounds.retain(|round| round.archived_at.is_none());
    let planned = Planned {
        kits: kits.len(),
        masts: masts.iter().filter(|mast| mast.archived_at.is_none()).count(),
        tiles: tiles.iter().filter(|tile| tile.archived_at.is_none()).count(),
        sweeps_set: sweeps.iter().filter(|sweep| sweep.set_deg.is_some()).count(),
        sweeps_open: sweeps.iter().filter(|sweep| sweep.ended_at.is_none()).count(),
        rounds_done: band_rounds
            .iter()
            .filter(|round| matches!(round.end, Some(RoundEnd::Clear | RoundEnd::Planned)))
            .count(),
        lock_open: store.lock_intent(id)?.is_some()
            || band_rounds.iter().any(|round| round.ended_at.is_none()),
    };
    let today = Utc::now().with_timezone(&site.time_zone).date_naive();
    let deadline = |kit: &Kit| {
        let return_by = kit.return_by.filter(|day| *day >= today)?;
        let in_days = (return_by - today).num_days();
        Some(ReturnDeadline { kit_id: kit.id, kit_name: kit.name.clone(), return_by, in_days })
    };
    Ok(SiteView {
        site,
        settings: store.settings(id)?,
        settings_versions: store.settings_versions(id)?,
        positions,
        stages: stage_states(&tallies, planned),
        return_deadline: kits.iter().filter_map(deadline).min_by_key(|one| one.return_by),
    })
}

/// Changes name, place, time zone and notes.
#[utoipa::path(put, path = "/api/sites/{id}", params(("id" = SiteId, Path)), request_body = SiteBody,
    responses((status = 200, body = Site), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn update_site(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(body): Body<SiteBody>,
) -> Result<Json<Site>, Problem> {
    let time_zone = body.check()?;
    let site = app
        .db(move |store| {
            let mut site = store.site(id)?;
            site.name = body.name.trim().to_owned();
            site.place = body.place;
            site.time_zone = time_zone;
            site.notes = body.notes;
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
                store.put_settings(site.id, &settings)?;
            }
            Ok((made, store.site(copy.id)?))
        })
        .await?;
    Ok((created(made), Json(site)))
}
