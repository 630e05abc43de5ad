//! What to buy, and the day of the job.

use super::kits::{JudgedKit, judged, place_of};
use crate::problem::{Body, Path, Problem};
use crate::site_record::{SetupRecord, SiteRecord};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::bands::band_name;
use open_beacon_core::check::Checker;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::assess::Place;
use open_beacon_core::kit::job::{Caution, JobPlan, job, port_bands};
use open_beacon_core::kit::suggest::{Candidate, Loser, suggest};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::model::{AntennaSwitch, Kit, KitId, SetupSpec, SiteId};
use open_beacon_core::words;
use open_beacon_core::words::setup_facts;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(suggest_kit)).routes(routes!(job_card))
}

/// What a suggestion is asked for.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct SuggestRequest {
    /// In the site's currency; none for no limit.
    #[serde(default)]
    pub price_limit: Option<f64>,
}

/// A kit that was suggested.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SuggestedKit {
    pub candidate: Candidate,
    pub gateway: String,
    /// None for outdoor units and gateways on their own antennas.
    pub antenna: Option<String>,
    pub judged: JudgedKit,
    /// How likely it is that it does what it is suggested for.
    pub chances: Option<String>,
}

/// A gateway and antenna that lost, and why.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LoserView {
    pub gateway: String,
    pub antenna: Option<String>,
    pub nearest: Option<Candidate>,
    pub why_not_cheapest: String,
    pub why_not_best: String,
}

/// What to buy.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SuggestionView {
    pub cheapest: Option<SuggestedKit>,
    pub best: Option<SuggestedKit>,
    pub losers: Vec<LoserView>,
    /// Kits weighed.
    pub weighed: usize,
}

/// The cheapest kit that meets the household's need, and the best under a price.
#[utoipa::path(post, path = "/api/sites/{id}/kits/suggest", params(("id" = SiteId, Path)), request_body = SuggestRequest,
    responses((status = 200, body = SuggestionView), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn suggest_kit(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<SuggestRequest>,
) -> Result<Json<SuggestionView>, Problem> {
    let limit =
        Checker::default().range("/price_limit", asked.price_limit, 1.0, 1e6, "in the site's currency");
    Problem::unless_valid(limit.done())?;
    app.record(id, move |data| Ok(Json(suggestion(data, asked.price_limit)))).await
}

fn suggestion(data: &SiteRecord, price_limit: Option<f64>) -> SuggestionView {
    let (catalogue, style) = (&data.catalogue, data.style());
    let name = |id| catalogue.part(id).map_or(String::new(), |part| part.name.clone());
    let currency = data.settings.kit.currency.as_str();
    data.with(|radio| {
        let scenario = radio.scenario();
        let found = suggest(catalogue, &scenario, price_limit);
        let whole = |candidate: Candidate| SuggestedKit {
            gateway: name(candidate.gateway),
            antenna: candidate.antenna.map(name),
            chances: words::kit::chances(&candidate),
            judged: judged(
                &candidate.kit,
                catalogue,
                (radio, &scenario),
                place_of(&candidate.kit, &[]),
                style,
            ),
            candidate,
        };
        let lost = |loser: Loser| LoserView {
            gateway: name(loser.gateway),
            antenna: loser.antenna.map(name),
            why_not_cheapest: words::kit::why(&loser.why_not_cheapest, currency),
            why_not_best: words::kit::why(&loser.why_not_best, currency),
            nearest: loser.nearest,
        };
        SuggestionView {
            cheapest: found.cheapest.map(whole),
            best: found.best.map(whole),
            losers: found.losers.into_iter().map(lost).collect(),
            weighed: found.weighed,
        }
    })
}

/// A port with the bands it carries of those here.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PortBands {
    pub port: String,
    pub bands: Vec<String>,
}

/// A caution in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CautionSaid {
    pub caution: Caution,
    pub text: String,
}

