//! The stand-in's three addresses: status page, speed-test end, control end.

use crate::device::Device;
use crate::door::Door;
use crate::lock::Lock;
use crate::radio::{Pose, Rates};
use axum::extract::{Query, State};
use axum::http::StatusCode;
use axum::routing::{get, put};
use axum::{Json, Router};
use chrono::{DateTime, Utc};
use futures::future::BoxFuture;
use open_beacon_core::model::{Carrier, Neighbour, Reading, Technology};
use open_beacon_speedtest::{Direction, Shape};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use tokio::time::Instant;

/// A fault on request.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Fault {
    #[default]
    None,
    /// The page stops being renewed.
    Frozen,
    /// The page never answers.
    Hung,
    /// A login page in place of the status page.
    LoginPage,
    /// Uploads are refused.
    NoUpload,
    /// A field has the wrong type.
    WrongType,
    /// Each answer takes three seconds.
    Slow,
    /// The answer breaks off in the middle.
    Half,
    /// Silent for 90 s, then well again; sessions are gone.
    Reboot,
    /// Sessions have run out; nothing else is wrong.
    LoginExpired,
    /// Too many failed logins: nobody is let in.
    LockedOut,
    /// Band locks are taken with thanks, and nothing happens.
    IgnoresLocks,
    /// Band locks are refused.
    RefusesLocks,
    /// Half a page that ends as if it were whole.
    Torn,
    /// A page of zeros with an error code in it, and a status that says all is well.
    ErrorInside,
    /// The NR block stands still while the rest of the page is renewed.
    StaleNr,
    /// It moves between two masts to and fro.
    Hops,
    /// The table of one technology stands where the other was, or is gone.
    Shifts,
    /// A modem that says things nobody asked for.
    Announces,
    /// Band locks are answered well, with an error in the answer, and nothing happens.
    LocksWithError,
    /// Attaching anew takes six times as long.
    SlowAttach,
}

/// How long a restart takes where nothing else is said.
pub const REBOOT: Duration = Duration::from_secs(90);

struct Page {
    drawn_at: Instant,
    reading: Reading,
}

/// What its page showed over a span of time.
#[derive(Clone, Debug, PartialEq)]
pub struct Shown {
    /// When it showed it first and last, s since 1970.
    pub from_s: f64,
    pub to_s: f64,
    pub reading: Reading,
}

