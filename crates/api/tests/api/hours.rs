//! Seeded hours of recording, sweeping and locking against a stand-in whose faults come and go, with clock and line in memory: no
//! sample that the stand-in did not mean, no lost lock, each failure named rightly.
//!
//! Some hours with every run of the tests; 200 by `cargo xtask hours`, and ten minutes of them over real sockets.

mod gateways;

use crate::{Server, id};
use axum::http::StatusCode;
use chrono::{DateTime, TimeDelta, Utc};
use gateways::{InMemory, Kind, named};
use open_beacon_api::{AppState, Outside};
use open_beacon_core::model::{
    Carrier, Completion, Reading, Run, RunContext, RunId, Sample, SetupId, SiteId, Technology,
};
use open_beacon_gateway::Clock;
use open_beacon_outbound::Transport;
use open_beacon_simulator::at::serve_at;
use open_beacon_simulator::device::Device;
use open_beacon_simulator::door::{PASSWORD, USER};
use open_beacon_simulator::lock::Lock;
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{Fault, Shown, StandIn};
use open_beacon_store::Store;
use serde_json::json;
use std::collections::{BTreeMap, HashSet};
use std::ops::Range;
use std::sync::{Arc, Mutex};
use std::time::Duration;
use tokio::time::Instant;

/// When hours in memory begin, so that each seed gives the same hour again.
const BEGINNING: DateTime<Utc> = DateTime::from_timestamp_nanos(1_790_000_000_000_000_000);
/// How often the stand-in's page is renewed.
const REFRESH: Duration = Duration::from_secs(2);
/// A failure may be told this long after its cause is over: the next look comes up to 10 s later, and a sample is waited for up to
/// 20 s.
const TOLD_WITHIN_S: f64 = 35.0;
/// A sample was on the page this long before it was taken, at most: as long as an answer may take.
const OLDEST_S: f64 = 6.0;
/// Nothing takes longer than this, s.
const LONGEST_S: f64 = 1800.0;
/// Samples that may hold a block which stands still, 6 s after it came to stand: a cell that a lock brings back is new at first, and one
/// repeat may be chance.
const MOST_STANDING: usize = 2;
/// As many times longer as a point has samples, at most.
const OLDEST_OF_POINT_S: f64 = 6.0 * 20.0;

/// A span in which a fault was there, s since 1970.
#[derive(Clone, Copy, Debug)]
struct Spell {
    fault: Fault,
    from_s: f64,
    to_s: f64,
}

struct Hour {
    server: Server,
    stand_in: Arc<StandIn>,
    site: SiteId,
    setup: SetupId,
    position: String,
    kind: Kind,
    clock: Clock,
    /// How many times shorter its faults are: over sockets there is less time.
    hurry: u64,
    random: fastrand::Rng,
    spells: Arc<Mutex<Vec<Spell>>>,
    made: u128,
}

fn seconds(at: DateTime<Utc>) -> f64 {
    at.timestamp_millis() as f64 / 1e3
}

/// How much came of some hours.
#[derive(Debug, Default)]
struct Tally {
    samples: usize,
    points: usize,
    failures: BTreeMap<String, usize>,
    locks: usize,
    /// Samples without NR's values while its block stood still.
    standing: usize,
    wrong: Vec<String>,
}

impl Tally {
    fn add(&mut self, other: Tally) {
        self.samples += other.samples;
        self.points += other.points;
        self.locks += other.locks;
        self.standing += other.standing;
        for (what, times) in other.failures {
            *self.failures.entry(what).or_default() += times;
        }
        self.wrong.extend(other.wrong);
    }
}