/// Everything that is printed for the day of the job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobCard {
    pub kit: Kit,
    /// How it is to stand, by the setup that has this kit, else as it is foretold to serve best: bearing, tilt, height, leads and
    /// lock in words. `None` without a position.
    pub setup: Option<String>,
    pub site_name: String,
    pub position_name: Option<String>,
    pub currency: String,
    pub judged: JudgedKit,
    pub plan: JobPlan,
    pub tools: Vec<String>,
    pub steps: Vec<String>,
    pub cautions: Vec<CautionSaid>,
    pub port_bands: Vec<PortBands>,
}

/// The job card of a kit.
#[utoipa::path(get, path = "/api/kits/{id}/job-card", params(("id" = KitId, Path)),
    responses((status = 200, body = JobCard), (status = 404, body = Problem)))]
async fn job_card(State(app): State<AppState>, Path(id): Path<KitId>) -> Result<Json<JobCard>, Problem> {
    let kit = app.db(move |store| store.kit(id)).await?;
    app.record(kit.site_id, move |data| Ok(Json(card(data, kit)))).await
}

/// Where a setup's kit is.
fn placed(one: &SetupRecord) -> Place {
    Place {
        position: Some(one.position.id),
        place: one.position.place,
        mount: Some(one.position.mount),
        height_m: one.setup.spec.height_above_ground_m.or(one.position.height_above_ground_m),
    }
}

/// How a kit is to stand before a setup has it: aimed at the mast that serves best from its position.
fn planned(kit: &Kit, resolved: &Resolved, judged: &JudgedKit) -> SetupSpec {
    let pointed = AimAntenna::Kit(resolved).is_pointed();
    SetupSpec {
        azimuth_deg: judged.assessment.outlook.bearing_deg.filter(|_| pointed),
        height_above_ground_m: kit.spec.height_above_ground_m,
        ports: kit.spec.ports.clone(),
        ..SetupSpec::on(AntennaSwitch::External)
    }
}

fn card(data: &SiteRecord, kit: Kit) -> JobCard {
    let (catalogue, style, settings) = (&data.catalogue, data.style(), &data.settings.kit);
    let stands = data.setup_with(kit.id);
    let place = stands.map_or_else(|| place_of(&kit.spec, &data.positions), placed);
    let (judged, wanted) = data.with(|radio| {
        let scenario = radio.scenario();
        let wanted: Vec<_> = scenario.listed().map(|one| one.band).collect();
        (judged(&kit.spec, catalogue, (radio, &scenario), place, style), wanted)
    });
    let resolved = Resolved::new(&kit.spec, catalogue);
    let plan = job(&resolved, &judged.assessment, settings, place.height_m);
    let ports = resolved.gateway.map(|(_, gateway)| gateway.ports.as_slice()).unwrap_or_default();
    let own = kit.spec.position_id.and_then(|id| data.positions.iter().find(|one| one.id == id));
    let position = stands.map(|one| &one.position).or(own);
    let said =
        |caution: &Caution| CautionSaid { caution: *caution, text: words::job::caution(caution, style) };
    let carried = |port: &str| -> Vec<String> {
        let bands = port_bands(&resolved, port, &wanted);
        bands.into_iter().map(|band| band_name(band.technology, band.band)).collect()
    };
    JobCard {
        setup: position.map(|position| {
            let spec = stands.map_or_else(|| planned(&kit, &resolved, &judged), |one| one.setup.spec.clone());
            setup_facts(position, &spec, Some(&kit.name), style)
        }),
        site_name: data.name.clone(),
        position_name: position.map(|position| position.name.clone()),
        currency: settings.currency.clone(),
        tools: plan.tools.iter().map(|tool| words::job::tool(*tool).to_owned()).collect(),
        steps: plan.steps.iter().map(|step| words::job::step(step, style)).collect(),
        cautions: plan.cautions.iter().map(said).collect(),
        port_bands: ports
            .iter()
            .map(|port| PortBands { port: port.name.clone(), bands: carried(&port.name) })
            .collect(),
        plan,
        judged,
        kit: kit.clone(),
    }
}
