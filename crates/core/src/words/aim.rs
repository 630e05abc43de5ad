//! Words of aiming.

use crate::aim::advice::{AimFit, AimReason, Ask};
use crate::aim::fit::AngleInterval;
use crate::aim::sweep::{CellKey, CellSweep};
use crate::judge::CellName;
use crate::model::{SweepAxis, Technology};
use crate::words::{bearing, decibels, signed};

/// An interval wider than this to either side names no bearing, degrees.
const UNKNOWN_DEG: f64 = 40.0;
/// A beam as many times wider or narrower than it is said to be is worth a sentence.
const OTHER_BEAM: f64 = 1.45;
/// From this share of all bearings on, a gateway that hops has to be held before a sweep says anything.
const HOPS: f64 = 1.0 / 3.0;

/// "143° T"; of a tilt "2.5° up", "4.0° down".
fn angle(axis: SweepAxis, degrees: f64) -> String {
    match axis {
        SweepAxis::Azimuth => bearing(degrees),
        SweepAxis::Ports => if degrees < 0.5 { "map A" } else { "map B" }.into(),
        SweepAxis::Tilt if degrees.abs() < 0.25 => "level".into(),
        SweepAxis::Tilt => {
            let way = if degrees > 0.0 { "up" } else { "down" };
            format!("{}° {way}", signed(degrees.abs(), 1))
        }
    }
}

fn interval(axis: SweepAxis, one: &AngleInterval) -> String {
    format!("{} ± {:.0}°", angle(axis, one.angle_deg), one.half_deg().ceil())
}

/// Where to point, in a line.
pub fn title(found: &AimFit) -> String {
    let say = |degrees: f64| angle(found.axis, degrees);
    let to = say(found.recommended_deg);
    match found.reason {
        AimReason::Interference { .. } => {
            format!("Point at {to}, not at the strongest signal's {}.", say(found.strongest.angle_deg))
        }
        AimReason::TestBoth { other_deg } => {
            format!("Test the speed at {to} and at {}; the faster stays.", say(other_deg))
        }
        _ if found.enough => format!("Point at {to}."),
        _ if found.strongest.half_deg() > found.beamwidth_deg / 4.0 => {
            format!("No direction yet; the best so far is {to}.")
        }
        _ => format!("So far {to}; another point will make it surer."),
    }
}

/// Where to point, of a sweep that was ended: no further point is called for.
pub fn ended(found: &AimFit) -> String {
    let unsure = !found.enough && matches!(found.reason, AimReason::Same | AimReason::SignalOnly);
    if unsure {
        format!("Best at {}, as far as it was swept.", angle(found.axis, found.recommended_deg))
    } else {
        title(found)
    }
}

/// That the antenna's beam is not what it is said to be; empty where it is, or nothing shows it.
fn beam(found: &AimFit) -> String {
    let share = found.beamwidth_deg / found.nominal_beamwidth_deg;
    if (1.0 / OTHER_BEAM..=OTHER_BEAM).contains(&share) {
        return String::new();
    }
    format!(
        " This antenna's beam is about {:.0}° wide, not {:.0}°.",
        (found.beamwidth_deg / 5.0).round() * 5.0,
        found.nominal_beamwidth_deg
    )
}

/// Why, with intervals.
pub fn detail(found: &AimFit) -> String {
    format!("{}{}", reasons(found), beam(found))
}

fn reasons(found: &AimFit) -> String {
    let strongest = format!("Strongest signal at {}", interval(found.axis, &found.strongest));
    let Some(clean) = &found.cleanest else {
        return format!("{strongest}. No SINR was read, so nothing is known of interference.");
    };
    if clean.half_deg() > UNKNOWN_DEG {
        return format!("{strongest}; where it is cleanest, further points will tell.");
    }
    let both = format!("{strongest}, cleanest at {}", interval(found.axis, clean));
    let hides = match found.suspects.first() {
        Some(suspect) => match &suspect.mast {
            Some(mast) => format!("turning off the mast hides {}", mast.name),
            None => format!(
                "turning off the mast hides what disturbs from {}",
                angle(found.axis, suspect.bearing_deg)
            ),
        },
        None => "turning off the mast hides what disturbs".into(),
    };
    match found.reason {
        AimReason::Same | AimReason::SignalOnly => format!("{both}: the same within what was measured."),
        AimReason::Interference { gain_db, cost_db } => {
            format!(
                "{both}: {hides}, and SINR gains {} for {} of power.",
                decibels(gain_db),
                decibels(cost_db)
            )
        }
        AimReason::SignalWished { loss_db } => {
            format!("{both}: {hides}; the strongest, as set, is {} less clean.", decibels(loss_db))
        }
        AimReason::TestBoth { .. } => format!("{both}: only a speed test tells which carries more."),
    }
}

