//! How setups are tested against each other.

use super::SetupId;
use serde::{Deserialize, Serialize};

/// In which order setups are tested within one sitting.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TestOrder {
    /// A B B A: a steady change of the network's load favours none, in every sitting.
    #[default]
    ThereAndBack,
    /// A B, and B A the next time: half the climbs, and a steady change is cancelled by two sittings together.
    OneWay,
}

/// What the test plan is made by.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ProtocolSettings {
    /// Setups that are compared; empty for those that may be the best.
    pub setups: Vec<SetupId>,
    /// Order within a sitting.
    pub order: TestOrder,
    /// Tests that the program runs by itself.
    pub repeats: RepeatSettings,
}

/// Tests that the program runs by itself, with the antenna as it stands.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RepeatSettings {
    /// Whether it does.
    pub on: bool,
    /// Time from one to the next, h, 1..=48.
    #[cfg_attr(feature = "schema", schema(minimum = 1.0, maximum = 48.0))]
    pub every_h: f64,
    /// Speed tests each time, 1..=5.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 5))]
    pub tests: u8,
    /// Data that all tests of the site may move in a calendar month, MB, 50..=10 000 000.
    #[cfg_attr(feature = "schema", schema(minimum = 50.0, maximum = 10_000_000.0))]
    pub monthly_mb: f64,
}

impl Default for RepeatSettings {
    /// Five hours wander through the day: after a week every hour was tested (common practice, no source).
    fn default() -> Self {
        Self { on: false, every_h: 5.0, tests: 2, monthly_mb: 20_000.0 }
    }
}
