//! The Survey stage: masts, paths, ranking, aiming.

use super::backdrops::BackdropView;
use crate::problem::{Path, Problem, Query};
use crate::site_record::SiteRecord;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::response::Response;
use chrono::{NaiveDate, Utc};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::{mgrs_text, sexagesimal, utm_text};
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::judge::SpotView;
use open_beacon_core::judge::say::Style;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::matching::{CellMatch, Fit, matches};
use open_beacon_core::model::{
    Carrier, Landmark, Mast, MastId, Obstacle, Position, PositionId, SiteId, SurveySettings, TerrainTile,
};
use open_beacon_core::survey::aim::{AimCard, card};
use open_beacon_core::survey::calibrate::{MastShift, shifts};
use open_beacon_core::survey::check::{EntryMistake, probable_duplicates, slips};
use open_beacon_core::survey::rank::{Choice, choices_at};
use open_beacon_core::survey::ranking::{Ranking, rank};
use open_beacon_core::survey::say;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_survey)).routes(routes!(aim_card))
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
    pub slips: Vec<EntryMistakeSaid>,
}

/// A probable slip in words, with its mend.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct EntryMistakeSaid {
    pub slip: EntryMistake,
    pub text: String,
}

/// Slips of a mast, said.
pub(super) fn said_slips(mast: &Mast, house: Option<GeoPoint>, style: Style) -> Vec<EntryMistakeSaid> {
    slips(mast.place, mast.height_m, house)
        .into_iter()
        .map(|slip| EntryMistakeSaid { text: say::slip(&slip, style), slip })
        .collect()
}

/// Two masts that are probably one.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastDuplicates {
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
    pub duplicates: Vec<MastDuplicates>,
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

fn next_steps(data: &SiteRecord) -> Vec<NextStep> {
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
fn cells_heard<'a>(heard: impl Iterator<Item = &'a SpotView>) -> Vec<Carrier> {
    let mut found: Vec<Carrier> = Vec::new();
    for carrier in heard.flat_map(|one| &one.carriers).map(|one| &one.carrier) {
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
    app.kept_answer(format!("survey {id}"), app.record(id, |data| Ok(view(data)))).await
}

fn view(data: &SiteRecord) -> SurveyView {
    let style = data.style();
    let (ranking, shifts) = data.with(|air| (rank(air.env, &air.question()), shifts(air.env)));
    let carriers = cells_heard(data.by_gateway());
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
        duplicates: probable_duplicates(&data.masts)
            .into_iter()
            .map(|(first, second)| (&data.masts[first], &data.masts[second]))
            .map(|(keep, other)| MastDuplicates {
                keep: keep.id,
                other: other.id,
                names: format!("{} and {}", keep.name, other.name),
            })
            .collect(),
        next: next_steps(data),
        antenna: match &data.kit {
            Some(kit) => kit.name.clone(),
            None => "the outdoor panel of the assumptions".into(),
        },
        masts: data.masts.iter().map(|mast| mast_view(mast, data.house, style)).collect(),
        house: data.house,
        settings: data.settings.survey.clone(),
        obstacles: data.obstacles.clone(),
        landmarks: data.landmarks.iter().filter(|one| one.archived_at.is_none()).cloned().collect(),
        backdrops: data
            .backdrops
            .iter()
            .filter(|one| one.archived_at.is_none())
            .cloned()
            .map(BackdropView::of)
            .collect(),
        tiles: data.tiles.iter().filter(|one| one.archived_at.is_none()).cloned().collect(),
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
    /// m above ground; where not said that of the setup that stands there, else the position's own.
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

/// One mast from one place, the antenna aimed at it.
pub(super) fn choice_of(
    data: &SiteRecord,
    position: &Position,
    location: AntennaLocation,
    mast: usize,
) -> Result<Choice, Problem> {
    let own_m = position.height_above_ground_m.unwrap_or(location.height_m);
    let all = data.with(|air| {
        let (asked, as_known) = (air.question(), WhatIf::default());
        choices_at(air.env, &asked, position, location, location.height_m - own_m, as_known)
    });
    all.into_iter().find(|one| one.mast_id == data.masts[mast].id).ok_or_else(|| {
        Problem::conflict("Nothing of this mast can be used here: give it cells with bands of your network.")
    })
}

/// The aiming card of a position and mast.
#[utoipa::path(get, path = "/api/sites/{id}/aim-card", params(("id" = SiteId, Path), AimAsked),
    responses((status = 200, body = AimCardView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn aim_card(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<AimAsked>,
) -> Result<Json<AimCardView>, Problem> {
    app.record(id, move |data| {
        let height_m = asked
            .height_m
            .or_else(|| data.stands_at(asked.position).and_then(|setup| setup.spec.height_above_ground_m));
        let (position, location) = data.location(asked.position, height_m)?;
        let chosen = choice_of(data, position, location, data.mast_at(asked.mast)?)?;
        let on = asked.on.unwrap_or_else(|| Utc::now().date_naive());
        let place = location.place.unwrap_or(data.masts[data.mast_at(asked.mast)?].place);
        let card = card(&chosen, place, &data.landmarks, on);
        let style = data.style();
        Ok(AimCardView {
            site_name: data.name.clone(),
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
