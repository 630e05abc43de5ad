//! What is being measured at a site, and how far it is.

use serde::Serialize;

/// What reads the gateway for the record, loads the line, or tells the gateway its bands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Measuring {
    /// A recording of samples.
    Recording,
    /// Speed tests.
    SpeedTests,
    /// A point of a sweep.
    SweepPoint,
    /// A round of band trials.
    BandRound,
    /// A lock is being set to stay.
    Lock,
    /// The gateway is going back to its last known good bands.
    LockRestore,
}

/// How far what is going on is; the same for everything that measures.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasuringProgress {
    /// What it is.
    pub what: Measuring,
    /// "A recording is going on, 3 of 9 samples done, about 40 s left."
    pub words: String,
    /// 0..=1; none where nothing is planned by number.
    pub share: Option<f64>,
    /// Samples taken.
    pub samples_done: u32,
    /// Samples to take.
    pub samples_planned: u32,
    /// Speed tests made.
    pub tests_done: u32,
    /// The most that will be; a round may end early.
    pub tests_planned: u32,
    /// Moved by speed tests so far, MB.
    pub moved_mb: f64,
    /// At the pace so far, s; none before anything was done.
    pub remaining_s: Option<f64>,
    /// At the rate so far, MB; none before the first test.
    pub remaining_mb: Option<f64>,
}
