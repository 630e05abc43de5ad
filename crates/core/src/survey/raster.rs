//! Predicted signal over an area: one mast and band, an antenna aimed at it wherever it stands.

use crate::geo::GeoPoint;
use crate::geo::geodesic::point_along;
use crate::link::antenna::AimAntenna;
use crate::link::environment::{Arriving, Environment};
use crate::link::landscape::{AntennaLocation, WhatIf, same_channel};
use crate::link::route::Route;
use crate::metrics::NOISE_FIGURE_DB;
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
    /// What it covers.
    pub span: GeoSpan,
    /// Number of columns.
    pub columns: usize,
    /// Rows, one an entry.
    pub rows: usize,
    /// Antenna above ground, m.
    pub height_m: f64,
    /// Places in the lists of masts and of its cells.
    pub mast: usize,
    /// The cell.
    pub cell: usize,
    /// The antenna.
    pub antenna: AimAntenna<'a>,
    /// What is drawn.
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
pub fn row(env: &Environment, asked: &Asked, row: usize) -> Option<Vec<f64>> {
    let landscape = &env.landscape;
    let wanted = (0..env.cells.len()).find(|cell| env.of_mast(*cell) == Some((asked.mast, asked.cell)))?;
    let beside: Vec<usize> = (0..env.cells.len())
        .filter(|cell| {
            *cell == wanted
                || (asked.quantity == RasterQuantity::CleanSignal
                    && env.of_mast(*cell).is_some()
                    && same_channel(&env.cells[*cell].carrier, &env.cells[wanted].carrier))
        })
        .collect();
    let of_masts: Vec<(usize, usize)> = beside.iter().filter_map(|cell| env.of_mast(*cell)).collect();
    let latitude_deg = *row_latitudes_deg(&asked.span, asked.rows).get(row)?;
    let step_deg = (asked.span.east_deg - asked.span.west_deg) / asked.columns as f64;
    (0..asked.columns)
        .map(|column| {
            let longitude_deg = asked.span.west_deg + step_deg * (column as f64 + 0.5);
            let place = GeoPoint { latitude_deg, longitude_deg };
            let at = AntennaLocation {
                place: Some(place),
                height_m: asked.height_m,
                mount: Mount::Pole,
                position: None,
            };
            let known = landscape.arrivals_of(
                &at,
                WhatIf::default(),
                |mast, cell, _| of_masts.contains(&(mast, cell)),
                |mast| {
                    let to = landscape.masts[mast].place;
                    Box::new(Route::new(place, to, landscape.ground, landscape.obstacles))
                },
            );
            let arriving: Vec<Arriving> =
                beside.iter().filter_map(|cell| env.arriving_cell(*cell, &at, &known, None)).collect();
            let from = arriving.iter().find(|one| one.cell == wanted)?.from;
            let aim = from.map(|from| asked.antenna.aimed_at(from));
            match asked.quantity {
                RasterQuantity::Signal => env.rsrp_dbm(wanted, &arriving, &asked.antenna, aim),
                RasterQuantity::CleanSignal => {
                    let heard = env.received(wanted, &at, &arriving, &asked.antenna, aim, NOISE_FIGURE_DB)?;
                    Some(heard.sinr_db.mean)
                }
            }
        })
        .collect()
}
