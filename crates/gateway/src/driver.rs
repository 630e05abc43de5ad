//! One interface over all kinds of gateways, chosen by the address.

use crate::at::AtDriver;
use crate::http::filled_command;
use crate::http::{DriverError, HttpDriver, LoginAttempts};
use open_beacon_domain::model::{GatewaySecrets, GatewaySettings, LockRecipe, Reading};
use open_beacon_outbound::Transport;

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

    /// The same over something else than the network.
    #[must_use]
    pub fn over(self, transport: &Transport) -> Self {
        match self {
            Self::Http(driver) => Self::Http(Box::new(driver.over(transport))),
            Self::At(driver) => Self::At(driver.over(transport)),
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

    /// Tells it which bands to use, or takes every lock away where there are no values.
    ///
    /// # Errors
    /// [`DriverError`]; [`DriverError::Nonsense`] too where the recipe has nothing for this kind of gateway.
    pub async fn lock(
        &self,
        recipe: &LockRecipe,
        values: Option<&[(&'static str, String)]>,
    ) -> Result<(), DriverError> {
        let missing = |what: &str| DriverError::Nonsense { problem: what.to_owned(), said: String::new() };
        match self {
            Self::Http(driver) => match &recipe.request {
                Some(request) => driver.lock(request, values).await,
                None => Err(missing("the recipe has no request that sets a lock")),
            },
            Self::At(driver) => {
                let commands = match values {
                    Some(values) => recipe
                        .commands
                        .iter()
                        .map(|command| filled_command(command, values))
                        .collect::<Result<Vec<String>, String>>()
                        .map_err(|problem| missing(&problem))?,
                    None => recipe.undo_commands.clone(),
                };
                if commands.is_empty() {
                    return Err(missing("the recipe has no commands that set a lock"));
                }
                driver.set(&commands).await
            }
        }
    }
}
