//! What is assumed where nothing was measured. Every assumption can be seen and changed.

use serde::{Deserialize, Serialize};

/// What is assumed where a reading does not say; each can be changed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LinkAssumptions {
    /// Most layers that antennas and gateway can use, 1..=4.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 4))]
    pub layers: u8,
    /// NR TDD slot pattern.
    pub nr_pattern: String,
    /// Downlink symbols of 14 in its special slot.
    pub nr_special_down: u8,
    /// Uplink symbols of 14 in its special slot.
    pub nr_special_up: u8,
    /// LTE TDD configuration, 0..=6.
    pub lte_configuration: u8,
    /// LTE special subframe configuration, 0..=8.
    pub lte_special: u8,
    /// Highest transmit power of the gateway, dBm.
    pub transmit_power_dbm: f64,
}

impl Default for LinkAssumptions {
    /// Common practice, no source: two layers, DDDSU with 10 and 2 symbols, configuration 2 with 7, power class 3.
    fn default() -> Self {
        Self {
            layers: 2,
            nr_pattern: "DDDSU".into(),
            nr_special_down: 10,
            nr_special_up: 2,
            lte_configuration: 2,
            lte_special: 7,
            transmit_power_dbm: 23.0,
        }
    }
}

/// How a house is built, for what its walls cost: ITU-R P.2109.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Building {
    /// Timber, brick or stone, plain glass.
    Traditional,
    /// Metallised glass, foil-backed insulation, metal roof.
    ThermallyEfficient,
}

/// A kind of outdoor antenna, before one is chosen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OutdoorKind {
    /// Hears all round.
    Omni,
    /// Wide panel or log-periodic.
    Panel,
    /// High-gain panel or dish.
    HighGain,
}

/// What is assumed of one kind of outdoor antenna.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutdoorAntenna {
    /// Kind.
    pub kind: OutdoorKind,
    /// dBi
    pub gain_dbi: f64,
    /// How much less it hears of interfering masts than of the wanted one, on the whole, dB.
    pub rejection_db: f64,
}

/// What is assumed of an outdoor antenna and its place. Common practice, no source, but for the building's loss.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutdoorAssumptions {
    /// How the building is made; either is possible where it is not said.
    pub building: Option<Building>,
    /// Gain of the gateway's own antennas, dBi.
    pub stock_gain_dbi: f64,
    /// Cable and joints to the gateway, dB.
    pub feed_loss_db: f64,
    /// Kinds, with what is assumed of each.
    pub kinds: Vec<OutdoorAntenna>,
}

impl Default for OutdoorAssumptions {
    fn default() -> Self {
        let of = |kind, gain_dbi, rejection_db| OutdoorAntenna { kind, gain_dbi, rejection_db };
        Self {
            building: None,
            stock_gain_dbi: 1.0,
            feed_loss_db: 3.0,
            kinds: vec![
                of(OutdoorKind::Omni, 4.0, 0.0),
                of(OutdoorKind::Panel, 10.0, 8.0),
                of(OutdoorKind::HighGain, 17.0, 14.0),
            ],
        }
    }
}
