//! What counts when a setup is chosen: what the household puts first, and how easily a setup is had.

use serde::{Deserialize, Serialize};

/// What the household looks at first, once its needs are met.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Weighing {
    /// Download, upload, latency and steadiness alike.
    #[default]
    Alike,
    /// Download above all.
    Download,
    /// Upload above all.
    Upload,
    /// Latency under load above all.
    Latency,
    /// That the need is met at as many hours as possible.
    Steadiness,
    /// What costs and takes the least, and is undone the most easily.
    Ease,
}

impl Weighing {
    /// All of them.
    pub const ALL: [Self; 6] =
        [Self::Alike, Self::Download, Self::Upload, Self::Latency, Self::Steadiness, Self::Ease];

    /// What counts how much; what comes first counts more than all others together (common practice, no source).
    pub(super) fn weights(self) -> Weights {
        let little = Weights { download: 0.1, upload: 0.1, latency: 0.1, steadiness: 0.1, ease: 0.0 };
        match self {
            Self::Alike => {
                Weights { download: 0.25, upload: 0.25, latency: 0.25, steadiness: 0.25, ease: 0.0 }
            }
            Self::Download => Weights { download: 0.7, ..little },
            Self::Upload => Weights { upload: 0.7, ..little },
            Self::Latency => Weights { latency: 0.7, ..little },
            Self::Steadiness => Weights { steadiness: 0.7, ..little },
            Self::Ease => Weights { ease: 0.6, ..little },
        }
    }
}

/// What counts how much.
#[derive(Clone, Copy, Debug)]
pub(super) struct Weights {
    pub(super) download: f64,
    pub(super) upload: f64,
    pub(super) latency: f64,
    pub(super) steadiness: f64,
    pub(super) ease: f64,
}

/// What a setup takes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Takes {
    /// Price of its parts, in the site's currency.
    pub price: f64,
    /// Work, h.
    pub hours: f64,
    /// Whether somebody goes up a ladder or onto the roof for it.
    pub climb: bool,
    /// Nothing is drilled, and no device is opened or changed for good.
    pub reversible: bool,
}

/// How easily each setup is had, 0 to 1, against the hardest of those compared: price, hours, climb and what cannot be undone count alike
/// (common practice, no source).
pub fn ease(all: &[Takes]) -> Vec<f64> {
    let most = |of: fn(&Takes) -> f64| all.iter().map(of).fold(0.0, f64::max);
    let (dearest, longest) = (most(|one| one.price), most(|one| one.hours));
    let share = |value: f64, most: f64| if most > 0.0 { value / most } else { 0.0 };
    let of = |one: &Takes| {
        let flags = f64::from(u8::from(one.climb)) + f64::from(u8::from(!one.reversible));
        1.0 - (share(one.price, dearest) + share(one.hours, longest) + flags) / 4.0
    };
    all.iter().map(of).collect()
}
