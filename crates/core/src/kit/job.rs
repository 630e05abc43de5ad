//! The day of the job: tools, steps in order, and the cautions that apply to this plan and no others.

use super::assess::Assessment;
use super::finding::KitFinding;
use crate::hardware::ports::carries;
use crate::hardware::resolve::Resolved;
use crate::model::{GatewayPlace, KitSettings, Mount, PartSpec, Passage, PortLink, PortSwitch, PowerKind};
use serde::{Deserialize, Serialize};

/// A caution that applies, with its values.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "caution", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Caution {
    /// Work from a ladder.
    Ladder {
        height_m: f64,
    },
    Roof,
    /// A mast could fall on a line: its reach against the line's distance, m.
    OverheadLine {
        reach_m: f64,
        distance_m: Option<f64>,
        within_reach: bool,
    },
    Storm,
    /// Bonding and surge.
    Lightning,
    Drilling,
    AtticHeat,
    OpeningDevice,
    Static,
    PassivePower,
    /// Keep away from a transmitting antenna.
    Transmitting,
    RadiatedPower,
    Landlord,
    /// Plan terms, locks and foreign antennas.
    PlanTerms,
}

/// A step of the work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "step", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum JobStep {
    CheckParts,
    Baseline,
    NumberLeads { leads: u8 },
    TryFirst,
    OpenDevice,
    DrillHole { diameter_mm: f64 },
    PassWindow,
    FixMount { mount: Mount, name: String },
    Clamp { pole_mm: f64 },
    StickToGlass,
    CrossPair,
    LayCable { length_m: f64, bend_radius_mm: Option<f64>, drip_loop: bool },
    LayEthernet { length_m: f64 },
    Arrestor,
    Plug { links: Vec<PortLink> },
    Pigtail,
    SwitchPorts,
    Tape { joints: usize },
    FeedPower,
    RestartAndRead,
    AimAndTest,
    WriteDown,
}

/// A tool.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Tool {
    /// A ladder.
    Ladder,
    /// A harness, with something to hold it.
    Harness,
    /// A drill.
    Drill,
    /// A bit for masonry, as wide as the hole.
    MasonryBit,
    /// A spanner.
    Spanner,
    /// A compass.
    Compass,
    /// A spirit level.
    Level,
    /// Self-amalgamating silicone tape.
    SiliconeTape,
    /// Sealant for the hole.
    Sealant,
    /// Clips for the cable.
    CableClips,
    /// Labels for the leads.
    Labels,
    /// A screwdriver.
    Screwdriver,
    /// A wrist strap against static.
    StrapForStatic,
    /// A phone with the page for the roof.
    Phone,
}

/// What the card says, in values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JobPlan {
    /// What to bring.
    pub tools: Vec<Tool>,
    /// Steps, in order.
    pub steps: Vec<JobStep>,
    /// What people can get hurt by.
    pub cautions: Vec<Caution>,
}

/// Height from which a fall is deadly and a ladder needed, m (common practice, no source).
const LADDER_FROM_M: f64 = 2.0;

/// Plans the day. `height_m`: of the antenna.
pub fn job(kit: &Resolved, found: &Assessment, settings: &KitSettings, height_m: Option<f64>) -> JobPlan {
    let height_m = kit.kit.height_above_ground_m.or(height_m).unwrap_or(settings.height_m);
    JobPlan {
        tools: tools(kit, found, height_m),
        steps: steps(kit, found),
        cautions: cautions(kit, found, settings, height_m),
    }
}

fn on_roof(mount: Mount) -> bool {
    matches!(mount, Mount::RoofMast | Mount::Chimney)
}

fn opened(kit: &Resolved) -> bool {
    kit.antenna.is_some() && kit.gateway.is_some_and(|(_, gateway)| gateway.opened)
}

fn has(found: &Assessment, wanted: fn(&KitFinding) -> bool) -> bool {
    found.found.iter().any(|one| wanted(&one.finding))
}

fn drills(kit: &Resolved) -> bool {
    matches!(kit.kit.passage, Passage::Hole { .. }) || kit.mount.is_some_and(|(_, mount)| mount.holes > 0)
}

fn from_ladder(found: &Assessment, height_m: f64) -> bool {
    found.in_open && height_m >= LADDER_FROM_M
}

fn cautions(kit: &Resolved, found: &Assessment, settings: &KitSettings, height_m: f64) -> Vec<Caution> {
    let mut list = Vec::new();
    let mut add = |applies: bool, caution: Caution| {
        if applies {
            list.push(caution);
        }
    };
    let antenna = kit.antenna_spec().is_some();
    add(from_ladder(found, height_m), Caution::Ladder { height_m });
    add(on_roof(found.mount), Caution::Roof);
    // A mast falls within its height about its foot; an arm's length is added, and a line that nobody looked for is
    // taken to be there.
    let reach_m = height_m + 1.0;
    add(
        found.in_open && height_m >= LADDER_FROM_M,
        Caution::OverheadLine {
            reach_m,
            distance_m: settings.overhead_line_m,
            within_reach: settings.overhead_line_m.is_some_and(|distance| distance <= reach_m),
        },
    );
    add(found.in_open, Caution::Storm);
    add(found.in_open, Caution::Lightning);
    add(drills(kit), Caution::Drilling);
    let attic = found.mount == Mount::Attic || kit.kit.gateway_place == GatewayPlace::Attic;
    add(attic, Caution::AtticHeat);
    add(opened(kit), Caution::OpeningDevice);
    add(opened(kit) || (antenna && kit.antenna.is_some()), Caution::Static);
    let passive = kit.injector.is_some_and(|(_, injector)| injector.power_kind == PowerKind::Passive);
    add(kit.unit().is_some() && passive, Caution::PassivePower);
    add(antenna, Caution::Transmitting);
    add(
        antenna
            && has(found, |one| {
                matches!(one, KitFinding::Radiates { .. } | KitFinding::RadiatesTooMuch { .. })
            }),
        Caution::RadiatedPower,
    );
    add(settings.tenant && antenna, Caution::Landlord);
    add(antenna, Caution::PlanTerms);
    list
}