/// The stand-in as it is shared between its three addresses.
pub struct StandIn {
    device: Mutex<Device>,
    page: Mutex<Option<Page>>,
    fault: Mutex<Fault>,
    /// When a restart is over.
    back_at: Mutex<Option<Instant>>,
    pub door: Door,
    /// When it was made, s since 1970, and by the clock that it lives on.
    began: (f64, Instant),
    refresh: Duration,
    rates: Mutex<Option<(Instant, Rates)>>,
    lines: [tokio::sync::Mutex<Instant>; 2],
    last_bulk: Mutex<Option<Instant>>,
    /// How many times sooner it attaches anew than a real one.
    hurry: f64,
    /// Locks it was told, ignored ones too.
    told: Mutex<Vec<Lock>>,
    /// What its page showed, where that is to be remembered.
    shown: Mutex<Option<Vec<Shown>>>,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl StandIn {
    /// A stand-in whose page is renewed every `refresh`.
    pub fn new(seed: u64, refresh: Duration) -> Arc<Self> {
        Self::of(Device::new(seed), refresh)
    }

    /// A stand-in of a device.
    pub fn of(device: Device, refresh: Duration) -> Arc<Self> {
        Self::hurried(Utc::now(), device, refresh, 1.0)
    }

    /// A stand-in of a device whose clock shows `now`.
    pub fn since(now: DateTime<Utc>, device: Device, refresh: Duration) -> Arc<Self> {
        Self::hurried(now, device, refresh, 1.0)
    }

    /// A stand-in whose clock shows `now`, and that attaches anew `hurry` times sooner.
    pub fn hurried(now: DateTime<Utc>, device: Device, refresh: Duration, hurry: f64) -> Arc<Self> {
        let line = || tokio::sync::Mutex::new(Instant::now());
        Arc::new(Self {
            device: Mutex::new(device),
            page: Mutex::new(None),
            fault: Mutex::default(),
            back_at: Mutex::default(),
            door: Door::default(),
            began: (now.timestamp_millis() as f64 / 1e3, Instant::now()),
            refresh,
            rates: Mutex::new(None),
            lines: [line(), line()],
            last_bulk: Mutex::new(None),
            hurry,
            told: Mutex::default(),
            shown: Mutex::default(),
        })
    }

    /// s since 1970.
    fn now_s(&self) -> f64 {
        self.began.0 + self.began.1.elapsed().as_secs_f64()
    }

    /// Takes a lock, as page and modem do; `false` where it refuses.
    pub fn set_lock(&self, wanted: Lock) -> bool {
        let fault = self.fault();
        if fault == Fault::RefusesLocks {
            return false;
        }
        lock(&self.told).push(wanted.clone());
        if !matches!(fault, Fault::IgnoresLocks | Fault::LocksWithError) {
            let hurry = if fault == Fault::SlowAttach { self.hurry / 6.0 } else { self.hurry };
            lock(&self.device).set_lock(wanted, self.now_s(), hurry);
            if fault != Fault::Frozen {
                *lock(&self.page) = None;
            }
            *lock(&self.rates) = None;
        }
        true
    }

    /// What it is locked to.
    pub fn locked_to(&self) -> Lock {
        lock(&self.device).lock().clone()
    }

    /// Every lock it was told so far.
    pub fn told(&self) -> Vec<Lock> {
        lock(&self.told).clone()
    }

    fn current_reading(&self) -> Reading {
        let mut page = lock(&self.page);
        let fault = self.fault();
        lock(&self.device).hops = fault == Fault::Hops;
        let reading = match &*page {
            Some(drawn) if fault == Fault::Frozen || drawn.drawn_at.elapsed() < self.refresh => {
                drawn.reading.clone()
            }
            before => {
                let mut reading = lock(&self.device).reading(self.now_s());
                if let (Fault::StaleNr, Some(before)) = (fault, before) {
                    keep_nr(&mut reading, &before.reading);
                }
                *page = Some(Page { drawn_at: Instant::now(), reading: reading.clone() });
                reading
            }
        };
        drop(page);
        self.remember(&reading);
        reading
    }

    /// Remembers from now on what its page shows.
    pub fn remember_shown(&self) {
        lock(&self.shown).get_or_insert_default();
    }

    /// What its page showed since it was told to remember, in order of time.
    pub fn shown(&self) -> Vec<Shown> {
        lock(&self.shown).clone().unwrap_or_default()
    }

    fn remember(&self, reading: &Reading) {
        let now_s = self.now_s();
        let mut kept = lock(&self.shown);
        let Some(shown) = &mut *kept else { return };
        match shown.last_mut() {
            Some(last) if last.reading == *reading => last.to_s = now_s,
            _ => shown.push(Shown { from_s: now_s, to_s: now_s, reading: reading.clone() }),
        }
    }

    /// Traffic on the line now.
    pub fn traffic(&self) {
        lock(&self.device).traffic(self.now_s());
    }

    /// What the page shows now.
    pub(crate) fn reading(&self) -> Reading {
        self.current_reading()
    }

    /// The fault that is asked for.
    pub(crate) fn fault(&self) -> Fault {
        let mut fault = lock(&self.fault);
        if *fault == Fault::Reboot && lock(&self.back_at).is_none_or(|back| Instant::now() >= back) {
            *fault = Fault::None;
        }
        *fault
    }

    /// Begins a fault; a restart takes `reboot`.
    pub fn set_fault(&self, fault: Fault, reboot: Duration) {
        match fault {
            Fault::Reboot => {
                *lock(&self.back_at) = Some(Instant::now() + reboot);
                self.door.end_sessions();
                // Its locks do not outlast a restart.
                lock(&self.device).set_lock(Lock::default(), self.now_s(), self.hurry);
            }
            Fault::LoginExpired => self.door.end_sessions(),
            Fault::LockedOut => self.door.lock_out(),
            _ => {}
        }
        *lock(&self.fault) = fault;
    }

    /// The plain page as it stands now.
    pub(crate) fn page(&self) -> Value {
        page(&self.reading())
    }

    /// The line's rates, worked out anew five times a second.
    fn rates(&self) -> Rates {
        let mut known = lock(&self.rates);
        match &*known {
            Some((at, rates)) if at.elapsed() < Duration::from_millis(200) => {
                lock(&self.device).traffic(self.now_s());
                *rates
            }
            _ => {
                let rates = lock(&self.device).rates(self.now_s());
                *known = Some((Instant::now(), rates));
                rates
            }
        }
    }
}

/// Puts the NR block of before in place of those of now.
fn keep_nr(reading: &mut Reading, before: &Reading) {
    for carrier in reading.carriers.iter_mut().filter(|one| one.technology == Technology::Nr) {
        if let Some(old) = before.carriers.iter().find(|old| old.technology == Technology::Nr) {
            *carrier = old.clone();
        }
    }
}

impl Shape for StandIn {
    fn admit(&self, direction: Direction, bytes: usize) -> BoxFuture<'_, bool> {
        Box::pin(async move {
            *lock(&self.last_bulk) = Some(Instant::now());
            if direction == Direction::Up && self.fault() == Fault::NoUpload {
                return false;
            }
            let rates = self.rates();
            let (line, mbps) = match direction {
                Direction::Down => (&self.lines[0], rates.down_mbps),
                Direction::Up => (&self.lines[1], rates.up_mbps),
            };
            if mbps <= 0.0 {
                return false;
            }
            // All connections share one line: each chunk takes the next free slot on it.
            let slot = {
                let mut free_at = line.lock().await;
                let start = (*free_at).max(Instant::now());
                *free_at = start + Duration::from_secs_f64(bytes as f64 * 8.0 / (mbps * 1e6));
                *free_at
            };
            tokio::time::sleep_until(slot).await;
            true
        })
    }

