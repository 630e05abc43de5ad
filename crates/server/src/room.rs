//! How many connections stay open at once. This computer and the local network have their own room each, so that phones never
//! take the place of who sits at the computer.

use axum::Extension;
use axum_server::accept::Accept;
use std::future::Future;
use std::io;
use std::pin::Pin;
use std::sync::Arc;
use tokio::io::AsyncWriteExt;
use tokio::net::TcpStream;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tower::Layer;

/// Most connections from this computer: a browser opens six a page, and one for each open page's events.
pub(crate) const MOST_LOCAL: usize = 256;
/// Most connections from the local network.
pub(crate) const MOST_FROM_NETWORK: usize = 128;

/// Said to one too many, where it can be said in plain text.
const FULL: &str =
    "Too many connections are open. Close some pages of Open Beacon, or try again in a minute.\n";

/// A place among the connections, given back when the connection ends.
pub(crate) type Place = Arc<OwnedSemaphorePermit>;

/// Takes connections as long as there is room.
#[derive(Clone, Debug)]
pub(crate) struct Room {
    places: Arc<Semaphore>,
    /// Told in HTTP; else, before TLS has begun, the connection is only closed.
    plain: bool,
}

impl Room {
    pub(crate) fn new(most: usize, plain: bool) -> Self {
        Self { places: Arc::new(Semaphore::new(most)), plain }
    }
}

impl<S: Send + 'static> Accept<TcpStream, S> for Room {
    type Stream = TcpStream;
    type Service = <Extension<Place> as Layer<S>>::Service;
    type Future = Pin<Box<dyn Future<Output = io::Result<(TcpStream, Self::Service)>> + Send>>;

    fn accept(&self, mut stream: TcpStream, service: S) -> Self::Future {
        let place = Arc::clone(&self.places).try_acquire_owned();
        let plain = self.plain;
        Box::pin(async move {
            match place {
                // The service lives as long as its connection, and the place with it.
                Ok(place) => Ok((stream, Extension(Arc::new(place)).layer(service))),
                Err(_) => {
                    if plain {
                        let answer = format!(
                            "HTTP/1.1 503 Service Unavailable\r\nContent-Type: text/plain; charset=utf-8\r\nRetry-After: 60\r\nConnection: close\r\nContent-Length: {}\r\n\r\n{FULL}",
                            FULL.len()
                        );
                        stream.write_all(answer.as_bytes()).await?;
                        stream.shutdown().await?;
                    }
                    Err(io::Error::other("too many connections"))
                }
            }
        })
    }
}
