//! Words of the Survey stage.

use crate::bands::band_name;
use crate::capacity::Estimate;
use crate::link::fresnel::{Blocker, Clearance, FREE_SHARE};
use crate::link::matching::{CellMatch, Evidence, Fit};
use crate::link::route::{Lack, PathSource};
use crate::model::{Obstacle, SurfaceKind, Units};
use crate::survey::aim::LandmarkAim;
use crate::survey::calibrate::MastShift;
use crate::survey::check::EntryMistake;
use crate::survey::rank::{Access, Choice};
use crate::survey::ranking::{Ranking, Reason};
use crate::survey::sensitivity::{Doubt, Outcome, Sensitivity};
use crate::words::{Style, bearing, decibels, length, rough_rate, signed};

/// "4.7 km", "370 m"; "2.9 mi", "1210 ft".
pub fn distance(metres: f64, units: Units) -> String {
    let (value, unit) = match units {
        Units::Metric if metres < 1000.0 => (signed((metres / 10.0).round() * 10.0, 0), "m"),
        Units::Metric => (signed(metres / 1000.0, usize::from(metres < 20_000.0)), "km"),
        Units::Imperial if metres < 300.0 => (signed((metres / 3.048).round() * 10.0, 0), "ft"),
        Units::Imperial => (signed(metres / 1609.344, 1), "mi"),
    };
    format!("{value}\u{202f}{unit}")
}

fn whole_length(metres: f64, units: Units) -> String {
    match units {
        Units::Metric => format!("{}\u{202f}m", signed(metres, 0)),
        Units::Imperial => length(metres, units),
    }
}

fn range(range: Estimate) -> String {
    let (low, high) = (rough_rate(range.low), rough_rate(range.high));
    if low == high { low } else { format!("{} to {high}", low.trim_end_matches("\u{202f}Mbit/s")) }
}

/// What the whole ranking comes to.
pub fn title(ranking: &Ranking, style: Style) -> String {
    let Some(best) = ranking.choices.first() else {
        return "Enter the masts around you: each comes with its bearing, distance and what it would bring."
            .into();
    };
    format!(
        "{} to {}: aim {} from {} up; expect {} down.",
        best.position,
        best.mast,
        bearing(best.bearing_deg),
        length(best.height_m, style.units),
        range(best.down_mbps),
    )
}

/// The reason and the runner-up.
pub fn reason(ranking: &Ranking, obstacles: &[Obstacle], style: Style) -> Option<String> {
    let (best, other) = (ranking.choices.first()?, &ranking.choices[ranking.runner_up?]);
    let runner_up = format!("Runner-up: {} to {}", other.position, other.mast);
    let times = |ratio: f64| crate::words::times(ratio);
    let chance = best.chance_of_best.map_or_else(String::new, |chance| {
        format!(" No other place or mast is clearly better: that holds {}.", crate::words::in_cases(chance))
    });
    let why = match ranking.reason.as_ref()? {
        Reason::OtherBlocked { blocker, at_m, ratio } => format!(
            "{runner_up}, whose line {} blocks {} out; this one brings {} as much.",
            blocker_name(*blocker, obstacles),
            distance(*at_m, style.units),
            times(*ratio)
        ),
        Reason::Stronger { by_db, ratio } => {
            format!(
                "{runner_up}; this one is {} stronger and brings {} as much.",
                decibels(*by_db),
                times(*ratio)
            )
        }
        Reason::Cleaner { by_db, ratio } => format!(
            "{runner_up}; here less of the other masts is heard, {} cleaner, {} as much.",
            decibels(*by_db),
            times(*ratio)
        ),
        Reason::Surer { low_mbps, other_low_mbps } => format!(
            "{runner_up} likely brings about as much, but may fall to {}; {} should not fall below {}.",
            crate::words::rough_rate(*other_low_mbps),
            best.position,
            crate::words::rough_rate(*low_mbps)
        ),
        Reason::MoreCarriers { ratio } => {
            format!("{runner_up}; this mast's carriers move {} as much.", times(*ratio))
        }
        Reason::Easier { access: own, other: theirs, cable_m, other_cable_m } => {
            let why = if own == theirs {
                format!(
                    "needs {} of cable, not {}",
                    whole_length(*cable_m, style.units),
                    whole_length(*other_cable_m, style.units)
                )
            } else {
                format!("is reached {}, not {}", access(*own), access(*theirs))
            };
            format!("{runner_up} brings about the same; {} {why}.", best.position)
        }
        Reason::FasterUp { ratio } => {
            format!("{runner_up} brings about the same down, but here {} as much goes up.", times(*ratio))
        }
    };
    Some(why + &chance)
}

