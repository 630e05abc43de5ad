//! The Kit stage: kits of a site, judged; suggestions; the job card.

use super::created;
use crate::catalogue::catalogue;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem};
use crate::site_record::{RadioEnvironment, SiteRecord};
use crate::state::AppState;
use crate::views::outlook::narrowing;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{NaiveDate, Utc};
use open_beacon_core::bands::band_name;
use open_beacon_core::check::Checker;
use open_beacon_core::feedline::joint::Mating;
use open_beacon_core::handover::port_map_setups;
use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::assess::{Assessment, Place, assess, location_of};
use open_beacon_core::kit::finding::{At, Severity};
use open_beacon_core::kit::need::{Need, need};
use open_beacon_core::kit::scenario::Scenario;
use open_beacon_core::kit::suggest::compose::Composer;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{LinkCell, Origin};
use open_beacon_core::link::predict::LinkSetup;
use open_beacon_core::model::{
    BandName, ChainPart, Kit, KitId, KitSettings, KitSpec, Position, Setup, SetupId, SetupOrigin, SiteId,
};
use open_beacon_core::spelling::write_list;
use open_beacon_core::words;
use open_beacon_core::words::Style;
use open_beacon_core::words::why::WhyRow;
use open_beacon_store::{Archivable, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_kits, create_kit))
        .routes(routes!(try_kit))
        .routes(routes!(update_kit))
        .routes(routes!(archive_kit))
        .routes(routes!(restore_kit))
        .routes(routes!(queue_ports))
}

/// A finding in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct KitSaid {
    pub severity: Severity,
    pub at: At,
    pub text: String,
}

/// A kit judged, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JudgedKit {
    pub title: String,
    /// What makes the range of the download as wide as it is.
    pub doubts: Option<String>,
    /// How far the signal may fall.
    pub margin: String,
    /// What to expect over a day.
    pub day: Option<String>,
    /// What would narrow what is foretold of it, the best for its time first.
    pub narrowing: Vec<String>,
    /// Where the figures come from.
    pub why: Vec<WhyRow>,
    pub said: Vec<KitSaid>,
    /// For joints that do not mate: what of the catalogue would join them.
    pub fixes: Vec<JointFix>,
    pub assessment: Assessment,
}

/// Parts to be put in at a joint.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JointFix {
    /// Place of the joint, 0 at the antenna.
    pub place: usize,
    pub parts: Vec<ChainPart>,
    /// Their names.
    pub names: Vec<String>,
}

/// A kit with its judgement.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct KitView {
    pub kit: Kit,
    pub judged: JudgedKit,
    /// Days until it must be given back; negative once that is past.
    pub return_in_days: Option<i64>,
}

/// A carrier that predictions start from.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ScenarioBand {
    pub band: BandName,
    /// "B3", "n78".
    pub name: String,
    pub frequency_mhz: f64,
    pub origin: Origin,
}

/// What the Kit stage shows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct KitsView {
    /// Archived ones too.
    pub kits: Vec<KitView>,
    pub bands: Vec<ScenarioBand>,
    pub base_spot: Option<String>,
    pub need: Need,
    /// Said where what is there today already meets the need.
    pub today: Option<String>,
    pub settings: KitSettings,
    /// The carriers on offer that were not heard, in their short spelling.
    pub expected_text: String,
}

/// Where a kit is to go.
pub(super) fn place_of(spec: &KitSpec, positions: &[Position]) -> Place {
    let position = spec.position_id.and_then(|id| positions.iter().find(|one| one.id == id));
    Place {
        position: position.map(|position| position.id),
        place: position.and_then(|position| position.place),
        mount: position.map(|position| position.mount),
        height_m: position.and_then(|position| position.height_above_ground_m),
    }
}

