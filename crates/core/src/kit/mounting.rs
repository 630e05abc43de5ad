//! Where the parts go: holes and windows, clamps, weather, heat, weight and wind, lightning, power over Ethernet.

use super::finding::{At, FixTo, Found, KitFinding, PowerFault};
use crate::feedline::ethernet::{PowerError, PoweredPairs, far_end};
use crate::hardware::chain::Chain;
use crate::hardware::resolve::Resolved;
use crate::model::{
    AntennaSpec, ArrestorSpec, BandName, Fixing, GatewayPlace, Mount, MountSpec, PartSpec, Passage,
};

/// The place, as far as checks go by it.
#[derive(Clone, Debug, Default)]
pub struct Placing {
    /// By the position, where one is chosen.
    pub mount: Option<Mount>,
    /// Wind it has to stand, m/s.
    pub wind_m_s: f64,
    /// Whether a landlord has to agree.
    pub tenant: bool,
    /// Bands wanted, with a frequency of each.
    pub bands: Vec<(BandName, f64)>,
}

impl Placing {
    /// True where the antenna stands in the open.
    pub fn in_open(&self, kit: &Resolved) -> bool {
        kit.antenna_spec().is_some() && !kit.mount_kind(self.mount).is_indoors()
    }
}

/// Density of air at sea level and 15 °C, kg/m³: ISO 2533.
const AIR_KG_M3: f64 = 1.225;
/// Drag coefficient of a flat panel (handbook value, from memory: 1.2 for a plate, 1.2 for a round pole).
const DRAG: f64 = 1.2;

/// Force of the wind, N: ½ ρ v² C A. `wind_m_s`: 0..=80.
///
/// ```
/// use open_beacon_core::kit::mounting::wind_force_n;
/// // Worked by hand: 0.5 · 1.225 · 35² · 1.2 · 0.1 = 90.0 N.
/// assert!((wind_force_n(35.0, 0.1) - 90.04).abs() < 0.01);
/// ```
pub fn wind_force_n(wind_m_s: f64, area_m2: f64) -> f64 {
    0.5 * AIR_KG_M3 * wind_m_s * wind_m_s * DRAG * area_m2
}

/// Bending moment at the pole's last clamp, N m: the antenna's force at the top, the pole's own at half its length.
pub fn clamp_moment_nm(wind_m_s: f64, area_m2: f64, pole_mm: f64, free_length_m: f64) -> f64 {
    let pole = wind_force_n(wind_m_s, pole_mm / 1000.0 * free_length_m);
    wind_force_n(wind_m_s, area_m2) * free_length_m + pole * free_length_m / 2.0
}

/// What a place gets as, lowest and highest, °C (common practice, no source).
fn temperatures_c(place: GatewayPlace) -> (f64, f64) {
    match place {
        GatewayPlace::Room => (10.0, 35.0),
        GatewayPlace::Attic => (-20.0, 60.0),
        GatewayPlace::SealedBox => (-25.0, 65.0),
        GatewayPlace::Outside => (-30.0, 50.0),
    }
}

/// Room behind a gateway on a shelf or in a window frame, in which its cable must bend, mm (common practice, no
/// source).
const ROOM_TO_BEND_MM: f64 = 50.0;

pub(super) fn mounting(kit: &Resolved, chain: &Chain, placing: &Placing, found: &mut Vec<Found>) {
    let in_open = placing.in_open(kit);
    way_in(kit, chain, in_open, found);
    held(kit, placing, in_open, found);
    weather(kit, in_open, found);
    lightning(kit, placing, in_open, found);
    if kit.unit().is_some() {
        power(kit, found);
    }
    if let Some((_, gateway)) = kit.gateway {
        let place = if gateway.outdoor.is_some() { GatewayPlace::Outside } else { kit.kit.gateway_place };
        let (low, high) = temperatures_c(place);
        if gateway.temperature_low_c > low || gateway.temperature_high_c < high {
            let finding = KitFinding::TooHotOrCold {
                place,
                low_c: gateway.temperature_low_c,
                high_c: gateway.temperature_high_c,
                expected_low_c: low,
                expected_high_c: high,
            };
            found.push(Found::costs(At::Gateway, finding));
        }
    }
}