/// How a position is reached.
pub fn access(access: Access) -> &'static str {
    match access {
        Access::Inside => "from inside",
        Access::Ground => "from the ground",
        Access::Ladder => "by ladder",
        Access::Roof => "on the roof",
    }
}

/// Differences by leaves smaller than this are not worth a word, dB.
const LEAVES_DB: f64 = 0.5;
/// Above this the trees' most is carried on by its law, MHz (`domain::propagation::p833::most_db`).
const TREES_MEASURED_MHZ: f64 = 2200.0;

/// What leaves make of a path, and a note where the trees' figures reach beyond what they were measured at.
pub fn leaves(one: &Choice) -> Option<String> {
    let most = one.bands.iter().max_by(|a, b| a.leaves_db.total_cmp(&b.leaves_db))?;
    if most.leaves_db < LEAVES_DB {
        return None;
    }
    let band = band_name(most.band.technology, most.band.band);
    let beyond = if most.frequency_mhz > TREES_MEASURED_MHZ {
        " Above 2.2 GHz what trees take is carried on from lower bands."
    } else {
        ""
    };
    Some(format!(
        "Trees in the way take about {} more of {band} in leaf than bare: test again when the season turns.{beyond}",
        decibels(most.leaves_db)
    ))
}

fn doubted(doubt: Doubt, style: Style) -> String {
    let tree = |by_m: f64| whole_length(by_m, style.units);
    match doubt {
        Doubt::InLeaf => "the trees that are drawn bare are in leaf".into(),
        Doubt::TreesTaller { by_m } => format!("the trees are {} taller than drawn", tree(by_m)),
        Doubt::AllBusy => "every cell around is fully loaded (as in the evening)".into(),
        Doubt::MastsLower { by_m } => format!("masts of unknown height are {} lower than taken", tree(by_m)),
    }
}

/// A doubt that barely changes anything.
fn is_firm(one: &Sensitivity) -> bool {
    matches!(one.outcome, Outcome::Stays { signal_db, clean_db } if signal_db < 0.5 && clean_db < 0.5)
}

/// What would change the order, and in one sentence what would not.
pub fn sensitivities(all: &[Sensitivity], style: Style) -> Vec<String> {
    let firm: Vec<String> = all
        .iter()
        .filter(|one| is_firm(one))
        .map(|one| format!("if {}", doubted(one.doubt, style)))
        .collect();
    let mut said: Vec<String> =
        all.iter().filter(|one| !is_firm(one)).map(|one| sensitivity(one, style)).collect();
    if !firm.is_empty() {
        said.push(format!("It stays first and barely changes {}.", either(&firm)));
    }
    said
}

/// "a, b or c".
fn either(parts: &[String]) -> String {
    match parts {
        [] => String::new(),
        [alone] => alone.clone(),
        [before @ .., last] => format!("{} or {last}", before.join(", ")),
    }
}

fn sensitivity(one: &Sensitivity, style: Style) -> String {
    let doubt = format!("If {}", doubted(one.doubt, style));
    match &one.outcome {
        Outcome::Stays { signal_db, clean_db } if *signal_db < 0.5 => {
            format!("{doubt}, it stays first; its signal is {} less clean.", decibels(*clean_db))
        }
        Outcome::Stays { signal_db, .. } => {
            format!("{doubt}, it stays first and loses {}.", decibels(*signal_db))
        }
        Outcome::Other { position, height_m, mast } => {
            format!("{doubt}, {position} at {} to {mast} wins: measure both.", length(*height_m, style.units))
        }
    }
}

/// The thing a line passes nearest.
pub fn blocker_name(blocker: Blocker, obstacles: &[Obstacle]) -> String {
    match blocker {
        Blocker::Ground => "the ground".into(),
        Blocker::Obstacle { index } => {
            obstacles.get(index).map_or_else(|| "an obstacle".into(), |one| format!("“{}”", one.name))
        }
    }
}

