//! Locks: what the stand-in gateway may use, how long it takes to attach anew, and what becomes of a lock that nothing fits.

use crate::radio::Heard;
use open_beacon_core::model::{BandAccess, BandChoice, CarrierRole, Technology};
use serde::{Deserialize, Serialize};

/// How it may be connected.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LockedAccess {
    #[default]
    Any,
    Lte,
    Nsa,
    Sa,
}

/// A lock as the stand-in takes it; empty lists are free.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Lock {
    /// On its page it has always been called so.
    #[serde(rename = "way")]
    pub access: LockedAccess,
    pub lte: Vec<u16>,
    pub nr: Vec<u16>,
}

impl Lock {
    pub(crate) fn allows(&self, technology: Technology, band: u16) -> bool {
        match technology {
            Technology::Lte => {
                self.access != LockedAccess::Sa && (self.lte.is_empty() || self.lte.contains(&band))
            }
            Technology::Nr => {
                self.access != LockedAccess::Lte && (self.nr.is_empty() || self.nr.contains(&band))
            }
        }
    }
}

impl From<&BandChoice> for Lock {
    fn from(choice: &BandChoice) -> Self {
        let access = match choice.access {
            BandAccess::Any => LockedAccess::Any,
            BandAccess::Lte => LockedAccess::Lte,
            BandAccess::Nsa => LockedAccess::Nsa,
            BandAccess::Sa => LockedAccess::Sa,
        };
        Self { access, lte: choice.lte.clone(), nr: choice.nr.clone() }
    }
}

/// Bands of a mask: band n is bit n − 1; a second word begins with band 65.
pub fn bands_of(low: u64, high: u64) -> Vec<u16> {
    let word = |bits: u64, from: u16| (0..64).filter(move |at| bits >> at & 1 == 1).map(move |at| from + at);
    word(low, 1).chain(word(high, 65)).collect()
}

/// Carriers that are used together of those that a mast offers and the lock allows, the anchor or primary first. Three at
/// the most: two of LTE, or an anchor, one more LTE carrier and NR; on its own core two of NR.
pub(crate) fn bundle(mut own: Vec<Heard>, lock: &Lock) -> Vec<(CarrierRole, Heard)> {
    // The anchor is the mid band where it is usable at all, as networks prefer it.
    own.sort_by_key(|one| (one.cell.technology, one.cell.band != 3 || one.sinr_db < -3.0));
    let has_lte = own.iter().any(|one| one.cell.technology == Technology::Lte);
    if lock.access == LockedAccess::Sa {
        own.retain(|one| one.cell.technology == Technology::Nr && one.cell.standalone);
        own.sort_by(|a, b| b.cell.bandwidth_mhz.total_cmp(&a.cell.bandwidth_mhz));
        own.truncate(2);
        let role = |at| if at == 0 { CarrierRole::Primary } else { CarrierRole::Secondary };
        return own.into_iter().enumerate().map(|(at, one)| (role(at), one)).collect();
    }
    if !has_lte {
        return Vec::new();
    }
    let anchor = own.first().map_or(0, |one| one.cell.band);
    own.retain(|one| {
        one.cell.technology == Technology::Lte
            || one.cell.anchors.is_empty()
            || one.cell.anchors.contains(&anchor)
    });
    let has_mid_band_nr = own.iter().any(|one| one.cell.band == 78);
    own.retain(|one| one.cell.technology == Technology::Lte || (one.cell.band == 78) == has_mid_band_nr);
    let nsa = own.iter().any(|one| one.cell.technology == Technology::Nr);
    if lock.access == LockedAccess::Nsa && !nsa && !lock.nr.is_empty() {
        // The network adds NR where it is asked to; without, the anchor alone serves.
        own.truncate(1);
    }
    let mut first_lte = true;
    own.into_iter()
        .map(|one| {
            let role = match (one.cell.technology, std::mem::replace(&mut first_lte, false)) {
                (Technology::Lte, true) if nsa => CarrierRole::Anchor,
                (Technology::Lte, true) | (Technology::Nr, _) => CarrierRole::Primary,
                (Technology::Lte, false) => CarrierRole::Secondary,
            };
            (role, one)
        })
        .collect()
}
