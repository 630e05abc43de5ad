//! Interference on a cell's channel: of the cells that are listed, and of those that no list has, put right by what was measured.

use super::antenna::{Aim, AimAntenna};
use super::cells::{Observation, SILL_M, carriers_of};
use super::environment::{Arriving, Environment, towards_db};
use super::field::{InterferencePoint, NotKnown, Quantity};
use super::gaussian::Measurement;
use super::implied::{Implied, interference_heard};
use super::landscape::{AntennaLocation, IDLE_SHARE, same_channel};
use super::rural::height_term_db;
use open_beacon_domain::metrics::{db_to_linear, linear_to_db};

/// Listed cells that make less of the interference do not count in its doubt.
const LEAST_SHARE: f64 = 0.05;
/// How far the ratio of signal and interference differs between spots of a house, dB (common practice, no source).
const UNLISTED_SPOT_DB: f64 = 2.0;

impl Environment<'_> {
    /// Where no mast of a channel is listed, what was heard says how far its interference lies below the signal: walls, shadowing and
    /// height move both, so that their ratio is better known than either. Readings count by their spreads; what noise hides or may
    /// hide counts where there is nothing else. Answers of each cell whether there is.
    pub(super) fn learn_unlisted(
        &mut self,
        observations: &[Observation],
        heard: &[Vec<Option<usize>>],
        arriving: &[Vec<Arriving>],
    ) -> Vec<bool> {
        // Of each cell: weighted sum and weights, of what is clear and of what is not.
        let mut below = vec![[(0.0, 0.0); 2]; self.cells.len()];
        for ((seen, own), arriving) in observations.iter().zip(heard).zip(arriving) {
            for (carrier, cell) in carriers_of(seen, own).filter(|_| !seen.turned) {
                let Some(aim) = self.aim_of(seen, cell, arriving) else { continue };
                let there = arriving.iter().find(|one| one.cell == cell);
                let (Some(rsrp_dbm), Some(there)) = (carrier.rsrp_dbm, there) else { continue };
                if self.listed_beside(cell, arriving) {
                    continue;
                }
                let noise_dbm = self.cells[cell].noise_dbm;
                let computed_dbm = self.interference_dbm(cell, arriving, &seen.antenna, aim);
                let heard = computed_dbm.and_then(|dbm| interference_heard(carrier, noise_dbm, dbm));
                let Some(Implied { dbm, spread_db, is_clear }) = heard else { continue };
                let below_db = rsrp_dbm - dbm + towards_db(&seen.antenna, aim, there.from)
                    - seen.antenna.rejection_db(&self.interferers_off_deg(aim));
                let weight = 1.0 / (spread_db * spread_db + UNLISTED_SPOT_DB * UNLISTED_SPOT_DB);
                below[cell][usize::from(!is_clear)].0 += weight * below_db;
                below[cell][usize::from(!is_clear)].1 += weight;
            }
        }
        for (cell, of_cell) in self.cells.iter_mut().zip(&below) {
            if let Some((sum, weights)) = of_cell.iter().find(|(_, weights)| *weights > 0.0) {
                cell.unlisted_dbm = f64::NEG_INFINITY;
                cell.unlisted_below_db = Some(sum / weights);
                cell.unlisted_moves_with_signal = true;
            }
        }
        below.iter().map(|[(_, clear), _]| *clear > 0.0).collect()
    }

    /// What the interference of readings says: of what no list has, and, where listed cells make a part of it, of their powers as well. Linear in
    /// decibels about what is likely. `clear`: cells of which there are clear readings, beside which others do not count.
    pub(super) fn interference_measured(
        &self,
        observations: &[Observation],
        heard: &[Vec<Option<usize>>],
        clear: &[bool],
    ) -> Vec<Measurement<Quantity>> {
        let mut found = Vec::new();
        // Interference at another bearing is another's: points of a sweep tell of power only.
        for (seen, own) in observations.iter().zip(heard).filter(|(seen, _)| !seen.turned) {
            let arriving = self.likely_at(seen);
            for (carrier, cell) in carriers_of(seen, own) {
                let Some(aim) = self.aim_of(seen, cell, &arriving) else { continue };
                let Some(others) = self.disturbers(cell, &arriving, &seen.antenna, aim) else { continue };
                let Some(here) = arriving.iter().find(|one| one.cell == cell) else { continue };
                let power_dbm = |at: usize| arriving[at].power_dbm.mean;
                let computed_dbm = others.dbm(power_dbm, here.power_dbm.mean, here.learned_wall_db);
                let heard = interference_heard(carrier, self.cells[cell].noise_dbm, computed_dbm);
                let Some(heard) = heard.filter(|one| one.is_clear || !clear[cell]) else { continue };
                let point = self.interference_point(cell, &seen.location, &seen.antenna, aim);
                let rest = Quantity::Interference(point);
                let moved = self.moved_by(here, &arriving, &others).filter(|_| heard.is_clear);
                let (point, put_right_db) = match moved {
                    None => (rest, 0.0),
                    Some(moved) => {
                        let mut parts = moved.parts(here, &arriving);
                        // The level computed has what these were put right by already.
                        let put_right_db =
                            parts.iter().map(|(weight, one)| weight * self.known.shift(one)).sum();
                        parts.push((1.0, rest));
                        (Quantity::Sum(parts), put_right_db)
                    }
                };
                let residual = heard.dbm - computed_dbm + put_right_db;
                found.push(Measurement { point, residual, noise: heard.spread_db });
            }
        }
        found
    }

    /// What moves the interference beside a cell. `None` where no listed cell counts.
    pub(super) fn moved_by(
        &self,
        own: &Arriving,
        arriving: &[Arriving],
        others: &Disturbers,
    ) -> Option<MovedBy> {
        let power_dbm = |at: usize| arriving[at].power_dbm.mean;
        let all_dbm = others.dbm(power_dbm, own.power_dbm.mean, own.learned_wall_db);
        let share = |(at, gain_db): &(usize, f64)| (db_to_linear(power_dbm(*at) + gain_db - all_dbm), *at);
        let listed: Vec<(f64, usize)> =
            others.listed.iter().map(share).filter(|(share, _)| *share > LEAST_SHARE).collect();
        let walls = 1.0 - listed.iter().map(|(share, _)| share).sum::<f64>();
        (!listed.is_empty()).then_some(MovedBy { listed, walls })
    }

    fn listed_beside(&self, cell: usize, arriving: &[Arriving]) -> bool {
        arriving.iter().any(|other| {
            other.cell != cell
                && self.of_mast(other.cell).is_some()
                && same_channel(&self.cells[other.cell].carrier, &self.cells[cell].carrier)
        })
    }

    /// Interference on a cell's channel behind an antenna, one resource element, dBm: listed cells through the pattern, and what
    /// no list has from all round or from the bearings that are said; before it is put right. `None` where the antenna is
    /// not made for the frequency.
    pub(super) fn interference_dbm(
        &self,
        cell: usize,
        arriving: &[Arriving],
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> Option<f64> {
        let here = arriving.iter().find(|one| one.cell == cell)?;
        let others = self.disturbers(cell, arriving, antenna, aim)?;
        let power_dbm = |at: usize| arriving[at].power_dbm.mean;
        Some(others.dbm(power_dbm, here.power_dbm.mean, here.learned_wall_db))
    }

    /// Who disturbs a cell behind an antenna; see [`Self::interference_dbm`].
    pub(super) fn disturbers(
        &self,
        cell: usize,
        arriving: &[Arriving],
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> Option<Disturbers> {
        let own = &self.cells[cell];
        let here = arriving.iter().find(|one| one.cell == cell)?;
        let gain_dbi =
            antenna.net_gain_dbi(own.frequency_mhz, self.settings)? - antenna.polarisation_loss_db();
        let listed = arriving
            .iter()
            .enumerate()
            .filter(|(_, other)| {
                other.cell != cell
                    && self.of_mast(other.cell).is_some()
                    && same_channel(&self.cells[other.cell].carrier, &own.carrier)
            })
            .map(|(at, other)| {
                let share = IDLE_SHARE + (1.0 - IDLE_SHARE) * other.load;
                (at, gain_dbi - towards_db(antenna, aim, other.from) + linear_to_db(share))
            })
            .collect();
        // What height brings of the signal it brings of interference too.
        let raised_db = height_term_db(here.point.height_m, own.frequency_mhz)
            - height_term_db(SILL_M, own.frequency_mhz);
        Some(Disturbers {
            listed,
            unlisted_dbm: own.unlisted_dbm + raised_db,
            below_own_db: own.unlisted_below_db,
            unlisted_gain_db: gain_dbi - antenna.rejection_db(&self.interferers_off_deg(aim)),
        })
    }

    /// How far off the beam interferers stand that are said by their bearings, degrees.
    pub fn interferers_off_deg(&self, aim: Option<Aim>) -> Vec<f64> {
        let towards =
            aim.map(|aim| aim.azimuth_deg).or(self.settings.known_mast.as_ref().map(|mast| mast.bearing_deg));
        let bearings = &self.settings.kit.interferer_bearings_deg;
        towards.map_or_else(Vec::new, |from| {
            bearings.iter().map(|bearing| open_beacon_domain::geo::turn_deg(from, *bearing)).collect()
        })
    }

    pub(super) fn interference_point(
        &self,
        cell: usize,
        location: &AntennaLocation,
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> InterferencePoint {
        InterferencePoint {
            cell,
            spot: location.spot(),
            antenna: antenna.key(),
            azimuth_deg: aim.filter(|_| antenna.is_pointed()).map(|aim| aim.azimuth_deg),
        }
    }
}

/// What moves interference, by how many dB a dB.
pub(super) struct MovedBy {
    /// The powers of the listed cells that make it: places among those that arrive.
    pub listed: Vec<(f64, usize)>,
    /// The walls, for what no list has.
    pub walls: f64,
}

impl MovedBy {
    /// The walls before a cell.
    pub fn wall(own: &Arriving) -> Quantity {
        Quantity::Power(own.point.alone(NotKnown::Walls))
    }

    /// Each with its weight.
    pub fn parts(&self, own: &Arriving, arriving: &[Arriving]) -> Vec<(f64, Quantity)> {
        let listed = self.listed.iter().map(|(share, at)| (*share, Quantity::from(&arriving[*at].point)));
        listed.chain([(self.walls, Self::wall(own))]).collect()
    }
}

/// Who disturbs a cell behind an antenna.
#[derive(Clone, Debug)]
pub(super) struct Disturbers {
    /// Places among those that arrive, and what antenna and load make of each, dB.
    listed: Vec<(usize, f64)>,
    /// Of cells that no list has, in the open at this height, dBm; and how far below the own signal they lie at the most, dB.
    unlisted_dbm: f64,
    below_own_db: Option<f64>,
    unlisted_gain_db: f64,
}

impl Disturbers {
    /// One resource element, dBm, by the power that arrives of each (a place among those that arrive), of the cell itself, and what the
    /// wall takes.
    pub(super) fn dbm(&self, power_dbm: impl Fn(usize) -> f64, own_dbm: f64, wall_db: f64) -> f64 {
        let listed: f64 =
            self.listed.iter().map(|(at, gain_db)| db_to_linear(power_dbm(*at) + gain_db)).sum();
        let (moving_dbm, still_dbm) = self.moving_and_still_dbm(own_dbm, wall_db);
        linear_to_db(listed + db_to_linear(moving_dbm.max(still_dbm)))
    }

    /// The parts of interference that no list has: what moves with the signal, and what stays, dBm.
    pub(super) fn moving_and_still_dbm(&self, own_dbm: f64, wall_db: f64) -> (f64, f64) {
        let below_own_dbm = self.below_own_db.map_or(f64::NEG_INFINITY, |below_db| own_dbm - below_db);
        (below_own_dbm + self.unlisted_gain_db, self.unlisted_dbm - wall_db + self.unlisted_gain_db)
    }

    /// Places among those that arrive of the listed ones.
    pub(super) fn listed(&self) -> impl Iterator<Item = usize> {
        self.listed.iter().map(|(at, _)| *at)
    }
}