impl Hour {
    async fn new(seed: u64, over_sockets: bool) -> Self {
        let mut random = fastrand::Rng::with_seed(seed);
        let kind = [Kind::Page, Kind::BehindLogin, Kind::Tables, Kind::Modem][seed as usize % 4];
        let mut device = Device::new(random.u64(..));
        device.pose.antenna = "external".into();
        device.pose.mount = "roof_mast".into();
        device.pose.height_above_ground_m = 8.0;
        device.pose.azimuth_deg = 143.0;
        let (began, from) = (Instant::now(), if over_sockets { Utc::now() } else { BEGINNING });
        let stand_in = StandIn::since(from, device, REFRESH);
        stand_in.remember_shown();
        let clock = if over_sockets {
            Clock::default()
        } else {
            Clock::of(move || from + TimeDelta::from_std(began.elapsed()).unwrap_or_default())
        };
        let (address, line, transport) = if over_sockets {
            let page = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
            let modem = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
            let address = format!("http://{}", page.local_addr().unwrap());
            let line = format!("tcp://{}", modem.local_addr().unwrap());
            let router = gateway_router(stand_in.clone());
            tokio::spawn(async move { axum::serve(page, router).await });
            tokio::spawn(serve_at(modem, stand_in.clone()));
            (address, line, Transport::Network)
        } else {
            let transport = Transport::InProcess(Arc::new(InMemory::of(&stand_in)));
            ("http://192.0.2.1".into(), "tcp://192.0.2.1:23".into(), transport)
        };
        let directory = tempfile::tempdir().unwrap();
        let store = Store::open(directory.path()).unwrap();
        let outside = Outside { clock: clock.clone(), transport };
        let state = AppState::within(store, outside).unwrap();
        let server = Server { router: open_beacon_api::router(state.clone()), state, _directory: directory };
        let (site, position, setup) = server.site().await;
        let gateway = kind.settings(&address, &line);
        let url = gateway["status_url"].as_str().unwrap().to_owned();
        let settings = json!({"gateway": gateway, "active_setup_id": setup});
        let (status, answer) = server.save_settings(&site, &settings).await;
        assert_eq!(status, StatusCode::OK, "{answer}");
        let secrets = json!({"address": url, "user": USER, "password": PASSWORD});
        let (status, answer) =
            server.send("PUT", &format!("/api/sites/{site}/gateway/sign-in"), Some(secrets)).await;
        assert!(status.is_success(), "{answer}");
        server.send("POST", &format!("/api/sites/{site}/bands/undo-read"), None).await;
        Self {
            server,
            stand_in,
            site: site.parse().unwrap(),
            setup: setup.parse().unwrap(),
            position,
            kind,
            clock,
            hurry: if over_sockets { 4 } else { 1 },
            random,
            spells: Arc::default(),
            made: 1000,
        }
    }

    fn next_id(&mut self) -> String {
        self.made += 1;
        id(self.made)
    }

    fn now_s(&self) -> f64 {
        seconds(self.clock.now())
    }

    /// Whether a reason names a fault that was there since then, or shortly before.
    fn rightly(&self, why: &str, since_s: f64) -> bool {
        let now_s = self.now_s();
        let spells = self.spells.lock().unwrap();
        let near = spells.iter().filter(|one| one.to_s + TOLD_WITHIN_S >= since_s && one.from_s <= now_s);
        near.flat_map(|one| named(one.fault, self.kind)).any(|words| why.contains(words))
    }

    /// What failed, by a fault that was there since then.
    fn failed(&self, what: &str, why: &str, since_s: f64, tally: &mut Tally) {
        let told = format!("{what}: {why}");
        if !self.rightly(why, since_s) {
            let spells = self.spells.lock().unwrap();
            let last: Vec<&Spell> = spells.iter().rev().take(2).collect();
            tally.wrong.push(format!("{:?} at {:.0}: {told} during {last:?}", self.kind, self.now_s()));
        }
        let told = told.split_once(". ").map_or(told.as_str(), |(why, _)| why).to_owned();
        *tally.failures.entry(told).or_default() += 1;
    }

    /// Waits until nothing is measured and no lock is being set; all of it ends within some minutes, whatever the faults.
    async fn idle(&self, tally: &mut Tally) {
        let begun_s = self.now_s();
        while let Some(going_on) = self.server.state.measurer.progress(self.site) {
            if self.now_s() - begun_s > LONGEST_S {
                tally.wrong.push(format!("{:?}: still at it: {going_on:?}", self.kind));
                return;
            }
            tokio::time::sleep(Duration::from_millis(500)).await;
        }
        // What was measured is told of just behind.
        tokio::time::sleep(Duration::from_millis(1)).await;
    }

    async fn record(&mut self, tally: &mut Tally) {
        let run = self.next_id();
        let job = json!({"id": run, "samples": self.random.u32(3..25), "speed_tests": 0});
        let (status, answer) =
            self.server.send("POST", &format!("/api/setups/{}/jobs", self.setup), Some(job)).await;
        assert!(status.is_success(), "{answer}");
        self.idle(tally).await;
        let kept = self.server.state.store.run(run.parse().unwrap()).unwrap();
        if kept.completion != Completion::Complete {
            self.failed("recording", kept.reason.as_deref().unwrap_or(""), self.now_s(), tally);
        }
    }

