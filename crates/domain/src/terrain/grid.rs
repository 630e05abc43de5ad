//! A tile of terrain: heights at nodes of a rectangular mesh. Nodes are where a height holds: readers shift files whose
//! heights are of whole pixels ("pixel is area") by half a step before they come here.

use crate::geo::GeoPoint;
use crate::model::GeoSpan;

/// What a tile's coordinates are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Frame {
    /// Degrees of longitude and latitude on WGS 84.
    Geographic,
    /// Metres of the Universal Transverse Mercator grid on WGS 84: zone 1..=60, true in the north.
    Utm(u8, bool),
}

impl Frame {
    /// A point in this frame: x to the east, y to the north.
    pub fn project(self, point: GeoPoint) -> (f64, f64) {
        match self {
            Self::Geographic => (point.longitude_deg, point.latitude_deg),
            Self::Utm(zone, north) => {
                let (northing, easting, _) = utm::to_utm_wgs84(point.latitude_deg, point.longitude_deg, zone);
                // The library adds the false northing for points south of the equator; the tile's own half decides.
                let shifted = point.latitude_deg < 0.0;
                let wanted = !north;
                let fix = match (shifted, wanted) {
                    (true, false) => -1e7,
                    (false, true) => 1e7,
                    _ => 0.0,
                };
                (easting, northing + fix)
            }
        }
    }
}

/// Heights of a tile's nodes, m above sea level, row by row from the north-west corner.
#[derive(Clone, Debug, PartialEq)]
pub enum Heights {
    /// Whole metres; [`Heights::VOID`] where none is known.
    Whole(Vec<i16>),
    /// NaN where none is known.
    Real(Vec<f32>),
}

impl Heights {
    /// The mark of a void among whole metres.
    pub const VOID: i16 = i16::MIN;

    fn len(&self) -> usize {
        match self {
            Self::Whole(all) => all.len(),
            Self::Real(all) => all.len(),
        }
    }

    fn extremes(&self) -> Extremes {
        match self {
            Self::Whole(all) => {
                let (mut low, mut high, mut voids) = (i16::MAX, i16::MIN, 0u32);
                for height in all {
                    if *height == Self::VOID {
                        voids += 1;
                    } else {
                        low = low.min(*height);
                        high = high.max(*height);
                    }
                }
                Extremes { lowest_m: f64::from(low), highest_m: f64::from(high), voids }
            }
            Self::Real(all) => {
                let known = || all.iter().filter(|height| !height.is_nan());
                Extremes {
                    lowest_m: f64::from(known().copied().fold(f32::INFINITY, f32::min)),
                    highest_m: f64::from(known().copied().fold(f32::NEG_INFINITY, f32::max)),
                    voids: all.iter().filter(|height| height.is_nan()).count() as u32,
                }
            }
        }
    }
}

/// Side of a block, nodes: heights are kept in square blocks, because a path to the north would miss the processor's
/// cache at every row otherwise.
const BLOCK: usize = 8;

/// Row by row to block by block; what pads the last blocks is `void`.
fn blocked<T: Copy>(rows: &[T], (columns, count): (usize, usize), void: T) -> Vec<T> {
    let across = columns.div_ceil(BLOCK);
    let mut all = vec![void; across * count.div_ceil(BLOCK) * BLOCK * BLOCK];
    for (row, nodes) in rows.chunks_exact(columns).enumerate() {
        for (block, piece) in nodes.chunks(BLOCK).enumerate() {
            let start = ((row / BLOCK) * across + block) * BLOCK * BLOCK + (row % BLOCK) * BLOCK;
            all[start..start + piece.len()].copy_from_slice(piece);
        }
    }
    all
}

/// A quadratic's coefficients, the constant first.
pub(super) type Quadratic = [f64; 3];
/// Columns and rows that a track crosses, each by a quadratic.
pub(super) type Curve = [Quadratic; 2];

