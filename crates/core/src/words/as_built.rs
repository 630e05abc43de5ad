//! The sheet of what was built, in words: rows to read, figures to find again, and the short text that its QR code carries.

use super::{Style, bearing, capital, figure_words, length, listed, lock_words, number, setup_aim, trial};
use crate::bands::band_name;
use crate::geo::GeoPoint;
use crate::hardware::resolve::Resolved;
use crate::judge::{BestSetup, ComparisonRow, VersusVerdict};
use crate::model::{
    Activity, AntennaSwitch, AsBuilt, AsBuiltCarrier, AsBuiltGain, AsBuiltVerdict, BandChoice,
    ExpectedFigure, GatewayPlace, LockRecipe, Mount, Passage, Polarisation, Position, Setup, SpeedFigure,
};
use serde::{Deserialize, Serialize};

/// What a sheet is written from, beside itself.
#[derive(Clone, Copy, Debug)]
pub struct Sheet<'a> {
    /// The sheet, without what is not to be seen.
    pub sheet: &'a AsBuilt,
    /// Name of the site.
    pub site: &'a str,
    /// Where the antenna or the house stands; none where that is not to be seen.
    pub place: Option<GeoPoint>,
    /// The position.
    pub position: &'a Position,
    /// The setup.
    pub setup: &'a Setup,
    /// The kit's name and parts.
    pub kit: Option<(&'a str, &'a Resolved<'a>)>,
}

/// One row of a sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SheetRow {
    /// "Bearing".
    pub name: String,
    /// "143° T, 139° on the compass".
    pub value: String,
}

/// Rows that belong together.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SheetSection {
    /// Heading.
    pub title: String,
    /// Rows, none of them empty.
    pub rows: Vec<SheetRow>,
}

/// A carrier to be found again.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SheetCarrier {
    /// "B3 cell 101, channel 1300, 20 MHz".
    pub name: String,
    /// "while idle".
    pub when: String,
    /// "−92 dBm (−97 to −87)"; empty where it was not read.
    pub rsrp: String,
    /// "−9.5 dB (−13 to −6)"; empty where it was not read.
    pub rsrq: String,
    /// "14 dB (8 to 20)"; empty where it was not read.
    pub sinr: String,
}

/// Names of what stands on the sheet if a person writes it, and the text; in the order of asking.
fn written(sheet: &AsBuilt) -> [(&'static str, &str); 4] {
    let details = &sheet.details;
    [
        ("Cable route", &details.cable_route),
        ("Joints and weatherproofing", &details.joints),
        ("Grounding and surge protection", &details.grounding),
        ("Remarks", &details.remarks),
    ]
}

/// What nobody wrote yet, and a stranger will ask for: "cable route", "grounding and surge protection".
pub fn not_written(sheet: &AsBuilt) -> Vec<String> {
    let asked = written(sheet).into_iter().filter(|(name, _)| *name != "Remarks");
    asked.filter(|(_, text)| text.trim().is_empty()).map(|(name, _)| name.to_lowercase()).collect()
}

fn mount(mount: Mount) -> &'static str {
    match mount {
        Mount::Indoor => "on a table or sill indoors",
        Mount::Window => "on the window",
        Mount::Attic => "in the attic",
        Mount::Wall => "on the outside wall",
        Mount::Gable => "on the gable",
        Mount::RoofMast => "on a mast on the roof",
        Mount::Chimney => "on the chimney",
        Mount::Pole => "on a pole away from the house",
        Mount::Other => "on a mount of its own",
    }
}

fn polarisation(of: Polarisation) -> &'static str {
    match of {
        Polarisation::Slant => "slant (±45°)",
        Polarisation::Cross => "one upright, one lying (0° and 90°)",
        Polarisation::Vertical => "upright (vertical)",
    }
}

fn gateway_place(of: GatewayPlace) -> &'static str {
    match of {
        GatewayPlace::Room => "in a room",
        GatewayPlace::Attic => "in the attic",
        GatewayPlace::SealedBox => "in a sealed box outside",
        GatewayPlace::Outside => "outside",
    }
}

