//! ITU-R P.526: diffraction over terrain. Knife edge, Bullington's construction, the spherical earth, and the three of
//! them together ("delta-Bullington", P.526-15 clause 4.5, the same as P.452-16 annex 1 clause 4.2).
//!
//! Heights in metres above sea level, distances inside these functions in kilometres, as the Recommendations have them.

use super::p525::wavelength_m;
use serde::{Deserialize, Serialize};

/// How the wave swings.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum WavePolarisation {
    /// Horizontal.
    Horizontal,
    /// Vertical.
    Vertical,
}

/// A path over ground: distances from the first end, rising, the first 0; both ends' antennas above the ground there.
#[derive(Clone, Copy, Debug)]
pub struct Terrain<'a> {
    /// m, at least three points.
    pub distances_m: &'a [f64],
    /// Ground above sea level, m, one for each distance.
    pub heights_m: &'a [f64],
    /// Antennas above ground at the first and the last point, m.
    pub first_above_m: f64,
    /// Height of the last edge above the line, m.
    pub last_above_m: f64,
}

/// What a path loses beyond free space, with its parts.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Diffraction {
    /// All of it, dB.
    pub loss_db: f64,
    /// By Bullington over the ground as it is, dB.
    pub bullington_db: f64,
    /// By Bullington over the smooth earth, dB.
    pub smooth_bullington_db: f64,
    /// Round the smooth earth, dB.
    pub spherical_db: f64,
}

/// Why it cannot be told.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TerrainError {
    /// The profile has too few points, or they are out of order.
    #[error("A profile has at least three points, with rising distances from 0 and one height for each.")]
    Profile,
    /// The frequency is outside the model's range.
    #[error("Diffraction is computed from 30\u{202f}MHz to 50\u{202f}GHz.")]
    Frequency,
}

/// Loss at a single knife edge, dB: P.526-15 equation (31); 0 below −0.78.
///
/// ```
/// // Grazing, ν = 0: 6.0 dB, the handbook's figure.
/// assert!((open_beacon_domain::propagation::p526::knife_edge_db(0.0) - 6.03).abs() < 0.01);
/// ```
pub fn knife_edge_db(nu: f64) -> f64 {
    if nu > -0.78 { 6.9 + 20.0 * ((nu - 0.1).hypot(1.0) + nu - 0.1).log10() } else { 0.0 }
}

/// A path's inner points with what every pass over them needs, worked out once: divisions are what such a pass costs.
struct Inner<'a> {
    /// Whole path, km.
    d_km: f64,
    at_km: &'a [f64],
    per_at: Vec<f64>,
    per_rest: Vec<f64>,
}

impl<'a> Inner<'a> {
    fn new(km: &'a [f64]) -> Self {
        let d_km = km[km.len() - 1];
        let at_km = &km[1..km.len() - 1];
        let per_at = at_km.iter().map(|at| 1.0 / at).collect();
        let per_rest = at_km.iter().map(|at| 1.0 / (d_km - at)).collect();
        Self { d_km, at_km, per_at, per_rest }
    }
}

/// Numbers worked on side by side: compilers keep the order of a running maximum or sum, and so its slowness; four
/// separate ones they do at once.
const LANES: usize = 4;

/// The largest of what `of` makes of the numbers that stand at the same place in some lists of one length.
#[inline]
fn largest<const N: usize>(lists: [&[f64]; N], of: impl Fn([f64; N]) -> f64) -> f64 {
    let mut most = [f64::MIN; LANES];
    let whole = lists[0].len() / LANES * LANES;
    for start in (0..whole).step_by(LANES) {
        let pieces = lists.map(|list| &list[start..start + LANES]);
        for (lane, best) in most.iter_mut().enumerate() {
            let value = of(pieces.map(|piece| piece[lane]));
            // A plain comparison, because `f64::max` minds NaN and is slower.
            *best = if value > *best { value } else { *best };
        }
    }
    let rest = (whole..lists[0].len()).map(|at| of(lists.map(|list| list[at])));
    rest.chain(most).fold(f64::MIN, f64::max)
}

