//! A device with a status page as JSON over HTTP.

use crate::fields::{FieldMap, MapError, read_fields};
use open_beacon_core::model::Reading;
use serde_json::Value;
use std::time::Duration;

/// Longest page that is read.
const MAX_PAGE_BYTES: usize = 1 << 20;
const TIMEOUT: Duration = Duration::from_secs(5);

/// Why no reading came.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum DriverError {
    /// No answer at all.
    #[error("{0}")]
    Unreachable(String),
    /// An answer that is not a status page; what it said, shortened.
    #[error("{problem}")]
    Nonsense { problem: String, said: String },
}

/// Reads one status page. Holds one connection and never has two requests under way.
#[derive(Clone, Debug)]
pub struct HttpJsonDriver {
    client: reqwest::Client,
    status_url: String,
    map: FieldMap,
}

impl HttpJsonDriver {
    /// A driver for the page at `status_url`.
    ///
    /// # Errors
    /// Where no HTTP client can be made on this machine.
    pub fn new(status_url: &str, map: FieldMap) -> Result<Self, DriverError> {
        let client = reqwest::Client::builder()
            .timeout(TIMEOUT)
            .pool_max_idle_per_host(1)
            .no_proxy()
            .build()
            .map_err(|error| DriverError::Unreachable(error.to_string()))?;
        Ok(Self { client, status_url: status_url.to_owned(), map })
    }

    /// Fetches and reads the page once.
    ///
    /// # Errors
    /// [`DriverError`]: unreachable, or answering something that is not a status page.
    pub async fn read(&self) -> Result<Reading, DriverError> {
        let response = self.client.get(&self.status_url).send().await.map_err(|error| unreachable(&error))?;
        let status = response.status();
        let body = read_limited(response).await?;
        if !status.is_success() {
            return Err(nonsense(format!("the page answered with status {}", status.as_u16()), &body));
        }
        let page: Value = serde_json::from_str(&body)
            .map_err(|_| nonsense("the page is not JSON; is this the right address?".into(), &body))?;
        read_fields(&page, &self.map).map_err(|error: MapError| nonsense(error.to_string(), &body))
    }
}

async fn read_limited(mut response: reqwest::Response) -> Result<String, DriverError> {
    let mut body = Vec::new();
    while let Some(chunk) = response.chunk().await.map_err(|error| unreachable(&error))? {
        body.extend_from_slice(&chunk);
        if body.len() > MAX_PAGE_BYTES {
            return Err(nonsense("the page is longer than 1 MiB".into(), &String::from_utf8_lossy(&body)));
        }
    }
    Ok(String::from_utf8_lossy(&body).into_owned())
}

fn nonsense(problem: String, body: &str) -> DriverError {
    let said: String = body.chars().filter(|c| !c.is_control()).take(160).collect();
    DriverError::Nonsense { problem, said }
}

fn unreachable(error: &reqwest::Error) -> DriverError {
    let words = if error.is_timeout() {
        "it did not answer within 5 seconds"
    } else if error.is_connect() {
        "nothing answers at this address"
    } else if error.is_builder() {
        "the address is not a valid web address"
    } else {
        "the connection broke off"
    };
    DriverError::Unreachable(words.to_owned())
}
