//! The demo site: a week of runs at four positions and a scout of the house, measured on the stand-in in virtual time.

use crate::demo_speeds::build_test;
use crate::device::Device;
use crate::radio::Pose;
use crate::world::{HOUSE_LATITUDE_DEG, HOUSE_LONGITUDE_DEG};
use chrono::{DateTime, Duration, TimeZone, Utc};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{
    Activity, AntennaSwitch, Attach, BUNDLE_FORMAT, BUNDLE_VERSION, Carrier, CarrierRole, Completion,
    Conditions, ConnectionMode, GatewayRecipe, GatewaySettings, Instrument, KitId, KnownMast, Mount,
    PortLink, Position, PositionId, Reading, Run, RunContext, RunId, Sample, SampleId, Setup, SetupId,
    SetupOrigin, SetupSpec, Site, SiteBundle, SiteId, SiteSettings, Source, SpeedTestId, SpeedTestSettings,
    Technology, assign_sittings,
};
use uuid::Uuid;

/// Addresses of the stand-in that the demo site is set to.
#[derive(Clone, Debug)]
pub struct Addresses {
    pub status_url: String,
    pub speed_url: String,
    pub control_url: String,
}

/// Settings that point a site at the stand-in.
pub fn stand_in_settings(at: &Addresses) -> SiteSettings {
    SiteSettings {
        gateway: Some(GatewaySettings {
            status_url: at.status_url.clone(),
            poll_interval_ms: 700,
            certificate_sha256: None,
            recipe: GatewayRecipe { lock: Some(crate::trials::lock_recipe()), ..GatewayRecipe::default() },
        }),
        speed_test: Some(SpeedTestSettings {
            download_url: format!("{}/down", at.speed_url),
            upload_url: Some(format!("{}/up", at.speed_url)),
            latency_url: Some(format!("{}/ping", at.speed_url)),
            connections: 4,
            warm_up_s: 1.5,
            phase_s: 6.0,
            most_mb: None,
            precise_to: None,
            page_part_url: Some(format!("{}/down?bytes=20000", at.speed_url)),
        }),
        stand_in_url: Some(at.control_url.clone()),
        stand_in_follows: true,
        ..SiteSettings::default()
    }
}

struct Spot {
    name: &'static str,
    mount: Mount,
    height_m: f64,
    east_m: f64,
    north_m: f64,
    notes: &'static str,
    house: House,
    setups: &'static [Aim],
}

/// Where in the house a spot is.
struct House {
    floor: &'static str,
    room: &'static str,
    facing_deg: Option<f64>,
    window: &'static str,
}

const OUTSIDE: House = House { floor: "", room: "", facing_deg: None, window: "" };

impl House {
    fn spot(&self) -> open_beacon_core::model::Spot {
        open_beacon_core::model::Spot {
            floor: self.floor.into(),
            room: self.room.into(),
            facing_deg: self.facing_deg,
            window: self.window.into(),
        }
    }
}

struct Aim {
    antenna: AntennaSwitch,
    azimuth_deg: f64,
    tilt_deg: f64,
    kit: &'static str,
    instrument: Instrument,
    /// Day of the demo week, hour of the valley, speed tests.
    sittings: &'static [(i64, u32, u32)],
}

/// The kit that was bought and stands at each place outside.
const PANEL: &str = "Wide panel, thin cable";

