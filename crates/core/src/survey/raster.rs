//! Predicted signal over an area: one mast and band, an antenna aimed at it wherever it stands.

use super::antenna::AimAntenna;
use super::hear::{Landscape, Stand, WhatIf, behind, carrier_of, same_channel};
use super::route::Route;
use crate::geo::GeoPoint;
use crate::geo::geodesic::point_along;
use crate::model::{GeoSpan, Mount};
use crate::terrain::shade::row_latitudes_deg;
use serde::{Deserialize, Serialize};

/// What a map shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum RasterQuantity {
    /// RSRP, dBm.
    #[default]
    Signal,
    /// SINR, dB: all known cells on the channel, through the antenna's pattern.
    CleanSignal,
}

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
    pub quantity: RasterQuantity,
}

/// The span that reaches `half_m` from its middle to each side.
pub fn span_round(middle: GeoPoint, half_m: f64) -> GeoSpan {
    let to = |bearing_deg: f64| point_along(middle, bearing_deg, half_m);
    let (north, south) = (to(0.0).latitude_deg, to(180.0).latitude_deg);
    // Over the date line the eastern edge runs on beyond 180.
    let east = (to(90.0).longitude_deg - middle.longitude_deg).rem_euclid(360.0);
    GeoSpan {
        south_deg: south,
        north_deg: north,
        west_deg: middle.longitude_deg - east,
        east_deg: middle.longitude_deg + east,
    }
}

/// Likely values along one row from west to east, dBm or dB; `None` for a cell whose band is not known or that the
/// antenna is not made for.
pub fn row(landscape: &Landscape, asked: &Asked, row: usize) -> Option<Vec<f64>> {
    let mast = &landscape.masts[asked.mast];
    let own = carrier_of(mast.cells.get(asked.cell)?)?;
    let latitude_deg = *row_latitudes_deg(&asked.span, asked.rows).get(row)?;
    let step_deg = (asked.span.east_deg - asked.span.west_deg) / asked.columns as f64;
    (0..asked.columns)
        .map(|column| {
            let longitude_deg = asked.span.west_deg + step_deg * (column as f64 + 0.5);
            let place = GeoPoint { latitude_deg, longitude_deg };
            let stand = Stand { place, height_m: asked.height_m, mount: Mount::Pole };
            let arrivals = landscape.arrivals_of(
                &stand,
                WhatIf::default(),
                |at, cell, carrier| {
                    (at == asked.mast && cell == asked.cell)
                        || (asked.quantity == RasterQuantity::CleanSignal && same_channel(carrier, &own))
                },
                |at| {
                    let to = landscape.masts[at].place;
                    Box::new(Route::new(place, to, landscape.ground, landscape.obstacles))
                },
            );
            let wanted = arrivals.iter().position(|one| one.mast == asked.mast && one.cell == asked.cell)?;
            let aim = asked.antenna.aimed_at(arrivals[wanted].from());
            let heard = behind(&asked.antenna, aim, wanted, &arrivals, landscape.settings)?;
            Some(match asked.quantity {
                RasterQuantity::Signal => heard.rsrp_dbm.likely,
                RasterQuantity::CleanSignal => heard.sinr_db.likely,
            })
        })
        .collect()
}
