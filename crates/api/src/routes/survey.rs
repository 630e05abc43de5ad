//! The Survey stage: masts, paths, ranking, aiming.

use crate::problem::{Path, Problem, Query};
use crate::site_record::SiteRecord;
use crate::state::AppState;
use crate::views::survey::{ChoiceSaid, SurveyView, said, view};
use axum::Json;
use axum::extract::State;
use axum::response::Response;
use chrono::{NaiveDate, Utc};
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::model::{MastId, Position, PositionId, SiteId};
use open_beacon_core::survey::aim::{AimCard, card};
use open_beacon_core::survey::rank::{Choice, choices_at};
use open_beacon_core::words;
use open_beacon_store::Aggregate;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_survey)).routes(routes!(aim_card))
}

/// Masts, ranking, matches and all that the plan shows.
#[utoipa::path(get, path = "/api/sites/{id}/survey", params(("id" = SiteId, Path)),
    responses((status = 200, body = SurveyView), (status = 404, body = Problem)))]
async fn get_survey(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let rests_on = [Aggregate::Record, Aggregate::Surroundings];
    app.kept_answer(format!("survey {id}"), &rests_on, app.record(id, |data| Ok(view(data)))).await
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
    let all = data.with(|radio| {
        let (asked, as_known) = (radio.question(), WhatIf::default());
        choices_at(radio.env, &asked, position, location, location.height_m - own_m, as_known)
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
            landmarks: card.landmarks.iter().take(2).map(words::survey::landmark).collect(),
            expect: words::survey::expect(&chosen),
            said: said(&chosen, &data.obstacles, style),
            cautions: words::survey::cautions(chosen.access).into_iter().map(str::to_owned).collect(),
            card,
        })
    })
    .await
    .map(Json)
}
