//! How long a small page takes to load: a line can be fast and slow to use.

use super::Finding;
use crate::model::{PageLoad, SpeedTest};
use crate::stats::median;
use serde::{Deserialize, Serialize};

/// A small page that takes this long feels broken, ms (common practice, no source).
const SLOW_MS: f64 = 3000.0;
/// What takes this share of the whole is what makes it slow.
const MOST_OF_IT: f64 = 0.5;
/// Round trips of a page's parts: a connection, its first answer, the other connections, and four answers in turn on each of six.
const ROUND_TRIPS: f64 = 7.0;

/// How long a page took, medians over tests.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PageTimes {
    /// Tests that loaded one.
    pub tests: usize,
    /// Tests in which parts did not come.
    pub incomplete: usize,
    /// Until the server's name was resolved, ms; none where the address is a number.
    pub name_ms: Option<f64>,
    /// A connection to the server, ms.
    pub connect_ms: f64,
    /// Until the page's answer began, ms.
    pub first_byte_ms: f64,
    /// Until everything had come, ms; none where it never did.
    pub all_ms: Option<f64>,
}

/// What makes a page slow.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SlowPage {
    /// Parts of it did not come.
    PartsMissing,
    /// Resolving the server's name.
    Name,
    /// The way there and back, for everything.
    RoundTrips,
    /// The server, before it answers.
    Server,
    /// The parts, one after another.
    Parts,
}

impl PageTimes {
    /// Of the tests that loaded a page; none where no test did.
    pub fn of(tests: &[SpeedTest]) -> Option<Self> {
        let pages: Vec<PageLoad> = tests.iter().filter_map(|test| test.surroundings.as_ref()?.page).collect();
        let middle =
            |of: fn(&PageLoad) -> Option<f64>| median(&pages.iter().filter_map(of).collect::<Vec<_>>());
        Some(Self {
            tests: pages.len(),
            incomplete: pages.iter().filter(|page| page.all_ms.is_none()).count(),
            name_ms: middle(|page| page.name_ms),
            connect_ms: middle(|page| Some(page.connect_ms))?,
            first_byte_ms: middle(|page| Some(page.first_byte_ms))?,
            all_ms: middle(|page| page.all_ms),
        })
    }

    /// What makes it slow, where it is.
    pub fn slow_because(&self) -> Option<SlowPage> {
        let all_ms = match self.all_ms {
            Some(all_ms) if self.incomplete == 0 => all_ms,
            _ => return Some(SlowPage::PartsMissing),
        };
        if all_ms < SLOW_MS {
            return None;
        }
        let name_ms = self.name_ms.unwrap_or(0.0);
        let most = |part_ms: f64| part_ms >= MOST_OF_IT * all_ms;
        Some(match () {
            () if most(name_ms) => SlowPage::Name,
            () if most(ROUND_TRIPS * self.connect_ms) => SlowPage::RoundTrips,
            () if most(self.first_byte_ms - name_ms - self.connect_ms) => SlowPage::Server,
            () => SlowPage::Parts,
        })
    }
}

/// That a page loads slowly, where tests show it.
pub(super) fn page_slow(tests: &[SpeedTest]) -> Option<Finding> {
    let times = PageTimes::of(tests)?;
    Some(Finding::PageSlow { times, because: times.slow_because()? })
}
