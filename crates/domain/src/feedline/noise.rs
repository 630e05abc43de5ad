//! Noise of a receive chain: Friis' formula for cascaded stages. A lossy stage at room temperature has a noise figure
//! equal to its loss, so loss in front of the receiver adds to its noise figure dB for dB.

use crate::metrics::{db_to_linear, linear_to_db};
use serde::{Deserialize, Serialize};

/// One stage of the chain, in the order the signal passes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CascadeStage {
    /// dB; negative for a loss.
    pub gain_db: f64,
    /// Noise figure, dB.
    pub noise_figure_db: f64,
}

impl CascadeStage {
    /// A passive part at 290 K.
    pub fn loss(loss_db: f64) -> Self {
        Self { gain_db: -loss_db, noise_figure_db: loss_db }
    }
}

/// Noise figure of the whole chain at its input, dB: F = F1 + (F2 − 1)/G1 + (F3 − 1)/(G1 G2) + …
///
/// ```
/// use open_beacon_domain::feedline::noise::{CascadeStage, cascade_noise_figure_db};
/// // 3 dB of cable before a receiver of 7 dB: 10 dB.
/// let chain = [CascadeStage::loss(3.0), CascadeStage { gain_db: 0.0, noise_figure_db: 7.0 }];
/// assert!((cascade_noise_figure_db(&chain) - 10.0).abs() < 1e-9);
/// ```
pub fn cascade_noise_figure_db(stages: &[CascadeStage]) -> f64 {
    let mut factor = 1.0;
    let mut gain = 1.0;
    for stage in stages {
        factor += (db_to_linear(stage.noise_figure_db) - 1.0) / gain;
        gain *= db_to_linear(stage.gain_db);
    }
    linear_to_db(factor)
}
