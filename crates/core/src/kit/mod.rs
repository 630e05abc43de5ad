//! Parts put together into a kit: does everything mate, what is lost on the way, what it does at this site, what it
//! costs, what to buy and how to put it up.
//!
//! | Module | |
//! |---|---|
//! | [`check`], [`ports`], [`mounting`] | what is wrong, with the fix |
//! | [`scenario`] | the house as kits are judged at it |
//! | [`predict`] | signal, clean signal, rates and margin with a kit |
//! | [`assess`] | all of it together, for one kit
//! | [`need`] | what the household needs |
//! | [`effort`] | price, hours, holes |
//! | [`suggest`] | cheapest kit that meets the need, best under a price |
//! | [`job`] | parts list, steps and cautions for the day |
//! | [`finding`] | what is found, worded by [`crate::words::kit`] |

pub mod assess;
pub mod check;
pub mod effort;
pub mod finding;
pub mod job;
pub mod mounting;
pub mod need;
pub mod ports;
pub mod predict;
pub mod scenario;
pub mod suggest;
pub mod wanted;
