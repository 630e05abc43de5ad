//! Finding parts: the built-in catalogue, laid under the user's own; checks of an entry.

use super::gain::gain_at_dbi;
use open_beacon_domain::antenna::pattern::Pattern;
use open_beacon_domain::bands::band_place;
use open_beacon_domain::check::{Checker, FieldProblem};
use open_beacon_domain::model::{
    AntennaSpec, ArrestorSpec, BandName, GatewaySpec, Kit, Part, PartId, PartKind, PartSpec,
};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// Name of the catalogue's format.
pub const CATALOGUE_FORMAT: &str = "open-beacon-catalogue";
/// Version this program writes.
pub const CATALOGUE_VERSION: u32 = 1;

/// A catalogue as a file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CatalogueFile {
    /// Always `open-beacon-catalogue`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// Parts, one an entry.
    pub parts: Vec<Part>,
}

impl CatalogueFile {
    /// Parts under the format's name and version.
    pub fn of(parts: Vec<Part>) -> Self {
        Self { format: CATALOGUE_FORMAT.into(), version: CATALOGUE_VERSION, parts }
    }

    /// Whether this version reads a file of this format and version.
    pub fn is_readable(&self) -> bool {
        self.format == CATALOGUE_FORMAT && self.version <= CATALOGUE_VERSION
    }

    /// What is wrong with its parts, each named; empty where all can be taken.
    pub fn problems(&self) -> Vec<FieldProblem> {
        let of = |(at, part): (usize, &Part)| {
            let name = part.name.clone();
            check_part(part).into_iter().map(move |problem| FieldProblem {
                pointer: format!("/parts/{at}{}", problem.pointer),
                detail: format!("{name}: {}", problem.detail),
            })
        };
        self.parts.iter().enumerate().flat_map(of).collect()
    }
}

/// What bringing a catalogue in would do, or did.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CatalogueReport {
    /// Parts that are not here yet.
    pub new: usize,
    /// Parts that are here with other values.
    pub changed: usize,
    /// Entries that are there already.
    pub same: usize,
}

/// Parts by identifier; archived ones too, so that a kit that has one still shows it.
#[derive(Clone, Debug, Default)]
pub struct Catalogue {
    parts: BTreeMap<PartId, Part>,
}

/// The parts that come with the program: invented models and public classes. The file is in the catalogue's own
/// format; a test reads it.
pub fn built_in() -> Vec<Part> {
    let file: CatalogueFile = serde_json::from_str(include_str!("built_in.json"))
        .unwrap_or_else(|error| unreachable!("checked by a test: {error}"));
    file.parts
}

impl Catalogue {
    /// Built-in parts with the user's own laid over them: the same identifier takes the built-in's place.
    pub fn with_own(own: Vec<Part>) -> Self {
        Self::of(built_in().into_iter().chain(own).collect())
    }

    /// These parts alone; the later of two with one identifier counts.
    pub fn of(parts: Vec<Part>) -> Self {
        Self { parts: parts.into_iter().map(|part| (part.id, part)).collect() }
    }

    /// What bringing parts in would change, and the parts that differ from what is here.
    pub fn compare(&self, parts: Vec<Part>) -> (CatalogueReport, Vec<Part>) {
        let mut report = CatalogueReport::default();
        let mut taken = Vec::new();
        for part in parts {
            match self.part(part.id) {
                None => report.new += 1,
                Some(here) if *here == part => {
                    report.same += 1;
                    continue;
                }
                Some(_) => report.changed += 1,
            }
            taken.push(part);
        }
        (report, taken)
    }

    /// One part.
    pub fn part(&self, id: PartId) -> Option<&Part> {
        self.parts.get(&id)
    }

    /// This catalogue with one gateway only, which is the household's own already and costs nothing more.
    pub fn with_owned(&self, gateway: PartId) -> Self {
        let mut owned = self.clone();
        owned.parts.retain(|id, part| part.spec.kind() != PartKind::Gateway || *id == gateway);
        if let Some(part) = owned.parts.get_mut(&gateway) {
            part.price = Some(0.0);
        }
        owned
    }