fn section(title: &str, rows: Vec<(&str, String)>) -> Option<SheetSection> {
    let rows: Vec<SheetRow> = rows
        .into_iter()
        .filter(|(_, value)| !value.trim().is_empty())
        .map(|(name, value)| SheetRow { name: name.into(), value: value.trim().into() })
        .collect();
    (!rows.is_empty()).then(|| SheetSection { title: title.into(), rows })
}

/// Everything on a sheet but its figures, in the order in which a stranger needs it.
pub fn sections(of: Sheet, style: Style) -> Vec<SheetSection> {
    let found = [where_it_is(of, style), aim(of, style), kit(of), cable(of, style), lock(of), rest(of)];
    found.into_iter().flatten().collect()
}

fn height(of: Sheet, style: Style) -> Option<String> {
    let height_m = of.setup.spec.height_above_ground_m.or(of.position.height_above_ground_m)?;
    Some(length(height_m, style.units))
}

fn where_it_is(of: Sheet, style: Style) -> Option<SheetSection> {
    let details = &of.sheet.details;
    let place = of.place.map(|at| format!("{:.6}, {:.6} (WGS 84)", at.latitude_deg, at.longitude_deg));
    let built = details.built_on.map(|day| day.format("%-d %B %Y").to_string());
    section(
        "Where it is",
        vec![
            ("Site", of.site.into()),
            ("Address", details.address.clone()),
            ("Coordinates", place.unwrap_or_default()),
            ("Position", format!("{}, {}", of.position.name, mount(of.position.mount))),
            ("Antenna above ground", height(of, style).unwrap_or_default()),
            ("Built on", built.unwrap_or_default()),
            ("Built by", details.built_by.clone()),
        ],
    )
}

fn compass(sheet: &AsBuilt) -> Option<String> {
    let (on_compass, east) = (sheet.aim.compass_deg?, sheet.aim.declination_deg?);
    let side = if east < 0.0 { "west" } else { "east" };
    let day = sheet.drawn_up_at.format("%B %Y");
    Some(format!("{on_compass:.0}° (declination {:.1}° {side}, {day})", east.abs()))
}

fn aim(of: Sheet, style: Style) -> Option<SheetSection> {
    let (spec, aim) = (&of.setup.spec, &of.sheet.aim);
    if spec.antenna == AntennaSwitch::Internal {
        let faces = spec.azimuth_deg.or(spec.gateway_azimuth_deg).map(bearing);
        return section("Aim", vec![("The gateway's front faces", faces.unwrap_or_default())]);
    }
    let way = aim.mast_bearing_deg.zip(aim.mast_distance_m).map_or(String::new(), |(deg, metres)| {
        format!(", at {}, {} away", bearing(deg), super::survey::distance(metres, style.units))
    });
    let tilt = spec.tilt_deg.map(|deg| match deg {
        _ if deg.abs() < 0.05 => "level".to_owned(),
        _ => format!(
            "{}° {}",
            number::signed(deg.abs(), usize::from(deg.fract().abs() >= 0.05)),
            if deg > 0.0 { "up" } else { "down" }
        ),
    });
    section(
        "Aim",
        vec![
            ("Bearing on the map (true)", spec.azimuth_deg.map(bearing).unwrap_or_default()),
            ("Bearing on the compass", compass(of.sheet).unwrap_or_default()),
            ("Tilt", tilt.unwrap_or_default()),
            ("Polarisation", spec.polarisation.map(polarisation).unwrap_or_default().into()),
            ("Mast", aim.mast.as_ref().map_or(String::new(), |mast| format!("{mast}{way}"))),
        ],
    )
}

fn kit(of: Sheet) -> Option<SheetSection> {
    let serials = of.sheet.details.serials.lines().map(str::trim).filter(|line| !line.is_empty());
    let serials = serials.collect::<Vec<_>>().join("; ");
    let spec = &of.setup.spec;
    let Some((name, parts)) = of.kit else {
        return section("Kit", vec![("Kit", spec.kit_note.clone()), ("Serial numbers", serials)]);
    };
    let antenna = parts.antenna.map(|(part, _)| match parts.kit.antenna_count {
        0 | 1 => part.name.clone(),
        count => format!("{count} of {}", part.name),
    });
    let external = spec.antenna == AntennaSwitch::External;
    let inside = if spec.gateway_place.is_empty() {
        gateway_place(parts.kit.gateway_place)
    } else {
        &spec.gateway_place
    };
    section(
        "Kit",
        vec![
            ("Kit", name.into()),
            ("Antenna", antenna.filter(|_| external).unwrap_or_else(|| "the gateway's own".into())),
            ("Gateway", parts.gateway.map_or(String::new(), |(part, _)| format!("{}, {inside}", part.name))),
            ("Mount", parts.mount.map(|(part, _)| part.name.clone()).unwrap_or_default()),
            ("Note", spec.kit_note.clone()),
            ("Serial numbers", serials),
        ],
    )
}

