//! Which part of the record was written to, so that what is computed from another part stays valid.

use crate::StoreError;
use rusqlite::Connection;
use rusqlite::hooks::Action;
use std::sync::Arc;
use std::sync::atomic::{AtomicU8, AtomicU64, Ordering};

/// A part of the record that is written to independently of the others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub enum Aggregate {
    /// Sites, settings, positions, kits, setups, and everything measured on them.
    Record,
    /// Masts, obstacles, landmarks, terrain, pictures of the ground.
    Surroundings,
    /// What no answer that is kept rests on: files, secrets, paired devices, notes of locks.
    Aside,
}

impl Aggregate {
    /// Every part.
    pub const ALL: [Self; 3] = [Self::Record, Self::Surroundings, Self::Aside];
}

fn of_table(table: &str) -> Aggregate {
    match table {
        "mast" | "obstacle" | "landmark" | "tile" | "backdrop" => Aggregate::Surroundings,
        "attachment" | "gateway_secret" | "paired_device" | "sweep_photo" | "lock_intent" | "band_round"
        | "trial" | "asleep" | "amendment" | "as_built" => Aggregate::Aside,
        _ => Aggregate::Record,
    }
}

/// Counts of writes, by part.
#[derive(Debug, Default)]
pub(crate) struct Versions {
    pub(crate) counts: [AtomicU64; 3],
    /// One bit a part, set while a write is under way.
    touched: Arc<AtomicU8>,
}

impl Versions {
    pub(crate) fn watch(&self, writer: &Connection) -> Result<(), StoreError> {
        let touched = self.touched.clone();
        let hook = move |_: Action, _: &str, table: &str, _: i64| {
            touched.fetch_or(1 << of_table(table) as u8, Ordering::Relaxed);
        };
        Ok(writer.update_hook(Some(hook))?)
    }

    /// After a write. Tables without row identifiers are not told of by SQLite: where nothing was told, anything may have
    /// changed.
    pub(crate) fn rise(&self) {
        let touched = self.touched.swap(0, Ordering::Relaxed);
        for part in Aggregate::ALL {
            if touched == 0 || touched & (1 << part as u8) != 0 {
                self.counts[part as usize].fetch_add(1, Ordering::Release);
            }
        }
    }
}
