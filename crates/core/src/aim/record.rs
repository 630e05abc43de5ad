//! A point of a sweep as part of the one record: its readings are a run of the setup that stood there, with what was turned
//! said in the run's context. The sweep keeps which point it was.

use crate::model::{
    Activity, Completion, Conditions, Run, RunContext, RunId, Sample, SampleId, SetupId, SetupSpec, Source,
    Sweep, SweepAxis, SweepStop,
};
use chrono::Duration;
use uuid::Uuid;

/// The run of one point with its samples, and the point as it is kept beside them. Identifiers follow from the point's, so that
/// the same point always gives the same rows. Samples have the point's time, in order.
pub fn point_record(sweep: &Sweep, setup_id: SetupId, stop: &SweepStop) -> (Run, Vec<Sample>, SweepStop) {
    let run_id = RunId(Uuid::new_v5(&stop.id.0, b"run"));
    let samples: Vec<Sample> = (0_i64..)
        .zip(&stop.samples)
        .map(|(at, reading)| Sample {
            id: SampleId(Uuid::new_v5(&run_id.0, format!("sample {at}").as_bytes())),
            run_id,
            taken_at: stop.taken_at + Duration::milliseconds(at),
            activity: if stop.typed { Activity::Unknown } else { Activity::Trickle },
            reading: reading.clone(),
        })
        .collect();
    let run = Run {
        id: run_id,
        setup_id,
        source: if stop.typed { Source::Typed } else { Source::Live },
        started_at: stop.taken_at,
        ended_at: samples.last().map(|sample| sample.taken_at),
        completion: Completion::Complete,
        reason: None,
        planned_samples: samples.len() as u32,
        planned_speed_tests: 0,
        refresh_period_s: None,
        conditions: Conditions { attach: sweep.attach, ..Conditions::default() },
        context: RunContext::SweepPoint {
            sweep_id: sweep.id,
            stop_id: stop.id,
            axis: sweep.axis,
            angle_deg: stop.angle_deg,
        },
        archived_at: stop.archived_at,
    };
    (run, samples, SweepStop { run_id: Some(run_id), samples: Vec::new(), ..stop.clone() })
}

/// A setup as it was turned at a point; `None` for a turn of a port-map test, where nothing was turned.
pub fn as_turned(setup: &SetupSpec, context: RunContext) -> Option<SetupSpec> {
    let RunContext::SweepPoint { axis, angle_deg, .. } = context else { return None };
    match axis {
        SweepAxis::Azimuth => Some(SetupSpec { azimuth_deg: Some(angle_deg), ..setup.clone() }),
        SweepAxis::Tilt => Some(SetupSpec { tilt_deg: Some(angle_deg), ..setup.clone() }),
        SweepAxis::Ports => None,
    }
}

/// A point with the samples of its run.
pub fn with_samples(stop: SweepStop, samples: Vec<Sample>) -> SweepStop {
    SweepStop { samples: samples.into_iter().map(|sample| sample.reading).collect(), ..stop }
}
