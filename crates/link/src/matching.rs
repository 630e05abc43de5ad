//! The gateway's cells against the masts: confirmed, possible or contradicted, with the evidence.

use open_beacon_domain::bands::{CellIdentity, NodeBits};
use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::geo::geodesic::way;
use open_beacon_domain::model::{Carrier, Mast, MastCell, MastId, Technology};
use serde::{Deserialize, Serialize};

/// How well a mast's cell fits what the gateway reports.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Fit {
    /// It is this mast.
    Confirmed,
    /// It may be this mast.
    Possible,
    /// It is not this mast.
    Contradicted,
}

/// One thing that speaks for or against.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Evidence {
    /// eNB or gNB identity is the same.
    NodeSame {
        node: u64,
    },
    NodeDiffers {
        heard: u64,
        listed: u64,
    },
    LocalSame {
        local: u64,
    },
    LocalDiffers {
        heard: u64,
        listed: u64,
    },
    PciSame {
        pci: u16,
    },
    PciDiffers {
        heard: u16,
        listed: u16,
    },
    ChannelSame {
        channel: u32,
    },
    ChannelDiffers {
        heard: u32,
        listed: u32,
    },
    /// The timing-advance ring holds the mast.
    RingHolds {
        from_m: f64,
        to_m: f64,
        distance_m: f64,
    },
    RingMisses {
        from_m: f64,
        to_m: f64,
        distance_m: f64,
    },
    /// Another mast's cell fits by PCI and channel as well.
    NotAlone {
        others: usize,
    },
}

impl Evidence {
    fn against(self) -> bool {
        matches!(
            self,
            Self::NodeDiffers { .. }
                | Self::LocalDiffers { .. }
                | Self::PciDiffers { .. }
                | Self::RingMisses { .. }
        )
    }
}

/// A carrier the gateway reports, and a mast's cell that may be it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellMatch {
    /// Place of the carrier in what was asked.
    pub carrier: usize,
    /// The mast.
    pub mast_id: MastId,
    /// Place in the mast's cells.
    pub cell: usize,
    /// How well it fits.
    pub fit: Fit,
    /// What it rests on.
    pub evidence: Vec<Evidence>,
}

/// LTE timing advance: one step of 16 Ts each way, m. 16/(15000 · 2048) s · c/2 = 78.07 m: TS 36.213 clause 4.2.3.
pub const LTE_STEP_M: f64 = 78.07;
/// What ring edges are widened by, steps: the reading is a rounded one and the mast's place a register's.
const RING_SLACK: f64 = 1.5;

/// Matches carriers against masts. Only pairs with something in common are returned: the same node, or PCI and channel.
pub fn matches(carriers: &[Carrier], masts: &[Mast], house: Option<GeoPoint>) -> Vec<CellMatch> {
    let mut found: Vec<CellMatch> = Vec::new();
    for (index, carrier) in carriers.iter().enumerate() {
        let mut own: Vec<CellMatch> = Vec::new();
        for mast in masts.iter().filter(|mast| mast.archived_at.is_none()) {
            for (place, cell) in mast.cells.iter().enumerate() {
                if let Some(evidence) = evidence(carrier, cell, mast, house) {
                    let fit = judge(&evidence);
                    own.push(CellMatch { carrier: index, mast_id: mast.id, cell: place, fit, evidence });
                }
            }
        }
        let standing = own.iter().filter(|one| one.fit != Fit::Contradicted).count();
        let certain = own.iter().any(|one| one.fit == Fit::Confirmed && has_node(one));
        for one in &mut own {
            if one.fit == Fit::Confirmed && standing > 1 && !has_node(one) {
                one.fit = if certain { Fit::Contradicted } else { Fit::Possible };
                one.evidence.push(Evidence::NotAlone { others: standing - 1 });
            }
        }
        own.sort_by_key(|one| one.fit);
        found.extend(own);
    }
    found
}

fn has_node(one: &CellMatch) -> bool {
    one.evidence.iter().any(|evidence| matches!(evidence, Evidence::NodeSame { .. }))
}

/// `None` where nothing links the two.
fn evidence(
    carrier: &Carrier,
    cell: &MastCell,
    mast: &Mast,
    house: Option<GeoPoint>,
) -> Option<Vec<Evidence>> {
    if carrier.technology != cell.technology {
        return None;
    }
    let mut found = Vec::new();
    let mut node_same = false;
    let split = carrier.cell_identity.and_then(|whole| {
        CellIdentity::split(carrier.technology, whole, NodeBits::usual(carrier.technology)).ok()
    });
    if let (Some(heard), Some(listed)) = (split, cell.node) {
        node_same = heard.node == listed;
        found.push(if node_same {
            Evidence::NodeSame { node: listed }
        } else {
            Evidence::NodeDiffers { heard: heard.node, listed }
        });
        if let Some(local) = cell.local_cell.filter(|_| node_same) {
            if heard.local == local {
                found.push(Evidence::LocalSame { local });
            } else if carrier.pci.is_none() || carrier.pci != cell.pci {
                // Another cell of the same mast: that is no match of this cell.
                return None;
            } else {
                // The same PCI on the same mast under another number: one of the two is noted wrong.
                found.push(Evidence::LocalDiffers { heard: heard.local, listed: local });
            }
        }
    }
    let channel_same = match (carrier.channel, cell.channel) {
        (Some(heard), Some(listed)) if heard == listed => {
            found.push(Evidence::ChannelSame { channel: listed });
            true
        }
        (Some(heard), Some(listed)) => {
            // NR pages often show the synchronisation block's channel: said, and not held against it.
            found.push(Evidence::ChannelDiffers { heard, listed });
            carrier.technology == Technology::Nr && carrier.band == cell.band_name().map(|name| name.band)
        }
        _ => carrier.band.is_some() && carrier.band == cell.band_name().map(|name| name.band),
    };
    let pci_same = match (carrier.pci, cell.pci) {
        (Some(heard), Some(listed)) if heard == listed => {
            found.push(Evidence::PciSame { pci: listed });
            true
        }
        (Some(heard), Some(listed)) => {
            found.push(Evidence::PciDiffers { heard, listed });
            false
        }
        _ => false,
    };
    if let (Some(steps), Some(house), Technology::Lte) = (carrier.timing_advance, house, carrier.technology) {
        let distance_m = way(house, mast.place).distance_m;
        let steps = f64::from(steps);
        let from_m = ((steps - RING_SLACK) * LTE_STEP_M).max(0.0);
        let to_m = (steps + 1.0 + RING_SLACK) * LTE_STEP_M;
        found.push(if (from_m..=to_m).contains(&distance_m) {
            Evidence::RingHolds { from_m, to_m, distance_m }
        } else {
            Evidence::RingMisses { from_m, to_m, distance_m }
        });
    }
    (channel_same && (node_same || pci_same)).then_some(found)
}

fn judge(evidence: &[Evidence]) -> Fit {
    let for_it = evidence
        .iter()
        .filter(|one| {
            matches!(
                one,
                Evidence::NodeSame { .. }
                    | Evidence::LocalSame { .. }
                    | Evidence::PciSame { .. }
                    | Evidence::RingHolds { .. }
            )
        })
        .count();
    if evidence.iter().any(|one| one.against()) {
        Fit::Contradicted
    } else if for_it >= 1 {
        Fit::Confirmed
    } else {
        Fit::Possible
    }
}
