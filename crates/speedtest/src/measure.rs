//! One whole speed test.

use crate::plan::Plan;
use crate::probe::{Probed, Prober};
use crate::transfer::{STEP, Transfer, download, upload};
use open_beacon_core::model::{Course, SpeedFigures};
use open_beacon_core::stats::median;
use serde::{Deserialize, Serialize};
use tokio_util::sync::CancellationToken;

/// A part of a test.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Step {
    IdleLatency,
    Download,
    Upload,
}

/// Where a running test is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Progress {
    pub step: Step,
    /// Share of the step that is done, 0..=1.
    pub share: f64,
    /// Rate of the last instants, Mbit/s.
    pub mbps: Option<f64>,
}

/// What a test brought. Phases that were not measured are `None` in the figures.
#[derive(Clone, Debug, PartialEq)]
pub struct Outcome {
    pub figures: SpeedFigures,
    /// How it went; none where nothing was moved.
    pub course: Option<Course>,
    /// Why the test is not whole.
    pub problem: Option<String>,
}

/// Probes sent on the idle line.
const IDLE_PROBES: u32 = 10;
const CANCELLED: &str = "It was cancelled.";

/// Runs one test. Stops early when `cancel` is called, keeping what was measured; `progress` is called several
/// times a second.
pub async fn measure(plan: &Plan, cancel: &CancellationToken, progress: impl Fn(Progress) + Sync) -> Outcome {
    let mut figures = SpeedFigures { connections: Some(plan.connections), ..SpeedFigures::default() };
    let mut probes = Probed::default();
    let mut course = Course {
        step_ms: STEP.as_millis() as u32,
        warm_up_ms: plan.warm_up.as_millis() as u32,
        ..Course::default()
    };
    let problem = phases(plan, cancel, &progress, (&mut figures, &mut course), &mut probes).await.err();
    figures.probe_loss = probes.loss();
    let course = Some(course).filter(|course| !course.down_mbps.is_empty() || !course.up_mbps.is_empty());
    Outcome { figures, course, problem }
}

async fn phases(
    plan: &Plan,
    cancel: &CancellationToken,
    progress: &(impl Fn(Progress) + Sync),
    (figures, course): (&mut SpeedFigures, &mut Course),
    probes: &mut Probed,
) -> Result<(), String> {
    let prober = Prober::new(plan)?;
    let told = |share| progress(Progress { step: Step::IdleLatency, share, mbps: None });
    let idle = prober.times(IDLE_PROBES, cancel, told).await;
    figures.idle_latency_ms = median(&idle.round_trips_ms);
    course.idle = idle.spread();
    let none_came = idle.round_trips_ms.is_empty();
    let why = idle.problem.clone();
    probes.add(idle);
    if cancel.is_cancelled() {
        return Err(CANCELLED.into());
    }
    if none_came {
        let why = why.unwrap_or_else(|| "nothing answered".into());
        return Err(format!("The test address does not answer: {why}."));
    }

    let (down, while_down) = tokio::join!(
        download(plan, cancel, |share, mbps| progress(Progress { step: Step::Download, share, mbps })),
        prober.during(plan.warm_up, plan.warm_up + plan.phase, cancel),
    );
    figures.bytes_down = down.bytes;
    figures.download_mbps = down.mbps;
    figures.download_latency_ms = down.mbps.and(median(&while_down.round_trips_ms));
    course.while_down = while_down.spread();
    (course.down_mbps, course.down_from) = (down.rates.clone(), down.from as u32);
    probes.add(while_down);
    finished(down, cancel, "download")?;

    if plan.upload_url.is_none() {
        return Ok(());
    }
    let (up, while_up) = tokio::join!(
        upload(plan, cancel, |share, mbps| progress(Progress { step: Step::Upload, share, mbps })),
        prober.during(plan.warm_up, plan.warm_up + plan.phase, cancel),
    );
    figures.bytes_up = up.bytes;
    figures.upload_mbps = up.mbps;
    figures.upload_latency_ms = up.mbps.and(median(&while_up.round_trips_ms));
    course.while_up = while_up.spread();
    (course.up_mbps, course.up_from) = (up.rates.clone(), up.from as u32);
    probes.add(while_up);
    finished(up, cancel, "upload")
}

fn finished(transfer: Transfer, cancel: &CancellationToken, what: &str) -> Result<(), String> {
    if cancel.is_cancelled() {
        return Err(CANCELLED.into());
    }
    transfer.problem.map_or(Ok(()), |problem| Err(format!("The {what} broke off: {problem}.")))
}
