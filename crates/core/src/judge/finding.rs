//! What was found, as kinds with typed values.

use super::{PageTimes, SlowPage, TestDoubt};
use crate::bands::UsualWidths;
use crate::capacity::Estimate;
use crate::metrics::{Class, Limit, Oddity};
use crate::model::{
    Activity, ConnectionMode, Instrument, InterfaceKind, Metric, Source, SpeedFigure, Technology,
};
use crate::stats::Interval;
use serde::{Deserialize, Serialize};

/// How a cell is named to the user: band and physical cell identity.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellName {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    pub band: Option<u16>,
    /// Physical cell identity.
    pub pci: Option<u16>,
}

/// Hours of the day, site time, that a set of tests covers: from the first to the last, 0..=23, inclusive.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HourSpan {
    /// The first one.
    pub first: u8,
    /// The last one.
    pub last: u8,
}

/// One finding. Values are in the units their names say; rates in Mbit/s, latencies in ms.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Finding {
    /// What the gateway is connected by.
    Connected { mode: ConnectionMode, carriers: usize, best: Option<Class> },
    /// No setup is chosen or none exists.
    NoSetup,
    /// The setup has neither samples nor tests.
    NothingRecorded { setup: String },
    /// The setup has samples but too few tests to compare.
    TestsMissing { setup: String, have: usize, need: usize },
    /// Tests of one hour say little of the next.
    SittingsMissing { have: usize, need: usize },
    /// A setup's own figures in short: geometric means over sittings.
    SetupFigures {
        setup: String,
        tests: usize,
        sittings: usize,
        download_mbps: Option<f64>,
        upload_mbps: Option<f64>,
        idle_latency_ms: Option<f64>,
    },
    /// One carrier's medians in a setup.
    CarrierMedians {
        cell: CellName,
        samples: usize,
        rsrp_dbm: Option<f64>,
        sinr_db: Option<f64>,
        class: Option<Class>,
    },
    /// The serving cell changed during a run: the first change of `changes`.
    CellChanged { from: CellName, to: CellName, after_samples: usize, changes: usize },
    /// NR was heard in only part of the samples.
    NrCameAndWent { heard: usize, of: usize },
    /// A gateway reported values outside the reporting range.
    OutsideRange { cell: CellName, metric: Metric, samples: usize },
    /// The run is not whole.
    PartialRun { reason: Option<String> },
    /// Fewer than two setups are chosen.
    NothingToCompare { with_tests: usize },
    /// The setup is better in this figure, beyond chance.
    ClearGain { setup: String, baseline: String, figure: SpeedFigure, ratio: f64, interval: Interval },
    /// The setup is worse in this figure, beyond chance.
    ClearLoss { setup: String, baseline: String, figure: SpeedFigure, ratio: f64, interval: Interval },
    /// The setup is probably better in this figure: too few sittings, or too many comparisons, to be sure.
    LikelyGain {
        setup: String,
        baseline: String,
        figure: SpeedFigure,
        ratio: f64,
        interval: Interval,
        sittings: usize,
    },
    /// The setup is probably worse in this figure.
    LikelyLoss {
        setup: String,
        baseline: String,
        figure: SpeedFigure,
        ratio: f64,
        interval: Interval,
        sittings: usize,
    },
    /// A ratio to the baseline with its interval, in short.
    RatioRange { figure: SpeedFigure, ratio: f64, interval: Interval },
    /// The difference is within the scatter.
    CannotTell { setup: String, baseline: String, figure: SpeedFigure, ratio: f64, interval: Interval },
    /// The whole interval lies within what does not matter.
    Same { setup: String, baseline: String, figure: SpeedFigure, ratio: f64 },
    /// Too few sittings on one side.
    TooFew {
        setup: String,
        baseline: String,
        figure: SpeedFigure,
        have: usize,
        baseline_has: usize,
        need: usize,
        ratio: Option<f64>,
    },
    /// Setups that may match the best and were tested in too few sittings to tell.
    RivalsUntested { setups: Vec<String>, need: usize },
    /// No tests of this figure on one side.
    NotMeasured { setup: String, figure: SpeedFigure },
    /// A carrier both setups heard differs by this much.
    CarrierDiffers { cell: CellName, metric: Metric, difference_db: f64, baseline: String },
    /// The setup's download beats every other setup compared.
    BestOf { setup: String, of: usize },
    /// Better radio, yet not a better speed.
    RadioWithoutSpeed { cell: CellName, sinr_difference_db: f64, download_ratio: f64 },
    /// More signal power, yet no cleaner: other cells came up with it.
    StrongerNoCleaner { cell: CellName, power_db: f64, quality_db: f64 },
    /// Much less upload, with a stronger signal.
    UploadWithoutRadio { cell: CellName, power_db: f64, upload_ratio: f64 },
    /// The tests were run at other hours.
    HoursDiffer { setup: HourSpan, baseline: HourSpan },
    /// Other weather was noted.
    WeatherDiffers { setup: Vec<String>, baseline: Vec<String> },
    /// So many weeks lie between the tests of one and those of the other.
    WeeksApart { weeks: u32 },
    /// Another cell served.
    ServingCellDiffers { setup: Vec<CellName>, baseline: Vec<CellName> },
    /// Other bands were in use.
    BandsDiffer { only_setup: Vec<String>, only_baseline: Vec<String> },
    /// One side was measured idle, the other loaded.
    ActivityDiffers { setup: Vec<Activity>, baseline: Vec<Activity> },
    /// One side was read from something else.
    InstrumentDiffers { setup: Vec<Instrument>, baseline: Vec<Instrument> },
    /// One side was typed in.
    SourceDiffers { setup: Vec<Source>, baseline: Vec<Source> },
    /// Another test server.
    ServerDiffers { setup: Vec<String>, baseline: Vec<String> },
    /// The gateway was restarted on one side only, or it was not recorded.
    AttachDiffers,
    /// Partial tests were left out of the figures.
    PartialLeftOut { tests: usize },
    /// Tests that may not have measured the line.
    TestsDoubted { doubt: TestDoubt, tests: usize, of: usize },
    /// Tests went over another kind of interface.
    InterfaceDiffers { setup: Vec<InterfaceKind>, baseline: Vec<InterfaceKind> },
    /// Tests went over IPv6 on one side and over IPv4 on the other.
    AddressVersionDiffers { setup_v6: bool },
    /// A small page loads slowly.
    PageSlow { times: PageTimes, because: SlowPage },

    // One carrier explained.
    /// The page names no band; its channel number fits these.
    BandGuessed { channel: u32, fits: Vec<String> },
    /// The page names no width; what is usual on the band is taken.
    WidthAssumed { cell: CellName, widths: UsualWidths },
    /// Numbers that do not go together.
    Odd { cell: CellName, oddity: Oddity },
    /// A value's class and what is missing to the next.
    MetricMeans { metric: Metric, value: f64, class: Class, next: Option<Class>, missing_db: Option<f64> },
    /// What keeps the signal from being cleaner; `over_noise_db` how far the disturbance lies above the receiver's
    /// own noise.
    LimitedBy { limit: Limit, over_noise_db: Option<f64> },
    /// Share of the cell that was in use, by RSRQ and SINR.
    LoadHeard { load: f64 },
    /// What the carrier could carry.
    CouldCarry { down_mbps: Estimate, up_mbps: Option<Estimate>, layers: u8, up_power_limited: bool },

    // Is an outdoor antenna worth it?
    /// Nothing was read yet.
    BaselineMissing,
    /// Something was read, not enough to judge.
    BaselineThin { spot: String },
    /// Worth it.
    WorthIt { rsrp_change_db: Estimate, download_ratio: Option<Estimate>, upload_ratio: Option<Estimate> },
    /// Margin would grow, speed hardly.
    ForMargin { rsrp_change_db: Estimate, download_ratio: Option<Estimate> },
    /// The radio could carry this many times what was measured.
    NotTheAntenna { times: f64 },
    /// No spot heard NR.
    NoNrHeard { spots: usize },
    /// Bands that other spots hear and the best spot inside does not.
    MoreBandsElsewhere { bands: Vec<String>, spots: Vec<String>, from: String },
    /// The widest carrier is ample already.
    AlreadyAmple { cell: CellName },
    /// Interference limits the widest carrier.
    InterferenceHere { cell: CellName },
    /// The receiver's noise limits the widest carrier.
    NoiseHere { cell: CellName },
    /// The radio could carry several times what was measured.
    LoadLimited { times: Estimate, tests: usize },
    /// The gateway's transmit power limits the upload.
    UplinkLimited { upload_mbps: f64 },
    /// A spot outside hears much more.
    IndoorLoss { inside: String, outside: String, gained_db: f64 },
    /// More speed tests would change the answer.
    WantsTests { spot: String, have: usize },
    /// A reading outside would.
    WantsOutdoorSpot,
    /// Carriers without a width are left out.
    WantsBandwidth { carriers: usize },
    /// Tests at another hour would tell load from the rest.
    WantsOtherHour,
    // Is a speed-test address good enough?
    /// It answered and is long and fast enough as far as can be seen.
    AddressFine { download_mbps: f64, upload_mbps: Option<f64> },
    /// It does not answer.
    AddressSilent { problem: String },
    /// The body ends too soon for this rate.
    BodyTooSmall { bytes: u64, wanted_bytes: u64 },
    /// It does not take uploads.
    NoUpload,
    /// A second address is so much faster that the first is the bottleneck.
    SecondFaster { ratio: f64 },
    /// A second address gives about the same.
    SecondAgrees { ratio: f64 },
    /// The second address does not answer.
    SecondSilent { problem: String },
    /// Two networks at one spot.
    NetworkCompare { better: String, other: String, spot: String, ratio: f64, alike: bool, sure: bool },
    /// How far a spot's wall or window is turned from the mast.
    FacesMast { spot: String, mast: String, off_deg: f64 },
}

/// A finding with its sentence.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Said {
    /// The text.
    pub text: String,
    /// What was found.
    pub finding: Finding,
}
