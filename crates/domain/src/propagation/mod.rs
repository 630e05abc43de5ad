//! Loss on the way, one file a Recommendation.

pub mod itm;
pub mod p2040;
pub mod p2108;
pub mod p2109;
pub mod p525;
pub mod p526;
pub mod p833;
pub mod tr38901;
