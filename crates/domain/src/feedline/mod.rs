//! Feed lines: loss of cables and joints, what mates with what, noise of the receive chain, power over Ethernet.
//!
//! | Part | Source |
//! |---|---|
//! | [`cable`] | k1 √f + k2 f fitted to public cable-class tables, copper's temperature law |
//! | [`joint`] | connector series, gender and reverse polarity; losses common practice |
//! | [`noise`] | Friis' formula |
//! | [`ethernet`] | IEEE 802.3 loop resistance and far-end power |

pub mod cable;
pub mod ethernet;
pub mod joint;
pub mod noise;
