//! The clock that readings are dated by.

use chrono::{DateTime, Utc};
use std::sync::Arc;

/// Tells what time it is; cheap to clone. The computer's own unless another is given.
#[derive(Clone)]
pub struct Clock(Arc<dyn Fn() -> DateTime<Utc> + Send + Sync>);

impl Clock {
    /// A clock of another kind, as for hours that pass in seconds.
    pub fn of(tells: impl Fn() -> DateTime<Utc> + Send + Sync + 'static) -> Self {
        Self(Arc::new(tells))
    }

    /// What time it is.
    pub fn now(&self) -> DateTime<Utc> {
        (self.0)()
    }
}

impl Default for Clock {
    fn default() -> Self {
        Self::of(Utc::now)
    }
}

impl std::fmt::Debug for Clock {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        to.debug_tuple("Clock").field(&self.now()).finish()
    }
}
