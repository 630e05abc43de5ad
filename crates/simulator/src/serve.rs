//! The stand-in's three addresses: status page, speed-test end, control end.

use crate::device::Device;
use crate::door::Door;
use crate::lock::Lock;
use crate::radio::{Pose, Rates};
use axum::extract::{Query, State};
use axum::http::StatusCode;
use axum::routing::{get, put};
use axum::{Json, Router};
use futures::future::BoxFuture;
use open_beacon_core::model::{Carrier, Neighbour, Reading};
use open_beacon_speedtest::{Direction, Shape};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

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
}

/// How long a restart takes where nothing else is said.
pub const REBOOT: Duration = Duration::from_secs(90);

struct Page {
    drawn_at: Instant,
    reading: Reading,
}

/// The stand-in as it is shared between its three addresses.
pub struct StandIn {
    device: Mutex<Device>,
    page: Mutex<Option<Page>>,
    fault: Mutex<Fault>,
    /// When a restart is over.
    back_at: Mutex<Option<Instant>>,
    pub door: Door,
    refresh: Duration,
    rates: Mutex<Option<(Instant, Rates)>>,
    lines: [tokio::sync::Mutex<Instant>; 2],
    last_bulk: Mutex<Option<Instant>>,
    /// How many times sooner it attaches anew than a real one.
    hurry: f64,
    /// Locks it was told, ignored ones too.
    told: Mutex<Vec<Lock>>,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn now_s() -> f64 {
    chrono::Utc::now().timestamp_millis() as f64 / 1e3
}

impl StandIn {
    /// A stand-in whose page is renewed every `refresh`.
    pub fn new(seed: u64, refresh: Duration) -> Arc<Self> {
        Self::of(Device::new(seed), refresh)
    }

    /// A stand-in of a device.
    pub fn of(device: Device, refresh: Duration) -> Arc<Self> {
        Self::hurried(device, refresh, 1.0)
    }

    /// A stand-in that attaches anew `hurry` times sooner.
    pub fn hurried(device: Device, refresh: Duration, hurry: f64) -> Arc<Self> {
        let line = || tokio::sync::Mutex::new(Instant::now());
        Arc::new(Self {
            device: Mutex::new(device),
            page: Mutex::new(None),
            fault: Mutex::default(),
            back_at: Mutex::default(),
            door: Door::default(),
            refresh,
            rates: Mutex::new(None),
            lines: [line(), line()],
            last_bulk: Mutex::new(None),
            hurry,
            told: Mutex::default(),
        })
    }

    /// Takes a lock, as page and modem do; `false` where it refuses.
    pub fn set_lock(&self, wanted: Lock) -> bool {
        let fault = self.fault();
        if fault == Fault::RefusesLocks {
            return false;
        }
        lock(&self.told).push(wanted.clone());
        if fault != Fault::IgnoresLocks {
            lock(&self.device).set_lock(wanted, now_s(), self.hurry);
            *lock(&self.page) = None;
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
        let frozen = self.fault() == Fault::Frozen;
        match &*page {
            Some(drawn) if frozen || drawn.drawn_at.elapsed() < self.refresh => drawn.reading.clone(),
            _ => {
                let reading = lock(&self.device).reading(now_s());
                *page = Some(Page { drawn_at: Instant::now(), reading: reading.clone() });
                reading
            }
        }
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
                lock(&self.device).set_lock(Lock::default(), now_s(), self.hurry);
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
                lock(&self.device).traffic(now_s());
                *rates
            }
            _ => {
                let rates = lock(&self.device).rates(now_s());
                *known = Some((Instant::now(), rates));
                rates
            }
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
            tokio::time::sleep_until(slot.into()).await;
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
