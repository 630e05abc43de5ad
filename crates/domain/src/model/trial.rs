//! Trials: which bands the gateway may use, tried one choice after the other, and how it is told.

use super::{
    AskMethod, BandName, Carrier, Course, Named, Reading, RoundId, RunId, SendAs, SetupId, SiteId,
    SpeedFigures, Surroundings, Technology, TrialId,
};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// How the gateway may be connected.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum BandAccess {
    /// As network and gateway settle it.
    #[default]
    Any,
    /// LTE only.
    Lte,
    /// NR riding on an LTE anchor (EN-DC).
    Nsa,
    /// NR on its own core.
    Sa,
}

/// One choice of bands. Empty lists leave a technology free.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandChoice {
    /// Which core and radio access it is held to.
    #[serde(default)]
    pub access: BandAccess,
    /// LTE bands allowed, rising; under NSA the first carrier of these is the anchor.
    #[serde(default)]
    pub lte: Vec<u16>,
    /// NR bands allowed, rising.
    #[serde(default)]
    pub nr: Vec<u16>,
}

impl BandChoice {
    /// True where nothing is locked.
    pub fn is_free(&self) -> bool {
        *self == Self::default()
    }

    /// Whether a band may be used under it.
    pub fn allows(&self, band: BandName) -> bool {
        match (band.technology, self.access) {
            (Technology::Lte, BandAccess::Sa) | (Technology::Nr, BandAccess::Lte) => false,
            (Technology::Lte, _) => self.lte.is_empty() || self.lte.contains(&band.band),
            (Technology::Nr, _) => self.nr.is_empty() || self.nr.contains(&band.band),
        }
    }

    /// Whether a carrier may be there under it. Its band is what it says, else what its channel number may be of; where
    /// neither is told, its technology alone decides.
    pub fn allows_carrier(&self, carrier: &Carrier) -> bool {
        let technology = carrier.technology;
        let bands = match (carrier.band, carrier.channel) {
            (Some(band), _) => vec![band],
            (None, Some(channel)) => crate::bands::bands_of_channel(technology, channel),
            (None, None) => Vec::new(),
        };
        if bands.is_empty() {
            return match technology {
                Technology::Lte => self.access != BandAccess::Sa,
                Technology::Nr => self.access != BandAccess::Lte,
            };
        }
        bands.into_iter().any(|band| self.allows(BandName { technology, band }))
    }
}

/// What a choice is judged by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrialGoal {
    /// The household's tightest need.
    #[default]
    Household,
    /// The download.
    Download,
    /// The upload.
    Upload,
    /// Latency while the line is loaded.
    Latency,
}

/// How a gateway is told which bands to use: what the user gave. Texts may hold `${…}` as login steps do, with the names
/// `access`, `lte_bands`, `nr_bands`, `lte_mask`, `lte_mask_hex`, `lte_mask_high`, `lte_mask_high_hex`, `nr_mask`,
/// `nr_mask_hex`, `nr_mask_high`, `nr_mask_high_hex`.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LockRecipe {
    /// Request of a page that sets a lock; none for a modem.
    pub request: Option<LockRequest>,
    /// Commands of a modem that set a lock, in order.
    pub commands: Vec<String>,
    /// Commands that take every lock away.
    pub undo_commands: Vec<String>,
    /// The device's words for the kinds of access: name `lte`, `nsa`, `sa` or `any`, value what the device calls it.
    pub access_words: Vec<Named>,
    /// The device forgets the lock when it restarts.
    pub volatile: bool,
    /// Longest wait until it is attached again, s, 5..=300; 60 where 0.
    pub reattach_s: f64,
    /// What to press on the device itself to get back, where this program cannot any more.
    pub by_hand: String,
}

/// A request that sets a lock, and one that takes it away.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LockRequest {
    /// HTTP method.
    pub method: AskMethod,
    /// Path on the same device.
    pub path: String,
    /// How the body is sent.
    pub send: SendAs,
    /// Body that is sent.
    pub body: String,
    /// Path that takes the lock away; the same where empty.
    pub undo_path: String,
    /// Body that takes the lock away.
    pub undo_body: String,
}

/// How trials are planned and what was settled.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrialSettings {
    /// What it is judged by.
    pub goal: TrialGoal,
    /// Smallest difference worth a lock, share, 0.05..=1.
    pub difference: f64,
    /// What trials may move in all, MB; none for no cap.
    pub data_cap_mb: Option<f64>,
    /// Carrier combinations that the gateway aggregates, as its maker lists them; empty where not known.
    pub combinations: Vec<Vec<BandName>>,
    /// What the gateway is locked to on purpose: the last known good.
    pub kept: BandChoice,
    /// When the page on undoing a lock was read.
    pub undo_read_at: Option<DateTime<Utc>>,
}

