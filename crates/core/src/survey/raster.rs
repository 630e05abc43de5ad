//! Predicted signal over an area: one mast and band, an antenna aimed at it wherever it stands.

use super::hear::{AimAntenna, Landscape, Shift, carrier_of, element_eirp_dbm, frequency_mhz};
use super::route::{Around, Ends, Route};
use crate::geo::GeoPoint;
use crate::model::GeoSpan;
use crate::terrain::shade::row_latitudes_deg;

/// What is asked of a raster.
#[derive(Clone, Copy, Debug)]
pub struct Asked<'a> {
    pub span: GeoSpan,
    pub columns: usize,
    pub rows: usize,
    /// Antenna above ground, m.
    pub height_m: f64,
    /// Places in the lists of masts and of its cells.
    pub mast: usize,
    pub cell: usize,
    pub antenna: AimAntenna<'a>,
}

/// Likely RSRP along one row from west to east, dBm; `None` for a cell whose band is not known or that the antenna is
/// not made for.
pub fn row_dbm(landscape: &Landscape, asked: &Asked, row: usize) -> Option<Vec<f64>> {
    let mast = &landscape.masts[asked.mast];
    let cell = mast.cells.get(asked.cell)?;
    carrier_of(cell)?;
    let mhz = frequency_mhz(cell)?;
    let gain_dbi = asked.antenna.net_gain_dbi(mhz, landscape.settings)?;
    let latitude_deg = *row_latitudes_deg(&asked.span, asked.rows).get(row)?;
    let Shift { shift_db, .. } = landscape.shifts[asked.mast];
    let around = Around { obstacles: landscape.obstacles, settings: landscape.settings, taller_trees_m: 0.0 };
    let ends =
        Ends { first_above_m: asked.height_m, last_above_m: landscape.mast_height_m(mast), indoors: false };
    let step_deg = (asked.span.east_deg - asked.span.west_deg) / asked.columns as f64;
    (0..asked.columns)
        .map(|column| {
            let longitude_deg = asked.span.west_deg + step_deg * (column as f64 + 0.5);
            let from = GeoPoint { latitude_deg, longitude_deg };
            let route = Route::new(from, mast.place, landscape.ground, landscape.obstacles);
            let eirp_dbm = element_eirp_dbm(cell, route.way().back_bearing_deg)?;
            let loss = route.loss(ends, mhz, &around);
            Some(eirp_dbm - loss.total_db.likely + gain_dbi + shift_db)
        })
        .collect()
}
