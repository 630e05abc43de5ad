//! What turning an antenna round its axis costs.
//!
//! A single element loses −20 lg |cos δ|, floored by its cross-polar discrimination. A rigid orthogonal pair turned as
//! a whole costs almost nothing, because MIMO undoes the mixing; a pair that is not orthogonal loses.

/// Loss of a single element turned by `slant_deg` against the wave, dB. `discrimination_db`: of the worse of antenna
/// and path; the loss never exceeds it.
///
/// ```
/// use open_beacon_domain::antenna::polarisation::single_element_loss_db;
/// // 45 degrees: half the power, 3.01 dB; crossed: the discrimination is what is left.
/// assert!((single_element_loss_db(45.0, 20.0) - 3.0103).abs() < 1e-3);
/// assert_eq!(single_element_loss_db(90.0, 20.0), 20.0);
/// ```
pub fn single_element_loss_db(slant_deg: f64, discrimination_db: f64) -> f64 {
    (-20.0 * slant_deg.to_radians().cos().abs().log10()).min(discrimination_db)
}

/// Capacity of a 2x2 link with its receive pair's elements at two slants, bit/s/Hz, over that of an orthogonal pair:
/// 1 for orthogonal ones at any turn. The channel is two crossed waves of equal power at `snr_db` each.
pub fn pair_capacity_share(slant_1_deg: f64, slant_2_deg: f64, snr_db: f64) -> f64 {
    let snr = 10f64.powf(snr_db / 10.0);
    let row = |slant_deg: f64| [slant_deg.to_radians().cos(), slant_deg.to_radians().sin()];
    let (a, b) = (row(slant_1_deg), row(slant_2_deg));
    // det(I + snr H Hᵀ) of the real 2x2 channel with rows a and b.
    let (aa, bb, ab) = (a[0] * a[0] + a[1] * a[1], b[0] * b[0] + b[1] * b[1], a[0] * b[0] + a[1] * b[1]);
    let determinant = (1.0 + snr * aa) * (1.0 + snr * bb) - (snr * ab).powi(2);
    determinant.log2() / (2.0 * (1.0 + snr).log2())
}
