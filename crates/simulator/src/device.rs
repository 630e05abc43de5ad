//! A gateway with memory: which mast it holds on to, whether the line was idle, when its page was last renewed.

use crate::channel::{drift, hashed};
use crate::lock::{Lock, LockedAccess, bundle};
use crate::radio::{Heard, Pose, Rates, hear};
use crate::world::{Mast, valley};
use open_beacon_core::model::{Carrier, CarrierRole, ConnectionMode, Reading, Technology};

/// The NR leg is dropped this long after the last traffic, s.
const NR_IDLE_S: f64 = 6.0;
/// How much stronger another mast must be before an ordinary gateway moves to it, dB.
const HYSTERESIS_DB: f64 = 4.0;
/// An LTE carrier weaker than this is not used, dBm.
const LTE_FLOOR_DBM: f64 = -122.0;
/// An NR carrier weaker than this is not added, dBm.
const NR_FLOOR_DBM: f64 = -114.0;

/// How long it stays with a mast where it moves to and fro, s.
const HOPS_EVERY_S: f64 = 17.0;

/// How firmly a gateway holds on to a mast.
#[derive(Clone, Copy, Debug)]
pub struct Holding {
    /// How much stronger another must be before it moves there, dB.
    pub hysteresis_db: f64,
    /// The mast it holds at first, by its place; none takes the strongest.
    pub serving: Option<usize>,
}

/// The stand-in gateway.
#[derive(Clone, Debug)]
pub struct Device {
    seed: u64,
    /// Another mast must be this much stronger before the gateway moves to it, dB.
    hysteresis_db: f64,
    masts: Vec<Mast>,
    pub pose: Pose,
    serving: Option<usize>,
    last_traffic_s: f64,
    lock: Lock,
    /// Whether it moves between the two strongest masts to and fro.
    pub hops: bool,
    /// Looking for a cell until then.
    attached_from_s: f64,
}

/// Attaching anew takes this long at least and at most, s.
pub const REATTACH_S: (f64, f64) = (4.0, 11.0);

impl Device {
    /// A gateway indoors on its own antennas. `seed` sets all that is random.
    pub fn new(seed: u64) -> Self {
        Self::among(seed, valley(), Holding { hysteresis_db: HYSTERESIS_DB, serving: None })
    }

    /// A gateway among other masts.
    pub fn among(seed: u64, masts: Vec<Mast>, holding: Holding) -> Self {
        Self {
            seed,
            hysteresis_db: holding.hysteresis_db,
            masts,
            pose: Pose::default(),
            serving: holding.serving,
            last_traffic_s: f64::NEG_INFINITY,
            lock: Lock::default(),
            hops: false,
            attached_from_s: f64::NEG_INFINITY,
        }
    }

    /// What it is locked to.
    pub fn lock(&self) -> &Lock {
        &self.lock
    }

    /// Locks it at a time: it lets go, and attaches anew after a while. `hurry` divides that while.
    pub fn set_lock(&mut self, lock: Lock, at_s: f64, hurry: f64) {
        let (low, high) = REATTACH_S;
        let takes = low + (high - low) * hashed(self.seed ^ 12, at_s as i64 as u64, lock.lte.len() as u64);
        self.attached_from_s = at_s + takes / hurry;
        self.lock = lock;
    }

    /// From when on it is attached again, s since 1970.
    pub fn attached_from_s(&self) -> f64 {
        self.attached_from_s
    }

    /// Notes traffic on the line at a time (seconds since 1970).
    pub fn traffic(&mut self, at_s: f64) {
        self.last_traffic_s = self.last_traffic_s.max(at_s);
    }

