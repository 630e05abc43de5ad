//! The one policy for everything that this program asks for over the network: gateways, locks, speed tests, probes.
//!
//! An address may come from a file that somebody shared. It must not lead back to this program, nor to the link-local addresses
//! where machines are told their own secrets, and no answer may lead a request on to another place than it was meant for.

mod transport;

pub use transport::{Carried, InProcess, NoAnswer, Transport};

use reqwest::dns::{Addrs, Name, Resolve, Resolving};
use reqwest::redirect::Policy;
use reqwest::{ClientBuilder, RequestBuilder, Response, Url};
use std::collections::BTreeSet;
use std::net::{IpAddr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};

/// Most redirects that are followed.
const MOST_REDIRECTS: usize = 5;

/// Ports that this process listens on. Which they are is a fact of the process, so it is kept once for all of it.
static OWN_PORTS: Mutex<BTreeSet<u16>> = Mutex::new(BTreeSet::new());

/// Says that this process listens on a port: nothing is sent there from now on.
pub fn listens_on(port: u16) {
    OWN_PORTS.lock().unwrap_or_else(PoisonError::into_inner).insert(port);
}

/// Why something is not asked for.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    #[error("the address is not a valid web address; one begins with http:// or https://")]
    NoAddress,
    #[error("this address leads back to Open Beacon itself; enter the device's own")]
    Own,
    #[error(
        "{0} is an address that no gateway and no test server has; enter the one that its page is opened with"
    )]
    Special(IpAddr),
    #[error("{0} leads to this computer under another name; enter localhost or the number")]
    Disguised(String),
    #[error("it leads on to {0}; enter that address where it is the right one")]
    LeadsElsewhere(String),
}

