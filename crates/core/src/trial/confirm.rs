//! Whether a gateway did as it was told: read back from the carriers it uses.

use crate::model::{BandAccess, BandChoice, Carrier, ConnectionMode, LockIntent, Reading, Technology};

/// What a reading says of a lock.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Confirmed {
    /// Attached, on allowed bands only, in the way that was asked for.
    Yes,
    /// Not attached, or a carrier that was asked for is not there yet.
    NotYet,
    /// A band or a mode that was locked out is in use.
    Otherwise,
}

/// Reads a lock back. NR that only rides along may be missing on an idle line: then it is not there yet.
pub fn confirm(choice: &BandChoice, reading: &Reading) -> Confirmed {
    if reading.mode == ConnectionMode::NoService || reading.carriers.is_empty() {
        return Confirmed::NotYet;
    }
    if reading.carriers.iter().any(|carrier| !choice.allows_carrier(carrier)) {
        return Confirmed::Otherwise;
    }
    let has = |technology| reading.carriers.iter().any(|carrier| carrier.technology == technology);
    let there = match choice.access {
        BandAccess::Any => choice.nr.is_empty() || has(Technology::Nr),
        BandAccess::Lte => has(Technology::Lte),
        BandAccess::Nsa if reading.mode == ConnectionMode::Sa => return Confirmed::Otherwise,
        BandAccess::Nsa => has(Technology::Nr) && has(Technology::Lte),
        BandAccess::Sa => has(Technology::Nr),
    };
    if there { Confirmed::Yes } else { Confirmed::NotYet }
}

/// Reads back whether a gateway is where it goes back to. Where it used carriers before that the lock shut out, it has to use
/// what the lock shut out again, as far as the way back allows it: a connection that the lock would allow as well proves nothing.
pub fn confirm_undone(intent: &LockIntent, reading: &Reading) -> Confirmed {
    let shut_out =
        |carrier: &Carrier| intent.good.allows_carrier(carrier) && !intent.wanted.allows_carrier(carrier);
    match confirm(&intent.good, reading) {
        Confirmed::Yes if intent.before.iter().any(shut_out) && !reading.carriers.iter().any(shut_out) => {
            Confirmed::Otherwise
        }
        read => read,
    }
}
