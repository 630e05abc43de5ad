//! What a kit is checked against.

use super::mounting::Placing;
use crate::model::{BandName, ConnectionMode};

/// What a kit is checked against.
#[derive(Clone, Debug, Default)]
pub struct Wanted {
    /// Bands to be used, with a frequency of each, MHz.
    pub bands: Vec<(BandName, f64)>,
    /// How the site is connected; `Unknown` asks nothing.
    pub mode: Option<ConnectionMode>,
    /// Where and how the antenna is put.
    pub placing: Placing,
}