/// What stands in each lead from the antenna on, and by which way it comes in.
fn cable(of: Sheet, style: Style) -> Option<SheetSection> {
    let parts = of.kit.map(|(_, parts)| parts);
    let chain = parts.map_or(Vec::new(), |parts| {
        let piece = |link: &crate::hardware::resolve::Link| {
            let metres = link
                .placed
                .length_m
                .map_or(String::new(), |metres| format!(", {}", length(metres, style.units)));
            format!("{}{metres}", link.part.name)
        };
        parts.chain.iter().map(piece).collect()
    });
    let ethernet = parts.and_then(|parts| {
        let (part, _) = parts.ethernet?;
        let metres =
            parts.kit.ethernet_m.map_or(String::new(), |metres| format!(", {}", length(metres, style.units)));
        Some(format!("{}{metres}", part.name))
    });
    let entry = parts.map_or(String::new(), |parts| match parts.kit.passage {
        Passage::None => String::new(),
        Passage::Hole { diameter_mm } => {
            format!("through a hole of {}\u{202f}mm", number::signed(diameter_mm, 0))
        }
        Passage::Window => "through a closed window by a flat jumper".into(),
    });
    let leads: Vec<String> =
        of.setup.spec.ports.iter().map(|link| format!("lead {} in {}", link.lead, link.port)).collect();
    let mut rows = vec![
        ("Leads to ports", capital(&listed(&leads))),
        ("In each lead, from the antenna", chain.join(" → ")),
        ("Ethernet", ethernet.unwrap_or_default()),
        ("Comes in", entry),
    ];
    let by_hand = written(of.sheet);
    rows.extend(by_hand[..3].iter().map(|(name, text)| (*name, (*text).to_owned())));
    section("Cable and earth", rows)
}

fn lock(of: Sheet) -> Option<SheetSection> {
    let spec = &of.setup.spec;
    let locked = lock_words(&spec.lock)
        .map_or_else(|| "none: the gateway chooses".to_owned(), |lock| format!("to {lock}"));
    section("Band lock", vec![("Lock", locked), ("Note", spec.lock_note.clone())])
}

fn rest(of: Sheet) -> Option<SheetSection> {
    let details = &of.sheet.details;
    section("Also", vec![("Plan and account", details.account.clone()), ("Remarks", details.remarks.clone())])
}

/// How a lock is taken away by whoever has the house next; nothing where there is none.
pub fn undo(recipe: Option<&LockRecipe>, lock: &BandChoice) -> Vec<String> {
    if lock.is_free() {
        return Vec::new();
    }
    let mut steps = vec![trial::hand_step(&BandChoice::default())];
    if let Some(recipe) = recipe {
        if recipe.volatile {
            steps.push(
                "Or pull the gateway's power plug for ten seconds: it forgets the lock when it restarts."
                    .into(),
            );
        }
        if let Some(request) = &recipe.request {
            let path = if request.undo_path.is_empty() { &request.path } else { &request.undo_path };
            steps.push(format!("Or sign in to the gateway's page and send to {path}: {}", request.undo_body));
        }
        steps.extend(
            recipe.undo_commands.iter().map(|command| format!("Or, on the modem's own line: {command}")),
        );
        if !recipe.by_hand.is_empty() {
            steps.push(format!("Or, on the device itself: {}", recipe.by_hand));
        }
    }
    steps.push(
        "Last of all, a reset to factory settings takes it away. Write down name, password and APN first."
            .into(),
    );
    steps
}

fn cell_name(one: &AsBuiltCarrier) -> String {
    super::cell(&crate::judge::CellName { technology: one.technology, band: one.band, pci: one.pci })
}

