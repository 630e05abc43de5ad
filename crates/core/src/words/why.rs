//! Where a figure comes from, in words.

use super::number::{decibels, power_dbm, rate, rate_range, rough_rate, share};
use super::{capital, counted};
use crate::bands::band_name;
use crate::link::by_hour::DayRates;
use crate::link::margin::Margin;
use crate::link::over_time::Fading;
use crate::link::why::{Basis, Why, WhyLine, WhyTerm};
use serde::{Deserialize, Serialize};

/// A row of the sum.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WhyRow {
    /// "Free space".
    pub what: String,
    /// "−118 dB".
    pub figure: String,
    /// "computed".
    pub rests_on: String,
    /// Share of the expected download's range that it causes, "34 %"; `None` where it is hardly in doubt.
    pub doubt: Option<String>,
    /// A sum of the rows before it.
    pub is_sum: bool,
}

fn term(term: WhyTerm) -> &'static str {
    match term {
        WhyTerm::Sent => "Sent towards the house (EIRP of one resource element)",
        WhyTerm::Heard => "Heard at the house, in the open at this height",
        WhyTerm::FreeSpace => "Free space",
        WhyTerm::Ground => "Ground and hills",
        WhyTerm::Obstacles => "Trees, buildings and clutter",
        WhyTerm::RuralModel => "Average countryside beyond free space",
        WhyTerm::NearGround => "Close to the ground",
        WhyTerm::Walls => "Walls or roof",
        WhyTerm::Readings => "Correction by readings at this house",
        WhyTerm::Gain => "Antenna behind its feed line",
        WhyTerm::OffBeam => "Pointing off the mast",
        WhyTerm::Polarisation => "Polarisation",
    }
}

fn basis(basis: Basis) -> &'static str {
    match basis {
        Basis::Measured => "measured here",
        Basis::Computed => "computed",
        Basis::DataSheet => "data sheet",
        Basis::Assumed => "assumed",
    }
}

fn of_range(causes: f64) -> Option<String> {
    (causes >= 0.02).then(|| share(causes))
}

fn row(one: &WhyLine) -> WhyRow {
    let is_level = matches!(one.term, WhyTerm::Sent | WhyTerm::Heard);
    WhyRow {
        what: term(one.term).into(),
        figure: if is_level { power_dbm(one.adds_db) } else { plus(one.adds_db) },
        rests_on: basis(one.basis).into(),
        doubt: one.causes.and_then(of_range),
        is_sum: false,
    }
}

fn plus(db: f64) -> String {
    if db > 0.0 { format!("+{}", decibels(db)) } else { decibels(db) }
}

/// The whole sum, from the mast to the expected download.
pub fn rows(why: &Why) -> Vec<WhyRow> {
    let sum = |what: String, figure: String, rests_on: &str, causes: f64| WhyRow {
        what,
        figure,
        rests_on: rests_on.into(),
        doubt: of_range(causes),
        is_sum: true,
    };
    let band = band_name(why.band.technology, why.band.band);
    let mut rows: Vec<WhyRow> = why.lines.iter().map(row).collect();
    rows.push(sum(format!("Power of {band} (RSRP)"), power_dbm(why.rsrp_dbm), "", 0.0));
    let disturbed = power_dbm(why.disturbance_dbm);
    rows.push(WhyRow {
        is_sum: false,
        ..sum("Interference and noise".into(), disturbed, "", why.interference_causes)
    });
    rows.push(sum(format!("Signal-to-noise of {band} (SINR)"), decibels(why.sinr_db), "", 0.0));
    let together = format!("{} together on empty cells", counted(why.carriers, "carrier"));
    rows.push(sum(capital(&together), rough_rate(why.possible_down_mbps), "computed", why.carrying_causes));
    let rests_on = if why.share_is_measured { "measured here" } else { "assumed" };
    rows.push(WhyRow {
        is_sum: false,
        ..sum("Share of that to expect".into(), share(why.share), rests_on, why.share_causes)
    });
    if let Some(wire_mbps) = why.wire_mbps {
        let wire = sum("The wire carries at most".into(), rate(wire_mbps), "data sheet", 0.0);
        rows.push(WhyRow { is_sum: false, ..wire });
    }
    rows.push(sum("Expected download".into(), rough_rate(why.down_mbps), "", 0.0));
    rows
}

/// "Fade margin 12 dB (6.5 to 18 dB): …".
pub fn margin(found: Option<&Margin>) -> String {
    let Some(found) = found else {
        return "No fade margin: the need is missed even on an ordinary day.".into();
    };
    format!(
        "Fade margin {} (between {} and {}): the signal may fall by that much before the need is missed. It is met {} of the time, {}.",
        decibels(found.margin_db),
        decibels(found.low_db),
        decibels(found.high_db),
        of_time(found.availability),
        scatter(found.fading)
    )
}

/// No more nines than the assumption bears.
fn of_time(availability: f64) -> String {
    if availability > 0.995 { format!("more than {}", share(0.99)) } else { share(availability) }
}

fn scatter(fading: Fading) -> String {
    let spread = decibels(fading.spread_db);
    match fading.visits {
        0 => format!("if the signal scatters by {spread} over time as is usual"),
        visits => format!("as the signal scattered by {spread} over {} here", counted(visits + 1, "visit")),
    }
}

/// What to expect at the slowest and at the fastest hour.
pub fn day(found: &DayRates) -> String {
    let hour = |hour: u8| format!("{hour:02}:00");
    let rests_on = match found.tests {
        0 => "by the usual course of a day, for nothing was measured here yet".to_owned(),
        tests => format!(
            "by {} at {} of the day and the usual course of a day",
            counted(tests, "test"),
            counted(found.hours, "hour")
        ),
    };
    format!(
        "Expect {} at the slowest hour, about {}, and {} at the fastest, about {} ({rests_on}).",
        rate_range(found.slowest.down_mbps),
        hour(found.slowest.hour),
        rate_range(found.fastest.down_mbps),
        hour(found.fastest.hour),
    )
}
