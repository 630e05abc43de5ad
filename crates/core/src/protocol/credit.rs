//! What a gain is owed to: the antenna, the lock, or nothing that can be told, and the one test that would tell.

use super::change::ChangedPart;
use crate::judge::{ComparisonRow, Finding, Tested, VersusVerdict};
use crate::model::{EventKind, SiteEvent, SpeedFigure};
use serde::{Deserialize, Serialize};

/// What was built differently, as far as one test can tell it from the rest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CreditGroup {
    /// The antenna: its kind, place, height and aim.
    Antenna,
    /// Which lead is in which port.
    Ports,
    /// Where the gateway stands.
    GatewayPlace,
    /// The band lock.
    Lock,
}

impl ChangedPart {
    /// What it counts as.
    pub fn group(self) -> CreditGroup {
        match self {
            Self::Ports => CreditGroup::Ports,
            Self::GatewayPlace => CreditGroup::GatewayPlace,
            Self::Lock => CreditGroup::Lock,
            _ => CreditGroup::Antenna,
        }
    }
}

/// What was not built and may yet explain a difference of speed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Confounder {
    /// They were tested at other hours of the day.
    Hours,
    /// Weeks lie between them: leaves, load and the network may have changed.
    Weeks,
    /// Other weather was noted.
    Weather,
    /// Something was noted between them: firmware, plan, work at the mast.
    Events,
    /// Another server answered.
    Server,
    /// Wire against Wi-Fi, or another adapter.
    Wire,
    /// IPv4 against IPv6.
    AddressVersion,
    /// Another instrument read or tested.
    Instrument,
    /// Typed in against measured.
    Source,
}

impl Confounder {
    fn of(finding: &Finding) -> Option<Self> {
        Some(match finding {
            Finding::HoursDiffer { .. } => Self::Hours,
            Finding::WeeksApart { .. } => Self::Weeks,
            Finding::WeatherDiffers { .. } => Self::Weather,
            Finding::ServerDiffers { .. } => Self::Server,
            Finding::InterfaceDiffers { .. } => Self::Wire,
            Finding::AddressVersionDiffers { .. } => Self::AddressVersion,
            Finding::InstrumentDiffers { .. } => Self::Instrument,
            Finding::SourceDiffers { .. } => Self::Source,
            _ => return None,
        })
    }
}

/// The one test that tells what a difference is owed to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SettlingTest {
    /// Both within the same hour, one after the other and back, over the same wire and server.
    SameHour,
    /// This setup with the baseline's lock.
    BaselineLock,
    /// This setup with the baseline's port map.
    BaselinePorts,
    /// This setup with the gateway where it stood.
    BaselineGatewayPlace,
}

/// What a difference between a setup and the baseline is owed to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Credit {
    /// The figure that differs.
    pub figure: SpeedFigure,
    /// Whether it is better.
    pub gain: bool,
    /// What was built differently.
    pub changed: Vec<ChangedPart>,
    /// What else may explain it.
    pub confounders: Vec<Confounder>,
    /// What was noted between the tests of one and those of the other, in the user's words.
    pub noted: Vec<String>,
    /// The only thing that explains it; none where several may.
    pub owed_to: Option<CreditGroup>,
    /// What would tell; none where nothing is open.
    pub settle: Option<SettlingTest>,
}

/// What a setup's difference against the baseline is owed to: of the first rate that differs by its own interval. `None` where none does, or
/// where nothing was built differently. `base` is the baseline's row, `events` those of the site. A cell or band that came with what was built is how the gain came, not another cause of it.
pub fn credit(
    row: &ComparisonRow,
    base: &ComparisonRow,
    changed: &[ChangedPart],
    events: &[SiteEvent],
) -> Option<Credit> {
    let differs = |figure: &&crate::judge::FigureRow| {
        figure.figure.larger_is_better() && figure.versus.is_some_and(|versus| gain(versus.verdict).is_some())
    };
    let figure = row.figures.iter().find(differs)?;
    let gain = gain(figure.versus?.verdict)?;
    if changed.is_empty() {
        return None;
    }
    let mut confounders: Vec<Confounder> = row.differed.iter().filter_map(Confounder::of).collect();
    let noted = noted_between(row, base, events);
    if !noted.is_empty() {
        confounders.push(Confounder::Events);
    }
    confounders.sort_unstable();
    confounders.dedup();
    let mut groups: Vec<CreditGroup> = changed.iter().map(|part| part.group()).collect();
    groups.sort_unstable();
    groups.dedup();
    let has = |group: CreditGroup| groups.len() > 1 && groups.contains(&group);
    let settle = match () {
        () if !confounders.is_empty() => Some(SettlingTest::SameHour),
        () if has(CreditGroup::Lock) => Some(SettlingTest::BaselineLock),
        () if has(CreditGroup::Ports) => Some(SettlingTest::BaselinePorts),
        () if has(CreditGroup::GatewayPlace) => Some(SettlingTest::BaselineGatewayPlace),
        () => None,
    };
    let owed_to = (settle.is_none()).then(|| groups[0]);
    let (figure, changed) = (figure.figure, changed.to_vec());
    Some(Credit { figure, gain, changed, confounders, noted, owed_to, settle })
}

/// What was noted of network, gateway, plan and house after all tests of one side and before all of the other.
fn noted_between(row: &ComparisonRow, base: &ComparisonRow, events: &[SiteEvent]) -> Vec<String> {
    let Some((here, there)) = row.tested.zip(base.tested) else { return Vec::new() };
    let matters = |event: &&SiteEvent| {
        event.archived_at.is_none()
            && matches!(
                event.kind,
                EventKind::Network | EventKind::Gateway | EventKind::Plan | EventKind::House
            )
            && Tested::is_between(event.happened_at, here, there)
    };
    events.iter().filter(matters).map(|event| event.text.clone()).collect()
}

/// Whether a verdict is of a gain or a loss; none where it is of neither.
fn gain(verdict: VersusVerdict) -> Option<bool> {
    match verdict {
        VersusVerdict::ClearGain | VersusVerdict::LikelyGain => Some(true),
        VersusVerdict::ClearLoss | VersusVerdict::LikelyLoss => Some(false),
        VersusVerdict::CannotTell | VersusVerdict::Same | VersusVerdict::TooFew => None,
    }
}
