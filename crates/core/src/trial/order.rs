//! What a gateway is told: a choice as names, lists and masks.

use crate::bands::LockMask;
use crate::model::{BandAccess, BandChoice, BandName, LockRecipe, Technology};
use serde::{Deserialize, Serialize};

/// Why a choice cannot be told.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum OrderError {
    /// Bands the gateway has not got.
    #[error("This gateway has no {lacks}. It has {has}.")]
    Lacks { lacks: String, has: String },
    /// Nothing would be left to attach to.
    #[error(
        "This would leave no band at all, and the gateway without service. Leave at least one, for instance {example}."
    )]
    Nothing { example: String },
    /// Bands that no mask has room for.
    #[error("{0}")]
    Mask(String),
    /// Free bands are told as the list of all, and that is not known.
    #[error(
        "Which bands the gateway has is not known, so “all others stay free” cannot be told it. Enter its bands in the catalogue, or name bands of both technologies."
    )]
    Unknown,
}

/// A choice as a gateway is told it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LockOrder {
    /// Which core and radio access it is held to.
    pub access: BandAccess,
    /// All LTE bands allowed, rising.
    pub lte: Vec<u16>,
    /// All NR bands allowed, rising.
    pub nr: Vec<u16>,
    /// LTE bands as bits.
    pub lte_mask: LockMask,
    /// NR bands as bits.
    pub nr_mask: LockMask,
}

fn names(bands: &[BandName]) -> String {
    let words: Vec<String> =
        bands.iter().map(|one| crate::bands::band_name(one.technology, one.band)).collect();
    match words.split_last() {
        Some((last, [])) => last.clone(),
        Some((last, before)) => format!("{} and {last}", before.join(", ")),
        None => "no band".into(),
    }
}

/// A choice for a gateway with the bands `has`; none where they are not known.
///
/// # Errors
/// [`OrderError`], in words that say what would work.
pub fn order(choice: &BandChoice, has: Option<&[BandName]>) -> Result<LockOrder, OrderError> {
    let wanted = |technology, list: &[u16]| -> Vec<BandName> {
        list.iter().map(|band| BandName { technology, band: *band }).collect()
    };
    let named: Vec<BandName> =
        [wanted(Technology::Lte, &choice.lte), wanted(Technology::Nr, &choice.nr)].concat();
    if let Some(has) = has {
        let lacks: Vec<BandName> = named.iter().filter(|one| !has.contains(one)).copied().collect();
        if !lacks.is_empty() {
            return Err(OrderError::Lacks { lacks: names(&lacks), has: names(has) });
        }
    }
    let list = |technology, named: &[u16], shut: bool| -> Result<Vec<u16>, OrderError> {
        let mut list: Vec<u16> = if shut {
            Vec::new()
        } else if named.is_empty() {
            let has = has.ok_or(OrderError::Unknown)?;
            has.iter().filter(|one| one.technology == technology).map(|one| one.band).collect()
        } else {
            named.to_vec()
        };
        list.sort_unstable();
        list.dedup();
        Ok(list)
    };
    let lte = list(Technology::Lte, &choice.lte, choice.access == BandAccess::Sa)?;
    let nr = list(Technology::Nr, &choice.nr, choice.access == BandAccess::Lte)?;
    let empty = match choice.access {
        BandAccess::Any => lte.is_empty() && nr.is_empty(),
        BandAccess::Lte => lte.is_empty(),
        // Both are needed: the anchor holds the connection.
        BandAccess::Nsa => lte.is_empty() || nr.is_empty(),
        BandAccess::Sa => nr.is_empty(),
    };
    if empty {
        let example = has.and_then(|has| has.first()).map_or_else(|| "B20".into(), |one| names(&[*one]));
        return Err(OrderError::Nothing { example });
    }
    let mask = |bands: &[u16]| LockMask::of(bands).map_err(|error| OrderError::Mask(error.to_string()));
    // NR bands above 128 exist (FR2); no mask has room for them, but a list has.
    let nr_mask = mask(&nr.iter().copied().filter(|band| *band <= 128).collect::<Vec<u16>>())?;
    Ok(LockOrder { access: choice.access, lte_mask: mask(&lte)?, nr_mask, lte, nr })
}

/// Names and values that a lock's texts may hold.
pub fn lock_values(order: &LockOrder, recipe: &LockRecipe) -> Vec<(&'static str, String)> {
    let plain = match order.access {
        BandAccess::Any => "any",
        BandAccess::Lte => "lte",
        BandAccess::Nsa => "nsa",
        BandAccess::Sa => "sa",
    };
    let word = recipe.access_words.iter().find(|one| one.name == plain).map(|one| one.value.clone());
    let list = |bands: &[u16]| bands.iter().map(u16::to_string).collect::<Vec<String>>().join(",");
    vec![
        ("access", word.unwrap_or_else(|| plain.to_owned())),
        ("lte_bands", list(&order.lte)),
        ("nr_bands", list(&order.nr)),
        ("lte_mask", order.lte_mask.low.to_string()),
        ("lte_mask_hex", format!("{:X}", order.lte_mask.low)),
        ("lte_mask_high", order.lte_mask.high.to_string()),
        ("lte_mask_high_hex", format!("{:X}", order.lte_mask.high)),
        ("nr_mask", order.nr_mask.low.to_string()),
        ("nr_mask_hex", format!("{:X}", order.nr_mask.low)),
        ("nr_mask_high", order.nr_mask.high.to_string()),
        ("nr_mask_high_hex", format!("{:X}", order.nr_mask.high)),
    ]
}
