//! The Survey stage: masts, paths, ranking, aiming.

use super::backdrops::BackdropView;
use super::catalogue::catalogue;
use super::{baseline, style};
use crate::grounds::Grounds;
use crate::heard_bands::kit_in_use;
use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::response::Response;
use chrono::{NaiveDate, Utc};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::{mgrs_text, sexagesimal, utm_text};
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::judge::say::Style;
use open_beacon_core::judge::spot_views;
use open_beacon_core::kit::catalogue::Catalogue;
use open_beacon_core::kit::resolve::Resolved;
use open_beacon_core::model::{
    AntennaSpec, AntennaSwitch, Backdrop, Carrier, ConnectionMode, Kit, Landmark, Mast, MastId, Obstacle,
    Position, PositionId, SiteId, SiteSettings, SurveySettings, SweepAxis, TerrainTile,
};
use open_beacon_core::survey::aim::{AimCard, card};
use open_beacon_core::survey::antenna::AimAntenna;
use open_beacon_core::survey::calibrate::{HeardAt, MastShift, calibrate};
use open_beacon_core::survey::check::{Slip, probable_twins, slips};
use open_beacon_core::survey::hear::{Landscape, Stand, WhatIf};
use open_beacon_core::survey::matching::{CellMatch, Fit, matches};
use open_beacon_core::survey::rank::{Choice, Question, choice};
use open_beacon_core::survey::ranking::{Ranking, rank};
use open_beacon_core::survey::say;
use open_beacon_core::terrain::Ground;
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_survey)).routes(routes!(aim_card))
}

/// Everything a survey of a site is computed from.
#[derive(Debug)]
pub(super) struct SurveyData {
    pub house: Option<GeoPoint>,
    pub settings: SiteSettings,
    pub positions: Vec<Position>,
    /// Those in use.
    pub masts: Vec<Mast>,
    pub obstacles: Vec<Obstacle>,
    pub landmarks: Vec<Landmark>,
    pub tiles: Vec<TerrainTile>,
    pub backdrops: Vec<Backdrop>,
    pub ground: Arc<Ground>,
    /// On the gateway's own antennas and on outdoor ones.
    pub heard: Vec<HeardAt>,
    pub mode: ConnectionMode,
    pub(super) kit: Option<Kit>,
    pub(super) catalogue: Catalogue,
}

impl SurveyData {
    pub(super) fn read(store: &Store, grounds: &Grounds, id: SiteId) -> Result<Self, StoreError> {
        let site = store.site(id)?;
        let settings = store.settings(id)?;
        let found = open_beacon_core::judge::baseline(&baseline::spots(store, id)?, None, &settings);
        let first = found.spots.iter().find(|spot| Some(spot.setup_id) == found.verdict.from_setup);
        let mut heard: Vec<HeardAt> =
            found.spots.iter().map(|spot| HeardAt { spot: spot.clone(), aim_deg: None }).collect();
        for (setup, spot) in baseline::spots_of(store, id, AntennaSwitch::External)? {
            let Some(aim_deg) = setup.spec.azimuth_deg else { continue };
            let views = spot_views(&spot, &settings.network, &settings.link);
            let in_use = views.into_iter().filter(|view| view.network == settings.network);
            heard.extend(in_use.map(|spot| HeardAt { spot, aim_deg: Some(aim_deg) }));
        }
        let mut masts: Vec<Mast> = store.survey_things(id)?;
        masts.retain(|mast| mast.archived_at.is_none());
        let mut obstacles: Vec<Obstacle> = store.survey_things(id)?;
        obstacles.retain(|one| one.archived_at.is_none());
        let kit = kit_in_use(store, id, &settings)?;
        Ok(Self {
            house: site.place,
            positions: store.positions(id)?,
            masts,
            obstacles,
            landmarks: store.survey_things(id)?,
            tiles: store.survey_things(id)?,
            backdrops: store.survey_things(id)?,
            ground: grounds.of(store, id, site.place)?,
            mode: first.or(found.spots.first()).map_or(ConnectionMode::Unknown, |spot| spot.mode),
            heard,
            kit,
            catalogue: catalogue(store)?,
            settings,
        })
    }

