//! Maps of predicted signal, made in the background with progress and cancel. Kept in memory: they can be made again.

use crate::pictures::{RasterPicture, signal};
use crate::site_record::SiteRecord;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::model::GeoSpan;
use open_beacon_core::survey::raster::{Asked, RasterQuantity, row};
use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// One map in the making.
#[derive(Debug)]
pub struct Raster {
    pub id: Uuid,
    pub rows: usize,
    pub span: GeoSpan,
    pub quantity: RasterQuantity,
    pub done: AtomicUsize,
    pub cancelled: AtomicBool,
    /// The finished picture with its range, or why there is none.
    pub outcome: Mutex<Option<Result<RasterPicture, String>>>,
}

/// Maps remembered at once.
const KEPT: usize = 8;

/// All maps; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Rasters(Arc<Mutex<VecDeque<Arc<Raster>>>>);

impl Rasters {
    /// Begins a map; the oldest is forgotten where there are many.
    pub fn begin(&self, id: Uuid, rows: usize, span: GeoSpan, quantity: RasterQuantity) -> Arc<Raster> {
        let raster = Arc::new(Raster {
            id,
            rows,
            span,
            quantity,
            done: AtomicUsize::new(0),
            cancelled: AtomicBool::new(false),
            outcome: Mutex::new(None),
        });
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.push_back(Arc::clone(&raster));
        while all.len() > KEPT {
            if let Some(oldest) = all.pop_front() {
                oldest.cancelled.store(true, Ordering::Relaxed);
            }
        }
        raster
    }

    /// A map by its identifier.
    pub fn find(&self, id: Uuid) -> Option<Arc<Raster>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).iter().find(|one| one.id == id).cloned()
    }
}

impl Raster {
    /// Sets the outcome once.
    pub fn finish(&self, outcome: Result<RasterPicture, String>) {
        *self.outcome.lock().unwrap_or_else(PoisonError::into_inner) = Some(outcome);
    }

    /// Works the map out and sets its outcome. Blocks; `asked` is given the antenna of the house.
    pub(crate) fn draw(&self, data: &SiteRecord, asked: impl FnOnce(AimAntenna<'_>) -> Asked<'_>) {
        let outcome = data.with(|radio| {
            let asked = asked(radio.antenna);
            let (columns, quantity) = (asked.columns, asked.quantity);
            self.all_rows(radio.env, &asked).map(|rows| signal(&rows, columns, quantity))
        });
        self.finish(match outcome {
            Some(picture) => Ok(picture),
            None if self.cancelled.load(Ordering::Relaxed) => Err("Cancelled.".into()),
            None => Err("This cell has no band, or the antenna is not made for it.".into()),
        });
    }

    /// All rows, shared out among the processor's cores; `None` where cancelled or impossible.
    fn all_rows(&self, env: &Environment, asked: &Asked) -> Option<Vec<Vec<f64>>> {
        let next = AtomicUsize::new(0);
        let cores = std::thread::available_parallelism().map_or(2, std::num::NonZero::get).min(8);
        let work = || {
            let mut own = Vec::new();
            loop {
                let number = next.fetch_add(1, Ordering::Relaxed);
                if number >= asked.rows {
                    return Some(own);
                }
                if self.cancelled.load(Ordering::Relaxed) {
                    return None;
                }
                own.push((number, row(env, asked, number)?));
                self.done.fetch_add(1, Ordering::Relaxed);
            }
        };
        let parts: Vec<Option<Vec<NumberedRow>>> = std::thread::scope(|scope| {
            let threads: Vec<_> = (0..cores).map(|_| scope.spawn(work)).collect();
            threads.into_iter().map(|thread| thread.join().unwrap_or(None)).collect()
        });
        let mut rows: Vec<NumberedRow> = Vec::with_capacity(asked.rows);
        for part in parts {
            rows.extend(part?);
        }
        rows.sort_by_key(|(row, _)| *row);
        Some(rows.into_iter().map(|(_, row)| row).collect())
    }
}

/// A row by its number.
type NumberedRow = (usize, Vec<f64>);
