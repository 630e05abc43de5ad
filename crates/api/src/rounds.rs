//! Rounds of band trials: they run in the server, so that a closed page or a phone that lost its Wi-Fi neither stops nor
//! loses them.

use crate::clocks::Clocks;
use crate::link::LinkLease;
use crate::locking::{LockFailure, LockMethod, lock, restore, step, unseen_words};
use crate::measurer::MeasuringLease;
use crate::round_registry::{RoundHandle, RoundStep};
use crate::routes::carry_on::keep_lock;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::{AppState, Changed};
use chrono_tz::Tz;
use open_beacon_core::kit::need::need;
use open_beacon_core::model::{
    BandChoice, BandRound, RoundEnd, SiteId, Trial, TrialId, TrialOutcome, TrialTest,
};
use open_beacon_core::trial::known::pooled;
use open_beacon_core::trial::next::{Course, Next, moved_mb, next};
use open_beacon_core::trial::plan::SAMPLES_A_VISIT;
use open_beacon_speedtest::{Plan, measure};
use std::sync::Arc;
use uuid::Uuid;

/// Begins a round that is stored and was taken on.
pub(crate) fn begin(
    app: &AppState,
    round: BandRound,
    way: LockMethod,
    zone: Tz,
    handle: Arc<RoundHandle>,
    lease: MeasuringLease,
) {
    let app = app.clone();
    tokio::spawn(async move { run(app, round, way, zone, handle, lease).await });
}

async fn run(
    app: AppState,
    mut round: BandRound,
    way: LockMethod,
    zone: Tz,
    handle: Arc<RoundHandle>,
    measuring: MeasuringLease,
) {
    let site = round.site_id;
    // What the gateway is under now; nothing is told where it is there already.
    let mut under = Some(way.settings.trials.kept.clone());
    let ended = visits(&app, &round, &way, zone, &handle, &mut under, &measuring).await;
    let (end, reason) = ended.unwrap_or_else(|why| match why {
        LockFailure::Cancelled => (RoundEnd::Cancelled, None),
        LockFailure::Failed(why) => (RoundEnd::Failed, Some(why)),
        LockFailure::Ignored => (RoundEnd::Ignored, None),
        LockFailure::Unseen(why) => (RoundEnd::Failed, Some(format!("The gateway {}", unseen_words(&why)))),
        LockFailure::NoService => (RoundEnd::Failed, Some("the gateway was not attached any more".into())),
    });
    round.end = Some(end);
    round.reason = reason.or_else(|| way.learned());
    round.ended_at = Some(app.now());
    let kept = round.clone();
    if let Err(problem) = app.db(move |store| store.put_entities(site, std::slice::from_ref(&kept))).await {
        tracing::error!(?problem, "a round could not be ended");
    }
    let back = under.as_ref() == Some(&way.settings.trials.kept)
        && app.db(move |store| store.settle_lock(site, None)).await.is_ok();
    if !back {
        restore(&app, site, way.by_hand).await;
    }
    drop(measuring);
    handle.state.send_modify(|state| {
        state.running = false;
        state.step = RoundStep::Done;
    });
    app.changed(site);
}

