//! A close look at a gateway that is being set up: all that came, and what can be made of it.

use crate::at::AtDriver;
use crate::fields::read_fields;
use crate::http::{DriverError, HttpDriver, LoginAttempts};
use crate::page::{looks_like, parse_page};
use crate::suggest::suggest_map;
use open_beacon_domain::model::{FieldMap, GatewaySecrets, GatewaySettings, PageFormat, Reading};
use open_beacon_outbound::Transport;
use serde::Serialize;
use serde_json::Value;
use std::time::Instant;

/// What one look at a gateway brought.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CloseLook {
    /// What the settings read from it.
    pub reading: Option<Reading>,
    /// Why nothing was read, a sentence without a full stop.
    pub problem: Option<String>,
    /// How long the gateway took, ms.
    pub took_ms: f64,
    /// The page as a tree that JSON Pointers reach into.
    pub page: Option<Value>,
    /// The page or the modem's answers as they came, shortened.
    pub said: String,
    /// What the page seems to be written in.
    pub looks_like: Option<PageFormat>,
    /// A map from what could be recognised on the page.
    pub suggestion: Option<FieldMap>,
    /// A certificate that nobody vouches for yet.
    pub certificate_sha256: Option<String>,
    /// No further login is tried until the user says so.
    pub login_stopped: bool,
}

/// Longest text of a page that is shown.
const SHOWN: usize = 4000;

/// Looks once, and says all that came of it.
pub async fn test_connection(
    settings: &GatewaySettings,
    secrets: GatewaySecrets,
    attempts: LoginAttempts,
    transport: &Transport,
) -> CloseLook {
    let began = Instant::now();
    let mut look = CloseLook {
        reading: None,
        problem: None,
        took_ms: 0.0,
        page: None,
        said: String::new(),
        looks_like: None,
        suggestion: None,
        certificate_sha256: None,
        login_stopped: false,
    };
    let outcome = match AtDriver::for_address(&settings.status_url, &settings.recipe.modem_reads) {
        Some(modem) => modem.over(transport).read_with_words().await.map(|(reading, said)| {
            look.said = said;
            look.reading = Some(reading);
        }),
        None => match HttpDriver::new(settings, secrets, attempts) {
            Ok(driver) => page(&driver.over(transport), settings, &mut look).await,
            Err(error) => Err(error),
        },
    };
    look.took_ms = began.elapsed().as_secs_f64() * 1e3;
    if let Err(error) = outcome {
        match &error {
            DriverError::Untrusted { certificate_sha256 } => {
                look.certificate_sha256 = Some(certificate_sha256.clone())
            }
            DriverError::LoginFailed { stopped, .. } => look.login_stopped = *stopped,
            DriverError::Nonsense { said, .. } if look.said.is_empty() => look.said.clone_from(said),
            _ => {}
        }
        look.problem = Some(error.to_string());
    }
    look
}

async fn page(
    driver: &HttpDriver,
    settings: &GatewaySettings,
    look: &mut CloseLook,
) -> Result<(), DriverError> {
    let body = driver.fetch().await?;
    let seems = looks_like(&body);
    look.said = body.chars().take(SHOWN).collect();
    look.looks_like = Some(seems);
    let nonsense = |problem: String| DriverError::Nonsense { problem, said: String::new() };
    // The tree is shown even where the settings expect another kind of page.
    if let Ok(tree) = parse_page(&body, seems) {
        look.suggestion = suggest_map(&tree);
        look.page = Some(tree);
    }
    let tree = parse_page(&body, settings.recipe.format).map_err(nonsense)?;
    let map = settings.recipe.map.clone().unwrap_or_default();
    look.reading = Some(read_fields(&tree, &map).map_err(|error| nonsense(error.to_string()))?);
    Ok(())
}
