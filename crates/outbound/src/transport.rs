//! What carries requests to devices: the network, or something in this process that stands in for it.

use crate::{SendError, check};
use reqwest::{Request, RequestBuilder, Response};
use std::future::Future;
use std::pin::Pin;
use std::sync::Arc;
use tokio::io::DuplexStream;

/// Why something that stands in for the network brought no answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum NoAnswer {
    #[error("no answer in time")]
    TimedOut,
    #[error("nothing answers at this address")]
    NobodyThere,
    #[error("the connection broke off")]
    BrokenOff,
}

/// An answer on its way.
pub type Carried<'a> = Pin<Box<dyn Future<Output = Result<Response, NoAnswer>> + Send + 'a>>;

/// Stands in for the network: devices in this process, without sockets, on whatever clock the runtime has.
pub trait InProcess: std::fmt::Debug + Send + Sync {
    /// Brings a request to the device and its answer back. Waits no longer than the network would.
    fn carry(&self, request: Request) -> Carried<'_>;

    /// A modem's line; none where there is no modem.
    fn connect(&self, address: &str) -> Option<DuplexStream>;
}

/// What carries requests; cheap to clone.
#[derive(Clone, Debug, Default)]
pub enum Transport {
    /// Sockets.
    #[default]
    Network,
    /// Something that stands in for them.
    InProcess(Arc<dyn InProcess>),
}

impl Transport {
    /// Sends a request of a [`client`](crate::client), if its address may be asked.
    ///
    /// # Errors
    /// [`SendError`].
    pub async fn send(&self, request: RequestBuilder) -> Result<Response, SendError> {
        let Self::InProcess(devices) = self else { return crate::send(request).await };
        let request = request.build()?;
        check(request.url())?;
        Ok(devices.carry(request).await?)
    }
}