async fn visits(
    app: &AppState,
    round: &BandRound,
    way: &LockMethod,
    zone: Tz,
    handle: &RoundHandle,
    under: &mut Option<BandChoice>,
    measuring: &MeasuringLease,
) -> Result<(RoundEnd, Option<String>), LockFailure> {
    let site = round.site_id;
    let visits = round.choices.len() as u32 * u32::from(round.blocks);
    let how = way.settings.speed_test.as_ref().map(Plan::from);
    measuring.plan(
        visits * SAMPLES_A_VISIT,
        visits * u32::from(round.tests_a_visit),
        how.as_ref(),
        app.links.peek(round.site_id).and_then(|state| state.refresh_period_s),
    );
    let mut lease = app.links.lease(site);
    let need = need(&way.settings.kit.uses);
    let good = way.settings.trials.kept.clone();
    loop {
        let trials = known(app, round, zone).await?;
        let own: Vec<Trial> = trials.iter().filter(|one| one.round_id == round.id).cloned().collect();
        let course = Course { round, trials: &trials, need, moved_mb: moved_mb(&own), now: app.now() };
        let (choice, block) = match next(&course) {
            Next::End { end } => return Ok((end, None)),
            Next::Visit { choice, block } => (choice, block),
        };
        handle.state.send_modify(|state| {
            state.choice = choice.clone();
            state.block = block;
            state.moved_mb = course.moved_mb;
        });
        let clocks = Clocks::begin(&app.outside.clock);
        let mut trial = Trial {
            id: TrialId(Uuid::now_v7()),
            site_id: site,
            round_id: round.id,
            choice: choice.clone(),
            block,
            started_at: app.now(),
            reattach_s: None,
            outcome: TrialOutcome::Unfinished,
            reason: None,
            run_id: None,
            samples: Vec::new(),
            tests: Vec::new(),
            archived_at: None,
        };
        let outcome = if under.as_ref() == Some(&choice) {
            Ok(None)
        } else {
            *under = None;
            lock(app, site, way, &choice, &good, &mut lease, &handle.cancel).await.map(Some)
        };
        let outcome = match outcome {
            Ok(took) => {
                *under = Some(choice);
                trial.reattach_s = took.map(|took| took.as_secs_f64());
                visit(app, round, way, &mut trial, &mut lease, handle, measuring).await
            }
            Err(failure) => Err(failure),
        };
        (trial.outcome, trial.reason) = match &outcome {
            Ok(()) => (TrialOutcome::Measured, trial.reason),
            Err(LockFailure::Ignored) => (TrialOutcome::Ignored, None),
            Err(LockFailure::NoService) => (TrialOutcome::NoService, None),
            Err(LockFailure::Unseen(why)) => {
                (TrialOutcome::Failed, Some(format!("The gateway {}", unseen_words(why))))
            }
            Err(LockFailure::Failed(why)) => (TrialOutcome::Failed, Some(why.clone())),
            Err(LockFailure::Cancelled) => (TrialOutcome::Cancelled, None),
        };
        let broken = trial.choice.is_free() && trial.outcome == TrialOutcome::Failed;
        keep(app, round, &trial, clocks.jumped()).await?;
        handle.state.send_modify(|state| state.visits_done += 1);
        app.changed_in(site, Changed::Bands);
        match outcome {
            Err(LockFailure::Cancelled) => return Err(LockFailure::Cancelled),
            // With nothing locked it must work: what fails there is not the lock.
            Err(failure) if broken => return Err(failure),
            _ => {}
        }
    }
}

/// Locks to a choice that is to stay. Where that fails the gateway goes back, and the state says why.
pub(crate) fn begin_keeping(
    app: &AppState,
    site: SiteId,
    round: Option<BandRound>,
    choice: BandChoice,
    way: LockMethod,
    handle: Arc<RoundHandle>,
    measuring: MeasuringLease,
) {
    let app = app.clone();
    tokio::spawn(async move {
        let mut lease = app.links.lease(site);
        let good = way.settings.trials.kept.clone();
        handle.state.send_modify(|state| state.choice = choice.clone());
        let locked = lock(&app, site, &way, &choice, &good, &mut lease, &handle.cancel).await;
        let problem = match locked {
            Ok(_) => {
                let kept = choice.clone();
                let settled = app.db(move |store| {
                    store.settle_lock(site, Some(&kept))?;
                    keep_lock(store, site, &kept, round.as_ref().map(|round| round.id))?;
                    if let Some(mut round) = round {
                        round.kept = Some(kept);
                        store.put_entities(site, std::slice::from_ref(&round))?;
                    }
                    Ok(())
                });
                settled.await.err().map(|problem| problem.detail)
            }
            Err(LockFailure::Ignored) => Some("The gateway went on with other bands.".into()),
            Err(LockFailure::NoService) => Some("The gateway was not attached within the time.".into()),
            Err(LockFailure::Unseen(why)) => Some(format!("The gateway {}.", unseen_words(&why))),
            Err(LockFailure::Failed(why)) => Some(format!("The gateway could not be told: {why}.")),
            Err(LockFailure::Cancelled) => Some("It was cancelled.".into()),
        };
        if problem.is_some() {
            restore(&app, site, way.by_hand).await;
        }
        drop(measuring);
        handle.state.send_modify(|state| {
            state.running = false;
            state.step = RoundStep::Done;
            state.problem = problem;
        });
        app.changed(site);
    });
}