    /// Parts of a kind that are not archived, cheapest first.
    pub fn of_kind(&self, kind: PartKind) -> Vec<&Part> {
        let mut parts: Vec<&Part> = self
            .parts
            .values()
            .filter(|part| part.spec.kind() == kind && part.archived_at.is_none())
            .collect();
        let price = |part: &Part| part.price.unwrap_or(f64::INFINITY);
        parts.sort_by(|a, b| price(a).total_cmp(&price(b)).then_with(|| a.name.cmp(&b.name)));
        parts
    }

    /// All parts, archived ones too.
    pub fn all(&self) -> impl Iterator<Item = &Part> {
        self.parts.values()
    }
}

/// The parts that kits name, each once, in order of identifier: what an export needs to be whole.
pub fn named_by(kits: &[Kit], catalogue: &Catalogue) -> Vec<Part> {
    let named = |kit: &Kit| -> Vec<PartId> {
        let spec = &kit.spec;
        let single =
            [spec.gateway, spec.antenna, spec.ethernet, spec.injector, spec.ethernet_arrestor, spec.mount];
        single.into_iter().flatten().chain(spec.chain.iter().map(|placed| placed.part_id)).collect()
    };
    let ids: BTreeSet<PartId> = kits.iter().flat_map(named).collect();
    ids.into_iter().filter_map(|id| catalogue.part(id)).cloned().collect()
}

/// Checks an entry: every field that cannot be, by its pointer, with what would do.
pub fn check_part(part: &Part) -> Vec<FieldProblem> {
    let checker = Checker::default()
        .name("/name", &part.name, "Gable panel 2x2")
        .text("/notes", &part.notes)
        .range("/price", part.price, 0.0, 1e6, "in the site's currency");
    let mut checker = match &part.spec {
        PartSpec::Gateway(spec) => gateway(checker, spec),
        PartSpec::Antenna(spec) => antenna(checker, "/spec", spec),
        PartSpec::FeedLine(spec) => {
            checker.range("/spec/price_per_m", Some(spec.price_per_m), 0.0, 1000.0, "a metre")
        }
        PartSpec::Jumper(spec) => checker
            .range("/spec/loss_db_2ghz", Some(spec.loss_db_2ghz), 0.0, 10.0, "dB at 2 GHz")
            .range("/spec/length_m", Some(spec.length_m), 0.0, 20.0, "m"),
        PartSpec::Adapter(_) => checker,
        PartSpec::Arrestor(ArrestorSpec::Coax { loss_db_2ghz, lowest_mhz, highest_mhz, .. }) => checker
            .range("/spec/loss_db_2ghz", Some(*loss_db_2ghz), 0.0, 10.0, "dB at 2 GHz")
            .range("/spec/lowest_mhz", Some(*lowest_mhz), 0.0, 6000.0, "MHz")
            .range("/spec/highest_mhz", Some(*highest_mhz), *lowest_mhz, 20_000.0, "MHz"),
        PartSpec::Arrestor(ArrestorSpec::Ethernet { lan_mbps }) => {
            checker.range("/spec/lan_mbps", Some(*lan_mbps), 10.0, 100_000.0, "Mbit/s")
        }
        PartSpec::Ethernet(spec) => checker
            .range("/spec/loop_ohm_100m", Some(spec.loop_ohm_100m), 1.0, 60.0, "Ω in 100 m")
            .range("/spec/lan_mbps", Some(spec.lan_mbps), 10.0, 100_000.0, "Mbit/s")
            .range("/spec/diameter_mm", Some(spec.diameter_mm), 1.0, 30.0, "mm"),
        PartSpec::Injector(spec) => checker
            .range("/spec/voltage_v", Some(spec.voltage_v), 5.0, 60.0, "V")
            .range("/spec/power_w", Some(spec.power_w), 1.0, 100.0, "W")
            .range("/spec/lan_mbps", Some(spec.lan_mbps), 10.0, 100_000.0, "Mbit/s"),
        PartSpec::Mount(spec) => checker
            .range("/spec/pole_mm", Some(spec.pole_mm), 0.0, 200.0, "mm")
            .range("/spec/free_length_m", Some(spec.free_length_m), 0.0, 20.0, "m")
            .range("/spec/carries_kg", Some(spec.carries_kg), 0.1, 200.0, "kg")
            .range("/spec/moment_nm", spec.moment_nm, 1.0, 100_000.0, "N m")
            .range("/spec/hours", Some(spec.hours), 0.0, 100.0, "hours"),
    };
    if let PartSpec::Gateway(GatewaySpec { outdoor: Some(unit), .. }) = &part.spec {
        checker = antenna(checker, "/spec/outdoor", unit);
    }
    checker.done()
}

