//! A carrier taken apart into signal, interference and noise, and put together again as another antenna would hear it.

use crate::metrics::{db_to_linear, interference_dbm, limits, linear_to_db};
use crate::model::Carrier;

/// No receiver reads cleaner than this, dB (common practice, no source).
const CLEANEST_SINR_DB: f64 = 30.0;

/// A carrier's power, noise and interference in one resource element, apart.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Air {
    pub rsrp_dbm: f64,
    pub noise_dbm: f64,
    /// `None` where all of the disturbance is the receiver's noise.
    pub interference_dbm: Option<f64>,
}

impl Air {
    /// Takes a reading apart; `None` without signal power and clean signal.
    pub fn of(carrier: &Carrier) -> Option<Self> {
        let now = limits(carrier);
        let disturbance_dbm = now.disturbance_dbm?;
        // A receiver quieter than assumed: all of the disturbance is its noise.
        let noise_dbm = now.noise_dbm.min(disturbance_dbm);
        let interference_dbm = interference_dbm(disturbance_dbm, noise_dbm);
        Some(Self { rsrp_dbm: carrier.rsrp_dbm?, noise_dbm, interference_dbm })
    }

    /// Clean signal (SINR) with signal changed by `change_db`, interference held back by `rejection_db` and a receiver
    /// noisier by `noisier_db`. Loss before the receiver is part of `change_db`: it lowers signal and interference
    /// alike and leaves the noise.
    ///
    /// ```
    /// use open_beacon_core::kit::air::Air;
    /// // Two cells, closed form: S −90, I −100, N −120 dBm: 10 lg(1e-9 / (1e-10 + 1e-12)) = 9.957 dB.
    /// let air = Air { rsrp_dbm: -90.0, noise_dbm: -120.0, interference_dbm: Some(-100.0) };
    /// assert!((air.sinr_db(0.0, 0.0, 0.0) - 9.957).abs() < 1e-3);
    /// // 10 dB of rejection: S/(I/10 + N) = 1e-9 / (1e-11 + 1e-12), 19.586 dB.
    /// assert!((air.sinr_db(0.0, 10.0, 0.0) - 19.586).abs() < 1e-3);
    /// ```
    pub fn sinr_db(&self, change_db: f64, rejection_db: f64, noisier_db: f64) -> f64 {
        let interference =
            self.interference_dbm.map_or(0.0, |dbm| db_to_linear(dbm + change_db - rejection_db));
        let disturbance_dbm = linear_to_db(db_to_linear(self.noise_dbm + noisier_db) + interference);
        (self.rsrp_dbm + change_db - disturbance_dbm).min(CLEANEST_SINR_DB)
    }
}

/// The carrier as it would be heard; see [`Air::sinr_db`].
pub fn heard_with(carrier: &Carrier, change_db: f64, rejection_db: f64, noisier_db: f64) -> Carrier {
    let mut moved = carrier.clone();
    moved.flags.clear();
    (moved.rsrq_db, moved.rssi_dbm, moved.rank) = (None, None, None);
    moved.rsrp_dbm = carrier.rsrp_dbm.map(|rsrp| rsrp + change_db);
    if let Some(air) = Air::of(carrier) {
        moved.sinr_db = Some(air.sinr_db(change_db, rejection_db, noisier_db));
    }
    moved
}
