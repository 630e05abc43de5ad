//! Judgement: from measured values to findings, and from findings to sentences.
//!
//! Findings are typed values ([`Finding`]); [`crate::words`] is the one place where they become words.

mod address;
mod advice;
mod aimed;
mod baseline;
mod best;
mod classical;
mod compare;
mod day_part;
mod differed;
mod digest;
mod evidence;
mod explain;
mod fairness;
mod finding;
mod go;
mod narrowing;
mod observed;
mod outdoor;
mod over_time;
mod page;
mod radio_differences;
mod setup_outlook;
mod speeds;
mod spot;
mod stages;
mod track;
mod weighing;
mod worklist;

pub use address::{AddressProbe, judge_address};
pub use advice::{Advice, NextAction, log_advice, verdict_advice};
pub use aimed::mast_aimed_at;
pub use baseline::{Baseline, NetworkRow, baseline};
pub use best::{BestSetup, BestWord, NextSitting, OtherBest, PartRate, SetupStanding, Standings, best_setup};
pub use classical::Classical;
pub use compare::{
    Comparison, ComparisonRow, Described, FigureRow, FigureValue, Versus, VersusVerdict, compare,
    compare_described, compare_figure, figure_row, sitting_means,
};
pub use day_part::DayPart;
pub use differed::Tested;
pub use digest::{CarrierDigest, CellChanges, ModeCount, RadioDigest, RadioFold};
pub use evidence::{CarrierSummary, RadioSummary, SetupEvidence, summarise_samples};
pub use explain::{ExplainedCarrier, explain};
pub use fairness::{TestDoubt, test_doubts, tests_doubted};
pub use finding::{CellName, Finding, HourSpan, Said};
pub use go::{Answer, GoNoGo, GoNoGoReason, go_no_go, start_of};
pub use narrowing::{Narrowing, OneMoreReading, narrowings};
pub use observed::{HeardOn, aim_of, location_of, observations};
pub use outdoor::{OutdoorOutlook, outlooks};
pub(crate) use over_time::usual_scatter;
pub use over_time::{over_time, visits};
pub use page::{PageTimes, SlowPage};
pub use radio_differences::CarrierDifference;
pub use setup_outlook::{CarrierOutlook, SetupOutlook, setup_outlook};
pub use speeds::ModelRatio;
pub use spot::{SpotEvidence, SpotView, spot_views};
pub use stages::{Planned, SetupTally, Stage, StageState, StageStatus, stage_states};
pub use track::{TrackRecord, TrackVerdict, Tracked, TrackedQuantity, figures, track_records, tracked};
pub use weighing::{Takes, Weighing, ease};
pub use worklist::{EVENING_HOURS, Missing, NextWork, WorkRow, Worklist, worklist};
