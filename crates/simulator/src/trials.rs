//! The demo site's band trials, made by the same radio as all else, and how the stand-in is locked.

use crate::device::Device;
use crate::lock::Lock;
use crate::radio::{Pose, Rates};
use chrono::{DateTime, Duration, Utc};
use open_beacon_core::model::*;
use uuid::Uuid;

/// How the stand-in's page takes a lock.
pub fn lock_recipe() -> LockRecipe {
    LockRecipe {
        request: Some(LockRequest {
            method: AskMethod::Post,
            path: "/lock".into(),
            send: SendAs::Json,
            body: r#"{"way": "${access}", "lte": [${lte_bands}], "nr": [${nr_bands}]}"#.into(),
            undo_path: String::new(),
            undo_body: r#"{"way": "any", "lte": [], "nr": []}"#.into(),
        }),
        volatile: true,
        reattach_s: 30.0,
        by_hand: "hold its round button for five seconds until the lamp blinks.".into(),
        ..LockRecipe::default()
    }
}

fn choice(access: BandAccess, lte: &[u16], nr: &[u16]) -> BandChoice {
    BandChoice { access, lte: lte.to_vec(), nr: nr.to_vec() }
}

const TESTS: u16 = 2;
const PHASE_S: i64 = 7;

/// Adds two rounds, one by day and one in the evening, on the setup being worked on.
pub(crate) fn build_bands(
    bundle: &mut SiteBundle,
    seed: u64,
    first_day: DateTime<Utc>,
    position: &Position,
    id: fn(&str) -> Uuid,
) {
    let Some(place) = position.place else { return };
    let mut device = Device::new(seed);
    device.pose = Pose {
        latitude_deg: place.latitude_deg,
        longitude_deg: place.longitude_deg,
        height_above_ground_m: position.height_above_ground_m.unwrap_or(6.0),
        mount: "gable".into(),
        antenna: "external".into(),
        azimuth_deg: 143.0,
        tilt_deg: 2.0,
    };
    let choices = vec![
        BandChoice::default(),
        choice(BandAccess::Sa, &[], &[]),
        choice(BandAccess::Nsa, &[20], &[]),
        choice(BandAccess::Nsa, &[], &[28]),
        choice(BandAccess::Lte, &[], &[]),
    ];
    for (name, hours, blocks) in [("noon", 5 * 24 + 12, 3), ("evening", 5 * 24 + 19, 5)] {
        let mut at = first_day + Duration::hours(hours) + Duration::minutes(4);
        let mut round = BandRound {
            id: RoundId(id(&format!("round/{name}"))),
            site_id: bundle.site.id,
            setup_id: bundle.settings.active_setup_id,
            goal: TrialGoal::Household,
            choices: choices.clone(),
            tests_a_visit: TESTS,
            blocks,
            difference: 0.2,
            cap_mb: None,
            by_hand: false,
            started_at: at,
            ended_at: None,
            end: Some(RoundEnd::Planned),
            reason: None,
            kept: None,
            archived_at: None,
        };
        for block in 0..blocks {
            let mut order = choices.clone();
            if block % 2 == 1 {
                order.reverse();
            }
            // A choice that is plainly worse is not tried to the end.
            order.retain(|one| block < 2 || one.access != BandAccess::Lte);
            for one in order {
                let name = format!("trial/{name}/{}", bundle.trials.len());
                let trial = visit(&mut device, &round, one, block, &mut at, TrialId(id(&name)));
                bundle.trials.push(trial);
            }
        }
        round.ended_at = Some(at);
        bundle.band_rounds.push(round);
    }
}

fn visit(
    device: &mut Device,
    round: &BandRound,
    choice: BandChoice,
    block: u16,
    at: &mut DateTime<Utc>,
    id: TrialId,
) -> Trial {
    let seconds = |at: &DateTime<Utc>| at.timestamp_millis() as f64 / 1e3;
    let started_at = *at;
    device.set_lock(Lock::from(&choice), seconds(at), 1.0);
    let reattach_s = device.attached_from_s() - seconds(at);
    *at += Duration::milliseconds((reattach_s * 1e3) as i64 + 1500);
    let samples = (0..3)
        .map(|_| {
            *at += Duration::seconds(3);
            device.traffic(seconds(at));
            device.reading(seconds(at))
        })
        .collect();
    let tests = (0..round.tests_a_visit).map(|_| test(device, at)).collect();
    Trial {
        run_id: None,
        id,
        site_id: round.site_id,
        round_id: round.id,
        choice,
        block,
        started_at,
        reattach_s: Some(reattach_s),
        outcome: TrialOutcome::Measured,
        reason: None,
        samples,
        tests,
        archived_at: None,
    }
}

fn test(device: &mut Device, at: &mut DateTime<Utc>) -> TrialTest {
    let started_at = *at;
    let mut over = |of: fn(&Rates) -> f64| {
        let values = (0..PHASE_S * 2).map(|_| {
            *at += Duration::milliseconds(500);
            of(&device.rates(at.timestamp_millis() as f64 / 1e3))
        });
        let all: Vec<f64> = values.collect();
        all.iter().sum::<f64>() / all.len() as f64
    };
    let (down, up) = (over(|one| one.down_mbps), over(|one| one.up_mbps));
    let figures = SpeedFigures {
        download_mbps: Some(down),
        upload_mbps: Some(up),
        idle_latency_ms: Some(over(|one| one.idle_latency_ms)),
        download_latency_ms: Some(over(|one| one.loaded_latency_ms)),
        upload_latency_ms: Some(over(|one| one.loaded_latency_ms)),
        probe_loss: Some(0.0),
        bytes_down: (down * 7.5e6 / 8.0) as u64,
        bytes_up: (up * 7.5e6 / 8.0) as u64,
        connections: Some(4),
        average_of: None,
    };
    *at += Duration::seconds(2);
    TrialTest { started_at, figures, problem: None, surroundings: None, course: None }
}
