//! Bands: what is on offer, which choices are worth a lock, in which order they are tried, and which one stays.
//!
//! | Part | |
//! |---|---|
//! | [`offer`] | bands heard, of the mast, of gateway, antenna and feed line, with gain and loss |
//! | [`choice`] | choices of bands and what each could carry |
//! | [`score`] | one number a test, by what it is wanted for |
//! | [`order`] | what a gateway is told: names, lists, masks |
//! | [`known`] | the gateway's bands as far as they are known, trials judged together |
//! | [`confirm`] | whether it did as it was told |
//! | [`wait`] | how long it is waited for |
//! | [`plan`] | how many tests, minutes and megabytes |
//! | [`next`] | which choice is visited next, when one is dropped, when it is enough |
//! | [`judge`] | measured against possible, winners by need and by hour |

pub mod choice;
pub mod confirm;
pub mod judge;
pub mod known;
pub mod next;
pub mod offer;
pub mod order;
pub mod plan;
pub mod score;
pub mod visit;
pub mod wait;