fn gateway(mut checker: Checker, spec: &GatewaySpec) -> Checker {
    if spec.bands.is_empty() {
        checker.refuse("/spec/bands", "At least one band, for instance B20 or n78.".to_owned());
    }
    for (index, support) in spec.bands.iter().enumerate() {
        known_band(&mut checker, &format!("/spec/bands/{index}"), support.band);
        if !(1..=4).contains(&support.layers) {
            checker.refuse(&format!("/spec/bands/{index}/layers"), "From 1 to 4 layers.".to_owned());
        }
    }
    let mut names = BTreeSet::new();
    for (index, port) in spec.ports.iter().enumerate() {
        let pointer = format!("/spec/ports/{index}");
        if port.name.trim().is_empty() || !names.insert(port.name.as_str()) {
            checker.refuse(&pointer, "Every port needs a name of its own, as printed beside it.".to_owned());
        }
        for band in &port.bands {
            known_band(&mut checker, &pointer, *band);
        }
    }
    checker
        .range("/spec/lan_mbps", Some(spec.lan_mbps), 10.0, 100_000.0, "Mbit/s")
        .range("/spec/temperature_low_c", Some(spec.temperature_low_c), -60.0, 30.0, "°C")
        .range("/spec/temperature_high_c", Some(spec.temperature_high_c), 20.0, 100.0, "°C")
        .range("/spec/power_w", Some(spec.power_w), 0.5, 100.0, "W")
        .range("/spec/noise_figure_db", Some(spec.noise_figure_db), 0.0, 20.0, "dB")
        .range("/spec/transmit_power_dbm", Some(spec.transmit_power_dbm), 10.0, 33.0, "dBm")
}

fn known_band(checker: &mut Checker, pointer: &str, band: BandName) {
    if band_place(band.technology, band.band).is_none() {
        checker
            .refuse(pointer, format!("There is no band {} of this technology in the standard.", band.band));
    }
}

/// Gain beyond what the beam's width allows, dB, that still passes as rounding.
const WISHFUL_DB: f64 = 1.5;

fn antenna(mut checker: Checker, at: &str, spec: &AntennaSpec) -> Checker {
    let rising = spec.gain.windows(2).all(|pair| pair[0].frequency_mhz < pair[1].frequency_mhz);
    if spec.gain.len() < 2 || !rising {
        checker.refuse(
            &format!("{at}/gain"),
            "At least two points with rising frequency, for instance 698 MHz 5 dBi, 3800 MHz 9 dBi."
                .to_owned(),
        );
    } else {
        let pattern = Pattern {
            gain_dbi: 0.0,
            beamwidth_azimuth_deg: spec.beamwidth_azimuth_deg,
            beamwidth_elevation_deg: spec.beamwidth_elevation_deg,
            front_to_back_db: spec.front_to_back_db,
        };
        let most =
            spec.gain.iter().filter_map(|point| gain_at_dbi(spec, point.frequency_mhz)).fold(0.0, f64::max);
        // Beamwidths are quoted in mid-band, gains at their best: as much as doubling passes beyond the rounding.
        let allowed = pattern.directivity_dbi() + WISHFUL_DB + 3.0;
        if most > allowed {
            checker.refuse(
                &format!("{at}/gain"),
                format!(
                    "A beam of that width has at most {allowed:.1}\u{202f}dBi: check gain or beamwidths."
                ),
            );
        }
    }
    let field = |name: &str| format!("{at}/{name}");
    checker
        .range(&field("elements"), Some(f64::from(spec.elements)), 1.0, 8.0, "elements")
        .range(&field("beamwidth_azimuth_deg"), Some(spec.beamwidth_azimuth_deg), 1.0, 360.0, "degrees")
        .range(&field("beamwidth_elevation_deg"), Some(spec.beamwidth_elevation_deg), 1.0, 180.0, "degrees")
        .range(&field("front_to_back_db"), Some(spec.front_to_back_db), 0.0, 60.0, "dB")
        .range(&field("tail_m"), Some(spec.tail_m), 0.0, 30.0, "m")
        .range(&field("weight_kg"), Some(spec.weight_kg), 0.01, 100.0, "kg")
        .range(&field("area_m2"), Some(spec.area_m2), 0.0005, 5.0, "m²")
}