/// Why no answer came.
#[derive(Debug, thiserror::Error)]
pub enum SendError {
    #[error(transparent)]
    Refused(#[from] Refusal),
    #[error(transparent)]
    Failed(#[from] reqwest::Error),
    #[error(transparent)]
    NoAnswer(#[from] NoAnswer),
}

/// Where a redirect may lead.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Redirects {
    /// To the same scheme, host and port only: what carries a password goes nowhere else. A redirect elsewhere is the answer
    /// itself: a login that worked may name the device's page by another name.
    SameOrigin,
    /// To the same host, by another scheme too.
    SameHost,
}

/// A client that keeps to the policy, still without timeouts of its own. Send its requests by [`send`].
pub fn client(redirects: Redirects) -> ClientBuilder {
    reqwest::Client::builder().no_proxy().dns_resolver(Arc::new(Resolver)).redirect(Policy::custom(
        move |attempt| {
            let Some(first) = attempt.previous().first() else { return attempt.follow() };
            let next = attempt.url();
            let home = match redirects {
                Redirects::SameOrigin => first.origin() == next.origin(),
                Redirects::SameHost => first.host_str() == next.host_str(),
            };
            if !home && redirects == Redirects::SameOrigin {
                return attempt.stop();
            }
            if !home {
                let to = next.origin().ascii_serialization();
                return attempt.error(Refusal::LeadsElsewhere(to));
            }
            if let Err(refusal) = check(next) {
                return attempt.error(refusal);
            }
            if attempt.previous().len() > MOST_REDIRECTS { attempt.stop() } else { attempt.follow() }
        },
    ))
}

/// Sends a request of a [`client`], if its address may be asked.
///
/// # Errors
/// [`SendError`]; a refusal on the way, after a redirect or a look at a name's addresses, is told as one too.
pub async fn send(request: RequestBuilder) -> Result<Response, SendError> {
    let (client, request) = request.build_split();
    let request = request?;
    check(request.url())?;
    client.execute(request).await.map_err(|error| match refusal_in(&error) {
        Some(refusal) => SendError::Refused(refusal),
        None => SendError::Failed(error),
    })
}

fn refusal_in(error: &reqwest::Error) -> Option<Refusal> {
    let mut cause: Option<&(dyn std::error::Error + 'static)> = Some(error);
    while let Some(one) = cause {
        if let Some(refusal) = one.downcast_ref::<Refusal>() {
            return Some(refusal.clone());
        }
        cause = one.source();
    }
    None
}

/// Whether an address may be asked, as far as it tells itself; names are looked at again when they are resolved.
///
/// # Errors
/// [`Refusal`].
pub fn check(url: &Url) -> Result<(), Refusal> {
    let (true, Some(host)) = (matches!(url.scheme(), "http" | "https"), url.host_str()) else {
        return Err(Refusal::NoAddress);
    };
    check_host(host, url.port_or_known_default().unwrap_or(0))
}

/// The same for a host with a port.
///
/// # Errors
/// [`Refusal`].
pub fn check_host(host: &str, port: u16) -> Result<(), Refusal> {
    let number = host.trim_start_matches('[').trim_end_matches(']').parse::<IpAddr>();
    match number {
        Ok(ip) => check_address(SocketAddr::new(ip, port)),
        Err(_) if is_localhost(host) => check_address(SocketAddr::new(IpAddr::from([127, 0, 0, 1]), port)),
        Err(_) => Ok(()),
    }
}

/// The same for an address that a name was resolved to, just before it is connected to.
///
/// # Errors
/// [`Refusal`].
pub fn check_address(address: SocketAddr) -> Result<(), Refusal> {
    let ip = address.ip().to_canonical();
    if is_special(ip) {
        return Err(Refusal::Special(ip));
    }
    let listening = OWN_PORTS.lock().unwrap_or_else(PoisonError::into_inner).contains(&address.port());
    if listening && is_own(ip) { Err(Refusal::Own) } else { Ok(()) }
}

fn is_localhost(host: &str) -> bool {
    let host = host.trim_end_matches('.').to_ascii_lowercase();
    host == "localhost" || host.ends_with(".localhost")
}

/// Unspecified, link-local, multicast, broadcast (RFC 6890): nothing that is asked for by its address.
fn is_special(ip: IpAddr) -> bool {
    match ip {
        IpAddr::V4(ip) => ip.is_link_local() || ip.is_multicast() || ip.is_unspecified() || ip.is_broadcast(),
        IpAddr::V6(ip) => ip.is_unicast_link_local() || ip.is_multicast() || ip.is_unspecified(),
    }
}

fn is_own(ip: IpAddr) -> bool {
    ip.is_loopback()
        || if_addrs::get_if_addrs().is_ok_and(|all| all.iter().any(|one| one.ip().to_canonical() == ip))
}

/// The interface that what is sent to an address leaves this computer by, as the system names it. Asks the system only: a socket
/// without connections is given the address, and nothing is sent.
pub fn interface_towards(address: IpAddr) -> Option<String> {
    let any: IpAddr = if address.is_ipv4() { [0, 0, 0, 0].into() } else { [0; 16].into() };
    let socket = std::net::UdpSocket::bind((any, 0)).ok()?;
    socket.connect((address, 9)).ok()?;
    let own = socket.local_addr().ok()?.ip().to_canonical();
    let all = if_addrs::get_if_addrs().ok()?;
    all.into_iter().find(|one| one.ip().to_canonical() == own).map(|one| one.name)
}

/// Looks at what a name leads to before it is connected to, so that a name cannot point elsewhere between check and use.
struct Resolver;

impl Resolve for Resolver {
    fn resolve(&self, name: Name) -> Resolving {
        Box::pin(async move { Ok(Box::new(look_up(name.as_str()).await?.into_iter()) as Addrs) })
    }
}

/// What a name leads to, with port 0, as far as it may be asked.
///
/// # Errors
/// That of the system where it knows no such name, or a [`Refusal`].
pub async fn look_up(host: &str) -> Result<Vec<SocketAddr>, Box<dyn std::error::Error + Send + Sync>> {
    let found: Vec<SocketAddr> = tokio::net::lookup_host((host, 0)).await?.collect();
    for address in &found {
        let ip = address.ip().to_canonical();
        if is_special(ip) {
            return Err(Refusal::Special(ip).into());
        }
        // The port is not known here: only names that say so themselves lead to this computer.
        if is_own(ip) && !is_localhost(host) {
            return Err(Refusal::Disguised(host.to_owned()).into());
        }
    }
    Ok(found)
}
