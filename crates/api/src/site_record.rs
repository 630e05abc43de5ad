//! Everything of a site's record that its pages are computed from, read once, and the house's radio environment made of it.

use crate::catalogue::{catalogue, style};
use crate::grounds::Grounds;
use crate::heard_bands::kit_in_use;
use crate::problem::Problem;
use chrono::{DateTime, Utc};
use open_beacon_core::aim::record::as_turned;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::handover::{port_maps_tried, stands_at};
use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::judge::{
    HeardOn, SpotEvidence, SpotView, aim_of, location_of, observations, over_time, spot_views, start_of,
};
use open_beacon_core::kit::assess::gateway_alone;
use open_beacon_core::kit::scenario::{Scenario, Today};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::Facts;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::over_time::OverTime;
use open_beacon_core::link::predict::LinkSetup;
use open_beacon_core::model::{
    AntennaSpec, AntennaSwitch, Backdrop, BandChoice, ConnectionMode, Instrument, Kit, KitId, KitSpec,
    Landmark, Mast, MastId, Obstacle, OutdoorKind, PortLink, Position, PositionId, Setup, SetupId, SetupSpec,
    SiteId, SiteSettings, SweepAxis, TerrainTile,
};
use open_beacon_core::survey::rank::{Question, best_outside};
use open_beacon_core::survey::ranking::rank;
use open_beacon_core::terrain::Ground;
use open_beacon_core::words::{Style, setup_label};
use open_beacon_store::{Store, StoreError};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// How many of a setup's newest runs are read.
const RUNS: u32 = 50;

/// A setup with what was heard and measured on it, by network and instrument.
#[derive(Debug)]
pub(crate) struct SetupRecord {
    pub(crate) setup: Setup,
    pub(crate) position: Position,
    pub(crate) views: Vec<SpotView>,
    /// What its record says of change over time.
    over_time: OverTime,
    /// What was heard at points of sweeps, each with the setup as it was turned there.
    points: Vec<(SetupSpec, SpotView)>,
}

/// Everything that a site's pages are computed from.
#[derive(Debug)]
pub(crate) struct SiteRecord {
    pub(crate) name: String,
    pub(crate) house: Option<GeoPoint>,
    pub(crate) settings: SiteSettings,
    pub(crate) positions: Vec<Position>,
    /// Those in use.
    pub(crate) masts: Vec<Mast>,
    pub(crate) obstacles: Vec<Obstacle>,
    pub(crate) landmarks: Vec<Landmark>,
    pub(crate) tiles: Vec<TerrainTile>,
    pub(crate) backdrops: Vec<Backdrop>,
    pub(crate) ground: Arc<Ground>,
    pub(crate) setups: Vec<SetupRecord>,
    pub(crate) mode: ConnectionMode,
    /// The kit in use.
    pub(crate) kit: Option<Kit>,
    /// Of each setup: its kit as it is heard with, the gateway alone where it is on its own antennas.
    kits: Vec<Option<KitSpec>>,
    pub(crate) catalogue: Catalogue,
}

/// The house's radio environment, and what is asked of it.
#[derive(Debug)]
pub(crate) struct RadioEnvironment<'a> {
    pub(crate) env: &'a Environment<'a>,
    /// Where an antenna goes that says no position.
    pub(crate) outside: AntennaLocation,
    pub(crate) today: Option<Today>,
    /// The kit in use, else the panel of the assumptions.
    pub(crate) antenna: AimAntenna<'a>,
    pub(crate) positions: &'a [Position],
    /// Every setup as it stands, with its lock.
    pub(crate) setups: &'a [(SetupId, LinkSetup<'a>)],
    /// The setup being worked on, without its lock.
    pub(crate) active: Option<LinkSetup<'a>>,
    /// What stands there now: the setup being worked on, else the gateway where it is best today.
    pub(crate) stands: Option<LinkSetup<'a>>,
    /// The kind of antenna that the assumptions begin with.
    pub(crate) assumed: AimAntenna<'a>,
}

impl<'a> RadioEnvironment<'a> {
    /// What a survey asks.
    pub(crate) fn question(&self) -> Question<'a> {
        Question { positions: self.positions, antenna: self.antenna }
    }

    /// The house as kits are judged at it.
    pub(crate) fn scenario(&self) -> Scenario<'a> {
        Scenario::new(self.env, self.today.clone(), self.outside)
    }
}