const SPOTS: [Spot; 6] = [
    Spot {
        name: "Kitchen sill",
        mount: Mount::Indoor,
        height_m: 1.1,
        east_m: 3.0,
        north_m: -2.0,
        notes: "Where the gateway has always stood, behind the flower pots.",
        house: House {
            floor: "Ground floor",
            room: "kitchen",
            facing_deg: Some(230.0),
            window: "the sink window",
        },
        setups: &[Aim {
            antenna: AntennaSwitch::Internal,
            azimuth_deg: 140.0,
            tilt_deg: 0.0,
            kit: "Stock antennas",
            instrument: Instrument::Gateway,
            sittings: &[(0, 10, 3), (0, 20, 3), (3, 14, 3)],
        }],
    },
    Spot {
        name: "Upstairs landing",
        mount: Mount::Window,
        height_m: 4.1,
        east_m: 2.0,
        north_m: -4.0,
        notes: "Gateway carried up and left on the sill for an hour.",
        house: House {
            floor: "Upstairs",
            room: "landing",
            facing_deg: Some(145.0),
            window: "the valley window",
        },
        setups: &[Aim {
            antenna: AntennaSwitch::Internal,
            azimuth_deg: 145.0,
            tilt_deg: 0.0,
            kit: "Stock antennas",
            instrument: Instrument::Gateway,
            sittings: &[(0, 12, 3)],
        }],
    },
    Spot {
        name: "Yard table",
        mount: Mount::Other,
        height_m: 1.0,
        east_m: 9.0,
        north_m: -9.0,
        notes: "Five minutes outside with a phone.",
        house: OUTSIDE,
        setups: &[Aim {
            antenna: AntennaSwitch::Internal,
            azimuth_deg: 143.0,
            tilt_deg: 0.0,
            kit: "A phone on the same network",
            instrument: Instrument::Phone,
            sittings: &[(0, 13, 2)],
        }],
    },
    Spot {
        name: "Attic, south",
        mount: Mount::Attic,
        height_m: 5.2,
        east_m: 1.5,
        north_m: -4.0,
        notes: "Rafter beside the hatch, dry, 6 m of cable.",
        house: House { floor: "Attic", room: "", facing_deg: None, window: "" },
        setups: &[Aim {
            antenna: AntennaSwitch::External,
            azimuth_deg: 138.0,
            tilt_deg: 0.0,
            kit: PANEL,
            instrument: Instrument::Gateway,
            sittings: &[(1, 11, 3), (1, 20, 2)],
        }],
    },
    Spot {
        name: "East gable",
        mount: Mount::Gable,
        height_m: 6.4,
        east_m: 6.5,
        north_m: 0.5,
        notes: "Old dish bracket. Ladder needed, second person holding it.",
        house: OUTSIDE,
        setups: &[
            Aim {
                antenna: AntennaSwitch::External,
                azimuth_deg: 53.0,
                tilt_deg: 2.0,
                kit: PANEL,
                instrument: Instrument::Gateway,
                sittings: &[(2, 10, 3), (3, 20, 3), (4, 14, 3)],
            },
            Aim {
                antenna: AntennaSwitch::External,
                azimuth_deg: 143.0,
                tilt_deg: 2.0,
                kit: PANEL,
                instrument: Instrument::Gateway,
                sittings: &[(2, 11, 3), (3, 20, 3), (4, 14, 3)],
            },
        ],
    },
    Spot {
        name: "Barn mast",
        mount: Mount::Pole,
        height_m: 9.0,
        east_m: 24.0,
        north_m: 31.0,
        notes: "Pole on the barn, 22 m of cable to the house.",
        house: OUTSIDE,
        setups: &[Aim {
            antenna: AntennaSwitch::External,
            azimuth_deg: 140.0,
            tilt_deg: 1.0,
            kit: PANEL,
            instrument: Instrument::Gateway,
            sittings: &[(5, 12, 2)],
        }],
    },
];

/// First day of the demo week.
fn first_day() -> DateTime<Utc> {
    // The literal date is valid and unambiguous in UTC.
    Utc.with_ymd_and_hms(2026, 11, 9, 0, 0, 0).single().unwrap_or_default()
}

/// Identifiers follow from names, so that the demo site is the same each time it is made.
fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_URL, format!("open-beacon-demo/{name}").as_bytes())
}

