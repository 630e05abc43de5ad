//! Terrain of sites, read once and kept until their files change.

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{SiteId, SurfaceKind, TerrainTile, TileFile, TileId};
use open_beacon_core::terrain::{Grid, Ground};
use open_beacon_store::{Store, StoreError};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

type Tiles = Vec<(TileId, SurfaceKind)>;
/// A site's ground, and the files it was made of.
type Known = HashMap<SiteId, (Tiles, Arc<Ground>)>;

/// Grounds by site; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Grounds {
    known: Arc<Mutex<Known>>,
    grids: Arc<Mutex<HashMap<TileId, Arc<Grid>>>>,
}

impl Grounds {
    /// A site's ground by the files it has now. Blocks: reading a large file takes a while the first time.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn of(
        &self,
        store: &Store,
        site: SiteId,
        house: Option<GeoPoint>,
    ) -> Result<Arc<Ground>, StoreError> {
        let tiles: Vec<TerrainTile> = store.entities(site)?;
        let wanted: Tiles = tiles
            .iter()
            .filter(|tile| tile.archived_at.is_none())
            .map(|tile| (tile.id, tile.surface))
            .collect();
        let there = self.known.lock().unwrap_or_else(PoisonError::into_inner).get(&site).cloned();
        if let Some((_, ground)) = there.filter(|(tiles, _)| *tiles == wanted) {
            return Ok(ground);
        }
        let mut grids = Vec::new();
        for (id, surface) in &wanted {
            if let Some(grid) = self.grid(store, *id, house)? {
                grids.push((grid, *surface));
            }
        }
        let ground = Arc::new(Ground::new(grids));
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        known.insert(site, (wanted, Arc::clone(&ground)));
        let used: Vec<TileId> =
            known.values().flat_map(|(tiles, _)| tiles.iter().map(|(id, _)| *id)).collect();
        drop(known);
        self.grids.lock().unwrap_or_else(PoisonError::into_inner).retain(|id, _| used.contains(id));
        Ok(ground)
    }

    /// `None` where the file cannot be read any more; it could when it was added.
    fn grid(
        &self,
        store: &Store,
        id: TileId,
        house: Option<GeoPoint>,
    ) -> Result<Option<Arc<Grid>>, StoreError> {
        if let Some(grid) = self.grids.lock().unwrap_or_else(PoisonError::into_inner).get(&id) {
            return Ok(Some(Arc::clone(grid)));
        }
        let file: TileFile = store.site_file(id)?;
        match open_beacon_exchange::terrain::read_tile(&file.tile.file_name, &file.content.read()?, house) {
            Ok(read) => {
                let grid = Arc::new(read.grid);
                self.grids.lock().unwrap_or_else(PoisonError::into_inner).insert(id, Arc::clone(&grid));
                Ok(Some(grid))
            }
            Err(reason) => {
                tracing::error!(tile = %id, reason, "terrain file");
                Ok(None)
            }
        }
    }
}