fn metric(of: Option<ExpectedFigure>, unit: &str) -> String {
    of.map_or(String::new(), |of| {
        let [usual, low, high] = [of.usual, of.low, of.high].map(|value| number::signed(value, 0));
        format!("{usual}\u{202f}{unit} ({low} to {high})")
    })
}

/// The carriers to be found again.
pub fn carriers(sheet: &AsBuilt) -> Vec<SheetCarrier> {
    let of = |one: &AsBuiltCarrier| {
        let channel = one.channel.map(|channel| format!("channel {channel}"));
        let width = one.bandwidth_mhz.map(number::megahertz);
        let name =
            [Some(cell_name(one)), channel, width].into_iter().flatten().collect::<Vec<_>>().join(", ");
        let when = match one.activity {
            Activity::Idle => "line idle",
            Activity::Trickle => "light traffic",
            Activity::Loaded => "line busy",
            Activity::Unknown => "traffic not noted",
        };
        SheetCarrier {
            name,
            when: when.into(),
            rsrp: metric(one.rsrp_dbm, "dBm"),
            rsrq: metric(one.rsrq_db, "dB"),
            sinr: metric(one.sinr_db, "dB"),
        }
    };
    sheet.carriers.iter().map(of).collect()
}

/// A rate or latency with its unit; `rough`: of a range.
fn told(figure: SpeedFigure, value: f64, rough: bool) -> String {
    match figure {
        SpeedFigure::Download | SpeedFigure::Upload if rough => number::rough_rate(value),
        SpeedFigure::Download | SpeedFigure::Upload => number::rate(value),
        _ => number::milliseconds(value),
    }
}

/// Speeds to be found again: "Download" and "62.3 Mbit/s (41 to 95)".
pub fn speeds(sheet: &AsBuilt) -> Vec<SheetRow> {
    let of = |one: &crate::model::AsBuiltSpeed| {
        let ExpectedFigure { usual, low, high, .. } = one.expected;
        let bare = |value: f64| {
            let told = told(one.figure, value, true);
            told.split('\u{202f}').next().unwrap_or_default().to_owned()
        };
        let value = format!("{} ({} to {})", told(one.figure, usual, false), bare(low), bare(high));
        SheetRow { name: capital(figure_words(one.figure)), value }
    };
    sheet.speeds.iter().map(of).collect()
}

/// What the figures to be found again rest on, and what a figure outside them means.
pub fn rests_on(sheet: &AsBuilt) -> String {
    let readings = sheet.carriers.iter().flat_map(|one| [one.rsrp_dbm, one.rsrq_db, one.sinr_db]).flatten();
    let visits = readings.map(|of| of.visits).max().unwrap_or(0);
    let sittings = sheet.speeds.iter().map(|one| one.expected.visits).max().unwrap_or(0);
    if visits + sittings == 0 {
        return "Nothing was measured on this setup: there is nothing to compare with later. Measure it, then draw up the sheet again.".into();
    }
    let from = [(visits, "visit"), (sittings, "sitting")].into_iter().filter(|(n, _)| *n > 0);
    let from: Vec<String> = from.map(|(n, noun)| super::counted(n, noun)).collect();
    let few = if visits.max(sittings) < 3 { " With so few, the range is mostly assumed." } else { "" };
    format!(
        "In brackets: what 9 of 10 later visits at similar hours find, from {}.{few} A figure outside is worth a second look, not yet a fault.",
        listed(&from)
    )
}

fn verdict_word(verdict: VersusVerdict) -> &'static str {
    match verdict {
        VersusVerdict::ClearGain => "clear gain",
        VersusVerdict::LikelyGain => "likely gain",
        VersusVerdict::LikelyLoss => "likely loss",
        VersusVerdict::ClearLoss => "clear loss",
        VersusVerdict::CannotTell | VersusVerdict::TooFew => "cannot tell yet",
        VersusVerdict::Same => "no practical difference",
    }
}

