//! What walls or a roof take of an antenna inside.

use super::gaussian::{Normal, Z_90};
use open_beacon_domain::model::{Building, Mount, SiteSettings};
use open_beacon_domain::propagation::p2040::{sheet_loss_db, usual_m};
use open_beacon_domain::propagation::p2109::building_entry_loss_db;

/// Spread of a known sheet's loss: its thickness and wetness are not known, dB (common practice, no source).
const SHEET_SPREAD_DB: f64 = 3.0;
/// Quantile of the standard normal distribution at 95 %.
const Z_95: f64 = 1.644_853_6;

/// How likely a house of which nothing is said is of each of P.2109's two kinds, in the order of [`BUILDINGS`] (common practice, no
/// source: the Recommendation says nothing of how common they are).
const BUILDING_SHARES: [f64; 2] = [0.7, 0.3];
/// The two kinds.
const BUILDINGS: [Building; 2] = [Building::Traditional, Building::ThermallyEfficient];

/// How likely each of P.2109's two kinds of house is before anything was measured, in the order that [`wall_losses_db`] has.
pub fn building_shares(settings: &SiteSettings) -> [f64; 2] {
    match settings.outdoor.building {
        Some(said) => BUILDINGS.map(|one| f64::from(u8::from(one == said))),
        None => BUILDING_SHARES,
    }
}

/// Loss of walls or roof at a frequency, dB, with its spread over houses and spots, for each of two kinds of house: one sheet of
/// the material that is said (ITU-R P.2040) in either, else the statistics over buildings (ITU-R P.2109). Windows and attics, of
/// which P.2109 knows nothing, are taken from the lower half of it (common practice, no source). Nothing outside.
pub fn wall_losses_db(mount: Mount, settings: &SiteSettings, frequency_mhz: f64) -> [Normal; 2] {
    let said = match mount {
        Mount::Attic => settings.survey.roof,
        Mount::Indoor => settings.survey.wall,
        _ => None,
    };
    if let Some(material) = said {
        let mean = sheet_loss_db(material, frequency_mhz, usual_m(material));
        return [Normal { mean, spread: SHEET_SPREAD_DB }; 2];
    }
    BUILDINGS.map(|building| {
        let at = |share| building_entry_loss_db(building, frequency_mhz, 0.0, share).unwrap_or(10.0).max(0.0);
        match mount {
            Mount::Indoor => Normal { mean: at(0.5), spread: (at(0.9) - at(0.1)) / (2.0 * Z_90) },
            Mount::Window | Mount::Attic => Normal { mean: at(0.25), spread: (at(0.5) - at(0.05)) / Z_95 },
            _ => Normal { mean: 0.0, spread: 0.0 },
        }
    })
}

/// Mean and spread of [`wall_losses_db`] over both kinds of house, dB, before anything was measured.
pub fn wall_loss_db(mount: Mount, settings: &SiteSettings, frequency_mhz: f64) -> Normal {
    let losses = wall_losses_db(mount, settings, frequency_mhz);
    Normal::of_mixture(building_shares(settings).into_iter().zip(losses))
}
