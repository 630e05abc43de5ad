//! Points of a sweep that somebody reads off the gateway's own page: for gateways that this program cannot read.

use super::sweeps::find;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::sweeping::StopState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::model::{
    Carrier, CarrierRole, ConnectionMode, Reading, SiteId, Sweep, SweepId, SweepStop, SweepStopId, Technology,
};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(type_stop))
}

/// What the gateway's page shows while the antenna points there.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct TypedStop {
    /// Made by the client (UUIDv7).
    pub id: SweepStopId,
    /// Degrees from true north, 0..=360, or tilt, −90..=90.
    pub angle_deg: f64,
    pub technology: Technology,
    pub band: u16,
    /// One figure a reading, dBm, −156..=−31 (TS 38.133, table 10.1.6.1-1); one to twenty of them.
    pub rsrp_dbm: Vec<f64>,
    /// As many, or none, dB, −23..=40 (TS 38.133, table 10.1.16.1-1).
    #[serde(default)]
    pub sinr_db: Vec<f64>,
    /// When it was read, where that was before it could be sent.
    #[serde(default)]
    pub read_at: Option<DateTime<Utc>>,
}

impl TypedStop {
    fn check(&self) -> Result<(), Problem> {
        let mut checker = Checker::default()
            .range("/angle_deg", Some(self.angle_deg), -90.0, 360.0, "°")
            .range("/band", Some(f64::from(self.band)), 1.0, 261.0, "")
            .range("/rsrp_dbm", Some(self.rsrp_dbm.len() as f64), 1.0, 20.0, "readings")
            .measured_at("/read_at", self.read_at.unwrap_or_else(Utc::now), Utc::now());
        for value in &self.rsrp_dbm {
            checker = checker.range("/rsrp_dbm", Some(*value), -156.0, -31.0, "dBm");
        }
        for value in &self.sinr_db {
            checker = checker.range("/sinr_db", Some(*value), -23.0, 40.0, "dB");
        }
        if !self.sinr_db.is_empty() {
            let (one, other) = (self.sinr_db.len() as f64, self.rsrp_dbm.len() as f64);
            checker = checker.range("/sinr_db", Some(one), other, other, "readings");
        }
        Problem::unless_valid(checker.done())
    }

    /// One reading a figure. Of the carrier what an earlier point knew of the same band: its channel, width and cell.
    fn samples(&self, known: Option<&Carrier>) -> Vec<Reading> {
        let readings = self.rsrp_dbm.iter().enumerate().map(|(at, rsrp_dbm)| {
            let mut carrier = Carrier::empty(self.technology, CarrierRole::Primary);
            carrier.band = Some(self.band);
            if let Some(known) = known {
                carrier.role = known.role;
                (carrier.channel, carrier.channel_kind) = (known.channel, known.channel_kind);
                (carrier.bandwidth_mhz, carrier.pci) = (known.bandwidth_mhz, known.pci);
            }
            carrier.rsrp_dbm = Some(*rsrp_dbm);
            carrier.sinr_db = self.sinr_db.get(at).copied();
            let mode = match self.technology {
                Technology::Lte => ConnectionMode::Lte,
                Technology::Nr => ConnectionMode::Unknown,
            };
            Reading { mode, carriers: vec![carrier], neighbours: Vec::new() }
        });
        readings.collect()
    }

    fn stop(&self, sweep: &Sweep, angle_deg: f64, stops: &[SweepStop]) -> SweepStop {
        let heard = stops.iter().rev().flat_map(|stop| &stop.samples).flat_map(|reading| &reading.carriers);
        let mut of_band =
            heard.filter(|one| one.technology == self.technology && one.band == Some(self.band));
        SweepStop {
            id: self.id,
            site_id: sweep.site_id,
            sweep_id: sweep.id,
            angle_deg,
            taken_at: self.read_at.unwrap_or_else(Utc::now),
            run_id: None,
            samples: self.samples(of_band.next()),
            typed: true,
            pressed_at: None,
            clock_offset_ms: None,
            archived_at: None,
        }
    }
}

/// Keeps a point that was read off the gateway's page. A repeat of the same identifier changes nothing.
#[utoipa::path(post, path = "/api/sites/{id}/sweeps/{sweep}/typed-stops",
    params(("id" = SiteId, Path), ("sweep" = SweepId, Path)), request_body = TypedStop,
    responses((status = 201, body = StopState), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn type_stop(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
    Body(typed): Body<TypedStop>,
) -> Result<(StatusCode, Json<StopState>), Problem> {
    typed.check()?;
    let (sweep, stops) = find(&app, site, id).await?;
    if let Some(known) = stops.iter().find(|stop| stop.id == typed.id) {
        return Ok((StatusCode::CREATED, Json(StopState::done(known))));
    }
    if sweep.ended_at.is_some() {
        return Err(Problem::conflict("This sweep has ended. Resume it, or begin a new one."));
    }
    let stop = typed.stop(&sweep, sweep.axis.angle(typed.angle_deg), &stops);
    let state = StopState::done(&stop);
    app.db(move |store| store.put_sweep_stop(&stop)).await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(state)))
}
