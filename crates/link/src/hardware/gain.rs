//! Gain of an antenna at a frequency.

use open_beacon_domain::model::AntennaSpec;

/// Gain at a frequency: straight between the points; `None` outside them.
pub fn gain_at_dbi(antenna: &AntennaSpec, frequency_mhz: f64) -> Option<f64> {
    let points = &antenna.gain;
    let above = points.iter().position(|point| point.frequency_mhz >= frequency_mhz)?;
    let high = points[above];
    if above == 0 {
        return (high.frequency_mhz <= frequency_mhz).then_some(high.gain_dbi);
    }
    let low = points[above - 1];
    let share = (frequency_mhz - low.frequency_mhz) / (high.frequency_mhz - low.frequency_mhz);
    Some(low.gain_dbi + (high.gain_dbi - low.gain_dbi) * share)
}
