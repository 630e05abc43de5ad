//! Two single antennas as a pair: slants at right angles, and a distance that keeps their ports apart.

use crate::propagation::p525::{free_space_loss_db, wavelength_m};
use serde::{Deserialize, Serialize};

/// What a pair of antennas does to two ports.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PairCheck {
    /// Angle between the two polarisations, degrees, 0..=90.
    pub between_deg: f64,
    /// How far one port hears what is meant for the other, by their slants alone, dB (0: wholly).
    pub coupling_db: f64,
    /// Free-space loss between the two antennas, dB; their gains towards each other come on top.
    pub isolation_db: f64,
    /// What to do and why, in sentences.
    pub words: Vec<String>,
}

/// Coupling beyond which nothing is gained any more: no element's own cross-polarisation is better (common practice, no
/// source).
const CLEAN_DB: f64 = -25.0;
/// Isolation that two ports of one gateway should have at least, dB (common practice, no source).
const ISOLATION_WANTED_DB: f64 = 25.0;

/// Judges a pair. Slants in degrees from upright (any turn), distance in m (> 0), frequency in MHz (> 0).
///
/// Coupling by the angle between two linear polarisations, 20 log|cos| (definition of linear polarisation); isolation as
/// free-space loss at that distance (ITU-R P.525-4, equation 4), which holds from about a wavelength on.
pub fn pair_check(first_deg: f64, second_deg: f64, apart_m: f64, frequency_mhz: f64) -> PairCheck {
    // Polarisations repeat every half turn.
    let turned = (second_deg - first_deg).rem_euclid(180.0);
    let between_deg = turned.min(180.0 - turned);
    let coupling_db = (20.0 * between_deg.to_radians().cos().abs().max(1e-4).log10()).max(-60.0);
    let wavelength_m = wavelength_m(frequency_mhz);
    let isolation_db = free_space_loss_db(apart_m, frequency_mhz);
    let mut words = Vec::new();
    if coupling_db <= CLEAN_DB {
        words.push(format!("The slants stand {between_deg:.0}° apart: each port hears its own."));
    } else {
        let turn = if turned <= 90.0 { 90.0 - turned } else { turned - 90.0 };
        let way = if turned <= 90.0 { "clockwise" } else { "anticlockwise" };
        words.push(format!(
            "The slants stand {between_deg:.0}° apart, and each port hears the other's signal only {:.0}\u{202f}dB weaker. Turn \
             the second antenna {turn:.0}° {way}, seen from behind.",
            -coupling_db
        ));
    }
    let total_db = isolation_db - coupling_db;
    if apart_m < wavelength_m {
        words.push(format!(
            "They stand closer than one wavelength ({wavelength_m:.2}\u{202f}m) and bend each other's pattern: move them apart."
        ));
    } else if total_db < ISOLATION_WANTED_DB {
        let wanted = apart_m * 10f64.powf((ISOLATION_WANTED_DB - total_db) / 20.0);
        words.push(format!(
            "Between the ports lie about {total_db:.0}\u{202f}dB; {ISOLATION_WANTED_DB:.0} are wanted. Move them to {wanted:.1}\u{202f}m \
             apart, or mend the slants."
        ));
    } else {
        words.push(format!(
            "Distance and slants together keep the ports about {total_db:.0}\u{202f}dB apart: enough."
        ));
    }
    PairCheck { between_deg, coupling_db, isolation_db, words }
}
