//! Points that a phone took while it could not reach this program: measured from what the program heard meanwhile.

use crate::problem::Problem;
use crate::state::AppState;
use crate::sweeping::{StopPlan, StopState};
use chrono::{DateTime, Duration, Utc};
use open_beacon_core::model::{Reading, Sweep, SweepStop};

/// When a point was taken by the phone's clock, and how far that is off.
#[derive(Clone, Copy, Debug)]
pub struct LateStop {
    pub pressed_at: DateTime<Utc>,
    pub clock_offset_ms: i64,
    pub held_s: Option<f64>,
}

/// How long the antenna is taken to have been held where the phone does not say, s.
const HELD_S: f64 = 15.0;

/// Makes a stop of the independent samples heard while the antenna was held. Where nothing was heard the point is kept
/// without samples, left out of the fit: what was pressed is not lost.
///
/// # Errors
/// Where the database does not answer.
pub async fn recover(
    app: &AppState,
    sweep: &Sweep,
    plan: StopPlan,
    late: LateStop,
) -> Result<StopState, Problem> {
    let StopPlan { stop_id: id, angle_deg, samples: planned, .. } = plan;
    let began = late.pressed_at + Duration::milliseconds(late.clock_offset_ms);
    let ended = began + Duration::milliseconds((late.held_s.unwrap_or(HELD_S) * 1e3) as i64);
    let heard = app.links.heard_between(sweep.site_id, began, ended);
    // The first may show what was measured before the antenna was turned.
    let samples: Vec<Reading> =
        heard.into_iter().skip(1).take(planned as usize).map(|look| look.reading).collect();
    let taken = samples.len() as u32;
    let stop = SweepStop {
        id,
        site_id: sweep.site_id,
        sweep_id: sweep.id,
        angle_deg,
        taken_at: began,
        run_id: None,
        typed: false,
        pressed_at: Some(late.pressed_at),
        clock_offset_ms: Some(late.clock_offset_ms),
        archived_at: samples.is_empty().then(Utc::now),
        samples,
    };
    let problem = (taken == 0).then(|| {
        "The gateway was not heard while this point was held. It is kept, left out of the fit; measure it again.".to_owned()
    });
    app.db(move |store| store.put_sweep_stop(&stop)).await?;
    let (sweep_id, stop_id) = (sweep.id, id);
    Ok(StopState { stop_id, sweep_id, angle_deg, taken, planned, running: false, testing: false, problem })
}
