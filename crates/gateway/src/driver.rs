//! One interface over all kinds of gateways, chosen by the address.

use crate::at::AtDriver;
use crate::fields::FieldMap;
use crate::http_json::{DriverError, HttpJsonDriver};
use open_beacon_core::model::Reading;

/// A gateway of some kind.
#[derive(Debug)]
pub enum Driver {
    /// A status page as JSON: `http://…`, `https://…`.
    HttpJson(Box<HttpJsonDriver>),
    /// A modem's commands over TCP: `tcp://host:port`.
    At(AtDriver),
}

impl Driver {
    /// The driver for an address.
    ///
    /// # Errors
    /// Where no HTTP client can be made on this machine.
    pub fn for_address(address: &str, map: FieldMap) -> Result<Self, DriverError> {
        match address.strip_prefix("tcp://") {
            Some(modem) => Ok(Self::At(AtDriver::new(modem.trim_end_matches('/')))),
            None => Ok(Self::HttpJson(Box::new(HttpJsonDriver::new(address, map)?))),
        }
    }

    /// Reads once.
    ///
    /// # Errors
    /// [`DriverError`].
    pub async fn read(&self) -> Result<Reading, DriverError> {
        match self {
            Self::HttpJson(driver) => driver.read().await,
            Self::At(driver) => driver.read().await,
        }
    }
}
