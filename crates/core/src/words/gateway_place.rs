//! The gateway's own place, in words.

use super::{bare_aim, bearing, capital, counted};
use crate::bands::band_name;
use crate::model::{BandName, SetupSpec};

/// "n78 and B7 stay on the gateway's own antennas, wholly or in part: where it stands and which way it faces counts too."
pub fn title(bands: &[BandName]) -> String {
    let names: Vec<String> = bands.iter().map(|one| band_name(one.technology, one.band)).collect();
    let listed = match names.split_last() {
        Some((last, [])) => last.clone(),
        Some((last, rest)) => format!("{} and {last}", rest.join(", ")),
        None => String::new(),
    };
    let stay = if bands.len() == 1 { "stays" } else { "stay" };
    format!(
        "{listed} {stay} on the gateway's own antennas, wholly or in part: where it stands and which way it faces counts too."
    )
}

/// How it is tested.
pub fn detail(untried: usize) -> String {
    let made = if untried == 0 {
        "Each way that it can face here is a setup already.".to_owned()
    } else {
        format!(
            "{} that it can face here, a quarter turn apart, can be made into setups.",
            capital(&counted(untried, "way"))
        )
    };
    format!(
        "Leave the antenna alone. {made} Read each for a minute, then test the best two alternately within one hour. Verdict judges them like any other."
    )
}

/// Longest part of a name that is kept of the setup that was turned, characters.
const LONGEST: usize = 60;

/// A turned setup's name: "143° T, gateway facing 90° T in the hall".
pub fn name(base: &SetupSpec, turned: &SetupSpec) -> String {
    let aim: String = bare_aim(base).chars().take(LONGEST).collect();
    let faces = turned.gateway_azimuth_deg.map_or(String::new(), |deg| format!(" facing {}", bearing(deg)));
    let moved = base.gateway_place != turned.gateway_place;
    let place: String = turned.gateway_place.chars().take(LONGEST / 2).collect();
    let at = if moved { format!(", {place}") } else { String::new() };
    format!("{aim}, gateway{faces}{at}")
}
