//! An import as whoever waits for it sees it.

use crate::StoreError;
use open_beacon_core::model::SiteBundle;
use std::ops::ControlFlow;

/// Where an import is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ImportStep {
    /// Rows are compared with those that are here.
    Comparing,
    /// New ones are added.
    Storing,
}

/// Told of rows that are done, and of how many there are; a break ends the import, and nothing of it stays.
pub type Watch<'a> = &'a dyn Fn(ImportStep, usize, usize) -> ControlFlow<()>;

/// Rows between two looks at whoever watches.
const WATCHED_EVERY: usize = 500;

/// For those who do not watch.
pub(crate) fn unwatched(_: ImportStep, _: usize, _: usize) -> ControlFlow<()> {
    ControlFlow::Continue(())
}

/// Counts the rows of one step.
pub(crate) struct Steps<'a> {
    watch: Watch<'a>,
    step: ImportStep,
    done: usize,
    pub(crate) of: usize,
}

impl<'a> Steps<'a> {
    pub(crate) fn of(watch: Watch<'a>, step: ImportStep, bundle: &SiteBundle) -> Self {
        let of = bundle.runs.len() + bundle.samples.len() + bundle.speed_tests.len();
        Self { watch, step, done: 0, of }
    }

    pub(crate) fn another(&mut self) -> Result<(), StoreError> {
        self.done += 1;
        if self.done % WATCHED_EVERY == 1 { self.look() } else { Ok(()) }
    }

    /// Whether it is to go on.
    pub(crate) fn look(&self) -> Result<(), StoreError> {
        let told = (self.watch)(self.step, self.done, self.of);
        if told.is_break() { Err(StoreError::Stopped) } else { Ok(()) }
    }
}
