//! What an Ethernet link carries of a test's payload.

/// Bytes of a full frame on the wire: preamble and start delimiter 8, addresses and type 14, payload 1500, check sequence 4,
/// gap 12 (IEEE 802.3, clauses 3.1.1 and 4.4.2).
const FRAME_BYTES: f64 = 8.0 + 14.0 + 1500.0 + 4.0 + 12.0;
/// What is the program's of it: less the headers of IPv4 (RFC 791, 20 bytes) and TCP (RFC 9293, 20 bytes) with timestamps
/// (RFC 7323, 12 bytes).
const PAYLOAD_BYTES: f64 = 1500.0 - 20.0 - 20.0 - 12.0;

/// Highest payload rate of a TCP connection over an Ethernet link of `link_mbps`, Mbit/s: 94.1 of 100.
pub fn ethernet_payload_mbps(link_mbps: f64) -> f64 {
    link_mbps * PAYLOAD_BYTES / FRAME_BYTES
}