/// A quadratic's value.
#[inline]
pub(super) fn on([constant, slope, bend]: &Quadratic, t: f64) -> f64 {
    constant + t * (slope + t * bend)
}

/// Heights fetched at a time.
const CHUNK: usize = 32;

/// A tile.
#[derive(Clone, Debug, PartialEq)]
pub struct Grid {
    /// Coordinates that it lies in.
    pub frame: Frame,
    /// Of the north-west node, degrees or m.
    pub west: f64,
    /// Northern edge.
    pub north: f64,
    /// Between nodes, degrees or m, above 0.
    pub step_x: f64,
    /// Height of a cell.
    pub step_y: f64,
    columns: usize,
    rows: usize,
    /// Block by block, see [`blocked`].
    heights: Heights,
    extremes: Extremes,
}

/// Why a tile cannot be one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum GridError {
    /// Its size is not that of a grid.
    #[error("A tile has two columns and two rows at least, and one height for each node.")]
    Size,
    /// It lies nowhere on earth.
    #[error("A tile's steps are above zero, and its corners on the earth.")]
    Place,
    /// There is nothing in it.
    #[error("No node of the tile has a height.")]
    Empty,
}

/// Lowest and highest height and number of voids.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Extremes {
    /// Lowest point, m above sea level.
    pub lowest_m: f64,
    /// Highest point, m above sea level.
    pub highest_m: f64,
    /// Points without a height.
    pub voids: u32,
}

impl Grid {
    /// A tile from its north-west node, steps and heights.
    ///
    /// # Errors
    /// [`GridError`].
    pub fn new(
        frame: Frame,
        (west, north): (f64, f64),
        (step_x, step_y): (f64, f64),
        (columns, rows): (usize, usize),
        heights: Heights,
    ) -> Result<Self, GridError> {
        if columns < 2 || rows < 2 || columns.checked_mul(rows) != Some(heights.len()) {
            return Err(GridError::Size);
        }
        let finite = [west, north, step_x, step_y].iter().all(|value| value.is_finite());
        let south = north - step_y * (rows - 1) as f64;
        let on_earth = match frame {
            Frame::Geographic => north <= 90.5 && south >= -90.5 && west.abs() <= 360.5,
            Frame::Utm(zone, _) => (1..=60).contains(&zone) && (-1e6..=2e6).contains(&west),
        };
        if !finite || step_x <= 0.0 || step_y <= 0.0 || !on_earth {
            return Err(GridError::Place);
        }
        let extremes = heights.extremes();
        let heights = match heights {
            Heights::Whole(all) => Heights::Whole(blocked(&all, (columns, rows), Heights::VOID)),
            Heights::Real(all) => Heights::Real(blocked(&all, (columns, rows), f32::NAN)),
        };
        Ok(Self { frame, west, north, step_x, step_y, columns, rows, heights, extremes })
    }

    /// Columns and rows.
    pub fn size(&self) -> (usize, usize) {
        (self.columns, self.rows)
    }

    /// The eastern and southern node, degrees or m.
    pub fn far_corner(&self) -> (f64, f64) {
        (
            self.west + self.step_x * (self.columns - 1) as f64,
            self.north - self.step_y * (self.rows - 1) as f64,
        )
    }

    /// Lowest, highest and voids.
    ///
    /// # Errors
    /// [`GridError::Empty`] where all nodes are void.
    pub fn extremes(&self) -> Result<Extremes, GridError> {
        let all_void = self.extremes.voids as usize == self.columns * self.rows;
        if all_void { Err(GridError::Empty) } else { Ok(self.extremes) }
    }

    /// Place of a point among the nodes: columns from the west, rows from the north, as fractions; also outside.
    pub(super) fn place(&self, x: f64, y: f64) -> (f64, f64) {
        ((x - self.west) / self.step_x, (self.north - y) / self.step_y)
    }