    /// Carriers in use at a time, the anchor first, and everything else that is heard.
    fn attach(&mut self, at_s: f64) -> (Vec<(CarrierRole, Heard)>, Vec<Heard>) {
        let heard = hear(self.seed, &self.masts, &self.pose, at_s);
        let strength = |mast: usize| {
            heard
                .iter()
                .filter(|entry| entry.mast == mast && entry.cell.technology == Technology::Lte)
                .map(|entry| entry.rsrp_dbm)
                .fold(f64::NEG_INFINITY, f64::max)
        };
        let best = (0..self.masts.len()).max_by(|a, b| strength(*a).total_cmp(&strength(*b))).unwrap_or(0);
        if at_s < self.attached_from_s {
            return (Vec::new(), Vec::new());
        }
        let second = (0..self.masts.len())
            .filter(|mast| *mast != best)
            .max_by(|a, b| strength(*a).total_cmp(&strength(*b)));
        let away = self.hops && (at_s / HOPS_EVERY_S) as i64 % 2 == 1;
        let serving = match self.serving {
            _ if away => second.unwrap_or(best),
            Some(now) if strength(best) < strength(now) + self.hysteresis_db => now,
            _ => best,
        };
        self.serving = Some(serving);
        let awake = at_s - self.last_traffic_s < NR_IDLE_S || self.lock.access == LockedAccess::Sa;
        let (mut own, others): (Vec<Heard>, Vec<Heard>) =
            heard.into_iter().partition(|entry| entry.mast == serving);
        own.retain(|entry| match entry.cell.technology {
            Technology::Lte => entry.rsrp_dbm > LTE_FLOOR_DBM,
            Technology::Nr => awake && entry.rsrp_dbm > NR_FLOOR_DBM && entry.sinr_db > -6.0,
        });
        own.retain(|entry| self.lock.allows(entry.cell.technology, entry.cell.band));
        (bundle(own, &self.lock), others)
    }

    /// What the status page shows when it is renewed at a time.
    pub fn reading(&mut self, at_s: f64) -> Reading {
        let (used, others) = self.attach(at_s);
        let mut carriers: Vec<Carrier> = used.iter().map(|(role, heard)| heard.carrier(*role)).collect();
        if let Some((anchor, (_, heard))) = carriers.first_mut().zip(used.first()) {
            let mast = &self.masts[heard.mast];
            // 78.12 m a step: TS 36.213 clause 4.2.3, 16 Ts, there and back.
            anchor.timing_advance = Some((mast.distance_m(0.0, 0.0) / 78.12).round() as u16);
            anchor.transmit_power_dbm = Some((-heard.path_db - 85.0).clamp(-10.0, 23.0).round());
        }
        let mode = match (
            carriers.is_empty(),
            carriers.iter().any(|carrier| carrier.technology == Technology::Nr),
        ) {
            (true, _) => ConnectionMode::NoService,
            (_, true) if self.lock.access == LockedAccess::Sa => ConnectionMode::Sa,
            (_, true) => ConnectionMode::Nsa,
            _ => ConnectionMode::Lte,
        };
        let mut neighbours: Vec<_> =
            others.iter().filter(|heard| heard.rsrp_dbm > -125.0).map(Heard::neighbour).collect();
        neighbours.truncate(6);
        Reading { mode, carriers, neighbours }
    }

    /// What the line carries at a time, traffic flowing.
    pub fn rates(&mut self, at_s: f64) -> Rates {
        self.traffic(at_s);
        let (used, _) = self.attach(at_s);
        if used.is_empty() {
            return Rates::default();
        }
        let wobble = (0.06 * drift(self.seed ^ 9, 1, at_s, 3.0)).exp();
        let down: f64 = used.iter().map(|(_, heard)| heard.down_mbps()).sum();
        // Uplink rides on one LTE and one NR carrier.
        let best_up = |technology| {
            used.iter()
                .filter(|(_, heard)| heard.cell.technology == technology)
                .map(|(_, heard)| heard.up_mbps())
                .fold(0.0, f64::max)
        };
        let up = best_up(Technology::Lte) + best_up(Technology::Nr);
        let busy = used.iter().map(|(_, heard)| heard.load).fold(0.0, f64::max);
        // One radio and its own core answer sooner.
        let core = if self.lock.access == LockedAccess::Sa { 19.0 } else { 28.0 };
        let idle = core + 14.0 * busy + 1.5 * drift(self.seed ^ 10, 2, at_s, 1.0).abs();
        Rates {
            down_mbps: (down * wobble).max(0.2),
            up_mbps: (up * wobble).max(0.1),
            idle_latency_ms: idle,
            loaded_latency_ms: idle + 35.0 + 60.0 * busy + 4.0 * drift(self.seed ^ 11, 3, at_s, 1.0).abs(),
        }
    }
}