    async fn sweep(&mut self, tally: &mut Tally) {
        let (sweep, path) = (self.next_id(), format!("/api/sites/{}/sweeps", self.site));
        let new = json!({"id": sweep, "position_id": self.position, "expected_deg": 143.0});
        let (status, answer) = self.server.send("POST", &path, Some(new)).await;
        assert!(status.is_success(), "{answer}");
        for _ in 0..self.random.u32(2..6) {
            let samples = self.random.u32(2..6);
            let stop =
                json!({"id": self.next_id(), "angle_deg": self.random.u32(0..360), "samples": samples});
            let (status, answer) =
                self.server.send("POST", &format!("{path}/{sweep}/stops"), Some(stop)).await;
            assert!(status.is_success(), "{answer}");
            self.idle(tally).await;
            if let Some(why) = self.server.state.sweeping.state(self.site).and_then(|state| state.problem) {
                self.failed("point", &why, self.now_s(), tally);
            }
        }
        let end = json!({"set_deg": 143.0});
        self.server.send("PUT", &format!("{path}/{sweep}"), Some(end)).await;
    }

    async fn lock(&mut self, tally: &mut Tally) {
        let bands = [20_u16, 3];
        let choice = match self.random.u32(0..3) {
            0 => json!({}),
            at => json!({"access": "lte", "lte": [bands[at as usize - 1]]}),
        };
        let path = format!("/api/sites/{}/bands", self.site);
        let (status, answer) =
            self.server.send("POST", &format!("{path}/keep"), Some(json!({ "choice": choice }))).await;
        // A band that nothing has told of yet cannot be asked for.
        if status == StatusCode::UNPROCESSABLE_ENTITY {
            return;
        }
        assert_eq!(status, StatusCode::ACCEPTED, "{answer}");
        tally.locks += 1;
        let (mut said, begun_s) = (None, self.now_s());
        let rounds = self.server.state.rounds.clone();
        while self.server.state.measurer.progress(self.site).is_some() {
            tokio::time::sleep(Duration::from_secs(1)).await;
            let problem = rounds.restore_state(self.site).and_then(|state| state.problem);
            if self.now_s() - begun_s > LONGEST_S {
                tally.wrong.push(format!("{:?}: still going back: {problem:?}", self.kind));
                return;
            }
            if let Some(why) = problem.as_deref().filter(|_| problem != said) {
                self.failed("going back", why, self.now_s(), tally);
            }
            said = problem;
        }
        tokio::time::sleep(Duration::from_millis(1)).await;
        if let Some(why) = rounds.state(self.site).and_then(|state| state.problem) {
            // Told at the end, when going back has taken as long as the fault.
            self.failed("lock", &why, begun_s, tally);
        }
    }

    /// Faults that come and go, and traffic that does; ends with `stop`.
    fn trouble(&mut self, stop: tokio_util::sync::CancellationToken) {
        let (stand_in, spells, kind) = (self.stand_in.clone(), self.spells.clone(), self.kind);
        let (clock, mut random, hurry) = (self.clock.clone(), self.random.fork(), self.hurry);
        let busy = stand_in.clone();
        let quiet = stop.clone();
        tokio::spawn(async move {
            while !quiet.is_cancelled() {
                busy.traffic();
                tokio::time::sleep(Duration::from_secs(2)).await;
            }
        });
        tokio::spawn(async move {
            while !stop.is_cancelled() {
                tokio::time::sleep(Duration::from_secs(random.u64(20..180) / hurry)).await;
                let fault = kind.faults()[random.usize(..kind.faults().len())];
                let length = Duration::from_secs(random.u64(4..150) / hurry);
                let from_s = seconds(clock.now());
                stand_in.set_fault(fault, length);
                let to_s = from_s + length.as_secs_f64();
                spells.lock().unwrap().push(Spell { fault, from_s, to_s });
                tokio::time::sleep(length).await;
                if fault != Fault::Reboot {
                    stand_in.set_fault(Fault::None, length);
                }
            }
            stand_in.set_fault(Fault::None, Duration::ZERO);
        });
    }

