//! Stops of sweeps in the making: they run in the server, so that a page that drops neither stops nor loses them.

use crate::clocks::Clocks;
use crate::measurer::MeasuringLease;
use crate::problem::Problem;
use crate::recording::measured_test;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::{AppState, Changed};
use crate::sweeping::{StopPlan, StopState};
use open_beacon_core::model::{Measuring, Reading, RunId, SiteSettings, SweepStop};
use open_beacon_speedtest::Plan;
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
        (state.running, state.testing) = (false, false);
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
    let how = settings.speed_test.as_ref().filter(|_| plan.speed_test).map(Plan::from);
    measuring.plan(plan.samples, u32::from(how.is_some()), how.as_ref(), None);
    let clocks = Clocks::begin(&app.outside.clock);
    let mut lease = app.links.lease(plan.site_id);
    let quiet = cancel.child_token();
    let stop_trickle = quiet.clone().drop_guard();
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
        taken_at: app.now(),
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
        run.zip(jumped).map_or(Ok(()), |(run, words)| store.note_run(run, &words))?;
        Ok(run)
    });
    let run = kept.await.map_err(|problem| problem.detail)?;
    drop((stop_trickle, lease));
    match (how, run) {
        (Some(how), Some(run)) => test(app, plan, &how, run, cancel, measuring).await,
        _ => Ok(()),
    }
}

/// One speed test with the leads as they are plugged in now. The point stands whatever becomes of it.
async fn test(
    app: &AppState,
    plan: StopPlan,
    how: &Plan,
    run_id: RunId,
    cancel: &CancellationToken,
    measuring: &MeasuringLease,
) -> Result<(), String> {
    app.sweeping.tell(plan.site_id, |state| state.testing = true);
    app.changed_in(plan.site_id, Changed::Sweep(plan.sweep_id));
    let started_at = app.now();
    let outcome = open_beacon_speedtest::measure(how, cancel, |_| {}).await;
    measuring.tested(&outcome.figures);
    let problem = outcome.problem.clone();
    let course = outcome.course.clone();
    let test = measured_test(run_id, started_at, how, outcome);
    app.db(move |store| store.add_speed_test(&test, course)).await.map_err(|problem| problem.detail)?;
    problem.map_or(Ok(()), |why| Err(format!("The point is kept; its speed test is not whole. {why}")))
}