    /// Calls with the landscape, put right by what was measured, and the question that is asked of it.
    pub(super) fn with<T>(&self, call: impl FnOnce(&Landscape, &Question, &[MastShift]) -> T) -> T {
        let mut landscape = Landscape::new(&self.masts, &self.obstacles, &self.ground, &self.settings);
        let resolved = self.kit.as_ref().map(|kit| Resolved::new(&kit.spec, &self.catalogue));
        let gateway = resolved.as_ref().and_then(|kit| kit.gateway);
        let antenna = resolved.as_ref().map_or(AimAntenna::Assumed, AimAntenna::Kit);
        let (_, shifts) = calibrate(&mut landscape, &self.heard, &antenna, &self.positions, self.house);
        let question = Question {
            positions: &self.positions,
            house: self.house,
            antenna,
            mode: self.mode,
            aggregated: gateway.map_or(4, |(_, gateway)| usize::from(gateway.aggregated_carriers.max(1))),
        };
        call(&landscape, &question, &shifts)
    }

    /// The kit's antenna, where one is reckoned with.
    pub(super) fn antenna_spec(&self) -> Option<AntennaSpec> {
        let kit = self.kit.as_ref()?;
        Resolved::new(&kit.spec, &self.catalogue).looks().cloned()
    }

    /// Where the best mast for a position lies: bearing or elevation, degrees, as the ranking has it.
    pub(super) fn expected(&self, position: PositionId, axis: SweepAxis) -> Option<f64> {
        self.with(|landscape, question, _| {
            let ranking = rank(landscape, question);
            let best = ranking.choices.iter().find(|one| one.position_id == position)?;
            match axis {
                SweepAxis::Azimuth => Some(best.bearing_deg),
                SweepAxis::Tilt => best.elevation_deg,
                SweepAxis::Ports => None,
            }
        })
    }

    pub(super) fn style(&self) -> Style {
        style(&self.settings)
    }

    pub(super) fn position(&self, id: PositionId) -> Result<&Position, Problem> {
        self.positions
            .iter()
            .find(|one| one.id == id)
            .ok_or_else(|| Problem::not_found("There is no position with this identifier."))
    }

    pub(super) fn mast_at(&self, id: MastId) -> Result<usize, Problem> {
        self.masts
            .iter()
            .position(|one| one.id == id)
            .ok_or_else(|| Problem::not_found("There is no mast with this identifier."))
    }

    /// Where an antenna at a position stands.
    pub(super) fn stand(&self, id: PositionId, height_m: Option<f64>) -> Result<(&Position, Stand), Problem> {
        let position = self.position(id)?;
        let place = position.place.or(self.house).ok_or_else(|| {
            Problem::conflict(
                "Neither this position nor the site has coordinates. Enter the site's position first.",
            )
        })?;
        let height_m = height_m.or(position.height_above_ground_m).unwrap_or(3.0).clamp(0.5, 200.0);
        Ok((position, Stand { place, height_m, mount: position.mount }))
    }
}

impl AppState {
    /// Reads a site's survey and calls with it, where it may block.
    pub(super) async fn survey<T: Send + 'static>(
        &self,
        id: SiteId,
        call: impl FnOnce(SurveyData) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let grounds = self.grounds.clone();
        self.db(move |store| Ok(SurveyData::read(store, &grounds, id).map(call))).await??
    }
}

/// A mast as it lies from the house.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastView {
    pub mast: Mast,
    /// From the house, where that has coordinates.
    pub distance_m: Option<f64>,
    pub bearing_deg: Option<f64>,
    /// Degrees, minutes and seconds; UTM grid; military grid reference.
    pub latitude_text: String,
    pub longitude_text: String,
    pub utm_text: Option<String>,
    pub mgrs_text: Option<String>,
    pub slips: Vec<SlipSaid>,
}

/// A probable slip in words, with its mend.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SlipSaid {
    pub slip: Slip,
    pub text: String,
}

/// Slips of a mast, said.
pub(super) fn said_slips(mast: &Mast, house: Option<GeoPoint>, style: Style) -> Vec<SlipSaid> {
    slips(mast.place, mast.height_m, house)
        .into_iter()
        .map(|slip| SlipSaid { text: say::slip(&slip, style), slip })
        .collect()
}

/// Two masts that are probably one.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastTwins {
    pub keep: MastId,
    pub other: MastId,
    /// "Ridge and Ridge 2".
    pub names: String,
}

/// What the gateway reports, matched to a mast.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MatchView {
    /// "B3, PCI 211".
    pub heard: String,
    pub mast: String,
    pub mast_id: MastId,
    pub fit: Fit,
    pub fit_text: String,
    pub evidence: Vec<String>,
}