/// Makes the demo site.
pub fn demo_site(seed: u64, at: &Addresses) -> SiteBundle {
    let site_id = SiteId(id("site"));
    let mut bundle = SiteBundle {
        format: BUNDLE_FORMAT.into(),
        version: BUNDLE_VERSION,
        site: Site {
            id: site_id,
            name: "Hulderbekk croft".into(),
            place: Some(GeoPoint { latitude_deg: HOUSE_LATITUDE_DEG, longitude_deg: HOUSE_LONGITUDE_DEG }),
            time_zone: chrono_tz::Europe::Oslo,
            notes: "Invented smallholding in an invented valley.".into(),
            created_at: first_day(),
            archived_at: None,
        },
        settings: stand_in_settings(at),
        positions: Vec::new(),
        setups: Vec::new(),
        runs: Vec::new(),
        samples: Vec::new(),
        speed_tests: Vec::new(),
        sittings: Vec::new(),
        attachments: Vec::new(),
        kits: Vec::new(),
        parts: Vec::new(),
        masts: Vec::new(),
        obstacles: Vec::new(),
        landmarks: Vec::new(),
        predictions: Vec::new(),
        speed_courses: Vec::new(),
        events: crate::demo_events::happened(site_id, first_day(), id),
        amendments: Vec::new(),
        as_built: Vec::new(),
        tiles: Vec::new(),
        backdrops: Vec::new(),
        sweeps: Vec::new(),
        sweep_stops: Vec::new(),
        sweep_photos: Vec::new(),
        band_rounds: Vec::new(),
        trials: Vec::new(),
    };
    for (order, spot) in SPOTS.iter().enumerate() {
        build_spot(seed, &mut bundle, order, spot);
    }
    bundle.settings.baseline_setup_id = bundle.setups.first().map(|setup| setup.id);
    bundle.settings.active_setup_id = bundle.setups.get(5).map(|setup| setup.id);
    bundle.settings.network = NETWORK.into();
    bundle.settings.known_mast =
        Some(KnownMast { name: "Skarvnut".into(), bearing_deg: 143.0, distance_m: Some(4700.0) });
    build_other_network(&mut bundle);
    let gable = bundle.positions.iter().find(|one| one.mount == Mount::Gable).map(|one| one.id);
    crate::kits::build_kits(&mut bundle, first_day(), gable, id);
    crate::survey::build_survey(&mut bundle, seed, first_day(), (NETWORK, OTHER_NETWORK), id);
    if let Some(gable) = bundle.positions.iter().find(|one| one.mount == Mount::Gable).cloned() {
        let noon = first_day() + Duration::days(2) + Duration::hours(11);
        crate::sweep::build_sweep(&mut bundle, seed, noon, &gable, id);
        crate::trials::build_bands(&mut bundle, seed, first_day(), &gable, id);
    }
    bundle.runs.sort_by_key(|run| (run.started_at, run.id));
    bundle.samples.sort_by_key(|sample| (sample.taken_at, sample.id));
    bundle.speed_tests.sort_by_key(|test| (test.started_at, test.id));
    assign_sittings(site_id, &mut bundle.speed_tests, &mut bundle.sittings);
    bundle
}

/// The invented operator in use, on test network code 001-01.
const NETWORK: &str = "Huldermobil";
/// Another one, on 001-02, tried with a borrowed card.
const OTHER_NETWORK: &str = "Skogsignal";

/// Readings of the other operator at the kitchen sill, typed in from a second modem's page.
fn build_other_network(bundle: &mut SiteBundle) {
    let Some(setup_id) = bundle.setups.first().map(|setup| setup.id) else { return };
    let at = first_day() + Duration::days(1) + Duration::hours(16);
    let run_id = RunId(id("other network"));
    let carrier = |role, band, channel, width, pci, rsrp, rsrq, sinr| {
        let mut carrier = Carrier::empty(Technology::Lte, role);
        carrier.band = Some(band);
        carrier.channel = Some(channel);
        carrier.bandwidth_mhz = Some(width);
        carrier.pci = Some(pci);
        carrier.rsrp_dbm = Some(rsrp);
        carrier.rsrq_db = Some(rsrq);
        carrier.sinr_db = Some(sinr);
        carrier
    };
    bundle.samples.push(Sample {
        id: SampleId(id("other network/sample")),
        run_id,
        taken_at: at,
        activity: Activity::Unknown,
        reading: Reading {
            mode: ConnectionMode::Lte,
            carriers: vec![
                carrier(CarrierRole::Primary, 20, 6400, 10.0, 412, -99.0, -11.5, 7.0),
                carrier(CarrierRole::Secondary, 3, 1850, 15.0, 414, -113.0, -13.5, 2.0),
            ],
            neighbours: Vec::new(),
        },
    });
    bundle.runs.push(Run {
        id: run_id,
        setup_id,
        source: Source::Typed,
        started_at: at,
        ended_at: Some(at),
        completion: Completion::Complete,
        reason: None,
        planned_samples: 1,
        planned_speed_tests: 0,
        refresh_period_s: None,
        conditions: Conditions {
            instrument: Instrument::Modem,
            network: OTHER_NETWORK.into(),
            ..Conditions::default()
        },
        context: RunContext::Log,
        archived_at: None,
    });
}

