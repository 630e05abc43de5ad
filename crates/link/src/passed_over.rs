//! Carriers that the network never gave beside others, though they are strong enough: a prediction does not count on them.

use super::cells::{Observation, carriers_of, mode_of};
use super::environment::{Arriving, Environment, share_point};
use super::field::SharePoint;
use super::given::Given;
use super::landscape::same_channel;
use super::receiver::Receiver;
use open_beacon_domain::model::{CarrierRole, ConnectionMode};

/// Ways of being connected in which carriers are given.
const MODES: [ConnectionMode; 3] = [ConnectionMode::Lte, ConnectionMode::Nsa, ConnectionMode::Sa];

/// Fewer readings may have been taken while nothing was asked for, when carriers are not added (common practice, no source).
const FEWEST_READINGS: usize = 5;

/// What was read at a setup: which cell each carrier is, and how all cells arrive there.
struct Read<'a> {
    seen: &'a Observation<'a>,
    own: &'a [Option<usize>],
    arriving: &'a [Arriving],
}

impl Environment<'_> {
    /// What was given where one is connected in a way.
    pub(super) fn given_in(&self, mode: ConnectionMode) -> Option<&Given> {
        self.given.iter().find(|given| given.mode == mode)
    }

    /// Whether a cell is passed over by a receiver that is connected in its way; one that takes more carriers at once may be given it.
    pub(super) fn passes_over(&self, cell: usize, receiver: &Receiver) -> bool {
        let at_once = self.given_in(receiver.mode).and_then(|given| given.passed_over[cell]);
        at_once.is_some_and(|at_once| receiver.aggregated() <= at_once)
    }

    /// The role that a cell was given at this very setup.
    pub(super) fn role_at(
        &self,
        mode: ConnectionMode,
        setup: &SharePoint,
        cell: usize,
    ) -> Option<CarrierRole> {
        let cells = self.given_in(mode)?.at(setup)?;
        cells.iter().find(|(own, _)| *own == cell).map(|(_, role)| *role)
    }

    /// The mast that served this very setup when it was read: that of most of its carriers.
    pub(super) fn served_by(&self, setup: &SharePoint) -> Option<usize> {
        let cells = self.given.iter().find_map(|given| given.at(setup))?;
        let masts: Vec<usize> = cells.iter().filter_map(|(cell, _)| self.cells[*cell].mast).collect();
        let count = |mast: &usize| masts.iter().filter(|other| *other == mast).count();
        masts.iter().copied().max_by_key(count)
    }

    /// What was given where one is connected in each way. A cell was passed over where the gateway was free to take it, took several others of
    /// the mast, one of them of the same technology and weaker, and it was never given beside one of its technology: of the two a network that
    /// does so gives one.
    pub(super) fn given(
        &self,
        observations: &[Observation],
        heard: &[Vec<Option<usize>>],
        arriving: &[Vec<Arriving>],
    ) -> Vec<Given> {
        let all = observations.iter().zip(heard).zip(arriving).filter(|((seen, _), _)| !seen.turned);
        let all: Vec<Read> = all.map(|((seen, own), arriving)| Read { seen, own, arriving }).collect();
        MODES.iter().map(|mode| self.given_by(*mode, &all)).collect()
    }

    fn given_by(&self, mode: ConnectionMode, all: &[Read]) -> Given {
        let mut passed_over = vec![None; self.cells.len()];
        let mut beside = vec![false; self.cells.len()];
        let mut weakest_dbm = vec![f64::INFINITY; self.cells.len()];
        let mut at = Vec::new();
        let in_mode = |seen: &Observation| mode_of(seen.mode, seen.carriers.iter()) == mode;
        for Read { seen, own, arriving } in all.iter().filter(|one| in_mode(one.seen)) {
            let cells: Vec<usize> = own.iter().flatten().copied().collect();
            for cell in &cells {
                beside[*cell] |= cells.iter().any(|other| other != cell && self.are_of_one(*cell, *other));
            }
            let taken: Vec<(usize, f64)> = carriers_of(seen, own)
                .filter_map(|(carrier, cell)| Some((cell, carrier.rsrp_dbm?)))
                .collect();
            for (cell, rsrp_dbm) in &taken {
                weakest_dbm[*cell] = weakest_dbm[*cell].min(*rsrp_dbm);
            }
            let roles = carriers_of(seen, own).map(|(carrier, cell)| (cell, carrier.role)).collect();
            at.push((share_point(&seen.location, &seen.antenna, seen.aim, &seen.lock), roles));
            if taken.len() < 2 || seen.samples < FEWEST_READINGS {
                continue;
            }
            let at_once = Receiver::new(seen.antenna, self.settings, mode, 4).aggregated();
            for there in arriving.iter().filter(|there| self.is_passed_over(there, arriving, seen, &taken)) {
                passed_over[there.cell] = passed_over[there.cell].max(Some(at_once));
            }
        }
        for (passed_over, beside) in passed_over.iter_mut().zip(beside) {
            *passed_over = passed_over.filter(|_| !beside);
        }
        Given { mode, passed_over, weakest_dbm, at }
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
        here_dbm.is_some_and(|dbm| dbm - self.known.at(&(&there.point).into()).spread > weakest_dbm)
    }

    /// Whether two cells are of one mast and technology.
    fn are_of_one(&self, a: usize, b: usize) -> bool {
        let (a, b) = (&self.cells[a], &self.cells[b]);
        (a.mast, a.carrier.technology) == (b.mast, b.carrier.technology)
    }
}