fn steps(kit: &Resolved, found: &Assessment) -> Vec<JobStep> {
    let mut steps = vec![JobStep::CheckParts, JobStep::Baseline];
    let leads = found.chain.leads;
    if kit.antenna.is_some() && leads > 0 {
        steps.push(JobStep::NumberLeads { leads });
    }
    if kit.antenna_spec().is_some() && (drills(kit) || found.in_open) {
        steps.push(JobStep::TryFirst);
    }
    if opened(kit) {
        steps.push(JobStep::OpenDevice);
    }
    if let Some((part, mount)) = kit.mount {
        steps.push(JobStep::FixMount { mount: mount.mount, name: part.name.clone() });
        if mount.pole_mm > 0.0 {
            steps.push(JobStep::Clamp { pole_mm: mount.pole_mm });
        }
    }
    if found.mount == Mount::Window && kit.antenna_spec().is_some() {
        steps.push(JobStep::StickToGlass);
    }
    if kit.kit.antenna_count == 2 && kit.antenna.is_some_and(|(_, antenna)| antenna.elements == 1) {
        steps.push(JobStep::CrossPair);
    }
    match kit.kit.passage {
        Passage::Hole { diameter_mm } => steps.push(JobStep::DrillHole { diameter_mm }),
        Passage::Window => steps.push(JobStep::PassWindow),
        Passage::None => {}
    }
    for link in &kit.chain {
        if let PartSpec::FeedLine(line) = &link.part.spec {
            steps.push(JobStep::LayCable {
                length_m: link.placed.length_m.unwrap_or(0.0),
                bend_radius_mm: Some(line.cable.cable().bend_radius_mm),
                drip_loop: found.in_open,
            });
        }
    }
    if let (Some(_), Some(_), Some(length_m)) = (kit.unit(), kit.ethernet, kit.kit.ethernet_m) {
        steps.push(JobStep::LayEthernet { length_m });
    }
    if has(found, |one| matches!(one, KitFinding::BondArrestor)) {
        steps.push(JobStep::Arrestor);
    }
    if let Some(plan) = found.port_maps.first().filter(|plan| !plan.links.is_empty()) {
        if has(found, |one| matches!(one, KitFinding::Fragile { .. })) {
            steps.push(JobStep::Pigtail);
        }
        steps.push(JobStep::Plug { links: plan.links.clone() });
    }
    if kit.antenna.is_some() && kit.gateway.is_some_and(|(_, gateway)| gateway.switch == PortSwitch::Manual) {
        steps.push(JobStep::SwitchPorts);
    }
    if kit.unit().is_some() {
        steps.push(JobStep::FeedPower);
    }
    steps.push(JobStep::RestartAndRead);
    if kit.antenna_spec().is_some() {
        steps.push(JobStep::AimAndTest);
    }
    let joints = found.chain.joints.iter().filter(|joint| joint.outdoors).count() * usize::from(leads);
    if joints > 0 {
        steps.push(JobStep::Tape { joints });
    }
    steps.push(JobStep::WriteDown);
    steps
}

fn tools(kit: &Resolved, found: &Assessment, height_m: f64) -> Vec<Tool> {
    let mut list = vec![Tool::Phone];
    let mut add = |applies: bool, tool: Tool| {
        if applies {
            list.push(tool);
        }
    };
    let looks = kit.antenna_spec().is_some();
    add(looks, Tool::Compass);
    add(looks, Tool::Level);
    add(kit.mount.is_some_and(|(_, mount)| mount.pole_mm > 0.0), Tool::Spanner);
    add(found.chain.leads > 0, Tool::Labels);
    add(from_ladder(found, height_m), Tool::Ladder);
    add(on_roof(found.mount), Tool::Harness);
    add(drills(kit), Tool::Drill);
    add(drills(kit), Tool::MasonryBit);
    add(matches!(kit.kit.passage, Passage::Hole { .. }), Tool::Sealant);
    add(found.chain.joints.iter().any(|joint| joint.outdoors), Tool::SiliconeTape);
    add(looks && (!kit.chain.is_empty() || kit.ethernet.is_some()), Tool::CableClips);
    add(opened(kit), Tool::Screwdriver);
    add(opened(kit), Tool::StrapForStatic);
    list
}

/// Bands that a port carries, for the drawing; empty for all.
pub fn port_bands(
    kit: &Resolved,
    port: &str,
    wanted: &[crate::model::BandName],
) -> Vec<crate::model::BandName> {
    let Some((_, gateway)) = kit.gateway else { return Vec::new() };
    let Some(port) = gateway.ports.iter().find(|one| one.name == port) else { return Vec::new() };
    wanted.iter().filter(|band| carries(port, **band) && gateway.layers_on(**band) > 0).copied().collect()
}