fn build_spot(seed: u64, bundle: &mut SiteBundle, order: usize, spot: &Spot) {
    let position_id = PositionId(id(spot.name));
    let place = GeoPoint {
        latitude_deg: HOUSE_LATITUDE_DEG + spot.north_m / 111_320.0,
        longitude_deg: HOUSE_LONGITUDE_DEG
            + spot.east_m / (111_320.0 * HOUSE_LATITUDE_DEG.to_radians().cos()),
    };
    let made = first_day() + Duration::hours(8) + Duration::minutes(order as i64);
    bundle.positions.push(Position {
        id: position_id,
        site_id: bundle.site.id,
        name: spot.name.into(),
        place: Some(place),
        height_above_ground_m: Some(spot.height_m),
        mount: spot.mount,
        spot: spot.house.spot(),
        notes: spot.notes.into(),
        created_at: made,
        archived_at: None,
    });
    for (aim_order, aim) in spot.setups.iter().enumerate() {
        let setup_id = SetupId(id(&format!("{}/{}", spot.name, aim.azimuth_deg)));
        let external = aim.antenna == AntennaSwitch::External;
        let port = |lead: u8| PortLink { lead, port: format!("EXT {lead}") };
        bundle.setups.push(Setup {
            id: setup_id,
            position_id,
            made_from: None,
            origin: if external { SetupOrigin::ByHand } else { SetupOrigin::StandsToday },
            spec: SetupSpec {
                azimuth_deg: Some(aim.azimuth_deg),
                tilt_deg: Some(aim.tilt_deg),
                gateway_place: "Kitchen".into(),
                ports: if external { vec![port(1), port(2)] } else { Vec::new() },
                kit_id: (aim.kit == PANEL).then(|| KitId(id("kit/Wide panel, thin cable"))),
                kit_note: if aim.kit == PANEL { String::new() } else { aim.kit.into() },
                ..SetupSpec::on(aim.antenna)
            },
            created_at: made + Duration::seconds(1 + aim_order as i64),
            archived_at: None,
        });
        let mut device = Device::new(seed);
        device.pose = Pose {
            latitude_deg: place.latitude_deg,
            longitude_deg: place.longitude_deg,
            height_above_ground_m: spot.height_m,
            mount: mount_word(spot.mount).into(),
            antenna: if external { "external" } else { "internal" }.into(),
            azimuth_deg: aim.azimuth_deg,
            tilt_deg: aim.tilt_deg,
        };
        for (day, hour, tests) in aim.sittings {
            // The valley keeps UTC+1 in November.
            let start = first_day()
                + Duration::days(*day)
                + Duration::hours(i64::from(*hour) - 1)
                + Duration::minutes(3 + 11 * aim_order as i64);
            build_run(bundle, &mut device, setup_id, start, *tests, aim.instrument);
        }
    }
}

fn mount_word(mount: Mount) -> &'static str {
    match mount {
        Mount::Indoor => "indoor",
        Mount::Window => "window",
        Mount::Attic => "attic",
        Mount::Gable => "gable",
        _ => "pole",
    }
}

fn build_run(
    bundle: &mut SiteBundle,
    device: &mut Device,
    setup_id: SetupId,
    start: DateTime<Utc>,
    tests: u32,
    instrument: Instrument,
) {
    const SAMPLES: u32 = 10;
    const REFRESH_S: i64 = 3;
    let run_id = RunId(id(&format!("{setup_id}/{start}")));
    let mut at = start;
    for sequence in 0..SAMPLES {
        let at_s = at.timestamp_millis() as f64 / 1e3;
        device.traffic(at_s);
        bundle.samples.push(Sample {
            id: SampleId(id(&format!("{run_id}/sample/{sequence}"))),
            run_id,
            taken_at: at,
            activity: Activity::Trickle,
            reading: device.reading(at_s),
        });
        at += Duration::seconds(REFRESH_S);
    }
    for sequence in 0..tests {
        let test_id = SpeedTestId(id(&format!("{run_id}/test/{sequence}")));
        bundle.speed_tests.push(build_test(device, run_id, (at, instrument), test_id, &bundle.settings));
        at += Duration::seconds(18);
    }
    bundle.runs.push(Run {
        id: run_id,
        setup_id,
        source: Source::Live,
        started_at: start,
        ended_at: Some(at),
        completion: Completion::Complete,
        reason: None,
        planned_samples: SAMPLES,
        planned_speed_tests: tests,
        refresh_period_s: Some(REFRESH_S as f64),
        conditions: Conditions {
            attach: Attach::KeptAttached,
            instrument,
            network: String::new(),
            weather: "Dry, bare birches".into(),
            notes: String::new(),
        },
        context: RunContext::Log,
        archived_at: None,
    });
}
