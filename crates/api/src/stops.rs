//! Stops of sweeps in the making: they run in the server, so that a page that drops neither stops nor loses them.

use crate::clocks::Clocks;
use crate::measurer::MeasuringLease;
use crate::problem::Problem;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::{AppState, Changed};
use crate::sweeping::{StopPlan, StopState};
use chrono::Utc;
use open_beacon_core::model::{Measuring, Reading, SiteSettings, SweepStop};
use tokio_util::sync::CancellationToken;

/// Begins a stop.
///
/// # Errors
/// 409 where another is being measured at the site.
pub fn begin(app: &AppState, plan: StopPlan, settings: SiteSettings) -> Result<StopState, Problem> {
    let cancel = app.stopping.child_token();
    let same =
        app.sweeping.state(plan.site_id).is_some_and(|state| state.running && state.stop_id == plan.stop_id);
    let lease = if same { None } else { Some(app.measurer.take(plan.site_id, Measuring::SweepPoint)?) };
    let taken = app.sweeping.take_on(plan, cancel.clone())?;
    if let (Some(_), Some(lease)) = (&taken, lease) {
        tokio::spawn(run(app.clone(), plan, settings, cancel, lease));
    }
    let state = taken.or_else(|| app.sweeping.state(plan.site_id));
    state.ok_or_else(|| Problem::conflict("This point was taken back meanwhile."))
}

async fn run(
    app: AppState,
    plan: StopPlan,
    settings: SiteSettings,
    cancel: CancellationToken,
    lease: MeasuringLease,
) {
    let outcome = measure(&app, plan, &settings, &cancel, &lease).await;
    drop(lease);
    app.sweeping.tell(plan.site_id, |state| {
        state.running = false;
        state.problem = outcome.err();
    });
    app.changed_in(plan.site_id, Changed::Sweep(plan.sweep_id));
}

async fn measure(
    app: &AppState,
    plan: StopPlan,
    settings: &SiteSettings,
    cancel: &CancellationToken,
    measuring: &MeasuringLease,
) -> Result<(), String> {
    measuring.plan(plan.samples, 0, None, None);
    let clocks = Clocks::begin();
    let mut lease = app.links.lease(plan.site_id);
    let quiet = cancel.child_token();
    let _stop_trickle = quiet.clone().drop_guard();
    begin_trickle(settings, quiet).await;
    // What the page shows first may be from before the antenna was turned; it is looked at, not kept.
    next_counting(cancel, &mut lease).await?;
    let mut samples: Vec<Reading> = Vec::new();
    while (samples.len() as u32) < plan.samples {
        samples.push(next_counting(cancel, &mut lease).await?.reading);
        measuring.sampled();
        app.sweeping.tell(plan.site_id, |state| state.taken = samples.len() as u32);
        app.changed_in(plan.site_id, Changed::Sweep(plan.sweep_id));
    }
    let stop = SweepStop {
        id: plan.stop_id,
        site_id: plan.site_id,
        sweep_id: plan.sweep_id,
        angle_deg: plan.angle_deg,
        taken_at: Utc::now(),
        run_id: None,
        samples,
        typed: false,
        pressed_at: None,
        clock_offset_ms: None,
        archived_at: None,
    };
    let jumped = clocks.jumped();
    let kept = app.db(move |store| {
        let run = store.put_sweep_stop(&stop)?;
        run.zip(jumped).map_or(Ok(()), |(run, words)| store.note_run(run, &words))
    });
    kept.await.map_err(|problem| problem.detail)
}