fn heard_on(
    store: &Store,
    settings: &SiteSettings,
    id: SiteId,
    before: Option<DateTime<Utc>>,
) -> Result<Vec<SetupRecord>, StoreError> {
    let zone = store.site(id)?.time_zone;
    let setups = store.setups(id)?;
    let mut found = Vec::new();
    for position in store.positions(id)?.into_iter().filter(|position| position.archived_at.is_none()) {
        for setup in setups.iter().filter(|one| one.position_id == position.id && one.archived_at.is_none()) {
            let label = setup_label(&position, &setup.spec);
            let evidence = store.evidence_before(setup.id, label, Some(RUNS), before)?;
            let spot = SpotEvidence { position: position.clone(), evidence };
            let views = spot_views(&spot, &settings.network, &settings.link);
            let over_time = over_time(&spot.evidence.of_network(&settings.network), zone);
            let points = store.sweep_points(setup.id)?;
            let points = points.into_iter().filter_map(|evidence| {
                let run = evidence.runs.first().filter(|run| before.is_none_or(|at| run.started_at < at))?;
                let turned = as_turned(&setup.spec, run.context)?;
                let spot = SpotEvidence { position: position.clone(), evidence };
                Some((turned, spot_views(&spot, &settings.network, &settings.link).pop()?))
            });
            let (points, position) = (points.collect(), position.clone());
            found.push(SetupRecord { setup: setup.clone(), position, views, over_time, points });
        }
    }
    Ok(found)
}

impl SiteRecord {
    pub(crate) fn read(store: &Store, grounds: &Grounds, id: SiteId) -> Result<Self, StoreError> {
        Self::read_before(store, grounds, id, None)
    }

    /// With what had been measured before a moment only, if said; masts, settings and kits are today's.
    pub(crate) fn read_before(
        store: &Store,
        grounds: &Grounds,
        id: SiteId,
        before: Option<DateTime<Utc>>,
    ) -> Result<Self, StoreError> {
        let site = store.site(id)?;
        let settings = store.settings(id)?;
        let mut masts: Vec<Mast> = store.entities(id)?;
        masts.retain(|mast| mast.archived_at.is_none());
        let mut obstacles: Vec<Obstacle> = store.entities(id)?;
        obstacles.retain(|one| one.archived_at.is_none());
        let kit = kit_in_use(store, id, &settings)?;
        let setups = heard_on(store, &settings, id, before)?;
        let known = store.kits(id)?;
        let kits = setups.iter().map(|one| heard_with(&one.setup, &known, kit.as_ref(), &settings)).collect();
        let mut made = Self {
            name: site.name,
            house: site.place,
            positions: store.positions(id)?,
            masts,
            obstacles,
            landmarks: store.entities(id)?,
            tiles: store.entities(id)?,
            backdrops: store.entities(id)?,
            ground: grounds.of(store, id, site.place)?,
            setups,
            mode: ConnectionMode::Unknown,
            kit,
            kits,
            catalogue: catalogue(store)?,
            settings,
        };
        let stock = made.stock_views();
        let first = start_of(&stock).or(stock.first());
        let any = made.in_use().next().map(|(_, view)| view);
        made.mode = first.or(any).map_or(ConnectionMode::Unknown, |spot| spot.mode);
        Ok(made)
    }

    /// Setups and their views of the network in use.
    fn in_use(&self) -> impl Iterator<Item = (usize, &SpotView)> {
        let network = &self.settings.network;
        let of = move |(at, one): (usize, &'_ SetupRecord)| {
            let own: Vec<usize> =
                (0..one.views.len()).filter(|view| one.views[*view].network == *network).collect();
            own.into_iter().map(move |view| (at, view))
        };
        self.setups.iter().enumerate().flat_map(of).map(|(at, view)| (at, &self.setups[at].views[view]))
    }

    /// Views of the network in use on the gateway's own antennas.
    fn stock_views(&self) -> Vec<SpotView> {
        self.in_use()
            .filter(|(at, _)| self.setups[*at].setup.spec.antenna == AntennaSwitch::Internal)
            .map(|(_, view)| view.clone())
            .collect()
    }

