//! Antennas as the catalogue describes them: pattern from gain, beamwidths and front-to-back ratio; polarisation.
//!
//! | Part | Source |
//! |---|---|
//! | [`pattern`] | 3GPP TR 36.814 table A.2.1.1-2, TR 38.901 table 7.3-1 |
//! | [`polarisation`] | closed form |

pub mod pattern;
pub mod polarisation;
