//! What a kit costs: money, hours, holes, and whether it can be undone.

use crate::hardware::resolve::Resolved;
use crate::model::{Part, PartId, PartKind, PartSpec, Passage};
use serde::{Deserialize, Serialize};

/// One line of the parts list.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartLine {
    /// The part.
    pub part_id: PartId,
    /// Kind.
    pub kind: PartKind,
    /// Name.
    pub name: String,
    /// How many.
    pub pieces: u32,
    /// Of each piece, m.
    pub length_m: Option<f64>,
    /// All pieces together; `None` where the catalogue has no price.
    pub price: Option<f64>,
    /// In the installer's own stock.
    pub stock: Option<u32>,
}

/// What it takes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Effort {
    /// All priced parts together.
    pub price: f64,
    /// Parts without a price, left out of the sum.
    pub unpriced: usize,
    /// For one person (common practice, no source).
    pub hours: f64,
    /// Holes to drill.
    pub holes: u8,
    /// Nothing is drilled, and no device is opened or changed for good.
    pub reversible: bool,
}

/// Parts with their quantities, in the order of the chain.
pub fn parts_list(kit: &Resolved) -> Vec<PartLine> {
    let leads = u32::from(kit.leads().max(1));
    let mut lines = Vec::new();
    let mut add = |part: &Part, pieces: u32, length_m: Option<f64>, per_m: f64| {
        let each = match (part.price, per_m > 0.0) {
            (None, false) => None,
            (price, _) => Some(price.unwrap_or(0.0) + per_m * length_m.unwrap_or(0.0)),
        };
        lines.push(PartLine {
            part_id: part.id,
            kind: part.spec.kind(),
            name: part.name.clone(),
            pieces,
            length_m,
            price: each.map(|each| each * f64::from(pieces)),
            stock: part.stock,
        });
    };
    if let Some((part, _)) = kit.antenna {
        add(part, u32::from(kit.kit.antenna_count.max(1)), None, 0.0);
        for link in &kit.chain {
            match &link.part.spec {
                PartSpec::FeedLine(line) => {
                    let pieces = if line.twin { leads.div_ceil(2) } else { leads };
                    add(link.part, pieces, link.placed.length_m, line.price_per_m);
                }
                _ => add(link.part, leads, None, 0.0),
            }
        }
    }
    if let Some((part, _)) = kit.gateway {
        add(part, 1, None, 0.0);
    }
    if kit.unit().is_some() {
        if let Some((part, cable)) = kit.ethernet {
            add(part, 1, kit.kit.ethernet_m, cable.price_per_m);
        }
        if let Some((part, _)) = kit.injector {
            add(part, 1, None, 0.0);
        }
        if let Some(part) = kit.ethernet_arrestor {
            add(part, 1, None, 0.0);
        }
    }
    if let Some((part, _)) = kit.mount {
        add(part, 1, None, 0.0);
    }
    lines
}

/// Price, hours and holes of a kit.
pub fn effort(kit: &Resolved) -> Effort {
    let lines = parts_list(kit);
    let cable_m: f64 = lines.iter().map(|line| line.length_m.unwrap_or(0.0) * f64::from(line.pieces)).sum();
    let drilled = matches!(kit.kit.passage, Passage::Hole { .. });
    let holes = kit.mount.map_or(0, |(_, mount)| mount.holes) + u8::from(drilled);
    let joints = f64::from(kit.leads()) * (kit.chain.len() as f64 + 1.0);
    let changed = kit
        .gateway
        .filter(|_| kit.antenna.is_some())
        .is_some_and(|(_, gateway)| gateway.opened || gateway.switch == crate::model::PortSwitch::Permanent);
    let hours = 0.5
        + kit.mount.map_or(0.25, |(_, mount)| mount.hours)
        + 0.03 * cable_m
        + 0.1 * joints
        + if drilled { 0.75 } else { 0.0 }
        + if changed { 1.0 } else { 0.0 };
    Effort {
        price: lines.iter().filter_map(|line| line.price).sum(),
        unpriced: lines.iter().filter(|line| line.price.is_none()).count(),
        hours,
        holes,
        reversible: holes == 0 && !changed,
    }
}