    /// Calls with the house's radio environment, computed and put right by everything that was measured there.
    pub(crate) fn with<T>(&self, call: impl FnOnce(&RadioEnvironment) -> T) -> T {
        let kits: Vec<Option<Resolved>> =
            self.kits.iter().map(|kit| kit.as_ref().map(|kit| Resolved::new(kit, &self.catalogue))).collect();
        let in_use = self.kit.as_ref().map(|kit| Resolved::new(&kit.spec, &self.catalogue));
        let panel = self.settings.outdoor.kinds.iter().find(|one| one.kind == OutdoorKind::Panel);
        let assumed = panel.map_or(AimAntenna::Stock, AimAntenna::Assumed);
        let antenna_of = |at: usize| match (&kits[at], self.setups[at].setup.spec.antenna) {
            (Some(kit), _) => AimAntenna::Kit(kit),
            (None, AntennaSwitch::External) => assumed,
            (None, AntennaSwitch::Internal) => AimAntenna::Stock,
        };
        let own = self.in_use().map(|(at, spot)| (at, spot, &self.setups[at].setup.spec, false));
        let points = self
            .setups
            .iter()
            .enumerate()
            .flat_map(|(at, one)| one.points.iter().map(move |(turned, spot)| (at, spot, turned, true)));
        let heard: Vec<HeardOn> = own
            .chain(points)
            .map(|(at, spot, setup, turned)| {
                let (position, antenna) = (&self.setups[at].position, antenna_of(at));
                HeardOn { spot, setup, position, antenna, turned }
            })
            .collect();
        let env = Environment::new(Facts {
            masts: &self.masts,
            obstacles: &self.obstacles,
            ground: &self.ground,
            settings: &self.settings,
            house: self.house,
            observations: observations(&heard, self.house),
            mode: self.mode,
        });
        let over_time: Vec<OverTime> = self.setups.iter().map(|one| one.over_time.clone()).collect();
        let env = env.watched(&over_time);
        let stock = self.stock_views();
        let today = start_of(&stock).and_then(|start| {
            let of = |one: &&SetupRecord| one.setup.id == start.setup_id;
            let own = self.setups.iter().find(of)?;
            Some(Today {
                spot: start.name.clone(),
                location: location_of(&own.setup.spec, &own.position, self.house),
                measured_down_mbps: SpotView::typical(&start.download),
                measured_up_mbps: SpotView::typical(&start.upload),
            })
        });
        let setups: Vec<(SetupId, LinkSetup)> = (0..self.setups.len())
            .map(|at| {
                let (own, antenna) = (&self.setups[at], antenna_of(at));
                let spec = &own.setup.spec;
                let location = location_of(spec, &own.position, self.house);
                let (aim, lock) = (aim_of(spec, &antenna), spec.lock.clone());
                (own.setup.id, LinkSetup { aim, lock, ..LinkSetup::new(location, antenna) })
            })
            .collect();
        let active = setups.iter().find(|(id, _)| Some(*id) == self.settings.active_setup_id);
        let active = active.map(|(_, setup)| setup);
        let alone = today.as_ref().map(|today| LinkSetup::new(today.location, AimAntenna::Stock));
        let stands = active.cloned().or(alone);
        let active = active.map(|setup| LinkSetup { lock: BandChoice::default(), ..setup.clone() });
        let asked = Question { positions: &self.positions, antenna: assumed };
        call(&RadioEnvironment {
            env: &env,
            outside: best_outside(&env, &asked),
            today,
            antenna: in_use.as_ref().map_or(assumed, AimAntenna::Kit),
            positions: &self.positions,
            setups: &setups,
            active,
            stands,
            assumed,
        })
    }

    /// The ways of plugging in that a port-map test at a position tries.
    pub(crate) fn port_maps_at(&self, position: PositionId) -> Option<[Vec<PortLink>; 2]> {
        let kit = self.kit.as_ref()?;
        port_maps_tried(
            self.stands_at(position).map(|setup| &setup.spec),
            &Resolved::new(&kit.spec, &self.catalogue),
        )
    }

    /// The setup that has a kit: the one being worked on, else the newest.
    pub(crate) fn setup_with(&self, kit: KitId) -> Option<&SetupRecord> {
        let own = || self.setups.iter().filter(|one| one.setup.spec.kit_id == Some(kit));
        let active = own().find(|one| Some(one.setup.id) == self.settings.active_setup_id);
        active.or_else(|| own().max_by_key(|one| one.setup.created_at))
    }

    /// The setup that stands at a position.
    pub(crate) fn stands_at(&self, position: PositionId) -> Option<&Setup> {
        stands_at(self.setups.iter().map(|one| &one.setup), position, self.settings.active_setup_id)
    }

    /// The kit's antenna, where one is in use.
    pub(crate) fn antenna_spec(&self) -> Option<AntennaSpec> {
        let kit = self.kit.as_ref()?;
        Resolved::new(&kit.spec, &self.catalogue).antenna_spec().cloned()
    }

