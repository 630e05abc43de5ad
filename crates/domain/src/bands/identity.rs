//! Cell identities: which bits name the base station and which the cell.
//!
//! LTE: E-UTRAN cell identity, 28 bit (3GPP TS 36.413 clause 9.2.1.37, TS 23.003 clause 19.6). NR: NR cell identity,
//! 36 bit (TS 38.413 clause 9.3.1.6). The low part is a local cell number. That it means a "sector" is each
//! operator's habit: bands of one sector usually have different numbers.

use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// Length of the base station's part of a cell identity, bits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NodeBits(pub u8);

impl NodeBits {
    /// The usual length: a macro eNB's 20 bits; 24 for a gNB, which each operator chooses (common practice, no
    /// source).
    pub fn usual(technology: Technology) -> Self {
        match technology {
            Technology::Lte => Self(20),
            Technology::Nr => Self(24),
        }
    }

    fn allowed(self, technology: Technology) -> bool {
        match technology {
            // Home eNB 28, macro 20, short macro 18, long macro 21.
            Technology::Lte => matches!(self.0, 18 | 20 | 21 | 28),
            Technology::Nr => (22..=32).contains(&self.0),
        }
    }
}

/// A cell identity in its two parts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellIdentity {
    /// eNB or gNB identity.
    pub node: u64,
    /// Local cell number.
    pub local: u64,
    /// Bits of the node's part.
    pub node_bits: u8,
}

/// Why a number is no cell identity.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum IdentityError {
    /// It has more bits than an identity.
    #[error("A cell identity has {0} bits: at most {max}.", max = (1_u64 << .0) - 1)]
    TooLarge(u8),
    /// The node has fewer or more bits than the standard allows.
    #[error("The base station's part has 18, 20, 21 or 28 bits in LTE and 22 to 32 in NR.")]
    NodeBits,
}

const fn whole_bits(technology: Technology) -> u8 {
    match technology {
        Technology::Lte => 28,
        Technology::Nr => 36,
    }
}

impl CellIdentity {
    /// Splits a whole cell identity.
    ///
    /// # Errors
    /// [`IdentityError`] where the number has too many bits or the length is not one of the standard's.
    pub fn split(technology: Technology, whole: u64, bits: NodeBits) -> Result<Self, IdentityError> {
        let total = whole_bits(technology);
        if !bits.allowed(technology) {
            return Err(IdentityError::NodeBits);
        }
        if whole >> total != 0 {
            return Err(IdentityError::TooLarge(total));
        }
        let local_bits = total - bits.0;
        Ok(Self { node: whole >> local_bits, local: whole & ((1 << local_bits) - 1), node_bits: bits.0 })
    }

    /// The whole identity again.
    pub fn whole(self, technology: Technology) -> u64 {
        self.node << (whole_bits(technology) - self.node_bits) | self.local
    }
}
