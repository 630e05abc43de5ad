//! Judgement: from measured values to findings, and from findings to sentences.
//!
//! Findings are typed values ([`Finding`]); [`say`] is the one place where they become words.

mod advice;
mod compare;
mod differed;
mod evidence;
mod finding;
pub mod say;
mod stages;

pub use advice::{Advice, NextAction, log_advice, verdict_advice};
pub use compare::{
    CarrierDifference, Comparison, ComparisonRow, FigureRow, FigureValue, Versus, VersusVerdict, compare,
    compare_figure, figure_row,
};
pub use evidence::{CarrierSummary, RadioSummary, SetupEvidence, summarise_samples};
pub use finding::{CellName, Finding, HourSpan, Said};
pub use stages::{Stage, StageState, StageStatus, stage_states};