    /// The place where it is inside; half a step beyond the outer nodes belongs to the tile still, so that tiles of
    /// whole pixels leave no seam.
    #[inline]
    pub(super) fn within(&self, (column, row): (f64, f64)) -> Option<(f64, f64)> {
        // A rounded corner coordinate must not lose the edge.
        let slack = 0.5 + 1e-6;
        let (last_column, last_row) = ((self.columns - 1) as f64, (self.rows - 1) as f64);
        let inside =
            column >= -slack && row >= -slack && column <= last_column + slack && row <= last_row + slack;
        inside.then(|| (column.clamp(0.0, last_column), row.clamp(0.0, last_row)))
    }

    /// Height between four nodes, straight both ways (bilinear), m. Void nodes are left out and the others weighed up;
    /// NaN where all that count are void.
    #[inline]
    pub(super) fn between(&self, (column, row): (f64, f64)) -> f64 {
        // Through i32: a float becomes a 64-bit number only by detours on many processors.
        let (left, top) =
            ((column as i32 as usize).min(self.columns - 2), (row as i32 as usize).min(self.rows - 2));
        let (east, south) = (column - f64::from(left as i32), row - f64::from(top as i32));
        let across = self.columns.div_ceil(BLOCK);
        let node = |column: usize, row: usize| {
            ((row / BLOCK) * across + column / BLOCK) * BLOCK * BLOCK + (row % BLOCK) * BLOCK + column % BLOCK
        };
        let nodes = [node(left, top), node(left + 1, top), node(left, top + 1), node(left + 1, top + 1)];
        let corners = match &self.heights {
            Heights::Whole(all) => {
                let four = nodes.map(|node| all[node]);
                if four.contains(&Heights::VOID) {
                    four.map(|height| if height == Heights::VOID { f64::NAN } else { f64::from(height) })
                } else {
                    four.map(f64::from)
                }
            }
            Heights::Real(all) => nodes.map(|node| f64::from(all[node])),
        };
        let [a, b, c, d] = corners;
        let upper = a + (b - a) * east;
        let height = upper + (c + (d - c) * east - upper) * south;
        if height.is_nan() { around_voids(corners, east, south) } else { height }
    }

    /// Heights along a curve of columns and rows that keeps inside the outer nodes, m: `out[i]` at `t = (first + i) step`.
    /// NaN in voids, as [`Grid::between`].
    pub(super) fn along(&self, curve: &Curve, (first, step): (f64, f64), out: &mut [f64]) {
        match &self.heights {
            Heights::Whole(all) if self.extremes.voids == 0 => {
                self.gather(curve, (first, step), out, |node| f64::from(all[node]));
            }
            Heights::Whole(all) => self.gather(curve, (first, step), out, |node| {
                if all[node] == Heights::VOID { f64::NAN } else { f64::from(all[node]) }
            }),
            Heights::Real(all) => self.gather(curve, (first, step), out, |node| f64::from(all[node])),
        }
    }

