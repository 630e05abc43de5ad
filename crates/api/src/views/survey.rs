//! What the Survey stage shows.

use crate::routes::backdrops::BackdropView;
use crate::site_record::SiteRecord;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::{mgrs_text, sexagesimal, utm_text};
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::judge::SpotView;
use open_beacon_core::link::matching::{CellMatch, Fit, matches};
use open_beacon_core::model::{Carrier, Landmark, Mast, MastId, Obstacle, SurveySettings, TerrainTile};
use open_beacon_core::survey::calibrate::{MastShift, shifts};
use open_beacon_core::survey::check::{EntryMistake, probable_duplicates, slips};
use open_beacon_core::survey::rank::Choice;
use open_beacon_core::survey::ranking::{Ranking, rank};
use open_beacon_core::words;
use open_beacon_core::words::Style;
use open_beacon_core::words::why::WhyRow;
use serde::Serialize;
use utoipa::ToSchema;

/// A mast as it lies from the house.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastView {
    pub mast: Mast,
    /// From the house, where that has coordinates.
    pub distance_m: Option<f64>,
    pub bearing_deg: Option<f64>,
    /// Degrees, minutes and seconds; UTM grid; military grid reference.
    pub latitude_text: String,
    pub longitude_text: String,
    pub utm_text: Option<String>,
    pub mgrs_text: Option<String>,
    pub slips: Vec<EntryMistakeSaid>,
}

/// A probable slip in words, with its mend.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct EntryMistakeSaid {
    pub slip: EntryMistake,
    pub text: String,
}

/// Slips of a mast, said.
pub(crate) fn said_slips(mast: &Mast, house: Option<GeoPoint>, style: Style) -> Vec<EntryMistakeSaid> {
    slips(mast.place, mast.height_m, house)
        .into_iter()
        .map(|slip| EntryMistakeSaid { text: words::survey::slip(&slip, style), slip })
        .collect()
}

/// Two masts that are probably one.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastDuplicates {
    pub keep: MastId,
    pub other: MastId,
    /// "Ridge and Ridge 2".
    pub names: String,
}

/// What the gateway reports, matched to a mast.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MatchView {
    /// "B3, PCI 211".
    pub heard: String,
    pub mast: String,
    pub mast_id: MastId,
    pub fit: Fit,
    pub fit_text: String,
    pub evidence: Vec<String>,
}

/// What the Survey stage shows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SurveyView {
    pub title: String,
    pub reason: Option<String>,
    pub sensitivity: Vec<String>,
    /// What measurements did to the predictions.
    pub calibration: Vec<String>,
    pub shifts: Vec<MastShift>,
    pub ranking: Ranking,
    /// The line of each choice in words, in the ranking's order.
    pub lines: Vec<ChoiceSaid>,
    pub matches: Vec<MatchView>,
    pub masts: Vec<MastView>,
    /// Masts that are probably one.
    pub duplicates: Vec<MastDuplicates>,
    pub obstacles: Vec<Obstacle>,
    pub landmarks: Vec<Landmark>,
    pub tiles: Vec<TerrainTile>,
    /// Aerial pictures in use.
    pub backdrops: Vec<BackdropView>,
    pub house: Option<GeoPoint>,
    pub settings: SurveySettings,
    /// "Panel of the assumptions, 10 dBi", or the kit's name.
    pub antenna: String,
    /// Steps that would make it better, the most useful first.
    pub next: Vec<NextStep>,
}

/// A choice's details in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ChoiceSaid {
    pub source: String,
    pub clearance: Option<String>,
    pub access: String,
    /// What makes the range of the download as wide as it is.
    pub doubts: Option<String>,
    /// How far the signal may fall; on the path's own page.
    pub margin: Option<String>,
    /// What to expect over a day; on the path's own page.
    pub day: Option<String>,
    /// What leaves make of it, and where the trees' figures end.
    pub leaves: Option<String>,
    /// Where the figures come from; on the path's own page.
    pub why: Vec<WhyRow>,
}

/// What a survey lacks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NextStep {
    PlaceHouse,
    AddMasts,
    AddTerrain,
    DrawObstacles,
    AddPositions,
}

pub(crate) fn next_steps(data: &SiteRecord) -> Vec<NextStep> {
    let mut found = Vec::new();
    let mut push = |lacks: bool, step| {
        if lacks {
            found.push(step);
        }
    };
    push(data.house.is_none() && data.positions.iter().all(|one| one.place.is_none()), NextStep::PlaceHouse);
    push(data.masts.is_empty(), NextStep::AddMasts);
    push(data.positions.iter().all(|one| one.archived_at.is_some()), NextStep::AddPositions);
    push(data.ground.is_empty(), NextStep::AddTerrain);
    push(data.obstacles.is_empty(), NextStep::DrawObstacles);
    found
}

