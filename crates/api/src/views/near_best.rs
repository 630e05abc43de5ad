//! How near the best what stands now is, in values and in words.

use crate::site_record::SiteRecord;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::effort::effort;
use open_beacon_core::model::{Kit, SetupId};
use open_beacon_core::near_best::{BetterStep, Elsewhere, NearBest, Reach, near_best};
use open_beacon_core::survey::rank::Question;
use open_beacon_core::words;
use serde::Serialize;
use utoipa::ToSchema;

/// How near the best what stands now is.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct NearBestView {
    pub found: NearBest,
    pub title: String,
    /// The step there, what it brings and what it costs.
    pub detail: String,
}

/// What stands now against everything that is foretold for the house; none where nothing is known of what it receives.
pub(crate) fn view(data: &SiteRecord) -> Option<NearBestView> {
    let active = data.settings.active_setup_id;
    // A kit that was not bought yet is still to be paid.
    let price = |kit: &Kit| {
        let kit_price = effort(&Resolved::new(&kit.spec, &data.catalogue)).price;
        if kit.bought_on.is_some() { 0.0 } else { kit_price }
    };
    let found = data.with(|radio| {
        let others = radio.setups.iter().filter(|(id, _)| Some(*id) != active);
        let setups = others.map(|(setup_id, setup)| Elsewhere {
            setup_id: *setup_id,
            setup: setup.clone(),
            price: if data.measured(*setup_id) { 0.0 } else { data.kit.as_ref().map_or(0.0, price) },
        });
        let question = Question { positions: radio.positions, antenna: radio.antenna };
        let reach = Reach {
            stands: radio.stands.clone()?,
            setups: setups.collect(),
            elsewhere: data.kit.as_ref().map(|kit| (question, price(kit))),
            catalogue: &data.catalogue,
        };
        near_best(&reach, &radio.scenario())
    })?;
    let name = |id: SetupId| {
        let own = data.setups.iter().find(|one| one.setup.id == id);
        own.map(|one| words::setup_label(&one.position, &one.setup.spec))
    };
    let stands = active.and_then(name).unwrap_or_else(|| "The gateway where it stands".into());
    let other = match found.best.as_ref().map(|best| &best.step) {
        Some(BetterStep::Setup { setup_id }) => name(*setup_id).unwrap_or_default(),
        _ => String::new(),
    };
    Some(NearBestView {
        title: words::near_best::title(&stands, &found),
        detail: words::near_best::detail(&found, &other, &data.settings.kit.currency, data.style()),
        found,
    })
}