/// What the Survey stage shows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SurveyView {
    pub title: String,
    pub reason: Option<String>,
    pub sensitivity: Vec<String>,
    /// What measurements did to the predictions.
    pub calibration: Vec<String>,
    pub shifts: Vec<MastShift>,
    pub ranking: Ranking,
    /// The line of each choice in words, in the ranking's order.
    pub lines: Vec<ChoiceSaid>,
    pub matches: Vec<MatchView>,
    pub masts: Vec<MastView>,
    /// Masts that are probably one.
    pub twins: Vec<MastTwins>,
    pub obstacles: Vec<Obstacle>,
    pub landmarks: Vec<Landmark>,
    pub tiles: Vec<TerrainTile>,
    /// Aerial pictures in use.
    pub backdrops: Vec<BackdropView>,
    pub house: Option<GeoPoint>,
    pub settings: SurveySettings,
    /// "Panel of the assumptions, 10 dBi", or the kit's name.
    pub antenna: String,
    /// Steps that would make it better, the most useful first.
    pub next: Vec<NextStep>,
}

/// A choice's details in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ChoiceSaid {
    pub source: String,
    pub clearance: Option<String>,
    pub access: String,
}

/// What a survey lacks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NextStep {
    PlaceHouse,
    AddMasts,
    AddTerrain,
    DrawObstacles,
    AddPositions,
}

fn next_steps(data: &SurveyData) -> Vec<NextStep> {
    let mut found = Vec::new();
    let mut push = |lacks: bool, step| {
        if lacks {
            found.push(step);
        }
    };
    push(data.house.is_none() && data.positions.iter().all(|one| one.place.is_none()), NextStep::PlaceHouse);
    push(data.masts.is_empty(), NextStep::AddMasts);
    push(data.positions.iter().all(|one| one.archived_at.is_some()), NextStep::AddPositions);
    push(data.ground.is_empty(), NextStep::AddTerrain);
    push(data.obstacles.is_empty(), NextStep::DrawObstacles);
    found
}

/// Every carrier heard at the house, the strongest reading of each cell.
fn cells_heard(heard: &[HeardAt]) -> Vec<Carrier> {
    let mut found: Vec<Carrier> = Vec::new();
    for carrier in heard.iter().flat_map(|one| &one.spot.carriers).map(|one| &one.carrier) {
        let same = |other: &&mut Carrier| {
            (other.technology, other.channel, other.pci) == (carrier.technology, carrier.channel, carrier.pci)
        };
        match found.iter_mut().find(same) {
            Some(there) if there.rsrp_dbm < carrier.rsrp_dbm => *there = carrier.clone(),
            Some(_) => {}
            None => found.push(carrier.clone()),
        }
    }
    found
}

fn match_view(one: &CellMatch, carriers: &[Carrier], masts: &[Mast], style: Style) -> MatchView {
    let carrier = &carriers[one.carrier];
    let band = carrier.band.map(|band| open_beacon_core::bands::band_name(carrier.technology, band));
    let pci = carrier.pci.map(|pci| format!("PCI {pci}"));
    let mast = masts.iter().find(|mast| mast.id == one.mast_id);
    MatchView {
        heard: [band, pci].into_iter().flatten().collect::<Vec<_>>().join(", "),
        mast: mast.map_or_else(String::new, |mast| mast.name.clone()),
        mast_id: one.mast_id,
        fit: one.fit,
        fit_text: say::fit(one.fit).into(),
        evidence: say::evidence(one, style),
    }
}

fn said(one: &Choice, obstacles: &[Obstacle], style: Style) -> ChoiceSaid {
    ChoiceSaid {
        source: say::source(&one.source, style),
        clearance: one.clearance.map(|found| say::clearance(&found, obstacles, style)),
        access: say::access(one.access).into(),
    }
}

/// Masts, ranking, matches and all that the plan shows.
#[utoipa::path(get, path = "/api/sites/{id}/survey", params(("id" = SiteId, Path)),
    responses((status = 200, body = SurveyView), (status = 404, body = Problem)))]
async fn get_survey(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    app.kept_answer(format!("survey {id}"), app.survey(id, |data| Ok(view(data)))).await
}

