//! When a reading is a new one. Gateways refresh their page every 1-10 s and repeat old values in between:
//! "ten samples in ten seconds" may be two.
//!
//! The rules here are common practice, no source.

/// What one look at the page brought.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Novelty {
    /// The page shows something it did not show before.
    Fresh,
    /// Two whole refresh periods passed without a change: the gateway measured again and found the same.
    SameAgain,
    /// The page repeats what it showed already.
    Repeat,
    /// The page has not changed for so long that it is probably stuck.
    Frozen,
}

impl Novelty {
    /// True where the look counts as an independent sample.
    pub fn counts(self) -> bool {
        matches!(self, Self::Fresh | Self::SameAgain)
    }
}

/// Learns a page's refresh period from when its content changes.
///
/// Feed every look in order with [`RefreshLearner::look`]; times are seconds on any steady clock.
#[derive(Clone, Debug, Default)]
pub struct RefreshLearner {
    last_content: Option<u64>,
    last_change_s: f64,
    last_counted_s: f64,
    /// Changes are timed only from the second on: the first is when we began to look, not when the page changed.
    timing: bool,
    same_again: u32,
    gaps_s: Vec<f64>,
}

/// How many gaps between changes are remembered.
const GAPS_KEPT: usize = 32;
/// Unchanged pages count this often at most, then the page is called frozen.
const SAME_AGAIN_MAX: u32 = 3;

impl RefreshLearner {
    /// Takes one look: `at_s` when, `content` a hash of every measured value on the page.
    pub fn look(&mut self, at_s: f64, content: u64) -> Novelty {
        if self.last_content != Some(content) {
            if self.timing {
                self.gaps_s.push(at_s - self.last_change_s);
                if self.gaps_s.len() > GAPS_KEPT {
                    self.gaps_s.remove(0);
                }
            }
            self.timing = self.last_content.is_some();
            self.last_content = Some(content);
            self.last_change_s = at_s;
            self.last_counted_s = at_s;
            self.same_again = 0;
            return Novelty::Fresh;
        }
        let Some(period_s) = self.period_s() else {
            return Novelty::Repeat;
        };
        if at_s - self.last_counted_s < 2.0 * period_s {
            return Novelty::Repeat;
        }
        if self.same_again >= SAME_AGAIN_MAX {
            return Novelty::Frozen;
        }
        self.same_again += 1;
        self.last_counted_s = at_s;
        Novelty::SameAgain
    }

    /// The learned period, s: the lower quartile of the gaps between changes, because a refresh that brings the
    /// same values doubles a gap but nothing halves one. `None` before three changes were timed.
    pub fn period_s(&self) -> Option<f64> {
        if self.gaps_s.len() < 3 {
            return None;
        }
        let mut sorted = self.gaps_s.clone();
        sorted.sort_by(f64::total_cmp);
        Some(sorted[sorted.len() / 4])
    }
}
