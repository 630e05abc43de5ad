//! ITU-R P.2108-1 clause 3.1: height-gain terminal correction, for an antenna below the tops of what is around it. To
//! 3 GHz. Its urban statistics (clause 3.2) are not used: they are absurd on a rural roof.

use super::p526::knife_edge_db;
use crate::model::Clutter;

/// Representative clutter height, m: table 3.
pub fn clutter_height_m(clutter: Clutter) -> f64 {
    match clutter {
        Clutter::Water | Clutter::Open | Clutter::Suburban => 10.0,
        Clutter::Woodland => 15.0,
        Clutter::DenseTown => 20.0,
    }
}

/// Why there is none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "The correction holds from 30\u{202f}MHz to 3\u{202f}GHz, for antennas and clutter above 0\u{202f}m."
)]
pub struct ClutterError;

/// Loss of an antenna at `antenna_m` among clutter of `clutter_m`, dB; 0 above it. `street_m`: width between it, 27 by
/// default in the Recommendation.
///
/// # Errors
/// [`ClutterError`].
pub fn height_gain_loss_db(
    clutter: Clutter,
    frequency_mhz: f64,
    antenna_m: f64,
    clutter_m: f64,
    street_m: f64,
) -> Result<f64, ClutterError> {
    let fine =
        (30.0..=3000.0).contains(&frequency_mhz) && antenna_m > 0.0 && clutter_m > 0.0 && street_m > 0.0;
    if !fine {
        return Err(ClutterError);
    }
    if antenna_m >= clutter_m {
        return Ok(0.0);
    }
    let ghz = frequency_mhz / 1000.0;
    Ok(match clutter {
        Clutter::Woodland | Clutter::DenseTown | Clutter::Suburban => {
            let below_m = clutter_m - antenna_m;
            let angle_deg = (below_m / street_m).atan().to_degrees();
            let nu = 0.342 * ghz.sqrt() * (below_m * angle_deg).sqrt();
            // Equation (2a) has J(ν) without the cut at −0.78; ν is positive here.
            knife_edge_db(nu) - 6.03
        }
        Clutter::Water | Clutter::Open => {
            let k = 21.8 + 6.2 * ghz.log10();
            -k * (antenna_m / clutter_m).log10()
        }
    })
}
