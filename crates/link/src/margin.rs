//! How far the signal may fall before a household's need is missed: the one meaning of margin on every page.

use super::environment::Environment;
use super::over_time::Fading;
use super::predict::LinkPrediction;
use open_beacon_domain::propagation::itm::hourly_spread_db;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

/// How far the signal may fall before the need is missed.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Margin {
    /// Likely, dB.
    pub margin_db: f64,
    /// With luck against it and for it, dB; 0 where the need is missed then.
    pub low_db: f64,
    /// Upper end, dB.
    pub high_db: f64,
    /// Share of time that the need is met, as far as the signal decides it.
    pub availability: f64,
    /// How the signal scatters over time: measured at this house, else assumed. Shadowing from place to place is another thing.
    pub fading: Fading,
}

/// Deepest fade searched, dB.
const DEEPEST_FADE_DB: f64 = 60.0;

impl LinkPrediction<'_> {
    /// How the signal of this setup scatters over time.
    pub fn fading(&self, env: &Environment) -> Fading {
        let strongest = self.carriers.iter().find(|one| one.arriving.loss.is_some());
        let hourly_db = strongest.and_then(|one| {
            let mast = &env.landscape.masts[self.mast?];
            let (place, mast_height_m) = (one.arriving.point.place?, env.landscape.mast_height_m(mast));
            let way = env.landscape.route(place, self.mast?).way();
            let heights_m = [one.arriving.point.height_m, mast_height_m];
            Some(hourly_spread_db(way.distance_m, heights_m, env.cells[one.cell].frequency_mhz))
        });
        env.fading.on_path(hourly_db.unwrap_or(0.0))
    }

    /// How far the signal may fall in each case until down or up misses what is needed, Mbit/s; `None` where it is missed in the likely one.
    pub fn margin(&self, env: &Environment, down_mbps: f64, up_mbps: f64) -> Option<Margin> {
        let deepest = |case: usize| {
            deepest_fade_db(&|fade_db| {
                let (down, up) = self.faded_mbps(case, fade_db);
                down >= down_mbps && up >= up_mbps
            })
        };
        let margin_db = deepest(1)?;
        let fading = self.fading(env);
        let availability = Normal::new(0.0, fading.spread_db).map_or(0.5, |spread| spread.cdf(margin_db));
        Some(Margin {
            margin_db,
            low_db: deepest(0).unwrap_or(0.0),
            high_db: deepest(2).unwrap_or(margin_db),
            availability,
            fading,
        })
    }
}

/// The deepest fade at which `met` still holds, to a tenth of a decibel.
fn deepest_fade_db(met: &dyn Fn(f64) -> bool) -> Option<f64> {
    if !met(0.0) {
        return None;
    }
    let (mut held, mut lost) = (0.0, DEEPEST_FADE_DB);
    while lost - held > 0.1 {
        let middle = f64::midpoint(held, lost);
        if met(middle) { held = middle } else { lost = middle }
    }
    Some(held)
}