async fn known(app: &AppState, round: &BandRound, zone: Tz) -> Result<Vec<Trial>, LockFailure> {
    let site = round.site_id;
    let read = app.db(move |store| Ok((store.entities::<BandRound>(site)?, store.trials(site)?))).await;
    let (rounds, trials) = read.map_err(|problem| LockFailure::Failed(problem.detail))?;
    Ok(pooled(&rounds, trials, round, Some(zone)))
}

/// Keeps a visit, with what is to be noted where the clock was set during it.
async fn keep(
    app: &AppState,
    round: &BandRound,
    trial: &Trial,
    jumped: Option<String>,
) -> Result<(), LockFailure> {
    let (round, trial) = (round.clone(), trial.clone());
    let kept = app.db(move |store| {
        let run = store.put_trial(&round, &trial)?;
        run.zip(jumped).map_or(Ok(()), |(run, words)| store.note_run(run, &words))
    });
    kept.await.map_err(|problem| LockFailure::Failed(problem.detail))
}

/// Samples and tests under a lock that holds; each test is kept as soon as it is done.
async fn visit(
    app: &AppState,
    round: &BandRound,
    way: &LockMethod,
    trial: &mut Trial,
    lease: &mut LinkLease,
    handle: &RoundHandle,
    measuring: &MeasuringLease,
) -> Result<(), LockFailure> {
    let site = round.site_id;
    let cancel = &handle.cancel;
    let failed = |why: String| match cancel.is_cancelled() {
        true => LockFailure::Cancelled,
        false => LockFailure::Failed(why),
    };
    step(app, site, RoundStep::Reading).await;
    {
        let quiet = cancel.child_token();
        let _stop_trickle = quiet.clone().drop_guard();
        begin_trickle(&way.settings, quiet).await;
        // What the page shows first may be older than the trickle.
        next_counting(cancel, lease).await.map_err(failed)?;
        while (trial.samples.len() as u32) < SAMPLES_A_VISIT {
            trial.samples.push(next_counting(cancel, lease).await.map_err(failed)?.reading);
            measuring.sampled();
        }
    }
    let Some(target) = &way.settings.speed_test else {
        return Err(LockFailure::Failed("No speed-test address is set.".into()));
    };
    let how = Plan::from(target);
    for _ in 0..round.tests_a_visit {
        step(app, site, RoundStep::Testing).await;
        let started_at = app.now();
        let outcome = measure(&how, cancel, |_| {}).await;
        if cancel.is_cancelled() {
            return Err(LockFailure::Cancelled);
        }
        let problem = outcome.problem.clone();
        measuring.tested(&outcome.figures);
        trial.tests.push(TrialTest {
            started_at,
            figures: outcome.figures,
            problem: problem.clone(),
            surroundings: outcome.surroundings,
            course: outcome.course,
        });
        keep(app, round, trial, None).await?;
        handle.state.send_modify(|state| {
            state.tests_done += 1;
            state.moved_mb += trial
                .tests
                .last()
                .map_or(0.0, |test| (test.figures.bytes_down + test.figures.bytes_up) as f64 / 1e6);
        });
        app.changed_in(site, Changed::Bands);
        if let Some(problem) = problem {
            return Err(LockFailure::Failed(problem));
        }
    }
    Ok(())
}
