//! Which carriers a network gave, as readings show it.

use super::field::SharePoint;
use open_beacon_domain::model::{CarrierRole, ConnectionMode};

/// A carrier that was given at a level is given as well where it is weaker by this, dB (common practice, no source).
const AS_STRONG_DB: f64 = 3.0;

/// What was given where one is connected in one way.
#[derive(Debug)]
pub(super) struct Given {
    pub mode: ConnectionMode,
    /// Of each cell: with how many carriers at once it was passed over.
    pub passed_over: Vec<Option<usize>>,
    /// The weakest that each cell was given at, dBm.
    pub weakest_dbm: Vec<f64>,
    /// Cells given at each setup that was read, with their roles.
    pub at: Vec<(SharePoint, Vec<(usize, CarrierRole)>)>,
}

/// A carrier that may be given.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Candidate {
    pub cell: usize,
    pub passed_over: bool,
    pub rsrp_dbm: f64,
    /// Download that it brings, Mbit/s.
    pub brings_mbps: f64,
}

impl Given {
    /// Cells given at this very setup, where it was read.
    pub fn at(&self, setup: &SharePoint) -> Option<&[(usize, CarrierRole)]> {
        self.at.iter().find(|(at, _)| at.is_same(setup)).map(|(_, cells)| cells.as_slice())
    }

    /// Of carriers of one technology some of which are passed over beside the others: whether the network gives those. What was given at this
    /// very setup is given again; else the others are given where they are as strong as they ever were; else those that bring the most.
    pub fn gives_passed_over(&self, setup: &SharePoint, carriers: &[Candidate]) -> bool {
        let most = |among: &dyn Fn(&Candidate) -> bool| {
            let own = carriers.iter().filter(|one| among(one));
            own.max_by(|a, b| a.brings_mbps.total_cmp(&b.brings_mbps)).copied()
        };
        let here = self.at(setup);
        let was_given =
            |one: &Candidate| here.is_some_and(|cells| cells.iter().any(|(cell, _)| *cell == one.cell));
        if let Some(one) = most(&was_given) {
            return one.passed_over;
        }
        let as_strong =
            |one: &Candidate| !one.passed_over && one.rsrp_dbm > self.weakest_dbm[one.cell] - AS_STRONG_DB;
        !carriers.iter().any(as_strong) && most(&|_| true).is_some_and(|one| one.passed_over)
    }
}
