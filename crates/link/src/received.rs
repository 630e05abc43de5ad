//! A cell behind an antenna: its power, the interference on its channel, and the receiver's own noise.

use super::antenna::{Aim, AimAntenna};
use super::environment::{Arriving, Environment, towards_db};
use super::field::{INTERFERENCE_COMMON, Quantity, SHADOW_COMMON};
use super::gaussian::{Look, Normal};
use super::interference::{Disturbers, MovedBy};
use super::landscape::AntennaLocation;
use super::moments::{Moments, SEVEN};
use open_beacon_domain::metrics::{NOISE_FIGURE_DB, db_to_linear, linear_to_db};

/// One cell behind an antenna that points somewhere.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Received {
    /// Of the antenna behind its feed line, in the middle of its beam, dBi.
    pub net_gain_dbi: f64,
    /// What its pattern takes of that towards the cell, dB.
    pub pattern_db: f64,
    /// Loss by polarisation, dB.
    pub polarisation_db: f64,
    /// One resource element, dBm.
    pub rsrp_dbm: Normal,
    /// Others on the channel, one resource element, dBm.
    pub interference_dbm: Normal,
    /// Noise, dBm.
    pub noise_dbm: f64,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Normal,
    /// Share of that doubt's variance that all carriers of the place have in common, 0 to 1.
    pub common_share: f64,
    /// Third central moment of the power, dB³: two kinds of houses may be possible.
    rsrp_third: f64,
    /// By how many dB interference moves with a dB of the signal.
    moves_with_signal: f64,
    /// What is doubted of interference beside that, dB.
    alone_db: f64,
    /// Of the disturbance, 0 to 1.
    interference_share: f64,
    /// Interference that moves with the signal, and what stays however weak the signal is, dBm.
    moving_dbm: f64,
    still_dbm: f64,
}

impl Received {
    /// Power with all that is doubted, dBm.
    pub fn rsrp_moments(&self) -> Moments {
        Moments { third: self.rsrp_third, ..Moments::from(self.rsrp_dbm) }
    }

    /// Variance of the signal-to-noise, dB²: as far as power is doubted, and interference.
    pub(super) fn variances(&self) -> (f64, f64) {
        let whole = self.sinr_db.spread.powi(2);
        let of_interference = (self.interference_share * self.alone_db).powi(2);
        ((whole - of_interference).max(0.0), of_interference)
    }

    /// Signal over interference and noise with all that is doubted, dB: by quadrature over the signal, which moves interference with it, and
    /// over interference's own doubt, since noise bends both.
    pub fn sinr_moments(&self) -> Moments {
        let signal = self.rsrp_dbm;
        let of = |z: f64, own: f64| {
            let moved_db = z * signal.spread;
            let moving_dbm = self.moving_dbm + self.moves_with_signal * moved_db;
            let interference_dbm = moving_dbm.max(self.still_dbm) + own * self.alone_db;
            sinr_db(signal.mean + moved_db, interference_dbm, self.noise_dbm)
        };
        Moments::of_mixture(SEVEN.map(|(z, weight)| (weight, Moments::of_normal(|own| of(z, own)))))
    }
}

/// Signal over interference and noise, dB, each in dBm on the same width.
///
/// ```
/// use open_beacon_link::received::sinr_db;
/// // Two cells, closed form: S −90, I −100, N −120 dBm: 10 lg(1e-9 / (1e-10 + 1e-12)) = 9.957 dB.
/// assert!((sinr_db(-90.0, -100.0, -120.0) - 9.957).abs() < 1e-3);
/// ```
pub fn sinr_db(signal_dbm: f64, interference_dbm: f64, noise_dbm: f64) -> f64 {
    signal_dbm - linear_to_db(db_to_linear(interference_dbm) + db_to_linear(noise_dbm))
}