    /// Where the best mast for a position lies: bearing or elevation, degrees, as the ranking has it.
    pub(crate) fn expected(&self, position: PositionId, axis: SweepAxis) -> Option<f64> {
        self.with(|radio| {
            let ranking = rank(radio.env, &radio.question());
            let best = ranking.choices.iter().find(|one| one.position_id == position)?;
            match axis {
                SweepAxis::Azimuth => Some(best.bearing_deg),
                SweepAxis::Tilt => best.elevation_deg,
                SweepAxis::Ports => None,
            }
        })
    }

    pub(crate) fn style(&self) -> Style {
        style(&self.settings)
    }

    /// The kit of a setup, as it is heard with.
    pub(crate) fn kit_of(&self, id: SetupId) -> Option<&KitSpec> {
        let at = self.setups.iter().position(|one| one.setup.id == id)?;
        self.kits[at].as_ref()
    }

    /// Whether anything was measured on a setup.
    pub(crate) fn measured(&self, id: SetupId) -> bool {
        let own = self.setups.iter().find(|one| one.setup.id == id);
        own.is_some_and(|one| one.views.iter().any(|view| view.samples + view.tests > 0))
    }

    /// What the gateway heard on a setup on the network in use.
    pub(crate) fn of_gateway<'a>(&self, setup: &'a SetupRecord) -> Option<&'a SpotView> {
        let network = &self.settings.network;
        let of = |view: &&SpotView| view.network == *network && view.instrument == Instrument::Gateway;
        setup.views.iter().find(of).filter(|view| view.samples + view.tests > 0)
    }

    /// Everything the gateway heard on the network in use.
    pub(crate) fn by_gateway(&self) -> impl Iterator<Item = &SpotView> {
        self.in_use().map(|(_, view)| view).filter(|view| view.instrument == Instrument::Gateway)
    }

    pub(crate) fn position(&self, id: PositionId) -> Result<&Position, Problem> {
        self.positions
            .iter()
            .find(|one| one.id == id)
            .ok_or_else(|| Problem::not_found("There is no position with this identifier."))
    }

    pub(crate) fn mast_at(&self, id: MastId) -> Result<usize, Problem> {
        self.masts
            .iter()
            .position(|one| one.id == id)
            .ok_or_else(|| Problem::not_found("There is no mast with this identifier."))
    }

    /// Where an antenna at a position is.
    pub(crate) fn location(
        &self,
        id: PositionId,
        height_m: Option<f64>,
    ) -> Result<(&Position, AntennaLocation), Problem> {
        let position = self.position(id)?;
        let place = position.place.or(self.house).ok_or_else(|| {
            Problem::conflict(
                "Neither this position nor the site has coordinates. Enter the site's position first.",
            )
        })?;
        let height_m = height_m.or(position.height_above_ground_m).unwrap_or(3.0).clamp(0.5, 200.0);
        let (mount, position_id) = (position.mount, Some(id));
        Ok((position, AntennaLocation { place: Some(place), height_m, mount, position: position_id }))
    }
}

/// A setup's kit as it is heard with. Where it names none, what is outside is taken to have the kit in use, and what is inside
/// the gateway in use, or the one that the household owns.
fn heard_with(setup: &Setup, kits: &[Kit], in_use: Option<&Kit>, settings: &SiteSettings) -> Option<KitSpec> {
    let named = setup.spec.kit_id.and_then(|id| kits.iter().find(|kit| kit.id == id));
    let kit = named.or(in_use);
    match setup.spec.antenna {
        AntennaSwitch::External => kit.map(|kit| kit.spec.clone()),
        AntennaSwitch::Internal => {
            let gateway = kit.and_then(|kit| kit.spec.gateway).or(settings.kit.own_gateway);
            gateway.map(gateway_alone)
        }
    }
}

type Kept = HashMap<SiteId, (u64, Arc<SiteRecord>)>;

/// Records of sites, kept as long as nothing was written since; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct SiteRecords(Arc<Mutex<Kept>>);

/// Records kept at the most.
const MOST: usize = 8;

impl SiteRecords {
    pub(crate) fn get(&self, id: SiteId, version: u64) -> Option<Arc<SiteRecord>> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.get(&id).filter(|(of, _)| *of == version).map(|(_, record)| Arc::clone(record))
    }

    pub(crate) fn keep(&self, id: SiteId, version: u64, record: &Arc<SiteRecord>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST {
            kept.clear();
        }
        kept.insert(id, (version, Arc::clone(record)));
    }
}
