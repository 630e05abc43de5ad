//! Parts put together into a kit: does everything mate, what is lost on the way, what it does at this site, what it
//! costs, what to buy and how to put it up.
//!
//! | Module | |
//! |---|---|
//! | [`catalogue`] | finding parts, the built-in ones, checks of an entry |
//! | [`resolve`] | a kit with its parts looked up |
//! | [`chain`] | leads, their joints and ends |
//! | [`check`], [`ports`], [`placing`] | what is wrong, with the fix |
//! | [`budget`] | loss, noise and gain by band |
//! | [`scene`] | what is known of the air at this site |
//! | [`air`] | signal, interference and noise of a carrier, apart |
//! | [`predict`] | signal, clean signal, rates and margin with a kit |
//! | [`assess`] | all of it together, for one kit
//! | [`need`] | what the household needs |
//! | [`effort`] | price, hours, holes |
//! | [`suggest`] | cheapest kit that meets the need, best under a price |
//! | [`job`], [`job_words`] | parts list, steps and cautions for the day |
//! | [`finding`], [`say`] | findings and their words |

pub mod air;
pub mod assess;
pub mod budget;
pub mod catalogue;
pub mod chain;
pub mod check;
pub mod effort;
pub mod finding;
pub mod gain;
pub mod job;
pub mod job_words;
pub mod need;
pub mod placing;
pub mod ports;
pub mod predict;
pub mod resolve;
pub mod say;
pub mod scene;
pub mod suggest;
pub mod wanted;
