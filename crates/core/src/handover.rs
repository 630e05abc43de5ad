//! What one stage found, as the setup the next one uses: nothing is typed twice.

use crate::geo::normalise_bearing_deg;
use crate::hardware::resolve::Resolved;
use crate::kit::ports::port_maps;
use crate::model::{
    AntennaSwitch, Kit, KitId, KnownMast, PortLink, Position, PositionId, Setup, SetupId, SetupOrigin,
    SetupSpec, SurveySettings, Sweep, SweepAxis,
};
use crate::survey::rank::Choice;

/// A setup that is to be made, with what it comes from.
#[derive(Clone, Debug, PartialEq)]
pub struct NewSpec {
    /// What it is.
    pub spec: SetupSpec,
    /// What it was made from.
    pub origin: SetupOrigin,
}

/// The kit that is to be mounted: its identifier and parts.
pub type KitToMount<'a> = Option<(KitId, &'a Resolved<'a>)>;

/// The survey's choice as a setup to mount: its height, bearing and tilt, with the kit's antenna and leads. `like`: the setup
/// that stands at the position already, whose gateway place is kept. A choice inside on stock antennas is none of these;
/// the survey ranks antennas of the kit only.
pub fn from_survey(
    choice: &Choice,
    position: &Position,
    kit: KitToMount,
    like: Option<&SetupSpec>,
) -> NewSpec {
    let antenna = kit.and_then(|(_, kit)| kit.antenna_spec());
    let turns = antenna.is_none_or(|antenna| antenna.beamwidth_azimuth_deg < 360.0);
    let own_height = position.height_above_ground_m;
    let height_above_ground_m = Some(choice.height_m).filter(|height| own_height != Some(*height));
    let spec = SetupSpec {
        azimuth_deg: turns.then(|| normalise_bearing_deg(choice.bearing_deg)),
        tilt_deg: choice.elevation_deg.map(|deg| (deg * 10.0).round() / 10.0),
        kit_id: kit.map(|(id, _)| id).or_else(|| like.and_then(|spec| spec.kit_id)),
        height_above_ground_m,
        polarisation: antenna.map(|antenna| antenna.polarisation),
        ports: kit.map_or_else(Vec::new, |(_, kit)| kit.kit.ports.clone()),
        gateway_place: like.map_or_else(String::new, |spec| spec.gateway_place.clone()),
        gateway_azimuth_deg: like.and_then(|spec| spec.gateway_azimuth_deg),
        ..SetupSpec::on(AntennaSwitch::External)
    };
    NewSpec { spec, origin: SetupOrigin::SurveyChoice { mast_id: Some(choice.mast_id) } }
}

/// The kit in use: the one of the setup being worked on (`active`); where that names none, the one the survey was asked for, else
/// the one that was bought last. `kits`: those of the site, archived ones too.
pub fn kit_in_use(kits: &[Kit], active: Option<&Setup>, survey: &SurveySettings) -> Option<Kit> {
    let known = |id: Option<KitId>| kits.iter().find(|kit| Some(kit.id) == id);
    let bought = || {
        let owned = kits.iter().filter(|kit| kit.archived_at.is_none() && kit.bought_on.is_some());
        owned.max_by_key(|kit| kit.bought_on)
    };
    let stands = known(active.and_then(|setup| setup.spec.kit_id));
    stands.or_else(|| known(survey.kit_id)).or_else(bought).cloned()
}

/// The setup that stands at a position: the one being worked on where it is there, else the newest with an external antenna.
pub fn stands_at<'a>(
    setups: impl IntoIterator<Item = &'a Setup>,
    position: PositionId,
    active: Option<SetupId>,
) -> Option<&'a Setup> {
    setups
        .into_iter()
        .filter(|setup| {
            setup.position_id == position
                && setup.archived_at.is_none()
                && setup.spec.antenna == AntennaSwitch::External
        })
        .max_by_key(|setup| (Some(setup.id) == active, setup.created_at))
}