impl Default for TrialSettings {
    /// A fifth is the least that a household notices (common practice, no source).
    fn default() -> Self {
        Self {
            goal: TrialGoal::default(),
            difference: 0.2,
            data_cap_mb: None,
            combinations: Vec::new(),
            kept: BandChoice::default(),
            undo_read_at: None,
        }
    }
}

/// Why a round ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum RoundEnd {
    /// No further test would change the winner by the difference that matters.
    Clear,
    /// All that was planned is done.
    Planned,
    /// The hour is over; it goes on at the same hour of another day.
    HourOver,
    /// The data cap is reached.
    CapReached,
    /// The gateway does not obey locks.
    Ignored,
    /// Nothing is left to try.
    NothingLeft,
    /// It was cancelled.
    Cancelled,
    /// It could not go on.
    Failed,
    /// The program ended meanwhile.
    Interrupted,
}

/// One sitting of trials on one setup: choices tried by turns, so that no hour favours one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandRound {
    /// Identifier.
    pub id: RoundId,
    /// The site.
    pub site_id: SiteId,
    /// The setup.
    #[serde(default)]
    pub setup_id: Option<SetupId>,
    /// What it is judged by.
    #[serde(default)]
    pub goal: TrialGoal,
    /// In the order of trying; the first is the way it was before.
    pub choices: Vec<BandChoice>,
    /// Speed tests at each visit to a choice.
    pub tests_a_visit: u16,
    /// Visits to each choice at the most.
    pub blocks: u16,
    /// Difference worth finding, a share.
    pub difference: f64,
    /// MB at the most; none for no cap.
    #[serde(default)]
    pub cap_mb: Option<f64>,
    /// Locks are set by hand.
    #[serde(default)]
    pub by_hand: bool,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// When it ended; none while it goes on.
    #[serde(default)]
    pub ended_at: Option<DateTime<Utc>>,
    /// How it ended.
    #[serde(default)]
    pub end: Option<RoundEnd>,
    /// In words, where something went wrong.
    #[serde(default)]
    pub reason: Option<String>,
    /// The choice that stayed, if one was kept on purpose.
    #[serde(default)]
    pub kept: Option<BandChoice>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// What came of a visit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrialOutcome {
    /// Going on, or broken off by the program's end.
    Unfinished,
    /// It was measured.
    Measured,
    /// The gateway went on with other bands than it was told.
    Ignored,
    /// It was not attached within the time.
    NoService,
    /// The gateway refused or did not answer.
    Failed,
    /// It was cancelled.
    Cancelled,
}

/// One visit to one choice.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Trial {
    /// Identifier.
    pub id: TrialId,
    /// The site.
    pub site_id: SiteId,
    /// The round.
    pub round_id: RoundId,
    /// Which bands are allowed.
    pub choice: BandChoice,
    /// Every choice still in is visited once a block, in turned order in every second.
    pub block: u16,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// From the lock until it was attached as told, s; none where no lock was sent or it never was.
    #[serde(default)]
    pub reattach_s: Option<f64>,
    /// What came of it.
    pub outcome: TrialOutcome,
    /// Why, a sentence.
    #[serde(default)]
    pub reason: Option<String>,
    /// The run that holds its readings and tests, under a setup with this choice as its lock; none where the round
    /// was of no setup.
    #[serde(default)]
    pub run_id: Option<RunId>,
    /// Independent samples read before the tests.
    #[serde(default)]
    pub samples: Vec<Reading>,
    /// Speed tests.
    #[serde(default)]
    pub tests: Vec<TrialTest>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// One speed test of a trial.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrialTest {
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// What was measured.
    #[serde(flatten)]
    pub figures: SpeedFigures,
    /// What went wrong, a sentence.
    #[serde(default)]
    pub problem: Option<String>,
    /// What it went over, and what else went on.
    #[serde(default)]
    pub surroundings: Option<Surroundings>,
    /// How it went, until it is in the record; none there, where it stands beside the test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub course: Option<Course>,
}

/// What was about to be told to a gateway: on disk before it is sent, away once it is settled.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LockIntent {
    /// The site.
    pub site_id: SiteId,
    /// What the gateway may have been told.
    pub wanted: BandChoice,
    /// What it goes back to.
    pub good: BandChoice,
    /// Carriers in use when the first of these notes was made, as far as the gateway showed them: what it is expected to show
    /// again.
    #[serde(default)]
    pub before: Vec<Carrier>,
    /// When it was noted.
    pub noted_at: DateTime<Utc>,
}