/// Diameter of a connector over its nut, mm: what a hole must pass (common practice, no source).
fn connector_mm(kit: &Resolved) -> f64 {
    use crate::feedline::joint::Series;
    kit.chain
        .iter()
        .filter(|link| matches!(link.part.spec, PartSpec::FeedLine(_)))
        .filter_map(crate::hardware::resolve::Link::ends)
        .map(|(_, end)| match end.series {
            Series::N => 21.0,
            Series::Sma | Series::RpSma => 9.5,
            Series::Ts9 | Series::Crc9 => 8.0,
            Series::UFl => 3.0,
        })
        .fold(0.0, f64::max)
}

/// Diameter of the hole that a kit's cables need, mm: leads side by side, one of them with its connector on.
pub fn hole_needed_mm(kit: &Resolved) -> f64 {
    if kit.unit().is_some() {
        return kit.ethernet.map_or(0.0, |(_, cable)| cable.diameter_mm + 6.0);
    }
    let cables = kit.chain.iter().filter_map(|link| match &link.part.spec {
        PartSpec::FeedLine(line) => Some(line.cable.cable().diameter_mm),
        _ => None,
    });
    let tail = kit.antenna.and_then(|(_, antenna)| antenna.tail_cable).map(|kind| kind.cable().diameter_mm);
    let cable_mm = cables.reduce(f64::max).or(tail).unwrap_or(0.0);
    let leads_mm = if kit.leads() > 2 { 2.0 * cable_mm } else { cable_mm };
    connector_mm(kit).max(leads_mm) + cable_mm
}

fn way_in(kit: &Resolved, chain: &Chain, in_open: bool, found: &mut Vec<Found>) {
    let mut thickest = (0.0, 0.0, 0, String::new());
    for (place, link) in kit.chain.iter().enumerate() {
        if let PartSpec::FeedLine(line) = &link.part.spec {
            let cable = line.cable.cable();
            if cable.diameter_mm > thickest.0 {
                thickest = (cable.diameter_mm, cable.bend_radius_mm, place, link.part.name.clone());
            }
        }
    }
    let (_, radius_mm, place, name) = thickest;
    // A thick cable right at the gateway or in a window frame has no room to turn.
    let last = place + 1 == kit.chain.len() && kit.kit.gateway_place == GatewayPlace::Room;
    let in_window = kit.kit.passage == Passage::Window;
    if radius_mm > ROOM_TO_BEND_MM && (last || in_window) {
        let finding = KitFinding::Bends { radius_mm, room_mm: ROOM_TO_BEND_MM, name };
        found.push(Found::costs(At::Part { place }, finding));
    }
    let has_ethernet = kit.unit().is_some();
    if !in_open || (chain.joints.is_empty() && !has_ethernet) {
        return;
    }
    match kit.kit.passage {
        Passage::None if kit.kit.gateway_place != GatewayPlace::Outside => {
            found.push(Found::mind(At::Kit, KitFinding::WayInMissing));
        }
        Passage::Hole { diameter_mm } => {
            let needs_mm = hole_needed_mm(kit);
            if diameter_mm < needs_mm {
                let finding = KitFinding::HoleTooSmall { hole_mm: diameter_mm, needs_mm };
                found.push(Found::wrong(At::Kit, finding));
            }
        }
        Passage::Window => {
            let flat = |link: &crate::hardware::resolve::Link| matches!(&link.part.spec, PartSpec::Jumper(jumper) if jumper.flat);
            if !kit.chain.iter().any(flat) {
                found.push(Found::wrong(At::Kit, KitFinding::WindowNeedsFlat));
            }
        }
        Passage::None => {}
    }
}

