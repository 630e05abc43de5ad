//! What the demo site's survey has: terrain, masts from an invented register, trees, buildings, landmarks.

use crate::terrain::{
    COLUMNS, DEGREE_M, ROWS, SOUTH_DEG, STEP_LATITUDE_DEG, STEP_LONGITUDE_DEG, WEST_DEG, ascii_grid, place,
};
use crate::world::{Cell, HOUSE_LATITUDE_DEG, valley};
use chrono::{DateTime, Utc};
use open_beacon_core::bands::{CellIdentity, NodeBits};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{
    GeoSpan, Landmark, LandmarkId, Mast, MastCell, MastId, Obstacle, ObstacleId, ObstacleKind, SiteBundle,
    SurfaceKind, Technology, TerrainTile, TileFile, TileId,
};
use uuid::Uuid;

fn point((east_m, north_m): (f64, f64)) -> GeoPoint {
    let (latitude_deg, longitude_deg) = place(east_m, north_m);
    GeoPoint { latitude_deg, longitude_deg }
}

/// A cell as a register lists it.
fn listed(cell: &Cell, bearing_deg: f64) -> MastCell {
    let bits = NodeBits::usual(cell.technology);
    let split = CellIdentity::split(cell.technology, cell.cell_identity, bits).ok();
    MastCell {
        technology: cell.technology,
        band: Some(cell.band),
        channel: Some(cell.channel),
        bandwidth_mhz: Some(cell.bandwidth_mhz),
        pci: Some(cell.pci),
        node: split.map(|split| split.node),
        local_cell: split.map(|split| split.local),
        bearing_deg: Some(bearing_deg),
        power_dbm: None,
        load: None,
    }
}

/// Adds the survey to the demo site; `network` and `other`: the operators; `id` names things.
pub(crate) fn build_survey(
    bundle: &mut SiteBundle,
    seed: u64,
    begun: DateTime<Utc>,
    (network, other): (&str, &str),
    id: impl Fn(&str) -> Uuid,
) {
    let site_id = bundle.site.id;
    let (text, lowest_m, highest_m) = ascii_grid(seed);
    let degree_east_m = DEGREE_M * HOUSE_LATITUDE_DEG.to_radians().cos();
    bundle.tiles.push(TileFile {
        tile: TerrainTile {
            id: TileId(id("terrain")),
            site_id,
            file_name: "hulderdal.asc".into(),
            format: "ESRI ASCII grid".into(),
            surface: SurfaceKind::Ground,
            span: GeoSpan {
                south_deg: SOUTH_DEG,
                west_deg: WEST_DEG,
                north_deg: SOUTH_DEG + STEP_LATITUDE_DEG * (ROWS - 1) as f64,
                east_deg: WEST_DEG + STEP_LONGITUDE_DEG * (COLUMNS - 1) as f64,
            },
            columns: COLUMNS as u32,
            rows: ROWS as u32,
            step_east_m: (STEP_LONGITUDE_DEG * degree_east_m).round(),
            step_north_m: (STEP_LATITUDE_DEG * DEGREE_M).round(),
            voids: 0,
            lowest_m,
            highest_m,
            bytes: text.len() as u64,
            added_at: begun,
            archived_at: None,
        },
        content: text.into_bytes().into(),
    });
    for (index, mast) in valley().iter().enumerate() {
        let bearing_deg = [320.0, 205.0, 15.0].get(index).copied().unwrap_or(0.0);
        bundle.masts.push(Mast {
            id: MastId(id(&format!("mast/{}", mast.name))),
            site_id,
            name: mast.name.into(),
            operator: network.into(),
            place: point((mast.east_m, mast.north_m)),
            height_m: [Some(36.0), Some(30.0), Some(42.0)].get(index).copied().flatten(),
            cells: mast.cells.iter().map(|cell| listed(cell, bearing_deg)).collect(),
            notes: String::new(),
            archived_at: None,
        });
    }
    let lte = |band, channel, bandwidth_mhz, pci| MastCell {
        technology: Technology::Lte,
        band: Some(band),
        channel: Some(channel),
        bandwidth_mhz: Some(bandwidth_mhz),
        pci: Some(pci),
        node: Some(7350),
        local_cell: None,
        bearing_deg: None,
        power_dbm: None,
        load: None,
    };
    bundle.masts.push(Mast {
        id: MastId(id("mast/Tverrhaug")),
        site_id,
        name: "Tverrhaug".into(),
        operator: other.into(),
        place: point((-2450.0, 900.0)),
        height_m: None,
        cells: vec![lte(20, 6400, 10.0, 412), lte(3, 1850, 15.0, 414)],
        notes: "Height not listed.".into(),
        archived_at: None,
    });
    let shape = |name: &str, kind, outline: &[(f64, f64)], width_m, height_m| Obstacle {
        id: ObstacleId(id(&format!("obstacle/{name}"))),
        site_id,
        name: name.into(),
        kind,
        outline: outline.iter().copied().map(point).collect(),
        width_m,
        height_m,
        archived_at: None,
    };
    bundle.obstacles = vec![
        shape("House", ObstacleKind::House, &[(-6.0, -4.0), (6.0, -4.0), (6.0, 4.0), (-6.0, 4.0)], None, 7.5),
        shape(
            "Barn",
            ObstacleKind::Building,
            &[(-48.0, 8.0), (-30.0, 8.0), (-30.0, 20.0), (-48.0, 20.0)],
            None,
            9.0,
        ),
        shape("Spruce belt", ObstacleKind::TreesInLeaf, &[(20.0, -172.0), (160.0, -68.0)], Some(24.0), 15.0),
        shape(
            "Birch wood",
            ObstacleKind::TreesBare,
            &[(60.0, 30.0), (190.0, 60.0), (170.0, 170.0), (40.0, 150.0)],
            None,
            12.0,
        ),
    ];
    let landmark = |name: &str, at| Landmark {
        id: LandmarkId(id(&format!("landmark/{name}"))),
        site_id,
        name: name.into(),
        place: point(at),
        archived_at: None,
    };
    bundle.landmarks = vec![
        landmark("the grain silo", (355.0, -515.0)),
        landmark("the school's flagpole", (790.0, -640.0)),
        landmark("the water tower", (-420.0, -980.0)),
    ];
}