    async fn pass(&mut self, length: Duration, tally: &mut Tally) {
        let stop = tokio_util::sync::CancellationToken::new();
        self.trouble(stop.clone());
        let _lease = self.server.state.links.lease(self.site);
        let began = Instant::now();
        while began.elapsed() < length {
            match self.random.u32(0..10) {
                0..6 => self.record(tally).await,
                6..8 => self.sweep(tally).await,
                _ => self.lock(tally).await,
            }
            tokio::time::sleep(Duration::from_secs(self.random.u64(1..30))).await;
        }
        stop.cancel();
        // The last fault ends, and a restart with it.
        tokio::time::sleep(Duration::from_secs(240 / self.hurry)).await;
        self.check(tally);
    }

    fn check(&self, tally: &mut Tally) {
        let store = &self.server.state.store;
        let shown = self.stand_in.shown();
        let record = store.bundle(self.site).unwrap();
        let point = |run: &&Run| matches!(run.context, RunContext::SweepPoint { .. });
        tally.points += record.runs.iter().filter(point).count();
        tally.samples += record.samples.len();
        let points: HashSet<RunId> = record.runs.iter().filter(point).map(|run| run.id).collect();
        for Sample { run_id, taken_at, reading, .. } in &record.samples {
            let at_s = seconds(*taken_at);
            // A point is dated by its last sample.
            let back_s = if points.contains(run_id) { OLDEST_OF_POINT_S } else { OLDEST_S };
            if !meant(&shown, at_s - back_s..at_s + 0.1, reading, self.kind) {
                tally.wrong.push(format!("{:?}: nobody showed {reading:?} at {at_s:.1}", self.kind));
            }
        }
        self.check_standing_blocks(&record.samples, &points, tally);
        let kept = store.settings(self.site).unwrap().trials.kept;
        let locked = self.stand_in.locked_to();
        let spells = self.spells.lock().unwrap();
        let restarted = spells.iter().any(|one| one.fault == Fault::Reboot);
        if locked != Lock::from(&kept) && !(restarted && locked == Lock::default()) {
            tally.wrong.push(format!("{:?}: locked to {locked:?}, kept is {kept:?}", self.kind));
        }
        let open = store.lock_intents().unwrap();
        if !open.is_empty() {
            tally.wrong.push(format!("{:?}: a lock is still to be undone: {open:?}", self.kind));
        }
    }
}

impl Hour {
    /// While the stand-in's NR block stands still, few samples hold its values, though LTE changes: the block that was just shown,
    /// and one repeat that may be chance. Points of a sweep are left out: all their samples bear one time.
    fn check_standing_blocks(&self, samples: &[Sample], points: &HashSet<RunId>, tally: &mut Tally) {
        let has_nr = |sample: &&Sample| {
            let valued = |one: &Carrier| one.technology == Technology::Nr && one.rsrp_dbm.is_some();
            sample.reading.carriers.iter().any(valued)
        };
        let single: Vec<&Sample> = samples.iter().filter(|one| !points.contains(&one.run_id)).collect();
        for spell in self.spells.lock().unwrap().iter().filter(|one| one.fault == Fault::StaleNr) {
            let within = |sample: &&Sample| {
                let at_s = seconds(sample.taken_at);
                spell.from_s + OLDEST_S < at_s && at_s < spell.to_s
            };
            let during: Vec<&Sample> = single.iter().copied().filter(within).collect();
            let standing = during.iter().copied().filter(|one| has_nr(one)).count();
            tally.standing += during.len() - standing;
            if standing > MOST_STANDING {
                tally
                    .wrong
                    .push(format!("{:?}: a standing NR block in {standing} samples of {spell:?}", self.kind));
            }
        }
    }
}

/// Whether the stand-in showed what a sample holds, shortly before it was taken. A modem's codes are coarser than what it means.
fn meant(shown: &[Shown], within_s: Range<f64>, reading: &Reading, kind: Kind) -> bool {
    let tolerance = if kind == Kind::Modem { 1.01 } else { 1e-9 };
    let close = |a: Option<f64>, b: Option<f64>| match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() <= tolerance,
        (None, _) => true,
        (Some(_), None) => false,
    };
    let same = |one: &Carrier, other: &Carrier| {
        one.technology == other.technology
            && (one.channel.is_none() || one.channel == other.channel)
            && (one.band.is_none() || one.band == other.band)
            && close(one.rsrp_dbm, other.rsrp_dbm)
            && close(one.sinr_db, other.sinr_db)
    };
    let whole =
        |page: &Reading| reading.carriers.iter().all(|one| page.carriers.iter().any(|o| same(one, o)));
    shown
        .iter()
        .filter(|one| one.from_s <= within_s.end && one.to_s >= within_s.start)
        .any(|one| whole(&one.reading) && (reading.carriers.is_empty() == one.reading.carriers.is_empty()))
}

