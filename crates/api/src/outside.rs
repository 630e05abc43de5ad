//! What lies outside of this process: the time of day, and what carries requests to devices.

use open_beacon_gateway::Clock;
use open_beacon_outbound::Transport;

/// The computer's clock and the network, unless something else stands in for them; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Outside {
    pub clock: Clock,
    pub transport: Transport,
}