    /// First all places, then all heights: the first pass is arithmetic on lists, and fetches of the second do not wait
    /// for each other.
    #[inline]
    fn gather(
        &self,
        curve: &Curve,
        (first, step): (f64, f64),
        out: &mut [f64],
        height: impl Fn(usize) -> f64,
    ) {
        let [columns, rows] = curve;
        let (last_column, last_row) = ((self.columns - 2) as i32, (self.rows - 2) as i32);
        let across = (self.columns.div_ceil(BLOCK) * BLOCK * BLOCK) as u32;
        const SIDE: u32 = BLOCK as u32;
        // A node's place is the sum of a part by its column and one by its row.
        let by_column = |column: u32| (column / SIDE) * SIDE * SIDE + column % SIDE;
        let by_row = |row: u32| (row / SIDE) * across + (row % SIDE) * SIDE;
        for (chunk, out) in out.chunks_mut(CHUNK).enumerate() {
            let (mut left, mut top) = ([0u32; CHUNK], [0u32; CHUNK]);
            let (mut east, mut south) = ([0.0; CHUNK], [0.0; CHUNK]);
            for index in 0..CHUNK {
                let t = (first + f64::from((chunk * CHUNK + index) as i32)) * step;
                let (column, row) = (on(columns, t), on(rows, t));
                let (whole_column, whole_row) =
                    ((column as i32).clamp(0, last_column), (row as i32).clamp(0, last_row));
                (left[index], top[index]) = (whole_column as u32, whole_row as u32);
                (east[index], south[index]) = (column - f64::from(whole_column), row - f64::from(whole_row));
            }
            for (index, out) in out.iter_mut().enumerate() {
                let (west_part, east_part) = (by_column(left[index]), by_column(left[index] + 1));
                let (north_part, south_part) = (by_row(top[index]), by_row(top[index] + 1));
                let at = |column: u32, row: u32| height((column + row) as usize);
                let (a, b) = (at(west_part, north_part), at(east_part, north_part));
                let (c, d) = (at(west_part, south_part), at(east_part, south_part));
                let upper = a + (b - a) * east[index];
                *out = upper + (c + (d - c) * east[index] - upper) * south[index];
            }
        }
    }

    /// Height at a point in the tile's frame, m; `None` outside and in voids.
    pub fn height_m(&self, x: f64, y: f64) -> Option<f64> {
        self.within(self.place(x, y)).map(|cell| self.between(cell)).filter(|height| !height.is_nan())
    }

    /// Corner-to-corner span on the earth, for listings.
    pub fn span(&self) -> GeoSpan {
        let (east, south) = self.far_corner();
        match self.frame {
            Frame::Geographic => GeoSpan {
                south_deg: south.max(-90.0),
                west_deg: turned(self.west),
                north_deg: self.north.min(90.0),
                east_deg: turned(self.west) + (east - self.west),
            },
            Frame::Utm(zone, north) => {
                let letter = if north { 'N' } else { 'M' };
                let corner =
                    |x: f64, y: f64| utm::wsg84_utm_to_lat_lon(x, y, zone, letter).unwrap_or((0.0, 0.0));
                let all = [
                    corner(self.west, self.north),
                    corner(east, self.north),
                    corner(self.west, south),
                    corner(east, south),
                ];
                let fold = |of: fn(&(f64, f64)) -> f64, with: fn(f64, f64) -> f64, start| {
                    all.iter().map(of).fold(start, with)
                };
                GeoSpan {
                    south_deg: fold(|at| at.0, f64::min, f64::INFINITY),
                    west_deg: fold(|at| at.1, f64::min, f64::INFINITY),
                    north_deg: fold(|at| at.0, f64::max, f64::NEG_INFINITY),
                    east_deg: fold(|at| at.1, f64::max, f64::NEG_INFINITY),
                }
            }
        }
    }

    /// Steps at the tile's middle, m: west to east, south to north.
    pub fn step_m(&self) -> (f64, f64) {
        match self.frame {
            Frame::Utm(..) => (self.step_x, self.step_y),
            Frame::Geographic => {
                let middle = self.north - self.step_y * (self.rows - 1) as f64 / 2.0;
                let degree = 111_320.0;
                (self.step_x * degree * middle.to_radians().cos().max(0.01), self.step_y * degree)
            }
        }
    }
}

/// A longitude in −180..180.
fn turned(longitude_deg: f64) -> f64 {
    (longitude_deg + 180.0).rem_euclid(360.0) - 180.0
}

fn around_voids(corners: [f64; 4], east: f64, south: f64) -> f64 {
    let weights = [(1.0 - east) * (1.0 - south), east * (1.0 - south), (1.0 - east) * south, east * south];
    let (mut sum, mut weight) = (0.0, 0.0);
    for (height, share) in corners.into_iter().zip(weights) {
        if !height.is_nan() {
            sum += height * share;
            weight += share;
        }
    }
    if weight > 0.0 { sum / weight } else { f64::NAN }
}
