//! What a speed test went over, and what else went on meanwhile.

use serde::{Deserialize, Serialize};

/// What kind of network interface it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum InterfaceKind {
    /// Ethernet.
    Wire,
    /// Wireless LAN.
    Wifi,
    /// A VPN's, or another tunnel's.
    Tunnel,
    /// A modem in this computer.
    Mobile,
    /// This computer itself.
    Loopback,
    /// Anything else: a bridge, a virtual machine's, what the system does not tell.
    Other,
}

/// The interface that a test's bytes went through.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NetworkInterface {
    /// As the system names it.
    pub name: String,
    /// What it is.
    pub kind: InterfaceKind,
    /// Rate of an Ethernet link as it was agreed with the other end, Mbit/s.
    #[serde(default)]
    pub rate_mbps: Option<u32>,
}

/// What a test went over, and what else went on: whatever may be slower than the line. `None` where the system does not tell.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Surroundings {
    /// The way out of this computer.
    #[serde(default)]
    pub interface: Option<NetworkInterface>,
    /// The server's address, IPv4 or IPv6.
    #[serde(default)]
    pub server_address: Option<String>,
    /// What this computer received for something else just before the test, Mbit/s.
    #[serde(default)]
    pub other_down_mbps: Option<f64>,
    /// What it sent, Mbit/s.
    #[serde(default)]
    pub other_up_mbps: Option<f64>,
    /// How busy the busiest core was while bytes were moved, share 0..=1.
    #[serde(default)]
    pub busiest_core: Option<f64>,
    /// Coding of the answer's body (RFC 9110, 8.4), where it is not plain.
    #[serde(default)]
    pub content_encoding: Option<String>,
    /// What remains of the body's beginning when it is compressed (RFC 1951), share of its length.
    #[serde(default)]
    pub packed_share: Option<f64>,
    /// What stands between here and the server, as it names itself (RFC 9110, 7.6.3), or "a cache"; only where the way is not
    /// encrypted, since what an encrypted answer names is the server's own.
    #[serde(default)]
    pub via: Option<String>,
    /// How long a small page took on the idle line.
    #[serde(default)]
    pub page: Option<PageLoad>,
}

/// How long a page of twenty small parts takes to load from a server not yet connected to, six connections at a time.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PageLoad {
    /// Until the server's name was resolved, ms; none where its address is a number.
    #[serde(default)]
    pub name_ms: Option<f64>,
    /// A TCP connection to it, ms.
    pub connect_ms: f64,
    /// From the beginning, name and connection included, until the page's answer began, ms.
    pub first_byte_ms: f64,
    /// From the beginning until every part had come, ms; none where not all came.
    #[serde(default)]
    pub all_ms: Option<f64>,
    /// Parts that came, of [`PageLoad::PARTS`].
    pub parts_came: u32,
}

impl PageLoad {
    /// Parts that a page is made of.
    pub const PARTS: u32 = 20;
}
