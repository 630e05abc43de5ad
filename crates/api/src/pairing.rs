//! Letting phones in over the local network: one-time codes, tokens of which only the digest is kept.

use chrono::{DateTime, Utc};
use sha2::{Digest, Sha256};
use std::sync::{Arc, Mutex, PoisonError};

/// How long a code holds.
const HOLDS_MINUTES: i64 = 10;
/// Wrong tries after which a code is void.
const MOST_WRONG: u8 = 5;
/// Signs of a code: none that is taken for another.
const SIGNS: &[u8; 32] = b"23456789ABCDEFGHJKLMNPQRSTUVWXYZ";
const CODE_LENGTH: usize = 8;

/// A one-time code that is on the screen.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PairingCode {
    pub text: String,
    pub expires_at: DateTime<Utc>,
    wrong: u8,
}

/// The code that opens at the moment; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Pairing(Arc<Mutex<Option<PairingCode>>>);

/// Bits nobody can guess.
fn random<const N: usize>() -> [u8; N] {
    let mut bits = [0; N];
    // A machine without randomness cannot let anybody in safely; it is better to stop.
    getrandom::fill(&mut bits).unwrap_or_else(|error| panic!("this machine has no randomness: {error}"));
    bits
}

/// SHA-256 in hexadecimal.
pub fn digest(text: &str) -> String {
    Sha256::digest(text.as_bytes()).iter().map(|byte| format!("{byte:02x}")).collect()
}

/// A token of 256 random bits.
pub fn new_token() -> String {
    random::<32>().iter().map(|byte| format!("{byte:02x}")).collect()
}

impl Pairing {
    fn lock(&self) -> std::sync::MutexGuard<'_, Option<PairingCode>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Makes a new code; the one before does not open any more.
    pub fn renew(&self, now: DateTime<Utc>) -> PairingCode {
        let text = random::<CODE_LENGTH>().iter().map(|byte| SIGNS[usize::from(byte % 32)] as char).collect();
        let code = PairingCode { text, expires_at: now + chrono::Duration::minutes(HOLDS_MINUTES), wrong: 0 };
        *self.lock() = Some(code.clone());
        code
    }

    /// The code that opens now, if there is one.
    pub fn current(&self, now: DateTime<Utc>) -> Option<PairingCode> {
        self.lock().clone().filter(|code| code.expires_at > now)
    }

    /// Uses a code up. Small letters and spaces do not matter. A code opens once; five wrong tries void it.
    pub fn open_with(&self, typed: &str, now: DateTime<Utc>) -> bool {
        let mut kept = self.lock();
        let Some(code) = kept.as_mut().filter(|code| code.expires_at > now) else { return false };
        let typed: String = typed.chars().filter(char::is_ascii_alphanumeric).collect();
        // By digests, so that the time taken tells nothing.
        if digest(&typed.to_ascii_uppercase()) == digest(&code.text) {
            *kept = None;
            return true;
        }
        code.wrong += 1;
        if code.wrong >= MOST_WRONG {
            *kept = None;
        }
        false
    }
}

/// How the program is reached over the local network.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Lan {
    /// `https` or `http`.
    pub secure: bool,
    /// Name that stays when the address changes, `open-beacon-1a2b.local` for instance.
    pub name: String,
    pub port: u16,
    /// Port of the page that leads through trusting the authority; none without TLS.
    pub trust_port: Option<u16>,
    /// SHA-256 of the authority's certificate, to be compared by eye.
    pub authority_sha256: Option<String>,
}

impl Lan {
    /// The origin under the name that stays.
    pub fn origin(&self) -> String {
        self.origin_of(&self.name)
    }

    /// The origin under a name or an address.
    pub fn origin_of(&self, host: &str) -> String {
        format!("{}://{host}:{}", if self.secure { "https" } else { "http" }, self.port)
    }
}