/// The setup that a sweep turned, where the sweep itself does not say: what its result was made from, else the result, else what
/// stands at its position.
pub fn swept_setup(sweep: &Sweep, setups: &[Setup], active: Option<SetupId>) -> Option<SetupId> {
    let result = setups.iter().find(|setup| match setup.origin {
        SetupOrigin::SweepResult { sweep_id } | SetupOrigin::PortMapTest { sweep_id } => sweep_id == sweep.id,
        _ => false,
    });
    let base = result.and_then(|setup| setup.made_from).filter(|base| {
        setups.iter().any(|setup| setup.id == *base && setup.position_id == sweep.position_id)
    });
    let stands = || stands_at(setups, sweep.position_id, active).map(|setup| setup.id);
    base.or(result.map(|setup| setup.id)).or_else(stands)
}

/// The two ways of plugging the leads in that a port-map test tries: as it is plugged, and the first other way of the kit's that
/// is worth a test. `None` where the kit has no other.
pub fn port_maps_tried(base: Option<&SetupSpec>, kit: &Resolved) -> Option<[Vec<PortLink>; 2]> {
    let all = port_maps(kit);
    let plugged = base.map(|spec| &spec.ports).filter(|ports| !ports.is_empty());
    let first = plugged.or(all.first())?.clone();
    let second = all.into_iter().find(|map| *map != first && !map.is_empty())?;
    Some([first, second])
}

/// A finished sweep as a setup with what was really set; `None` where it was not set, or changed nothing. `base`: the setup the
/// antenna stood in; `maps`: those of a port-map test. A lock stays in force while the antenna is turned.
pub fn from_sweep(sweep: &Sweep, base: Option<&Setup>, maps: Option<&[Vec<PortLink>; 2]>) -> Option<NewSpec> {
    let set_deg = sweep.set_deg?;
    let mut spec = base.map_or_else(|| SetupSpec::on(AntennaSwitch::External), |setup| setup.spec.clone());
    spec.antenna = AntennaSwitch::External;
    spec.name = String::new();
    match sweep.axis {
        SweepAxis::Azimuth => spec.azimuth_deg = Some(normalise_bearing_deg(set_deg)),
        SweepAxis::Tilt => spec.tilt_deg = Some(set_deg.clamp(-90.0, 90.0)),
        SweepAxis::Ports => {
            spec.ports = maps?[usize::from(set_deg >= 0.5)].clone();
            return Some(NewSpec { spec, origin: SetupOrigin::PortMapTest { sweep_id: sweep.id } });
        }
    }
    Some(NewSpec { spec, origin: SetupOrigin::SweepResult { sweep_id: sweep.id } })
}

/// A setup for each way of plugging a kit's leads in that is worth a test, pointing at the known mast where the antenna has a
/// direction. `None` where the kit has no leads to plug.
pub fn port_map_setups(
    kit: &Kit,
    parts: &Resolved,
    known_mast: Option<&KnownMast>,
) -> Option<Vec<SetupSpec>> {
    let maps = port_maps(parts);
    if maps.iter().all(Vec::is_empty) {
        return None;
    }
    let directional = parts.antenna_spec().is_some_and(|antenna| antenna.beamwidth_azimuth_deg < 360.0);
    let azimuth_deg = known_mast.filter(|_| directional).map(|mast| mast.bearing_deg);
    let setup = |ports: Vec<PortLink>| {
        let way: Vec<String> = ports.iter().map(|link| format!("{}→{}", link.lead, link.port)).collect();
        SetupSpec {
            name: format!("{}, leads {}", kit.name, way.join(" ")),
            azimuth_deg,
            ports,
            kit_id: Some(kit.id),
            height_above_ground_m: kit.spec.height_above_ground_m,
            ..SetupSpec::on(AntennaSwitch::External)
        }
    };
    Some(maps.into_iter().map(setup).collect())
}