impl Environment<'_> {
    /// A cell behind an antenna; `None` where the antenna is not made for its frequency. `noise_figure_db`: of the receiver.
    pub fn received(
        &self,
        cell: usize,
        location: &AntennaLocation,
        arriving: &[Arriving],
        antenna: &AimAntenna,
        aim: Option<Aim>,
        noise_figure_db: f64,
    ) -> Option<Received> {
        let own = arriving.iter().find(|one| one.cell == cell)?;
        let net_gain_dbi = antenna.net_gain_dbi(self.cells[cell].frequency_mhz, self.settings)?;
        let polarisation_db = antenna.polarisation_loss_db();
        let pattern_db = towards_db(antenna, aim, own.from);
        let gain_dbi = net_gain_dbi - polarisation_db - pattern_db;
        let rsrp_dbm = Normal { mean: own.power_dbm.mean + gain_dbi, ..own.power_dbm };
        let rest = Quantity::Interference(self.interference_point(cell, location, antenna, aim));
        let disturbers = self.disturbers(cell, arriving, antenna, aim)?;
        let power_dbm = |at: usize| arriving[at].power_dbm.mean;
        let computed_dbm = disturbers.dbm(power_dbm, own.power_dbm.mean, own.learned_wall_db);
        let moves = self.cells[cell].unlisted_moves_with_signal;
        let (moving_dbm, still_dbm) = if moves {
            disturbers.moving_and_still_dbm(own.power_dbm.mean, own.learned_wall_db)
        } else {
            (computed_dbm, f64::NEG_INFINITY)
        };
        let put_right_db = self.known.shift(&rest);
        // A map asks for no spread.
        let (of_interference, of_both) = if rsrp_dbm.spread > 0.0 {
            self.moving_together(own, arriving, &disturbers, rest)
        } else {
            (0.0, 0.0)
        };
        let moves_with_signal = if rsrp_dbm.spread > 0.0 {
            of_both / rsrp_dbm.spread.powi(2)
        } else {
            f64::from(u8::from(moves))
        };
        let alone_db = (of_interference - of_both * moves_with_signal).max(0.0).sqrt();
        let interference_dbm =
            Normal { mean: computed_dbm + put_right_db, spread: of_interference.max(0.0).sqrt() };
        let noise_dbm = self.cells[cell].noise_dbm + noise_figure_db - NOISE_FIGURE_DB;
        let mean = sinr_db(rsrp_dbm.mean, interference_dbm.mean, noise_dbm).min(self.cleanest_sinr_db);
        // A share of the disturbance is interference. What moves it together with the signal, walls first, counts only as far as noise
        // is left to fall under.
        let share = {
            let interference = db_to_linear(interference_dbm.mean);
            interference / (interference + db_to_linear(noise_dbm))
        };
        let of_signal = (1.0 - share * moves_with_signal) * rsrp_dbm.spread;
        let spread = of_signal.hypot(share * alone_db);
        let together = of_both.clamp(0.0, rsrp_dbm.spread.powi(2));
        let parts = [
            (rsrp_dbm.spread.powi(2) - together, SHADOW_COMMON),
            ((1.0 - share).powi(2) * together, 1.0),
            ((share * alone_db).powi(2), INTERFERENCE_COMMON),
        ];
        let variance: f64 = parts.iter().map(|(variance, _)| variance).sum();
        let common: f64 = parts.iter().map(|(variance, common)| common * variance).sum();
        let common_share = if variance > 0.0 { common / variance } else { 1.0 };
        let sinr_db = Normal { mean, spread };
        Some(Received {
            net_gain_dbi,
            pattern_db,
            polarisation_db,
            rsrp_dbm,
            interference_dbm,
            noise_dbm,
            sinr_db,
            common_share,
            rsrp_third: own.power_third,
            moves_with_signal,
            alone_db,
            interference_share: share,
            moving_dbm: moving_dbm + put_right_db,
            still_dbm: still_dbm + put_right_db,
        })
    }
}

impl Environment<'_> {
    /// Variance of a cell's interference, and its covariance with the cell's own power, dB². Where listed cells count as what was measured
    /// leaves them; else interference moves with the signal, or with the walls.
    fn moving_together(
        &self,
        own: &Arriving,
        arriving: &[Arriving],
        others: &Disturbers,
        rest: Quantity,
    ) -> (f64, f64) {
        let of_power = own.power_dbm.spread.powi(2);
        let moves = self.cells[own.cell].unlisted_moves_with_signal;
        let Some(moved) = self.moved_by(own, arriving, others).filter(|_| !moves) else {
            let together = of_power - own.apart_db(own.power_dbm.spread, moves).powi(2);
            return (self.known.at(&rest).spread.powi(2) + together, together);
        };
        let mut parts = moved.parts(own, arriving);
        let (of_wall, of_rest) = (self.known.looks(&MovedBy::wall(own)), self.known.looks(&rest));
        let mut looks: Vec<(f64, &[Look])> =
            moved.listed.iter().map(|(share, at)| (*share, &*arriving[*at].looks)).collect();
        looks.extend([(moved.walls, of_wall.as_slice()), (1.0, of_rest.as_slice())]);
        parts.push((1.0, rest));
        let own = (&Quantity::from(&own.point), &*own.looks);
        let [_, of_interference, of_both] = self.known.together(own, (&Quantity::Sum(parts), &looks));
        (of_interference, of_both)
    }
}

impl Arriving {
    /// What is doubted of the signal and does not move interference with it, dB: all but the walls; nothing where interference was measured
    /// beside the signal, or is taken to lie below it: how far their ratio differs from spot to spot is interference's own doubt.
    fn apart_db(&self, spread_db: f64, moves_with_signal: bool) -> f64 {
        if moves_with_signal {
            return 0.0;
        }
        let wall = self.wall_db.spread.powi(2);
        let spreads = &self.point.spreads;
        let parts =
            [spreads.common_db, spreads.mast_db, spreads.cell_db, spreads.shadow_db, spreads.in_the_way_db];
        let path: f64 = parts.iter().map(|spread| spread * spread).sum();
        if wall > 0.0 { (path / (wall + path)).sqrt() * spread_db } else { spread_db }
    }
}