/// True where a mount takes an antenna (or `count` of them): clamp, weight, and the wind as far as the maker says.
pub fn holds(looks: &AntennaSpec, count: u8, mount: &MountSpec, wind_m_s: f64) -> bool {
    let Fixing { clamp_low_mm, clamp_high_mm, wall, glass } = looks.fixing;
    let fixes = if mount.pole_mm > 0.0 {
        (clamp_low_mm..=clamp_high_mm).contains(&mount.pole_mm) && clamp_high_mm > 0.0
    } else {
        match mount.mount {
            Mount::Window => glass,
            Mount::Wall => wall,
            _ => true,
        }
    };
    let in_open = !mount.mount.is_indoors();
    let count = f64::from(count);
    let bends = || clamp_moment_nm(wind_m_s, looks.area_m2 * count, mount.pole_mm, mount.free_length_m);
    fixes
        && looks.weight_kg * count <= mount.carries_kg
        && (looks.weatherproof || !in_open)
        && !(in_open && mount.moment_nm.is_some_and(|limit| bends() > limit))
}

fn held(kit: &Resolved, placing: &Placing, in_open: bool, found: &mut Vec<Found>) {
    let Some(looks) = kit.antenna_spec() else { return };
    let Fixing { clamp_low_mm, clamp_high_mm, wall, glass } = looks.fixing;
    let pole_mm = kit.mount.map_or(0.0, |(_, mount)| mount.pole_mm);
    let no_fixing = |to| Found::wrong(At::Mount, KitFinding::NoFixing { to });
    if pole_mm > 0.0 {
        if clamp_high_mm <= 0.0 {
            found.push(no_fixing(FixTo::Pole));
        } else if !(clamp_low_mm..=clamp_high_mm).contains(&pole_mm) {
            let finding = KitFinding::ClampMisfit { pole_mm, low_mm: clamp_low_mm, high_mm: clamp_high_mm };
            found.push(Found::wrong(At::Mount, finding));
        }
    } else {
        match kit.mount_kind(placing.mount) {
            Mount::Window if !glass => found.push(no_fixing(FixTo::Glass)),
            Mount::Wall if !wall => found.push(no_fixing(FixTo::Wall)),
            Mount::RoofMast | Mount::Chimney | Mount::Pole if kit.mount.is_none() => {
                found.push(no_fixing(FixTo::Pole));
            }
            _ => {}
        }
    }
    let Some((_, mount)) = kit.mount else { return };
    let count = f64::from(kit.kit.antenna_count.max(1));
    let weight_kg = looks.weight_kg * count;
    if weight_kg > mount.carries_kg {
        let finding = KitFinding::TooHeavy { weight_kg, carries_kg: mount.carries_kg };
        found.push(Found::wrong(At::Mount, finding));
    }
    if in_open {
        let area_m2 = looks.area_m2 * count;
        let moment_nm = clamp_moment_nm(placing.wind_m_s, area_m2, mount.pole_mm, mount.free_length_m);
        let finding = KitFinding::Wind {
            wind_m_s: placing.wind_m_s,
            force_n: wind_force_n(placing.wind_m_s, area_m2),
            moment_nm,
            limit_nm: mount.moment_nm,
        };
        let over = mount.moment_nm.is_some_and(|limit| moment_nm > limit);
        found.push(if over { Found::wrong(At::Mount, finding) } else { Found::mind(At::Mount, finding) });
    }
    let passage = u8::from(matches!(kit.kit.passage, Passage::Hole { .. }));
    if placing.tenant && mount.holes + passage > 0 {
        found.push(Found::costs(At::Mount, KitFinding::Holes { holes: mount.holes + passage }));
    }
}