pub(super) fn judged(
    spec: &KitSpec,
    catalogue: &Catalogue,
    (radio, scenario): (&RadioEnvironment, &Scenario),
    place: Place,
    style: Style,
) -> JudgedKit {
    let kit = Resolved::new(spec, catalogue);
    let assessment = assess(&kit, scenario, place);
    let stands = LinkSetup::new(location_of(&kit, scenario, place), AimAntenna::Kit(&kit));
    let composer = Composer::new(catalogue, scenario);
    let broken = assessment.chain.joints.iter().filter(|joint| joint.mating != Mating::Mates);
    let fixes = broken
        .filter_map(|joint| {
            let parts = composer.coupling(joint.from, joint.to, false)?;
            Some(JointFix {
                place: joint.place,
                names: parts.iter().map(|(part, _)| part.name.clone()).collect(),
                parts: parts
                    .iter()
                    .map(|(part, turned)| ChainPart {
                        part_id: part.id,
                        length_m: None,
                        turned: *turned,
                        outdoors: joint.outdoors,
                    })
                    .collect(),
            })
        })
        .collect();
    JudgedKit {
        title: words::kit::sentence(&assessment.title, style),
        doubts: words::doubts::sentence(&assessment.outlook.doubts),
        margin: words::why::margin(assessment.outlook.margin.as_ref()),
        day: assessment.outlook.day.as_ref().map(words::why::day),
        narrowing: kit.gateway.map_or_else(Vec::new, |_| narrowing(radio, &stands, None)),
        why: assessment.outlook.why.as_ref().map_or_else(Vec::new, words::why::rows),
        said: assessment
            .found
            .iter()
            .map(|one| KitSaid {
                severity: one.severity,
                at: one.at,
                text: words::kit::sentence(&one.finding, style),
            })
            .collect(),
        fixes,
        assessment,
    }
}

/// The kits of a site, judged.
#[utoipa::path(get, path = "/api/sites/{id}/kits", params(("id" = SiteId, Path)),
    responses((status = 200, body = KitsView), (status = 404, body = Problem)))]
async fn get_kits(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Json<KitsView>, Problem> {
    let (kits, zone) = app.db(move |store| Ok((store.kits(id)?, store.site(id)?.time_zone))).await?;
    let today = Utc::now().with_timezone(&zone).date_naive();
    app.record(id, move |data| Ok(Json(view(data, kits, today)))).await
}

fn view(data: &SiteRecord, kits: Vec<Kit>, today: NaiveDate) -> KitsView {
    let style = data.style();
    data.with(|radio| {
        let scenario = radio.scenario();
        let kit_view = |kit: Kit| KitView {
            judged: judged(
                &kit.spec,
                &data.catalogue,
                (radio, &scenario),
                place_of(&kit.spec, &data.positions),
                style,
            ),
            return_in_days: kit.return_by.map(|day| (day - today).num_days()),
            kit,
        };
        KitsView {
            kits: kits.into_iter().map(kit_view).collect(),
            bands: scenario.listed().map(ScenarioBand::of).collect(),
            base_spot: scenario.today.as_ref().map(|today| today.spot.clone()),
            need: need(&data.settings.kit.uses),
            today: scenario.met_today().map(|finding| words::kit::sentence(&finding, style)),
            settings: data.settings.kit.clone(),
            expected_text: write_list(&data.settings.kit.expected),
        }
    })
}

impl ScenarioBand {
    fn of(one: &LinkCell) -> Self {
        Self {
            band: one.band,
            name: band_name(one.band.technology, one.band.band),
            frequency_mhz: one.frequency_mhz,
            origin: one.origin.clone(),
        }
    }
}

/// What a kit is made or changed from.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct KitBody {
    pub name: String,
    pub spec: KitSpec,
    #[serde(default)]
    pub bought_on: Option<NaiveDate>,
    #[serde(default)]
    pub return_by: Option<NaiveDate>,
    #[serde(default)]
    pub notes: String,
}

/// A new kit; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewKit {
    pub id: KitId,
    #[serde(flatten)]
    pub body: KitBody,
}

impl KitBody {
    fn check(&self) -> Result<(), Problem> {
        let checker = Checker::default().name("/name", &self.name, "Gable panel").text("/notes", &self.notes);
        Problem::unless_valid(checker.kit(&self.spec).done())
    }
}