/// How free the line is.
pub fn clearance(found: &Clearance, obstacles: &[Obstacle], style: Style) -> String {
    let what = blocker_name(found.blocker, obstacles);
    let at = if found.distance_m < 10.0 {
        "right beside the antenna".to_owned()
    } else {
        format!("{} out", distance(found.distance_m, style.units))
    };
    let share = (found.fresnel_share * 100.0).round();
    if found.fresnel_share >= FREE_SHARE {
        return format!(
            "The path clears {share:.0}\u{202f}% of the first Fresnel zone (nearest: {what} {at}); 60\u{202f}% is enough."
        );
    }
    let raise = if found.raise_m <= 30.0 {
        format!("{} more height would clear it.", length(found.raise_m, style.units))
    } else {
        "No mast on a house clears it: look for another place or mast.".into()
    };
    if found.in_sight {
        format!(
            "In sight, but {what} {at} leaves only {share:.0}\u{202f}% of the first Fresnel zone clear. {raise}"
        )
    } else {
        format!(
            "Not in sight: {what} {at} stands {} into the line. {raise}",
            length(found.top_m - found.line_m, style.units)
        )
    }
}

/// What a prediction rests on.
pub fn source(source: &PathSource, style: Style) -> String {
    let lack_words = |lack: &Lack| match lack {
        Lack::NoTerrain => "No terrain is there".to_owned(),
        Lack::Ends { at_m } => {
            format!("The terrain ends {} from the house, before the mast", distance(*at_m, style.units))
        }
        Lack::Voids => "The terrain has only voids on this path".to_owned(),
    };
    match source {
        PathSource::Terrain { surface, voids } => {
            let kind = match surface {
                SurfaceKind::Ground => "Over the terrain, trees and buildings as drawn",
                SurfaceKind::Surface => {
                    "Over a surface model: tree tops are in its heights, so drawn trees are not counted again"
                }
            };
            let gaps = match voids {
                0 => String::new(),
                1 => " One void point was bridged.".into(),
                many => format!(" {many} void points were bridged."),
            };
            format!("{kind}.{gaps}")
        }
        PathSource::FlatGround { lack } => format!(
            "{}: taken as flat, with the trees and buildings you drew. A hill in the way would cost more; add terrain to know.",
            lack_words(lack)
        ),
        PathSource::Model { lack } => format!(
            "{}: by two rural models (TR 38.901, and Okumura and Hata), which hold trees and houses of an average countryside. They are far apart, and a hill in the way is in neither. Add terrain to know.",
            lack_words(lack)
        ),
        PathSource::BeyondModel { lack } => format!(
            "{}, and the rural models do not reach so far: what they say is carried on, with more doubt. Little can be promised; add terrain to know.",
            lack_words(lack)
        ),
    }
}

/// What calibration did.
pub fn shift(one: &MastShift, mast: &str) -> String {
    let direction = if one.shift_db >= 0.0 { "stronger" } else { "weaker" };
    let count =
        if one.count == 1 { "One carrier heard".to_owned() } else { format!("{} carriers heard", one.count) };
    format!(
        "{count} here put {mast} {} {direction} than computed, and narrow the doubt from ±{} to ±{}.",
        decibels(one.shift_db.abs()),
        decibels(one.before_db),
        decibels(one.after_db)
    )
}

/// A mast's direction beside a landmark: "3° left of the silo".
pub fn landmark(one: &LandmarkAim) -> String {
    let turn = one.turn_deg.round();
    if turn == 0.0 {
        return format!("straight at {}", one.name);
    }
    let side = if turn < 0.0 { "left" } else { "right" };
    format!("{:.0}° {side} of {}", turn.abs(), one.name)
}

/// How a match stands.
pub fn fit(fit: Fit) -> &'static str {
    match fit {
        Fit::Confirmed => "confirmed",
        Fit::Possible => "possible",
        Fit::Contradicted => "contradicted",
    }
}

