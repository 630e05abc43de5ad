//! Loss on the way, one file a Recommendation.

pub mod p2109;