/// Every carrier heard at the house, the strongest reading of each cell.
pub(crate) fn cells_heard<'a>(heard: impl Iterator<Item = &'a SpotView>) -> Vec<Carrier> {
    let mut found: Vec<Carrier> = Vec::new();
    for carrier in heard.flat_map(|one| &one.carriers).map(|one| &one.carrier) {
        let same = |other: &&mut Carrier| {
            (other.technology, other.channel, other.pci) == (carrier.technology, carrier.channel, carrier.pci)
        };
        match found.iter_mut().find(same) {
            Some(there) if there.rsrp_dbm < carrier.rsrp_dbm => *there = carrier.clone(),
            Some(_) => {}
            None => found.push(carrier.clone()),
        }
    }
    found
}

pub(crate) fn match_view(one: &CellMatch, carriers: &[Carrier], masts: &[Mast], style: Style) -> MatchView {
    let carrier = &carriers[one.carrier];
    let band = carrier.band.map(|band| open_beacon_core::bands::band_name(carrier.technology, band));
    let pci = carrier.pci.map(|pci| format!("PCI {pci}"));
    let mast = masts.iter().find(|mast| mast.id == one.mast_id);
    MatchView {
        heard: [band, pci].into_iter().flatten().collect::<Vec<_>>().join(", "),
        mast: mast.map_or_else(String::new, |mast| mast.name.clone()),
        mast_id: one.mast_id,
        fit: one.fit,
        fit_text: words::survey::fit(one.fit).into(),
        evidence: words::survey::evidence(one, style),
    }
}

pub(crate) fn said(one: &Choice, obstacles: &[Obstacle], style: Style) -> ChoiceSaid {
    ChoiceSaid {
        source: words::survey::source(&one.source, style),
        clearance: one.clearance.map(|found| words::survey::clearance(&found, obstacles, style)),
        access: words::survey::access(one.access).into(),
        doubts: words::doubts::sentence(&one.doubts),
        margin: one.why.as_ref().map(|_| words::why::margin(one.margin.as_ref())),
        day: one.day.as_ref().map(words::why::day),
        leaves: words::survey::leaves(one),
        why: one.why.as_ref().map_or_else(Vec::new, words::why::rows),
    }
}

pub(crate) fn view(data: &SiteRecord) -> SurveyView {
    let style = data.style();
    let (ranking, shifts) = data.with(|radio| (rank(radio.env, &radio.question()), shifts(radio.env)));
    let carriers = cells_heard(data.by_gateway());
    let found = matches(&carriers, &data.masts, data.house);
    let name = |id| data.masts.iter().find(|mast| mast.id == id).map_or("", |mast| mast.name.as_str());
    SurveyView {
        title: words::survey::title(&ranking, style),
        reason: words::survey::reason(&ranking, &data.obstacles, style),
        sensitivity: words::survey::sensitivities(&ranking.sensitivity, style),
        calibration: shifts.iter().map(|one| words::survey::shift(one, name(one.mast_id))).collect(),
        shifts,
        lines: ranking.choices.iter().map(|one| said(one, &data.obstacles, style)).collect(),
        ranking,
        matches: found.iter().map(|one| match_view(one, &carriers, &data.masts, style)).collect(),
        duplicates: probable_duplicates(&data.masts)
            .into_iter()
            .map(|(first, second)| (&data.masts[first], &data.masts[second]))
            .map(|(keep, other)| MastDuplicates {
                keep: keep.id,
                other: other.id,
                names: format!("{} and {}", keep.name, other.name),
            })
            .collect(),
        next: next_steps(data),
        antenna: match &data.kit {
            Some(kit) => kit.name.clone(),
            None => "the outdoor panel of the assumptions".into(),
        },
        masts: data.masts.iter().map(|mast| mast_view(mast, data.house, style)).collect(),
        house: data.house,
        settings: data.settings.survey.clone(),
        obstacles: data.obstacles.clone(),
        landmarks: data.landmarks.iter().filter(|one| one.archived_at.is_none()).cloned().collect(),
        backdrops: data
            .backdrops
            .iter()
            .filter(|one| one.archived_at.is_none())
            .cloned()
            .map(BackdropView::of)
            .collect(),
        tiles: data.tiles.iter().filter(|one| one.archived_at.is_none()).cloned().collect(),
    }
}

pub(crate) fn mast_view(mast: &Mast, house: Option<GeoPoint>, style: Style) -> MastView {
    let way = house.map(|house| way(house, mast.place));
    let (latitude_text, longitude_text) = sexagesimal(mast.place);
    MastView {
        distance_m: way.map(|way| way.distance_m),
        bearing_deg: way.map(|way| way.bearing_deg),
        latitude_text,
        longitude_text,
        utm_text: utm_text(mast.place),
        mgrs_text: mgrs_text(mast.place),
        slips: said_slips(mast, house, style),
        mast: mast.clone(),
    }
}
