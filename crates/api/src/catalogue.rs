//! The catalogue as a site sees it, and how it speaks: what routes and jobs read alike.

use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::model::SiteSettings;
use open_beacon_core::words::Style;
use open_beacon_store::{Store, StoreError};

/// The catalogue as the store has it.
pub(crate) fn catalogue(store: &Store) -> Result<Catalogue, StoreError> {
    Ok(Catalogue::with_own(store.own_parts()?))
}

/// Units that a site's sentences are said in.
pub(crate) fn style(settings: &SiteSettings) -> Style {
    Style { units: settings.units }
}
