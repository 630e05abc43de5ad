//! The hardware of a kit: parts looked up, what joins what, and what is lost or gained on the way at a frequency.
//!
//! | Module | |
//! |---|---|
//! | [`catalogue`] | finding parts, the built-in ones, checks of an entry |
//! | [`resolve`] | a kit with its parts looked up |
//! | [`chain`] | leads, their joints and ends |
//! | [`budget`], [`gain`] | loss, noise and gain by band |
//! | [`ports`] | which bands reach which port of the gateway |

pub mod budget;
pub mod catalogue;
pub mod chain;
pub mod gain;
pub mod ports;
pub mod resolve;