/// What the comparison said of the setup on the day. `title` and `standing`: of the best setup, and whether this one meets the need.
pub fn verdict(
    row: &ComparisonRow,
    before: Option<&ComparisonRow>,
    best: Option<(&BestSetup, &str)>,
    standing: &str,
) -> AsBuiltVerdict {
    let mut said: Vec<String> = Vec::new();
    if let Some((best, title)) = best {
        said.push(title.to_owned());
        if best.setup_id != row.setup_id && best.standings.len() > 1 {
            said.push(format!("This sheet is of {}.", row.label));
        }
    }
    if !standing.is_empty() {
        said.push(format!("{standing}."));
    }
    let gains = row.figures.iter().filter_map(|figure| {
        let versus = figure.versus?;
        let mean =
            |row: &ComparisonRow| row.figures.iter().find(|one| one.figure == figure.figure)?.geometric_mean;
        let (low, high) = (versus.model.interval.low, versus.model.interval.high);
        Some(AsBuiltGain {
            figure: figure.figure,
            before: mean(before?)?,
            after: figure.geometric_mean?,
            said: format!(
                "{}, {} (between {} and {})",
                number::times(versus.told_ratio),
                verdict_word(versus.verdict),
                number::plain_times(low),
                number::plain_times(high)
            ),
        })
    });
    AsBuiltVerdict {
        said: said.join(" "),
        before: before.map_or(String::new(), |row| row.label.clone()),
        gains: gains.collect(),
    }
}

/// Figures before and after: "Download" and "12.4 Mbit/s before, 62.3 Mbit/s after: 5.0 times, clear gain (between 4.1 and 6.2)".
pub fn gains(sheet: &AsBuilt) -> Vec<SheetRow> {
    let of = |one: &AsBuiltGain| SheetRow {
        name: capital(figure_words(one.figure)),
        value: format!(
            "{} before, {} after: {}",
            told(one.figure, one.before, false),
            told(one.figure, one.after, false),
            one.said
        ),
    };
    sheet.verdict.gains.iter().map(of).collect()
}

/// Carriers that the QR code names.
const MOST_IN_CODE: usize = 4;

/// The essentials as plain text for a QR code: any phone shows them with no network. `link`: where the sheet is served, if others reach it.
pub fn code_text(of: Sheet, style: Style, link: Option<&str>) -> String {
    let (spec, sheet) = (&of.setup.spec, of.sheet);
    let mut lines = vec![format!("AS BUILT {}, {}", of.site, sheet.drawn_up_at.format("%Y-%m-%d"))];
    let height = height(of, style).map_or(String::new(), |height| format!(", {height} up"));
    lines.push(format!("{}{height}", of.position.name));
    lines.push(setup_aim(&crate::model::SetupSpec { lock: BandChoice::default(), ..spec.clone() }));
    lines.extend(sheet.aim.compass_deg.map(|deg| format!("compass {deg:.0}°")));
    lines.extend(of.kit.map(|(name, _)| name.to_owned()));
    let leads: Vec<String> =
        spec.ports.iter().map(|link| format!("lead {} in {}", link.lead, link.port)).collect();
    lines.push(leads.join(", "));
    lines.push(
        lock_words(&spec.lock).map_or_else(|| "no band lock".into(), |lock| format!("locked to {lock}")),
    );
    for one in sheet.carriers.iter().take(MOST_IN_CODE) {
        let metric = |name: &str, of: Option<ExpectedFigure>| {
            of.map(|of| format!("{name} {}", number::signed(of.usual, 0)))
        };
        let figures: Vec<String> =
            [metric("RSRP", one.rsrp_dbm), metric("SINR", one.sinr_db)].into_iter().flatten().collect();
        let band = one.band.map_or_else(|| cell_name(one), |band| band_name(one.technology, band));
        let pci = one.pci.map_or(String::new(), |pci| format!(" PCI {pci}"));
        lines.push(format!("{band}{pci} {}", figures.join(" ")));
    }
    let rates = sheet.speeds.iter().filter(|one| one.figure.larger_is_better());
    lines.extend(
        rates.map(|one| format!("{} {}", figure_words(one.figure), number::rough_rate(one.expected.usual))),
    );
    lines.extend(link.map(str::to_owned));
    lines.retain(|line| !line.trim().is_empty());
    // Plain signs: a reader on an old phone may not take others.
    lines.join("\n").replace('\u{202f}', " ").replace('−', "-")
}