fn view(data: SurveyData) -> SurveyView {
    let style = data.style();
    let (ranking, shifts) = data.with(|landscape, asked, shifts| (rank(landscape, asked), shifts.to_vec()));
    let carriers = cells_heard(&data.heard);
    let found = matches(&carriers, &data.masts, data.house);
    let name = |id| data.masts.iter().find(|mast| mast.id == id).map_or("", |mast| mast.name.as_str());
    SurveyView {
        title: say::title(&ranking, style),
        reason: say::reason(&ranking, &data.obstacles, style),
        sensitivity: ranking.sensitivity.iter().map(|one| say::sensitivity(one, style)).collect(),
        calibration: shifts.iter().map(|one| say::shift(one, name(one.mast_id))).collect(),
        shifts,
        lines: ranking.choices.iter().map(|one| said(one, &data.obstacles, style)).collect(),
        ranking,
        matches: found.iter().map(|one| match_view(one, &carriers, &data.masts, style)).collect(),
        twins: probable_twins(&data.masts)
            .into_iter()
            .map(|(first, second)| (&data.masts[first], &data.masts[second]))
            .map(|(keep, other)| MastTwins {
                keep: keep.id,
                other: other.id,
                names: format!("{} and {}", keep.name, other.name),
            })
            .collect(),
        next: next_steps(&data),
        antenna: match &data.kit {
            Some(kit) => kit.name.clone(),
            None => "the outdoor panel of the assumptions".into(),
        },
        masts: data.masts.iter().map(|mast| mast_view(mast, data.house, style)).collect(),
        house: data.house,
        settings: data.settings.survey,
        obstacles: data.obstacles,
        landmarks: data.landmarks.into_iter().filter(|one| one.archived_at.is_none()).collect(),
        backdrops: data
            .backdrops
            .into_iter()
            .filter(|one| one.archived_at.is_none())
            .map(BackdropView::of)
            .collect(),
        tiles: data.tiles.into_iter().filter(|one| one.archived_at.is_none()).collect(),
    }
}

fn mast_view(mast: &Mast, house: Option<GeoPoint>, style: Style) -> MastView {
    let way = house.map(|house| way(house, mast.place));
    let (latitude_text, longitude_text) = sexagesimal(mast.place);
    MastView {
        distance_m: way.map(|way| way.distance_m),
        bearing_deg: way.map(|way| way.bearing_deg),
        latitude_text,
        longitude_text,
        utm_text: utm_text(mast.place),
        mgrs_text: mgrs_text(mast.place),
        slips: said_slips(mast, house, style),
        mast: mast.clone(),
    }
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct AimAsked {
    position: PositionId,
    mast: MastId,
    /// m above ground; the position's own where not said.
    height_m: Option<f64>,
    /// Day the compass is read; today where not said.
    on: Option<NaiveDate>,
}

/// What is taken up the ladder.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AimCardView {
    pub card: AimCard,
    pub site_name: String,
    /// "3° left of the silo".
    pub landmarks: Vec<String>,
    /// What should be heard there: band, PCI and RSRP.
    pub expect: Vec<String>,
    pub said: ChoiceSaid,
    pub cautions: Vec<String>,
}

/// The aiming card of a position and mast.
#[utoipa::path(get, path = "/api/sites/{id}/aim-card", params(("id" = SiteId, Path), AimAsked),
    responses((status = 200, body = AimCardView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn aim_card(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<AimAsked>,
) -> Result<Json<AimCardView>, Problem> {
    let site = app.db(move |store| store.site(id)).await?;
    app.survey(id, move |data| {
        let (position, stand) = data.stand(asked.position, asked.height_m)?;
        let mast = data.mast_at(asked.mast)?;
        let own_m = position.height_above_ground_m.unwrap_or(stand.height_m);
        let chosen = data.with(|landscape, question, _| {
            let arrivals = landscape.arrivals(&stand, WhatIf::default());
            choice(landscape, question, position, &stand, stand.height_m - own_m, mast, &arrivals)
        });
        let chosen = chosen.ok_or_else(|| {
            Problem::conflict(
                "Nothing of this mast can be used here: give it cells with bands of your network.",
            )
        })?;
        let on = asked.on.unwrap_or_else(|| Utc::now().date_naive());
        let card = card(&chosen, stand.place, &data.landmarks, on);
        let style = data.style();
        Ok(AimCardView {
            site_name: site.name,
            landmarks: card.landmarks.iter().take(2).map(say::landmark).collect(),
            expect: say::expect(&chosen),
            said: said(&chosen, &data.obstacles, style),
            cautions: say::cautions(chosen.access).into_iter().map(str::to_owned).collect(),
            card,
        })
    })
    .await
    .map(Json)
}