/// The evidence of a match, one clause each.
pub fn evidence(found: &CellMatch, style: Style) -> Vec<String> {
    let ring = |from_m: f64, to_m: f64| {
        format!("{} to {}", distance(from_m, style.units), distance(to_m, style.units))
    };
    found
        .evidence
        .iter()
        .map(|one| match one {
            Evidence::NodeSame { node } => format!("base station {node} in both"),
            Evidence::NodeDiffers { heard, listed } => format!("base station {heard} heard, {listed} listed"),
            Evidence::LocalSame { local } => format!("local cell {local} in both"),
            Evidence::LocalDiffers { heard, listed } => format!("local cell {heard} heard, {listed} listed"),
            Evidence::PciSame { pci } => format!("PCI {pci} in both"),
            Evidence::PciDiffers { heard, listed } => {
                format!("PCI {heard} heard, {listed} listed: an old list, or another mast")
            }
            Evidence::ChannelSame { channel } => format!("channel {channel} in both"),
            Evidence::ChannelDiffers { heard, listed } => {
                format!("channel {heard} heard, {listed} listed: one may be of the synchronisation block")
            }
            Evidence::RingHolds { from_m, to_m, distance_m } => format!(
                "timing advance says {}, the mast is {} away",
                ring(*from_m, *to_m),
                distance(*distance_m, style.units)
            ),
            Evidence::RingMisses { from_m, to_m, distance_m } => format!(
                "timing advance says {}, but the mast is {} away",
                ring(*from_m, *to_m),
                distance(*distance_m, style.units)
            ),
            Evidence::NotAlone { others: 1 } => "another mast's cell fits as well".into(),
            Evidence::NotAlone { others } => format!("{others} other masts' cells fit as well"),
        })
        .collect()
}

/// A slip and its mend.
pub fn slip(one: &EntryMistake, style: Style) -> String {
    let at = |point: &crate::geo::GeoPoint| {
        format!("{}, {}", signed(point.latitude_deg, 4), signed(point.longitude_deg, 4))
    };
    match one {
        EntryMistake::NullIsland => "0, 0 lies in the sea off Africa: the coordinates are missing.".into(),
        EntryMistake::Swapped { corrected } => {
            format!("Latitude and longitude look swapped: {} lies near the house.", at(corrected))
        }
        EntryMistake::WrongHemisphere { corrected } => {
            format!("The sign looks wrong: {} lies near the house.", at(corrected))
        }
        EntryMistake::Feet { height_m, corrected_m } => format!(
            "{height_m:.0}\u{202f}m is very tall for a mast: if it was feet, it is {corrected_m:.0}\u{202f}m."
        ),
        EntryMistake::FarAway { distance_m } => format!(
            "{} from the house: no cell reaches so far. Check both coordinates.",
            distance(*distance_m, style.units)
        ),
    }
}

/// What the person aloft should hear, so that it is known to be the right mast.
pub fn expect(choice: &Choice) -> Vec<String> {
    choice
        .bands
        .iter()
        .map(|band| {
            let name = crate::bands::band_name(band.band.technology, band.band.band);
            let pci = band.pci.map_or(String::new(), |pci| format!(", PCI {pci}"));
            let given = if band.counts { "" } else { ", if the network gives it" };
            format!(
                "{name}{pci}: {} to {}\u{202f}dBm{given}",
                signed(band.rsrp_dbm.low, 0),
                signed(band.rsrp_dbm.high, 0)
            )
        })
        .collect()
}

/// Cautions for the one who goes up; local codes and licensed practice go before them.
pub fn cautions(access: Access) -> Vec<&'static str> {
    let mut found = vec![
        "Never alone: somebody stands below and can call for help.",
        "Stay well clear of overhead power lines: neither you, the ladder nor the mast may ever fall on one.",
        "Not in storm, ice or thunder; not when one is near.",
        "Stay at least an arm's length from the front of the antenna while the gateway is on.",
        "Steel roofs and masts pull a compass: step two metres away from them to read it, or aim by the landmark.",
    ];
    if access == Access::Roof {
        found.insert(
            1,
            "On a roof: harness and anchor as your country's rules ask; else leave it to a roofer.",
        );
    }
    if access == Access::Ladder {
        found.insert(1, "Ladder: four up to one out, tied at the top, three points of contact.");
    }
    found.push("Mast, arrestor and bonding follow the local electrical code; where it asks for a licensed electrician, call one.");
    found
}