fn weather(kit: &Resolved, in_open: bool, found: &mut Vec<Found>) {
    if !in_open {
        return;
    }
    if kit.antenna_spec().is_some_and(|antenna| !antenna.weatherproof) {
        let part = kit.antenna.map(|(part, _)| part).or(kit.gateway.map(|(part, _)| part));
        let name = part.map_or(String::new(), |part| part.name.clone());
        found.push(Found::wrong(At::Antenna, KitFinding::NotWeatherproof { name }));
    }
    for (place, link) in kit.chain.iter().enumerate() {
        let exposed = place == 0 || link.placed.outdoors;
        if let PartSpec::FeedLine(line) = &link.part.spec
            && exposed
            && !line.outdoors
        {
            let name = link.part.name.clone();
            found.push(Found::costs(At::Part { place }, KitFinding::CableNotForOutdoors { name }));
        }
    }
    if let Some((part, cable)) = kit.ethernet
        && kit.unit().is_some()
        && !cable.outdoors
    {
        let name = part.name.clone();
        found.push(Found::costs(At::Ethernet, KitFinding::CableNotForOutdoors { name }));
    }
}

fn lightning(kit: &Resolved, placing: &Placing, in_open: bool, found: &mut Vec<Found>) {
    if !in_open {
        return;
    }
    let mut arrestors = kit.chain.iter().enumerate().filter_map(|(place, link)| match &link.part.spec {
        PartSpec::Arrestor(ArrestorSpec::Coax { lowest_mhz, highest_mhz, .. }) => {
            Some((place, *lowest_mhz, *highest_mhz))
        }
        _ => None,
    });
    let first = arrestors.next();
    let ethernet = kit.unit().is_some() && kit.ethernet_arrestor.is_some();
    if first.is_none() && !ethernet {
        found.push(Found::mind(At::Kit, KitFinding::NoArrestor));
        return;
    }
    found.push(Found::mind(At::Kit, KitFinding::BondArrestor));
    for (place, low_mhz, high_mhz) in first.into_iter().chain(arrestors) {
        let outside = |(_, mhz): &&(BandName, f64)| !(low_mhz..=high_mhz).contains(mhz);
        let bands: Vec<BandName> = placing.bands.iter().filter(outside).map(|(band, _)| *band).collect();
        if !bands.is_empty() {
            let finding = KitFinding::ArrestorRange { bands, low_mhz, high_mhz };
            found.push(Found::wrong(At::Part { place }, finding));
        }
    }
}

fn power(kit: &Resolved, found: &mut Vec<Found>) {
    let Some((_, gateway)) = kit.gateway else { return };
    let Some(takes) = gateway.power_over_ethernet else { return };
    let mut fault = |fault| found.push(Found::wrong(At::Ethernet, KitFinding::Power { fault }));
    let Some((_, cable)) = kit.ethernet else { return fault(PowerFault::NoCable) };
    let Some((_, injector)) = kit.injector else { return fault(PowerFault::NoInjector) };
    if injector.power_kind != takes.power_kind {
        return fault(PowerFault::KindsMixed { unit: takes.power_kind, injector: injector.power_kind });
    }
    if injector.voltage_v > takes.highest_v {
        return fault(PowerFault::TooMuchVoltage {
            injector_v: injector.voltage_v,
            highest_v: takes.highest_v,
        });
    }
    let length_m = kit.kit.ethernet_m.unwrap_or(0.0);
    let pairs = if injector.four_pairs { PoweredPairs::Four } else { PoweredPairs::Two };
    match far_end(injector.voltage_v, gateway.power_w, length_m, cable.loop_ohm_100m, pairs) {
        Err(PowerError::TooLong) => fault(PowerFault::TooLong { length_m }),
        Err(_) => fault(PowerFault::Starves),
        Ok(end) if end.voltage_v < takes.lowest_v => {
            fault(PowerFault::TooLittleVoltage { arrives_v: end.voltage_v, lowest_v: takes.lowest_v });
        }
        Ok(end) if gateway.power_w + end.lost_w > injector.power_w => {
            let needs_w = gateway.power_w + end.lost_w;
            fault(PowerFault::TooMuchPower { needs_w, gives_w: injector.power_w });
        }
        Ok(end) => {
            let finding = KitFinding::PowerArrives { voltage_v: end.voltage_v, lost_w: end.lost_w };
            found.push(Found::mind(At::Ethernet, finding));
        }
    }
}