/// Bullington's construction, dB: P.526-15 clause 4.5.1. `tops_m`: of the inner points, the earth's bulge in them; `ends`:
/// antenna heights above sea level, m.
fn bullington_db(inner: &Inner, tops_m: &[f64], ends: (f64, f64), wave_m: f64) -> f64 {
    let (first, last) = ends;
    let d = inner.d_km;
    let rising = largest([tops_m, &inner.per_at], |[top, per]| (top - first) * per);
    let straight = (last - first) / d;
    let edge_db = if rising < straight {
        // ν = h sqrt(0.002 d / (λ d1 d2)); the largest is found by its square with the sign of h, without a root.
        let lists = [tops_m, inner.at_km, &inner.per_at, &inner.per_rest];
        let square = largest(lists, |[top, at, per_at, per_rest]| {
            let above = top - first - straight * at;
            above * above.abs() * per_at * per_rest
        });
        knife_edge_db((0.002 * d / wave_m * square.abs()).sqrt().copysign(square))
    } else {
        let falling = largest([tops_m, &inner.per_rest], |[top, per]| (top - last) * per);
        let at = (last - first + falling * d) / (rising + falling);
        let above = first + rising * at - (first * (d - at) + last * at) / d;
        knife_edge_db(above * (0.002 * d / (wave_m * at * (d - at))).sqrt())
    };
    edge_db + (1.0 - (-edge_db / 6.0).exp()) * (10.0 + 0.02 * d)
}

/// Permittivity and conductivity (S/m) of land: P.526-15 clause 4.5.2 refers to P.452 table 5.
const LAND: (f64, f64) = (22.0, 0.003);

/// First term of the residue series, dB: P.526-15 clause 3.1.1 as P.452-16 (30) to (37) write it.
fn first_term_db(d_km: f64, ends_m: (f64, f64), ghz: f64, radius_km: f64, swing: WavePolarisation) -> f64 {
    let (permittivity, conductivity) = LAND;
    let loss = 18.0 * conductivity / ghz;
    let horizontal =
        0.036 * (radius_km * ghz).powf(-1.0 / 3.0) * ((permittivity - 1.0).powi(2) + loss * loss).powf(-0.25);
    let k = match swing {
        WavePolarisation::Horizontal => horizontal,
        WavePolarisation::Vertical => horizontal * (permittivity * permittivity + loss * loss).sqrt(),
    };
    let (k2, k4) = (k * k, k.powi(4));
    let beta = (1.0 + 1.6 * k2 + 0.67 * k4) / (1.0 + 4.5 * k2 + 1.53 * k4);
    let x = 21.88 * beta * (ghz / (radius_km * radius_km)).powf(1.0 / 3.0) * d_km;
    let distance_term = if x >= 1.6 {
        11.0 + 10.0 * x.log10() - 17.6 * x
    } else {
        -20.0 * x.log10() - 5.6488 * x.powf(1.425)
    };
    let height_term = |height_m: f64| {
        let b = beta * 0.9575 * beta * (ghz * ghz / radius_km).powf(1.0 / 3.0) * height_m;
        let gain = if b > 2.0 {
            17.6 * (b - 1.1).sqrt() - 5.0 * (b - 1.1).log10() - 8.0
        } else {
            20.0 * (b + 0.1 * b.powi(3)).log10()
        };
        gain.max(2.0 + 20.0 * k.log10())
    };
    -distance_term - height_term(ends_m.0) - height_term(ends_m.1)
}

/// Loss round a smooth earth, dB: P.526-15 clause 3.2. `ends_m`: effective antenna heights above it.
fn spherical_db(d_km: f64, ends_m: (f64, f64), ghz: f64, radius_km: f64, swing: WavePolarisation) -> f64 {
    let (first, last) = ends_m;
    let horizon_km = (2.0 * radius_km).sqrt() * ((0.001 * first).sqrt() + (0.001 * last).sqrt());
    if d_km >= horizon_km {
        return first_term_db(d_km, ends_m, ghz, radius_km, swing);
    }
    let c = (first - last) / (first + last);
    let m = 250.0 * d_km * d_km / (radius_km * (first + last));
    let turn = (3.0 * c / 2.0 * (3.0 * m / (m + 1.0).powi(3)).sqrt()).acos() / 3.0;
    let b = 2.0 * ((m + 1.0) / (3.0 * m)).sqrt() * (std::f64::consts::FRAC_PI_3 + turn).cos();
    let d1 = d_km / 2.0 * (1.0 + b);
    let d2 = d_km - d1;
    let clearance_m =
        ((first - 500.0 * d1 * d1 / radius_km) * d2 + (last - 500.0 * d2 * d2 / radius_km) * d1) / d_km;
    let wave_m = wavelength_m(ghz * 1000.0);
    let needed_m = 17.456 * (d1 * d2 * wave_m / d_km).sqrt();
    if clearance_m > needed_m {
        return 0.0;
    }
    let marginal_km = 500.0 * (d_km / (first.sqrt() + last.sqrt())).powi(2);
    let loss = first_term_db(d_km, ends_m, ghz, marginal_km, swing);
    if loss < 0.0 { 0.0 } else { (1.0 - clearance_m / needed_m) * loss }
}