/// Adds a kit to a site.
#[utoipa::path(post, path = "/api/sites/{id}/kits", params(("id" = SiteId, Path)), request_body = NewKit,
    responses((status = 201, body = Kit), (status = 200, body = Kit), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn create_kit(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Body(new): Body<NewKit>,
) -> Result<(StatusCode, Json<Kit>), Problem> {
    new.body.check()?;
    let kit = Kit {
        id: new.id,
        site_id,
        name: new.body.name.trim().to_owned(),
        spec: new.body.spec.clone(),
        bought_on: new.body.bought_on,
        return_by: new.body.return_by,
        notes: new.body.notes.clone(),
        created_at: Utc::now(),
        archived_at: None,
    };
    let (made, kit) = app
        .db(move |store| {
            let made = store.create_kit(&kit, &(site_id, &new))?;
            Ok((made, store.kit(kit.id)?))
        })
        .await?;
    app.changed(site_id);
    Ok((created(made), Json(kit)))
}

/// Changes a kit.
#[utoipa::path(put, path = "/api/kits/{id}", params(("id" = KitId, Path)), request_body = Edited<KitBody>,
    responses((status = 200, body = Kit), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn update_kit(
    State(app): State<AppState>,
    Path(id): Path<KitId>,
    Body(Edited { body, seen }): Body<Edited<KitBody>>,
) -> Result<Json<Kit>, Problem> {
    body.check()?;
    let kit = app
        .edit(move |store| {
            let stored = store.kit(id)?;
            let mut kit = stored.clone();
            kit.name = body.name.trim().to_owned();
            kit.spec = body.spec;
            kit.bought_on = body.bought_on;
            kit.return_by = body.return_by;
            kit.notes = body.notes;
            seen.still(&stored, &kit)?;
            store.update_kit(&kit)?;
            Ok(kit)
        })
        .await?;
    app.changed(kit.site_id);
    Ok(Json(kit))
}

/// Judges parts that are not kept: for sliders and choices.
#[utoipa::path(post, path = "/api/sites/{id}/kits/try", params(("id" = SiteId, Path)), request_body = KitSpec,
    responses((status = 200, body = JudgedKit), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn try_kit(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(spec): Body<KitSpec>,
) -> Result<Json<JudgedKit>, Problem> {
    Problem::unless_valid(Checker::default().kit(&spec).done())?;
    app.record(id, move |data| {
        let place = place_of(&spec, &data.positions);
        Ok(Json(
            data.with(|radio| {
                judged(&spec, &data.catalogue, (radio, &radio.scenario()), place, data.style())
            }),
        ))
    })
    .await
}

async fn archived(app: &AppState, id: KitId, away: bool) -> Result<StatusCode, Problem> {
    let at = away.then(Utc::now);
    let site = app
        .db(move |store| {
            store.set_archived(Archivable::Kit, &id.to_string(), at)?;
            Ok(store.kit(id)?.site_id)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a kit away. Nothing is lost.
#[utoipa::path(post, path = "/api/kits/{id}/archive", params(("id" = KitId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_kit(State(app): State<AppState>, Path(id): Path<KitId>) -> Result<StatusCode, Problem> {
    archived(&app, id, true).await
}

/// Brings an archived kit back.
#[utoipa::path(post, path = "/api/kits/{id}/restore", params(("id" = KitId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_kit(State(app): State<AppState>, Path(id): Path<KitId>) -> Result<StatusCode, Problem> {
    archived(&app, id, false).await
}

/// Identifiers for the setups to be made, one for each port map, made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct QueuePorts {
    pub setup_ids: Vec<SetupId>,
}

/// Makes a setup for each way to plug the leads, at the kit's position: the Log stage lists them as untested.
#[utoipa::path(post, path = "/api/kits/{id}/queue-ports", params(("id" = KitId, Path)), request_body = QueuePorts,
    responses((status = 201, body = Vec<Setup>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn queue_ports(
    State(app): State<AppState>,
    Path(id): Path<KitId>,
    Body(asked): Body<QueuePorts>,
) -> Result<(StatusCode, Json<Vec<Setup>>), Problem> {
    let (site, setups) = app
        .db(move |store| {
            let kit = store.kit(id)?;
            let refuse = |why: &str| Err(StoreError::Refused(why.into()));
            let Some(position_id) = kit.spec.position_id else {
                return refuse("Choose a position for this kit first: the tests are queued there.");
            };
            let settings = store.settings(kit.site_id)?;
            let catalogue = catalogue(store)?;
            let parts = Resolved::new(&kit.spec, &catalogue);
            let Some(specs) = port_map_setups(&kit, &parts, settings.known_mast.as_ref()) else {
                return refuse("This kit has no leads to plug: choose an antenna and a gateway with ports.");
            };
            let mut setups = Vec::new();
            for (spec, setup_id) in specs.into_iter().zip(&asked.setup_ids) {
                let (origin, created_at) = (SetupOrigin::ByHand, Utc::now());
                let (id_of, made_from, archived_at) = (*setup_id, None, None);
                let setup =
                    Setup { id: id_of, position_id, made_from, origin, spec, created_at, archived_at };
                store.create_setup(&setup, &(id, setup_id))?;
                setups.push(store.setup(*setup_id)?);
            }
            Ok((kit.site_id, setups))
        })
        .await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(setups)))
}
