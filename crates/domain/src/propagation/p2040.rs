//! ITU-R P.2040: a single sheet of a known material, wave from straight ahead. Materials from table 3; permittivity
//! a f^b, conductivity c f^d, f in GHz (clause 2.1.4); transmission of a slab, clause 2.2.2.2.

use super::p525::wavelength_m;
use crate::model::Material;

trait Sheet {
    fn constants(self) -> Option<[f64; 4]>;
    fn metal_db(self) -> f64;
}

impl Sheet for Material {
    /// a, b, c, d of table 3.
    fn constants(self) -> Option<[f64; 4]> {
        match self {
            Self::Timber => Some([1.99, 0.0, 0.0047, 1.0718]),
            Self::Brick => Some([3.91, 0.0, 0.0238, 0.16]),
            Self::Concrete => Some([5.24, 0.0, 0.0462, 0.7822]),
            Self::Plasterboard => Some([2.73, 0.0, 0.0085, 0.9395]),
            Self::Glass | Self::CoatedGlass => Some([6.31, 0.0, 0.0036, 1.3394]),
            Self::Foil | Self::Metal => None,
        }
    }

    /// What a coat or sheet of metal takes, dB (common practice, no source).
    fn metal_db(self) -> f64 {
        match self {
            Self::CoatedGlass => 25.0,
            Self::Foil => 30.0,
            Self::Metal => 40.0,
            _ => 0.0,
        }
    }
}

/// Usual thickness, m (common practice, no source).
pub fn usual_m(material: Material) -> f64 {
    match material {
        Material::Timber => 0.05,
        Material::Brick => 0.12,
        Material::Concrete => 0.20,
        Material::Plasterboard => 0.013,
        Material::Glass | Material::CoatedGlass => 0.008,
        Material::Foil | Material::Metal => 0.001,
    }
}

type Complex = num_complex::Complex<f64>;

/// Loss through one sheet, dB. Thickness in m, above 0. What bounces inside the sheet makes it ripple with frequency.
///
/// ```
/// use open_beacon_domain::model::Material;
/// use open_beacon_domain::propagation::p2040::sheet_loss_db;
/// // A thin pane is nearly clear; a coat of metal on it is what shuts out the signal.
/// let pane = sheet_loss_db(Material::Glass, 1800.0, 0.004);
/// assert!(pane > 0.0 && pane < 3.0);
/// // Closed form, a quarter of the wave inside (16.6 mm): 10 lg(1 + (6.31 − 1)²/(4 · 6.31)) = 3.25 dB, and a little in it.
/// assert!((sheet_loss_db(Material::Glass, 1800.0, 0.016576) - 3.35).abs() < 0.15);
/// assert!(sheet_loss_db(Material::CoatedGlass, 1800.0, 0.004) > 25.0);
/// ```
pub fn sheet_loss_db(material: Material, frequency_mhz: f64, thickness_m: f64) -> f64 {
    let Some([a, b, c, d]) = material.constants() else { return material.metal_db() };
    let ghz = frequency_mhz / 1000.0;
    let conductivity = c * ghz.powf(d);
    let eta = Complex::new(a * ghz.powf(b), -17.98 * conductivity / ghz);
    let root = eta.sqrt();
    let turned_back = (Complex::ONE - root) / (Complex::ONE + root);
    let q = root * (std::f64::consts::TAU * thickness_m / wavelength_m(frequency_mhz));
    let once = (-Complex::I * q).exp();
    let squared = turned_back * turned_back;
    let through = (Complex::ONE - squared) * once / (Complex::ONE - squared * once * once);
    -20.0 * through.norm().log10() + material.metal_db()
}
