//! One interface over all kinds of gateways, chosen by the address.

use crate::at::AtDriver;
use crate::http::{DriverError, HttpDriver, LoginAttempts};
use open_beacon_core::model::{GatewaySecrets, GatewaySettings, Reading};

/// A gateway of some kind.
#[derive(Debug)]
pub enum Driver {
    /// A status page: `http://…`, `https://…`.
    Http(Box<HttpDriver>),
    /// A modem's commands: `tcp://host:port`, `serial:/dev/…`.
    At(AtDriver),
}

impl Driver {
    /// The driver for a site's gateway.
    ///
    /// # Errors
    /// Where the address is none, or no HTTP client can be made on this machine.
    pub fn new(
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
        attempts: LoginAttempts,
    ) -> Result<Self, DriverError> {
        match AtDriver::for_address(&settings.status_url, &settings.recipe.modem_reads) {
            Some(modem) => Ok(Self::At(modem)),
            None => Ok(Self::Http(Box::new(HttpDriver::new(settings, secrets, attempts)?))),
        }
    }

    /// Reads once.
    ///
    /// # Errors
    /// [`DriverError`].
    pub async fn read(&self) -> Result<Reading, DriverError> {
        match self {
            Self::Http(driver) => driver.read().await,
            Self::At(driver) => driver.read().await,
        }
    }
}
