//! Parts of the day.

use super::EVENING_HOURS;
use serde::{Deserialize, Serialize};

/// A part of the day in which the network's load is alike (common practice, no source).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum DayPart {
    /// 6 to 11 h.
    Morning,
    /// 12 to 17 h.
    Midday,
    /// 18 to 22 h.
    Evening,
    /// 23 to 5 h.
    Night,
}

impl DayPart {
    /// In the order of this list.
    pub const ALL: [Self; 4] = [Self::Morning, Self::Midday, Self::Evening, Self::Night];
    /// Those in which a household is usually awake.
    pub const USUAL: [Self; 3] = [Self::Morning, Self::Midday, Self::Evening];

    /// The part that an hour of the day, 0..=23, is in.
    pub fn of_hour(hour: u8) -> Self {
        match hour {
            6..=11 => Self::Morning,
            12..=17 => Self::Midday,
            hour if EVENING_HOURS.contains(&hour) => Self::Evening,
            _ => Self::Night,
        }
    }

    /// Hour at which a visit in it is planned.
    pub fn visit_hour(self) -> u32 {
        match self {
            Self::Morning => 10,
            Self::Midday => 13,
            Self::Evening => 19,
            Self::Night => 4,
        }
    }

    /// Its middle, as an hour of the day.
    pub fn middle_hour(self) -> f64 {
        match self {
            Self::Morning => 9.0,
            Self::Midday => 15.0,
            Self::Evening => 20.5,
            Self::Night => 2.0,
        }
    }
}
