//! Clearance of a line over what stands below it: P.530 clause 2.2.2, first Fresnel zone and earth's bulge.

use open_beacon_domain::propagation::p525::{earth_bulge_m, fresnel_radius_m};
use serde::{Deserialize, Serialize};

/// What the line passes nearest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "what", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Blocker {
    Ground,
    /// Place in the list of obstacles.
    Obstacle {
        index: usize,
    },
}

/// How free the line is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Clearance {
    /// Nothing reaches the line itself.
    pub in_sight: bool,
    /// Where the line is least free: from the first end, m.
    pub distance_m: f64,
    /// What comes nearest to the line.
    pub blocker: Blocker,
    /// Top of what is there, and the line, m above sea level; the earth's bulge is in the top.
    pub top_m: f64,
    /// Height of the line, m above sea level.
    pub line_m: f64,
    /// Radius of the first Fresnel zone there, m.
    pub fresnel_m: f64,
    /// Free height below the line over the zone's radius: 0.6 is as good as free; negative is in the way.
    pub fresnel_share: f64,
    /// How much higher the first end must stand until 0.6 of the zone is free everywhere, m; 0 where it is. What stands
    /// close by may ask for more than any mast gives.
    pub raise_m: f64,
}

/// Share of the first Fresnel zone that is as good as all of it: P.530 clause 2.2.2.1.
pub const FREE_SHARE: f64 = 0.6;

/// A line over tops.
#[derive(Clone, Copy, Debug)]
pub struct Line<'a> {
    /// m from the first end.
    pub distances_m: &'a [f64],
    /// Ground or what stands on it, m above sea level.
    pub tops_m: &'a [f64],
    /// Whose top it is.
    pub whose: &'a [Blocker],
    /// Antennas, m above sea level.
    pub first_m: f64,
    /// Where it ends, m.
    pub last_m: f64,
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Effective earth radius factor.
    pub k: f64,
}

/// Finds where a line is least free; `None` for a path without points between its ends.
pub fn clearance(line: &Line) -> Option<Clearance> {
    let length_m = *line.distances_m.last()?;
    let mut found: Option<Clearance> = None;
    let mut raise_m: f64 = 0.0;
    let mut in_sight = true;
    for ((at_m, top_m), whose) in line.distances_m.iter().zip(line.tops_m).zip(line.whose) {
        if *at_m <= 0.0 || *at_m >= length_m {
            continue;
        }
        let fresnel_m = fresnel_radius_m(length_m, *at_m, line.frequency_mhz);
        let top_m = top_m + earth_bulge_m(length_m, *at_m, line.k);
        let line_m = line.first_m + (line.last_m - line.first_m) * at_m / length_m;
        let free_m = line_m - top_m;
        in_sight &= free_m > 0.0;
        let share = free_m / fresnel_m;
        let wanted_m = top_m + FREE_SHARE * fresnel_m;
        let needed_m = (wanted_m * length_m - line.last_m * at_m) / (length_m - at_m);
        raise_m = raise_m.max(needed_m - line.first_m);
        if found.is_none_or(|before| share < before.fresnel_share) {
            found = Some(Clearance {
                in_sight: true,
                distance_m: *at_m,
                blocker: *whose,
                top_m,
                line_m,
                fresnel_m,
                fresnel_share: share,
                raise_m: 0.0,
            });
        }
    }
    found.map(|found| Clearance { in_sight, raise_m, ..found })
}