fn hours(seeds: Range<u64>, length: Duration, over_sockets: bool) -> Tally {
    let mut tally = Tally::default();
    for seed in seeds {
        let mut runtime = tokio::runtime::Builder::new_current_thread();
        let runtime = runtime.enable_all().start_paused(!over_sockets).build().unwrap();
        runtime.block_on(async {
            Hour::new(seed, over_sockets).await.pass(length, &mut tally).await;
        });
    }
    tally
}

/// How many hours, where more are asked for than the tests take.
fn asked(name: &str, usual: u64) -> u64 {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(usual)
}

fn report(tally: &Tally) {
    let Tally { samples, points, locks, standing, .. } = tally;
    println!(
        "{samples} samples, {standing} of them beside a standing NR block, {points} points, {locks} locks"
    );
    for (what, times) in &tally.failures {
        println!("{times:>5}  {what}");
    }
    assert!(tally.samples > 0 && tally.points > 0 && tally.locks > 0);
    assert!(tally.wrong.is_empty(), "{} wrong:\n{}", tally.wrong.len(), tally.wrong.join("\n"));
}

/// Two at once where there are many; few leave the other core to the tests beside them, some of which measure a line.
#[test]
fn seeded_hours_in_memory() {
    let (first, many) = (asked("OPEN_BEACON_FIRST_HOUR", 0), asked("OPEN_BEACON_HOURS", 4));
    let beside = if many > 8 { many / 2 } else { 0 };
    let (middle, last) = (first + beside, first + many);
    let hour = Duration::from_secs(3600);
    let (mut tally, beside) = std::thread::scope(|scope| {
        let beside = scope.spawn(move || hours(first..middle, hour, false));
        (hours(middle..last, hour, false), beside.join().unwrap())
    });
    tally.add(beside);
    report(&tally);
}

/// Seen: a page that shows what was before the order was taken for a gateway that does not obey, and then for one that is back.
#[tokio::test(start_paused = true)]
async fn a_page_that_stands_still_proves_nothing() {
    let mut hour = Hour::new(0, false).await;
    let _lease = hour.server.state.links.lease(hour.site);
    let mut tally = Tally::default();
    for _ in 0..2 {
        hour.record(&mut tally).await;
    }
    hour.stand_in.set_fault(Fault::Frozen, Duration::ZERO);
    let keep = json!({"choice": {"access": "lte", "lte": [20]}});
    let path = format!("/api/sites/{}/bands/keep", hour.site);
    assert_eq!(hour.server.send("POST", &path, Some(keep)).await.0, StatusCode::ACCEPTED);
    let rounds = hour.server.state.rounds.clone();
    let not_back = loop {
        tokio::time::sleep(Duration::from_secs(1)).await;
        if let Some(why) = rounds.restore_state(hour.site).and_then(|state| state.problem) {
            break why;
        }
    };
    let unseen = "whether it obeyed cannot be seen: its page did not change";
    assert!(not_back.contains(unseen), "{not_back}");
    assert!(hour.server.state.store.lock_intent(hour.site).unwrap().is_some(), "the note stays");
    hour.stand_in.set_fault(Fault::None, Duration::ZERO);
    hour.idle(&mut tally).await;
    let why = rounds.state(hour.site).and_then(|state| state.problem).unwrap();
    assert!(why.contains(unseen), "{why}");
    assert_eq!(hour.stand_in.locked_to(), Lock::default());
    assert!(hour.server.state.store.lock_intent(hour.site).unwrap().is_none());
    assert!(tally.wrong.is_empty(), "{:?}", tally.wrong);
}

/// The same drivers over sockets and the computer's own clock: one kind of gateway after the other, two and a half minutes each.
#[test]
#[ignore = "takes a quarter of an hour; run by cargo xtask hours"]
fn ten_minutes_over_sockets() {
    report(&hours(0..4, Duration::from_secs(150), true));
}
