//! Words of the job card: plain, torque-free, each caution deferring to local code and licensed trades.

use crate::kit::job::{Caution, JobStep, Tool};
use crate::model::Mount;
use crate::words::{self, Style, length};

fn millimetres(value: f64) -> String {
    format!("{}\u{202f}mm", words::signed(value, 0))
}

/// A caution in a sentence or two.
pub fn caution(caution: &Caution, style: Style) -> String {
    match caution {
        Caution::Ladder { height_m } => format!(
            "Ladder, {} up: never alone, on firm ground, foot held, three points of contact. Below a safe height the same antenna can be tried first.",
            length(*height_m, style.units)
        ),
        Caution::Roof => "Roof: only dry and calm, secured against falling, never alone. Leave it to a roofer where you are not sure; local rules for work at height apply.".into(),
        Caution::OverheadLine { reach_m, distance_m: Some(distance), within_reach: true } => format!(
            "OVERHEAD LINE: a mast that falls reaches {}, and the line is {} away. Do not raise it here. Choose another place, and ask the network operator.",
            length(*reach_m, style.units), length(*distance, style.units)
        ),
        Caution::OverheadLine { reach_m, distance_m: Some(distance), .. } => format!(
            "Overhead line {} away: mast, ladder and antenna reach {} if they fall, keep all of it farther than that from the line at every moment.",
            length(*distance, style.units), length(*reach_m, style.units)
        ),
        Caution::OverheadLine { reach_m, .. } => format!(
            "Overhead lines: look for them before the ladder goes up. No line may be within {} of the mast's foot, which is how far it reaches if it falls. Ask the network operator when in doubt.",
            length(*reach_m, style.units)
        ),
        Caution::Storm => "Weather: no work in wind, rain, frost or with thunder anywhere near. Come down at the first rumble.".into(),
        Caution::Lightning => "Lightning: mast and arrestor are bonded to the building's earth as the local electrical code says, by a licensed electrician where it says so. An arrestor does not stop a direct stroke.".into(),
        Caution::Drilling => "Drilling: look for wires, pipes and, in old houses, asbestos first; if there may be any, stop and ask a licensed trade. Slope the hole outwards and seal it.".into(),
        Caution::AtticHeat => "Attic: hot in summer, poor light and footing. Step on joists only, keep clear of wiring and insulation dust, somebody in the house knows you are there.".into(),
        Caution::OpeningDevice => "Opening the gateway: pull its mains plug first and wait. Never open a mains adapter. The warranty may end.".into(),
        Caution::Static => "Static: touch bare earthed metal before you touch a socket or an antenna lead, and plug leads in with the gateway off.".into(),
        Caution::PassivePower => "Passive power is always on: only this unit may hang on this injector. Anything else on it can be destroyed.".into(),
        Caution::Transmitting => "The antenna transmits: switch the gateway off before working in front of it, and keep the distance its maker gives.".into(),
        Caution::RadiatedPower => "Radiated power: an antenna with gain may exceed what is permitted for this kind of device, or void its approval. Ask the regulator or the carrier.".into(),
        Caution::Landlord => "Rented or listed: get the owner's or the authority's leave in writing before anything is fixed outside.".into(),
        Caution::PlanTerms => "Plan: band locks and a device that is not the carrier's may be against its terms. Ask the carrier for a plan that allows your own device; its identity stays as it is.".into(),
    }
}

