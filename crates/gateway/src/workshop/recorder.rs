//! Fetches answers one after the other over one connection, signed in once.

use super::without_secrets;
use crate::http::{DriverError, HttpDriver, LoginAttempts};
use crate::page::{looks_like, parse_page};
use open_beacon_domain::limits::LONGEST_RECORDED_BYTES;
use open_beacon_domain::model::{GatewaySecrets, GatewaySettings};
use open_beacon_outbound::Transport;

/// A gateway's page, to be recorded.
#[derive(Debug)]
pub struct PageRecorder(HttpDriver);

impl PageRecorder {
    /// A recorder of the page at the settings' address.
    ///
    /// # Errors
    /// [`DriverError`]; a modem has no page.
    pub fn new(
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
        attempts: LoginAttempts,
    ) -> Result<Self, DriverError> {
        Ok(Self(HttpDriver::new(settings, secrets, attempts)?))
    }

    /// The same over something else than the network.
    #[must_use]
    pub fn over(self, transport: &Transport) -> Self {
        Self(self.0.over(transport))
    }

    /// The next answer's text, without what is secret.
    ///
    /// # Errors
    /// [`DriverError`]; an answer that is too long to be kept too.
    pub async fn answer(&self) -> Result<String, DriverError> {
        let body = self.0.fetch().await?;
        if body.len() > LONGEST_RECORDED_BYTES {
            let problem = format!(
                "its answers are longer than the {} KiB that are recorded",
                LONGEST_RECORDED_BYTES >> 10
            );
            return Err(DriverError::Nonsense { problem, said: String::new() });
        }
        let page = parse_page(&body, looks_like(&body)).ok();
        Ok(without_secrets(&body, page.as_ref(), &self.0.secret_values()))
    }
}
