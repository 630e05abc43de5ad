//! One path: the slice from antenna to mast, and what height brings.

use super::survey::choice_of;
use crate::problem::{Body, Path, Problem};
use crate::site_record::SiteRecord;
use crate::state::AppState;
use crate::views::outlook::narrowing;
use crate::views::survey::{ChoiceSaid, said};
use axum::Json;
use axum::extract::State;
use open_beacon_core::link::predict::LinkSetup;
use open_beacon_core::model::{MastId, PositionId, SiteId};
use open_beacon_core::survey::rank::Choice;
use open_beacon_core::survey::slice::{HeightPoint, SliceObstacle, SlicePoint, height_curve, slice};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(path_slice))
}

/// A path that is asked for.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct SliceRequest {
    pub position: PositionId,
    pub mast: MastId,
    /// m above ground; the position's own where not said.
    #[serde(default)]
    pub height_m: Option<f64>,
}

/// A path taken apart.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SliceView {
    pub choice: Choice,
    pub said: ChoiceSaid,
    /// What would narrow what is foretold of it, the best for its time first.
    pub narrowing: Vec<String>,
    /// Empty without terrain.
    pub points: Vec<SlicePoint>,
    pub obstacles: Vec<SliceObstacle>,
    /// MHz that zone and clearance are drawn for.
    pub frequency_mhz: f64,
    pub curve: Vec<HeightPoint>,
}

/// A path with its slice, its figures and the curve of signal against height.
#[utoipa::path(post, path = "/api/sites/{id}/survey/path", params(("id" = SiteId, Path)), request_body = SliceRequest,
    responses((status = 200, body = SliceView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn path_slice(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<SliceRequest>,
) -> Result<Json<SliceView>, Problem> {
    app.record(id, move |data| view(data, &asked).map(Json)).await
}

fn view(data: &SiteRecord, asked: &SliceRequest) -> Result<SliceView, Problem> {
    let (position, location) = data.location(asked.position, asked.height_m)?;
    let mast = data.mast_at(asked.mast)?;
    let choice = choice_of(data, position, location, mast)?;
    let k = data.settings.survey.earth_factor;
    let (cut, curve, narrowing) = data.with(|radio| {
        let cut = slice(radio.env, &data.obstacles, &choice, location, mast, k);
        let narrowing = narrowing(radio, &LinkSetup::new(location, radio.antenna), Some(mast));
        (cut, height_curve(radio.env, &radio.question(), position, location, &choice), narrowing)
    });
    Ok(SliceView {
        said: said(&choice, &data.obstacles, data.style()),
        narrowing,
        points: cut.points,
        obstacles: cut.obstacles,
        frequency_mhz: cut.frequency_mhz,
        curve,
        choice,
    })
}
