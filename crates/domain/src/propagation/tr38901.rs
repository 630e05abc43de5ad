//! 3GPP TR 38.901 table 7.4.1-1, rural macro (RMa): statistical path loss where there is no terrain data. It holds
//! clutter already; nothing else for trees or clutter is added to it.

use serde::{Deserialize, Serialize};

/// The scene; defaults are the table's.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rural {
    /// Height of the mast's antenna, m, 10..=150.
    pub mast_height_m: f64,
    /// Height of the terminal's antenna, m, 1..=10.
    pub terminal_height_m: f64,
    /// Average building height, m, 5..=50.
    pub building_height_m: f64,
    /// Average street width, m, 5..=50.
    pub street_width_m: f64,
}

impl Default for Rural {
    fn default() -> Self {
        Self { mast_height_m: 35.0, terminal_height_m: 1.5, building_height_m: 5.0, street_width_m: 20.0 }
    }
}

/// Loss with and without line of sight, and what scatters about it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RuralLoss {
    /// Loss with a line of sight, dB.
    pub line_of_sight_db: f64,
    /// `None` beyond 5 km, where the table ends.
    pub obstructed_db: Option<f64>,
    /// Standard deviation of shadowing with line of sight, dB.
    pub line_of_sight_spread_db: f64,
    /// The same without, dB.
    pub obstructed_spread_db: f64,
    /// Probability of line of sight (table 7.4.2-1).
    pub line_of_sight_probability: f64,
}

/// Why the model says nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RuralError {
    /// The distance is outside the model's range.
    #[error("The rural model holds from 10\u{202f}m to 10\u{202f}km.")]
    Distance,
    /// The frequency is outside the model's range.
    #[error("The rural model holds from 500\u{202f}MHz to 30\u{202f}GHz.")]
    Frequency,
    /// The heights are outside the model's range.
    #[error("Mast 10 to 150\u{202f}m, terminal 1 to 10\u{202f}m, buildings and streets 5 to 50\u{202f}m.")]
    Heights,
}

/// Rural macro path loss. `distance_m`: along the ground, 10..=10000. `frequency_mhz`: 500..=30000.
///
/// # Errors
/// [`RuralError`] outside the table's ranges.
pub fn rural_loss(scene: &Rural, distance_m: f64, frequency_mhz: f64) -> Result<RuralLoss, RuralError> {
    if !(10.0..=10_000.0).contains(&distance_m) {
        return Err(RuralError::Distance);
    }
    if !(500.0..=30_000.0).contains(&frequency_mhz) {
        return Err(RuralError::Frequency);
    }
    let Rural { mast_height_m, terminal_height_m, building_height_m, street_width_m } = *scene;
    let usual = 5.0..=50.0;
    let heights = (10.0..=150.0).contains(&mast_height_m)
        && (1.0..=10.0).contains(&terminal_height_m)
        && usual.contains(&building_height_m)
        && usual.contains(&street_width_m);
    if !heights {
        return Err(RuralError::Heights);
    }
    let all = continued(scene, distance_m, frequency_mhz);
    Ok(RuralLoss { obstructed_db: all.obstructed_db.filter(|_| distance_m <= 5000.0), ..all })
}

/// The table's formulas continued past 5 and 10 km, where it promises nothing: steady in distance, obstructed everywhere. The caller widens
/// what it makes of it. `distance_m`: from 10 on. Heights as in [`Rural`].
pub fn continued(scene: &Rural, distance_m: f64, frequency_mhz: f64) -> RuralLoss {
    let Rural { mast_height_m, terminal_height_m, building_height_m, street_width_m } = *scene;
    let ghz = frequency_mhz / 1000.0;
    let slant = |ground_m: f64| ground_m.hypot(mast_height_m - terminal_height_m);
    // The table's constant of 3·10⁸ m/s is part of the model.
    let breakpoint_m = std::f64::consts::TAU * mast_height_m * terminal_height_m * ghz * 1e9 / 3e8;
    let h = building_height_m;
    let first = |d_m: f64| {
        20.0 * (40.0 * std::f64::consts::PI * d_m * ghz / 3.0).log10()
            + (0.03 * h.powf(1.72)).min(10.0) * d_m.log10()
            - (0.044 * h.powf(1.72)).min(14.77)
            + 0.002 * h.log10() * d_m
    };
    let (line_of_sight_db, line_of_sight_spread_db) = if distance_m <= breakpoint_m {
        (first(slant(distance_m)), 4.0)
    } else {
        (first(breakpoint_m) + 40.0 * (slant(distance_m) / breakpoint_m).log10(), 6.0)
    };
    let d_m = slant(distance_m);
    let obstructed = 161.04 - 7.1 * street_width_m.log10() + 7.5 * h.log10()
        - (24.37 - 3.7 * (h / mast_height_m).powi(2)) * mast_height_m.log10()
        + (43.42 - 3.1 * mast_height_m.log10()) * (d_m.log10() - 3.0)
        + 20.0 * ghz.log10()
        - (3.2 * (11.75 * terminal_height_m).log10().powi(2) - 4.97);
    RuralLoss {
        line_of_sight_db,
        obstructed_db: Some(obstructed.max(line_of_sight_db)),
        line_of_sight_spread_db,
        obstructed_spread_db: 8.0,
        line_of_sight_probability: (-(distance_m - 10.0) / 1000.0).exp().min(1.0),
    }
}