/// A step in a sentence or two.
pub fn step(step: &JobStep, style: Style) -> String {
    match step {
        JobStep::CheckParts => "Lay out all parts and plug the chain together once on the table. Everything must mate without force.".into(),
        JobStep::Baseline => "Read the gateway on its own antennas and run three speed tests, if that is not done yet: it is what the new antenna is judged by.".into(),
        JobStep::NumberLeads { leads } => format!("Number the leads 1 to {leads} at both ends, the two of one crossed pair side by side."),
        JobStep::TryFirst => "Try before you drill: hold or clamp the antenna at the place on a dry day with the cable through an open window, and read the gateway.".into(),
        JobStep::OpenDevice => "Gateway off and unplugged. Open the case, press the tiny plugs on straight, lead them out where nothing pinches them.".into(),
        JobStep::DrillHole { diameter_mm } => format!("Drill the way in, {}, sloping down to the outside.", millimetres(*diameter_mm)),
        JobStep::PassWindow => "Lay the flat jumper through the window where the seal is softest; close it slowly and do not crease it.".into(),
        JobStep::FixMount { mount, name } => {
            let how = match mount {
                Mount::Wall | Mount::Gable => "into sound wall or timber, not into cladding alone",
                Mount::RoofMast => "to the rafters, with the roof made tight again",
                Mount::Chimney => "round a sound chimney, level",
                Mount::Pole => "in firm ground, plumb",
                Mount::Attic => "on the joists, away from metal",
                Mount::Window => "on clean dry glass",
                _ => "where it stands firm",
            };
            format!("Fix “{name}” {how}.")
        }
        JobStep::Clamp { pole_mm } => format!("Clamp the antenna to the {} pole, hand-tight, so that it can still be turned.", millimetres(*pole_mm)),
        JobStep::StickToGlass => "Set the antenna on the glass where it looks at the mast; coated glass takes most of the signal, an open pane tells.".into(),
        JobStep::CrossPair => "Turn the two antennas to 45° either side of upright, 90° to each other, a hand's breadth apart or more.".into(),
        JobStep::LayCable { length_m, bend_radius_mm, drip_loop } => {
            let bend = bend_radius_mm.map_or(String::new(), |radius| format!(", nowhere tighter than {}", millimetres(radius)));
            let drip = if *drip_loop { " Leave a loop below the way in for water to drip off." } else { "" };
            format!("Lay the cables, {} each{bend}, clipped, with no pull on the joints.{drip}", length(*length_m, style.units))
        }
        JobStep::LayEthernet { length_m } => format!("Lay the Ethernet cable, {}, with a drip loop before the way in.", length(*length_m, style.units)),
        JobStep::Arrestor => "Set the arrestors where the cables come in and have them bonded.".into(),
        JobStep::Plug { links } => {
            let each: Vec<String> = links.iter().map(|link| format!("lead {} to port {}", link.lead, link.port)).collect();
            format!("With the gateway off: {}. Finger-tight.", each.join(", "))
        }
        JobStep::Pigtail => "Hold each cable with a clip before its small plug, so that nothing hangs on the socket.".into(),
        JobStep::SwitchPorts => "Switch the gateway's antenna setting to external.".into(),
        JobStep::Tape { joints } => format!("When the aim is final, wrap {} in the open in self-fusing silicone tape, from below upwards.", if *joints == 1 { "the joint".to_owned() } else { format!("the {joints} joints") }),
        JobStep::FeedPower => "Injector indoors: data side to the router, power side to the unit. Check twice which is which.".into(),
        JobStep::RestartAndRead => "Restart the gateway, wait two minutes, read it.".into(),
        JobStep::AimAndTest => "Aim: turn a few degrees, let it settle, read several samples, go past the peak both ways, come back. Then tighten, and test three times.".into(),
        JobStep::WriteDown => "Write down position, bearing, tilt, height, ports and date, with a photo.".into(),
    }
}

/// A tool's name.
pub fn tool(tool: Tool) -> &'static str {
    match tool {
        Tool::Ladder => "Ladder, and a second person",
        Tool::Harness => "Fall protection",
        Tool::Drill => "Drill",
        Tool::MasonryBit => "Bits for wall and timber",
        Tool::Spanner => "Spanner for the clamps",
        Tool::Compass => "Compass",
        Tool::Level => "Spirit level or a phone's",
        Tool::SiliconeTape => "Self-fusing silicone tape",
        Tool::Sealant => "Sealant for the hole",
        Tool::CableClips => "Cable clips or ties",
        Tool::Labels => "Labels or a marker",
        Tool::Screwdriver => "Small screwdrivers, plastic opener",
        Tool::StrapForStatic => "Wrist strap against static",
        Tool::Phone => "Phone with Open Beacon open",
    }
}
