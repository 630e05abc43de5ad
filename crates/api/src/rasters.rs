//! Maps of predicted signal, made in the background with progress and cancel. Kept in memory: they can be made again.

use open_beacon_core::model::GeoSpan;
use open_beacon_core::survey::raster::RasterQuantity;
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

/// A finished map.
#[derive(Clone, Debug)]
pub struct RasterPicture {
    pub png: Arc<Vec<u8>>,
    /// dBm or dB.
    pub lowest: f64,
    pub highest: f64,
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
}
