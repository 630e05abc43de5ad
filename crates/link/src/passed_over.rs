//! Carriers that the network never gave beside others, though they are strong enough: a prediction does not count on them.

use super::cells::{Observation, carriers_of};
use super::environment::{Arriving, Environment};
use super::landscape::same_channel;
use super::receiver::Receiver;

/// Fewer readings may have been taken while nothing was asked for, when carriers are not added (common practice, no source).
const FEWEST_READINGS: usize = 5;

impl Environment<'_> {
    /// Of each cell: with how many carriers at once the gateway passed it over; `None` where it was given, or there is no telling. It was passed
    /// over where the gateway was free to take it, took several others of the mast, one of them of the same technology and weaker, and it
    /// was never given beside others. What a lock leaves as the only one is used all the same.
    pub(super) fn passed_over(
        &self,
        observations: &[Observation],
        heard: &[Vec<Option<usize>>],
        arriving: &[Vec<Arriving>],
    ) -> Vec<Option<usize>> {
        let mut found = vec![None; self.cells.len()];
        let mut given = vec![false; self.cells.len()];
        for ((seen, own), arriving) in observations.iter().zip(heard).zip(arriving) {
            for cell in own.iter().flatten() {
                given[*cell] |= self.has_choice(*cell, seen);
            }
            let taken: Vec<(usize, f64)> = carriers_of(seen, own)
                .filter_map(|(carrier, cell)| Some((cell, carrier.rsrp_dbm?)))
                .collect();
            if taken.len() < 2 || seen.samples < FEWEST_READINGS || seen.turned {
                continue;
            }
            let at_once = Receiver::new(seen.antenna, self.settings, seen.mode, 4).aggregated();
            for there in arriving.iter().filter(|there| self.is_passed_over(there, arriving, seen, &taken)) {
                found[there.cell] = found[there.cell].max(Some(at_once));
            }
        }
        for (found, given) in found.iter_mut().zip(given) {
            *found = found.filter(|_| !given);
        }
        found
    }

    fn is_passed_over(
        &self,
        there: &Arriving,
        arriving: &[Arriving],
        seen: &Observation,
        taken: &[(usize, f64)],
    ) -> bool {
        let cell = &self.cells[there.cell];
        if self.of_mast(there.cell).is_none() || !seen.lock.allows(cell.band) {
            return false;
        }
        if taken.iter().any(|(other, _)| same_channel(&self.cells[*other].carrier, &cell.carrier)) {
            return false;
        }
        let weakest_dbm = taken
            .iter()
            .filter(|(other, _)| self.are_of_one(there.cell, *other))
            .map(|(_, rsrp_dbm)| *rsrp_dbm)
            .reduce(f64::min);
        let Some(weakest_dbm) = weakest_dbm else { return false };
        let aim = seen.aim.or(there.from.map(|from| seen.antenna.aimed_at(from)));
        let here_dbm = self.rsrp_dbm(there.cell, arriving, &seen.antenna, aim);
        here_dbm.is_some_and(|dbm| dbm - self.power.at(&there.point).spread > weakest_dbm)
    }

    /// Whether the gateway was free to use others of the mast instead.
    fn has_choice(&self, cell: usize, seen: &Observation) -> bool {
        let others = (0..self.cells.len()).filter(|other| *other != cell && self.are_of_one(cell, *other));
        others
            .map(|other| self.cells[other].band)
            .any(|band| band != self.cells[cell].band && seen.lock.allows(band))
    }

    /// Whether two cells are of one mast and technology.
    fn are_of_one(&self, a: usize, b: usize) -> bool {
        let (a, b) = (&self.cells[a], &self.cells[b]);
        (a.mast, a.carrier.technology) == (b.mast, b.carrier.technology)
    }
}