    fn delay(&self) -> BoxFuture<'_, ()> {
        Box::pin(async move {
            let rates = self.rates();
            let loaded = lock(&self.last_bulk).is_some_and(|at| at.elapsed() < Duration::from_millis(400));
            let ms = if loaded { rates.loaded_latency_ms } else { rates.idle_latency_ms };
            tokio::time::sleep(Duration::from_secs_f64(ms.max(1.0) / 1e3)).await;
        })
    }
}

/// The control address: `GET` and `PUT /antenna`, `PUT /fault`, `GET /lock`.
pub fn control_router(stand_in: Arc<StandIn>) -> Router {
    Router::new()
        .route("/antenna", get(pose).put(turn))
        .route("/fault", put(fault))
        .route("/lock", get(locked))
        .with_state(stand_in)
}

async fn pose(State(stand_in): State<Arc<StandIn>>) -> Json<Pose> {
    Json(lock(&stand_in.device).pose.clone())
}

async fn turn(State(stand_in): State<Arc<StandIn>>, Json(pose): Json<Pose>) -> StatusCode {
    lock(&stand_in.device).pose = pose;
    StatusCode::NO_CONTENT
}

async fn locked(State(stand_in): State<Arc<StandIn>>) -> Json<Lock> {
    Json(stand_in.locked_to())
}

#[derive(Deserialize)]
struct FaultLength {
    for_ms: Option<u64>,
}

async fn fault(
    State(stand_in): State<Arc<StandIn>>,
    Query(length): Query<FaultLength>,
    Json(fault): Json<Fault>,
) -> StatusCode {
    stand_in.set_fault(fault, length.for_ms.map_or(REBOOT, Duration::from_millis));
    StatusCode::NO_CONTENT
}

/// The status page as documented in `docs/formats/gateway-status.md`.
pub fn page(reading: &Reading) -> Value {
    json!({
        "device": { "kind": "stand-in gateway" },
        "radio": {
            "mode": reading.mode,
            "carriers": reading.carriers.iter().map(carrier).collect::<Vec<_>>(),
            "neighbours": reading.neighbours.iter().map(neighbour).collect::<Vec<_>>(),
        }
    })
}

fn carrier(carrier: &Carrier) -> Value {
    json!({
        "technology": carrier.technology,
        "role": carrier.role,
        "band": carrier.band,
        "channel": carrier.channel,
        "channel_kind": carrier.channel_kind,
        "bandwidth_mhz": carrier.bandwidth_mhz,
        "pci": carrier.pci,
        "cell_identity": carrier.cell_identity,
        "rsrp": carrier.rsrp_dbm,
        "rsrq": carrier.rsrq_db,
        "sinr": carrier.sinr_db,
        "rssi": carrier.rssi_dbm,
        "rank": carrier.rank,
        "transmit_power": carrier.transmit_power_dbm,
        "timing_advance": carrier.timing_advance,
    })
}

fn neighbour(neighbour: &Neighbour) -> Value {
    json!({
        "technology": neighbour.technology,
        "band": neighbour.band,
        "channel": neighbour.channel,
        "pci": neighbour.pci,
        "rsrp": neighbour.rsrp_dbm,
        "rsrq": neighbour.rsrq_db,
    })
}
