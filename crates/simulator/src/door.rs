//! The stand-in gateway's door: three ways to sign in, sessions that run out, and a lock after too many failures.

use axum::http::{HeaderMap, StatusCode, header};
use std::collections::HashSet;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// The only account: invented, and the same on every stand-in.
pub const USER: &str = "keeper";
/// Its password.
pub const PASSWORD: &str = "lantern & oil";
/// Failed logins after which nobody is let in any more.
pub const LOCKED_AFTER: u32 = 3;

#[derive(Debug, Default)]
struct Inside {
    sessions: HashSet<String>,
    challenges: HashSet<(String, String)>,
    failed: u32,
    logins: u32,
}

/// Who was let in.
#[derive(Debug, Default)]
pub struct Door(Mutex<Inside>);

pub(crate) type Refusal = (StatusCode, &'static str);

impl Door {
    fn lock(&self) -> MutexGuard<'_, Inside> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Ends all sessions, as a restart or a time-out does.
    pub(crate) fn end_sessions(&self) {
        self.lock().sessions.clear();
    }

    /// Locks the door, as after too many failures.
    pub(crate) fn lock_out(&self) {
        let mut inside = self.lock();
        inside.sessions.clear();
        inside.failed = LOCKED_AFTER;
    }

    /// Logins tried, and failures one after the other.
    pub fn tried(&self) -> (u32, u32) {
        let inside = self.lock();
        (inside.logins, inside.failed)
    }

    pub(crate) fn login(&self, right: bool) -> Result<String, Refusal> {
        let mut inside = self.lock();
        inside.logins += 1;
        if inside.failed >= LOCKED_AFTER {
            return Err((StatusCode::FORBIDDEN, "locked: too many failed logins"));
        }
        if !right {
            inside.failed += 1;
            return Err((StatusCode::UNAUTHORIZED, "wrong name or password"));
        }
        inside.failed = 0;
        let session = uuid::Uuid::now_v7().to_string();
        inside.sessions.insert(session.clone());
        Ok(format!("session={session}; HttpOnly; Path=/"))
    }

    pub(crate) fn knows(&self, headers: &HeaderMap) -> bool {
        let cookie = headers.get(header::COOKIE).and_then(|cookie| cookie.to_str().ok()).unwrap_or_default();
        let session = cookie.split(';').find_map(|one| one.trim().strip_prefix("session="));
        session.is_some_and(|session| self.lock().sessions.contains(session))
    }

    /// Asks a question that is answered once.
    pub(crate) fn ask(&self, nonce: &str, token: &str) {
        self.lock().challenges.insert((nonce.to_owned(), token.to_owned()));
    }

    /// Whether this was asked, and not answered before.
    pub(crate) fn asked(&self, nonce: &str, token: &str) -> bool {
        self.lock().challenges.remove(&(nonce.to_owned(), token.to_owned()))
    }
}