/// The sums v1 and v2 of P.452-16 attachment 2, (161) and (162).
fn areas(km: &[f64], ground_m: &[f64]) -> (f64, f64) {
    let (mut v1, mut v2) = ([0.0; LANES], [0.0; LANES]);
    let mut add = |lane: usize, at: [f64; 2], height: [f64; 2]| {
        let step = at[1] - at[0];
        v1[lane] += step * (height[1] + height[0]);
        v2[lane] += step * (height[1] * (2.0 * at[1] + at[0]) + height[0] * (at[1] + 2.0 * at[0]));
    };
    let pieces = km.len() - 1;
    let whole = pieces / LANES * LANES;
    for start in (0..whole).step_by(LANES) {
        let (at, height) = (&km[start..=start + LANES], &ground_m[start..=start + LANES]);
        for lane in 0..LANES {
            add(lane, [at[lane], at[lane + 1]], [height[lane], height[lane + 1]]);
        }
    }
    for piece in whole..pieces {
        add(0, [km[piece], km[piece + 1]], [ground_m[piece], ground_m[piece + 1]]);
    }
    (v1.iter().sum(), v2.iter().sum())
}

/// Heights of the smooth earth at both ends, m: P.526-15 clause 4.5.2 by P.452-16 attachment 2 clause 5.1.6.
fn smooth_ends_m(km: &[f64], inner: &Inner, ground_m: &[f64], ends: (f64, f64)) -> (f64, f64) {
    let d = inner.d_km;
    let (v1, v2) = areas(km, ground_m);
    let (smooth_first, smooth_last) = ((2.0 * v1 * d - v2) / (d * d), (v2 - v1 * d) / (d * d));
    let straight = (ends.1 - ends.0) / d;
    let tops = &ground_m[1..ground_m.len() - 1];
    let above = |top: f64, at: f64| top - ends.0 - straight * at;
    let highest = largest([tops, inner.at_km], |[top, at]| above(top, at));
    let (first, last) = if highest <= 0.0 {
        (smooth_first, smooth_last)
    } else {
        let steepest = |per: &[f64]| largest([tops, inner.at_km, per], |[top, at, per]| above(top, at) * per);
        let (from_first, from_last) = (steepest(&inner.per_at), steepest(&inner.per_rest));
        let both = from_first + from_last;
        (smooth_first - highest * from_first / both, smooth_last - highest * from_last / both)
    };
    (first.min(ground_m[0]), last.min(ground_m[ground_m.len() - 1]))
}

/// Diffraction loss of a path, dB beyond free space: delta-Bullington, P.526-15 clause 4.5. `k`: effective earth radius
/// factor.
///
/// # Errors
/// [`TerrainError`].
pub fn delta_bullington(
    path: &Terrain,
    frequency_mhz: f64,
    k: f64,
    swing: WavePolarisation,
) -> Result<Diffraction, TerrainError> {
    let rising = path.distances_m.windows(2).all(|pair| pair[0] < pair[1]);
    let points = path.distances_m.len();
    if points < 3 || points != path.heights_m.len() || !rising || path.distances_m[0] != 0.0 {
        return Err(TerrainError::Profile);
    }
    if !(30.0..=50_000.0).contains(&frequency_mhz) {
        return Err(TerrainError::Frequency);
    }
    let km: Vec<f64> = path.distances_m.iter().map(|metres| metres * 0.001).collect();
    let ground = path.heights_m;
    let radius_km = k * crate::geo::geodesic::EARTH_RADIUS_M / 1000.0;
    let wave_m = wavelength_m(frequency_mhz);
    let ends = (ground[0] + path.first_above_m, ground[points - 1] + path.last_above_m);
    let inner = Inner::new(&km);
    let bulge = 500.0 / radius_km;
    let bulges_m: Vec<f64> = inner.at_km.iter().map(|at| bulge * at * (inner.d_km - at)).collect();
    let tops_m: Vec<f64> =
        ground[1..points - 1].iter().zip(&bulges_m).map(|(top, bulge)| top + bulge).collect();
    let actual_db = bullington_db(&inner, &tops_m, ends, wave_m);
    let smooth = smooth_ends_m(&km, &inner, ground, ends);
    let above = (ends.0 - smooth.0, ends.1 - smooth.1);
    let smooth_db = bullington_db(&inner, &bulges_m, above, wave_m);
    let d_km = km[points - 1];
    let round_db = spherical_db(d_km, above, frequency_mhz / 1000.0, radius_km, swing);
    Ok(Diffraction {
        loss_db: actual_db + (round_db - smooth_db).max(0.0),
        bullington_db: actual_db,
        smooth_bullington_db: smooth_db,
        spherical_db: round_db,
    })
}
