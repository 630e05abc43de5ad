//! What is expected of a setup: one answer for every page that shows it.

use crate::site_record::{RadioEnvironment, SiteRecord};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::judge::{CarrierOutlook, SetupOutlook, narrowings, setup_outlook};
use open_beacon_core::kit::need::need;
use open_beacon_core::link::landscape::WhatIf;
use open_beacon_core::link::predict::{LinkSetup, predictions};
use open_beacon_core::model::SetupId;
use open_beacon_core::words;
use open_beacon_core::words::why::WhyRow;
use serde::Serialize;
use utoipa::ToSchema;

/// What is expected of a setup, beside what was measured with it, with its reasons.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct SetupOutlookView {
    pub title: String,
    /// Expected, Mbit/s.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Those it receives, the ones that bring the most first.
    pub carriers: Vec<CarrierOutlook>,
    /// How far the signal may fall.
    pub margin: Option<String>,
    /// What to expect over a day.
    pub day: Option<String>,
    /// What makes the download's range as wide as it is.
    pub doubts: Option<String>,
    /// What would narrow it, the best for its time first.
    pub narrowing: Vec<String>,
    /// Where the figures come from.
    pub why: Vec<WhyRow>,
}

/// Of a setup of the record.
pub(crate) fn view(data: &SiteRecord, id: SetupId) -> SetupOutlookView {
    let Some(own) = data.setups.iter().find(|one| one.setup.id == id) else {
        let title = "Nothing is expected of an archived setup. Restore it under Archived on Mount.";
        return SetupOutlookView { title: title.into(), ..SetupOutlookView::default() };
    };
    let need = need(&data.settings.kit.uses);
    let found = data.with(|radio| {
        let (_, setup) = radio.setups.iter().find(|(setup, _)| *setup == id)?;
        let need_mbps = (need.down_mbps, need.up_mbps);
        setup_outlook(radio.env, setup, need_mbps, data.of_gateway(own), radio.stands.as_ref())
    });
    found.map_or_else(
        || SetupOutlookView { title: words::outlook::NOTHING_KNOWN.into(), ..SetupOutlookView::default() },
        |found| said(&found),
    )
}

fn said(found: &SetupOutlook) -> SetupOutlookView {
    SetupOutlookView {
        title: words::outlook::title(found),
        down_mbps: found.down_mbps,
        up_mbps: found.up_mbps,
        carriers: found.carriers.clone(),
        margin: Some(words::why::margin(found.margin.as_ref())),
        day: found.day.as_ref().map(words::why::day),
        doubts: words::doubts::sentence(&found.doubts),
        narrowing: found.narrowings.iter().map(words::track::narrowing).collect(),
        why: found.why.as_ref().map_or_else(Vec::new, words::why::rows),
    }
}

/// What would narrow what is foretold of a setup, in words; with a mast, else with the one that serves it best.
pub(crate) fn narrowing(radio: &RadioEnvironment, setup: &LinkSetup, mast: Option<usize>) -> Vec<String> {
    let mut found = predictions(radio.env, setup, WhatIf::default()).into_iter();
    let found = found.find(|one| mast.is_none() || one.mast == mast);
    let all =
        found.map_or_else(Vec::new, |found| narrowings(radio.env, setup, &found, radio.stands.as_ref()));
    all.iter().map(words::track::narrowing).collect()
}
