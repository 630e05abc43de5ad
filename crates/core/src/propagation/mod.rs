//! Loss on the way, one file a Recommendation.

pub mod p2109;
pub mod p525;
pub mod p526;
pub mod tr38901;
