//! One whole speed test.

use crate::body::packed_share;
use crate::page::load_page;
use crate::plan::Plan;
use crate::probe::{Probed, Prober};
use crate::system::System;
use crate::transfer::{STEP, Transfer, download, hundredth, upload};
use open_beacon_core::model::{Course, InterfaceKind, SpeedFigures, Surroundings};
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
    /// What it went over; none where nothing answered.
    pub surroundings: Option<Surroundings>,
    /// Why the test is not whole.
    pub problem: Option<String>,
}

/// Probes sent on the idle line.
const IDLE_PROBES: u32 = 10;
const CANCELLED: &str = "It was cancelled.";

/// Runs one test. Stops early when `cancel` is called, keeping what was measured; `progress` is called several
/// times a second.
pub async fn measure(plan: &Plan, cancel: &CancellationToken, progress: impl Fn(Progress) + Sync) -> Outcome {
    let mut found = Found {
        figures: SpeedFigures { connections: Some(plan.connections), ..SpeedFigures::default() },
        probes: Probed::default(),
        course: Course {
            step_ms: STEP.as_millis() as u32,
            warm_up_ms: plan.warm_up.as_millis() as u32,
            ..Course::default()
        },
        around: None,
    };
    let problem = phases(plan, cancel, &progress, &mut found).await.err();
    let Found { mut figures, probes, course, around } = found;
    figures.probe_loss = probes.loss();
    let course = Some(course).filter(|course| !course.down_mbps.is_empty() || !course.up_mbps.is_empty());
    let surroundings = around.filter(|around| around.server_address.is_some());
    Outcome { figures, course, surroundings, problem }
}

/// What was found so far.
struct Found {
    figures: SpeedFigures,
    probes: Probed,
    course: Course,
    around: Option<Surroundings>,
}

async fn phases(
    plan: &Plan,
    cancel: &CancellationToken,
    progress: &(impl Fn(Progress) + Sync),
    Found { figures, probes, course, around }: &mut Found,
) -> Result<(), String> {
    let prober = Prober::new(plan)?;
    let told = |share| progress(Progress { step: Step::IdleLatency, share, mbps: None });
    let unconnected = prober.connect().await;
    let system = System::here();
    let interface = prober.peer().and_then(open_beacon_outbound::interface_towards);
    let before = system.look(interface.as_deref());
    let mut idle = prober.times(IDLE_PROBES, cancel, told).await;
    idle.problem = idle.problem.or(unconnected);
    let begins = system.look(interface.as_deref());
    let around = around.insert(Surroundings {
        interface: interface.map(|name| system.interface(&name)),
        server_address: prober.peer().map(|address| address.to_string()),
        ..Surroundings::default()
    });
    // What a computer sends to itself is no other use of the line.
    let leaves = around.interface.as_ref().is_some_and(|one| one.kind != InterfaceKind::Loopback);
    if let Some((down, up)) = before.rates_until(&begins).filter(|_| leaves) {
        (around.other_down_mbps, around.other_up_mbps) = (Some(hundredth(down)), Some(hundredth(up)));
    }
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
    if let Some(part_url) = &plan.page_part_url {
        around.page = tokio::select! {
            () = cancel.cancelled() => return Err(CANCELLED.into()),
            page = load_page(part_url) => page,
        };
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
    course.down_ended = down.ended;
    probes.add(while_down);
    around.busiest_core = begins.busiest_core_until(&system.look(None)).map(hundredth);
    around.packed_share = packed_share(&down.told.beginning).map(hundredth);
    (around.content_encoding, around.via) = (down.told.content_encoding.clone(), down.told.via.clone());
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
    course.up_ended = up.ended;
    probes.add(while_up);
    around.busiest_core = begins.busiest_core_until(&system.look(None)).map(hundredth);
    finished(up, cancel, "upload")
}

fn finished(transfer: Transfer, cancel: &CancellationToken, what: &str) -> Result<(), String> {
    if cancel.is_cancelled() {
        return Err(CANCELLED.into());
    }
    transfer.problem.map_or(Ok(()), |problem| Err(format!("The {what} broke off: {problem}.")))
}