/// A cell as it is named: "B3 cell 211".
pub fn cell(cell: &CellKey) -> String {
    super::cell(&CellName { technology: cell.technology, band: cell.band, pci: cell.pci })
}

/// One carrier's strongest and cleanest angle, in a line.
pub fn carrier(cell: &CellKey, found: &AimFit) -> String {
    let letter = if cell.technology == Technology::Lte { 'B' } else { 'n' };
    let band = cell.band.map_or_else(|| "A carrier".to_owned(), |band| format!("{letter}{band}"));
    let pci = cell.pci.map_or_else(String::new, |pci| format!(" (PCI {pci})"));
    let strongest = interval(found.axis, &found.strongest);
    match found.cleanest.as_ref().filter(|one| one.half_deg() <= UNKNOWN_DEG) {
        Some(clean) => {
            format!("{band}{pci}: strongest at {strongest}, cleanest at {}.", interval(found.axis, clean))
        }
        None => format!("{band}{pci}: strongest at {strongest}."),
    }
}

/// Points of other cells than the one that is fitted, in words; `None` where there are none.
pub fn left_out(cells: &[CellSweep]) -> Option<String> {
    let own = cells.first()?;
    let angles = |one: &CellSweep| one.points.iter().map(|point| point.angle_deg).collect::<Vec<f64>>();
    let known = angles(own);
    // Added carriers come with every sample; what matters is where the fitted cell did not answer.
    let mut others: Vec<f64> =
        cells[1..].iter().flat_map(angles).filter(|angle| !known.contains(angle)).collect();
    others.sort_by(f64::total_cmp);
    others.dedup();
    let all = known.len() + own.unanswered_deg.len();
    let hops = own.unanswered_deg.len() as f64 >= HOPS * all as f64 && own.unanswered_deg.len() > 1;
    let hold = if hops { " The gateway hops: lock the cell or the band first, under Bands." } else { "" };
    match others.len() {
        0 => None,
        1 => Some(format!("One bearing is left out: another cell answered there.{hold}")),
        count => Some(format!("{count} bearings are left out: another cell answered there.{hold}")),
    }
}

/// The next step for the person at the antenna.
pub fn next(axis: SweepAxis, ask: &Ask) -> String {
    let verb = match axis {
        SweepAxis::Azimuth => "turn",
        SweepAxis::Tilt => "tilt",
        SweepAxis::Ports => "plug the leads as",
    };
    let say = |degrees: f64| angle(axis, degrees);
    match ask {
        Ask::Set { angle_deg } if axis == SweepAxis::Ports => {
            format!("Enough. Leave the leads as {}.", say(*angle_deg))
        }
        Ask::Stopped { angle_deg, points } if axis == SweepAxis::Ports => {
            format!("No difference shown after {points} turns. Leave the leads as {}.", say(*angle_deg))
        }
        Ask::Planned { angle_deg, done, planned, .. } if axis == SweepAxis::Ports => {
            format!("Trial {} of {planned}: {verb} {}, then measure.", done + 1, say(*angle_deg))
        }
        Ask::Planned { angle_deg, done, planned, .. } => {
            format!("Point {} of {planned}: {verb} to {} and hold still.", done + 1, say(*angle_deg))
        }
        Ask::Further { angle_deg, .. } => {
            format!("Next, to be sure: {verb} to {} and hold still.", say(*angle_deg))
        }
        Ask::Set { angle_deg } => format!("Enough. Set it to {} and tighten.", say(*angle_deg)),
        Ask::Stopped { angle_deg, points } => format!(
            "Stopped at {points} points, and still unsure. The best so far is {}: set it there, or hold the gateway to one cell and sweep again.",
            say(*angle_deg)
        ),
    }
}

/// A way of plugging the leads in: "lead 1 in ANT 1, lead 2 in ANT 2".
pub fn port_map(links: &[crate::model::PortLink]) -> String {
    let one = |link: &crate::model::PortLink| format!("lead {} in {}", link.lead, link.port);
    links.iter().map(one).collect::<Vec<_>>().join(", ")
}
