//! What the Baseline stage shows.

use crate::site_record::SiteRecord;
use crate::views::outlook;
use open_beacon_core::judge::{Baseline, NextAction, OutdoorOutlook, Said, baseline};
use open_beacon_core::link::predict::LinkSetup;
use open_beacon_core::model::{
    AntennaSwitch, KnownMast, LinkAssumptions, OutdoorAssumptions, OutdoorKind, SetupId,
};
use open_beacon_core::words::why::WhyRow;
use open_beacon_core::words::{self, Style};
use serde::Serialize;
use utoipa::ToSchema;

/// What the Baseline stage shows, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BaselineView {
    pub title: String,
    pub next: NextAction,
    pub baseline: Baseline,
    /// The verdict's reasons in words, with the setup whose numbers each rests on.
    pub reasons: Vec<SaidOf>,
    pub would_change: Vec<Said>,
    /// Readings that would narrow what is foretold of an antenna outside, the best for its time first, in words.
    pub narrowing: Vec<String>,
    /// Where the figures of the fastest kind of antenna come from, and which kind that is.
    pub why: Vec<WhyRow>,
    pub why_of: Option<OutdoorKind>,
    pub network_said: Vec<Said>,
    /// How each spot faces the known mast, in words.
    pub facing_said: Vec<Said>,
    /// For each spot, each carrier's explanation.
    pub explained: Vec<Vec<Vec<Said>>>,
    pub assumed: OutdoorAssumptions,
    pub link: LinkAssumptions,
    pub known_mast: Option<KnownMast>,
}

/// A sentence with the setup whose numbers it rests on.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SaidOf {
    pub said: Said,
    pub setup_id: Option<SetupId>,
}

pub(crate) fn view(data: &SiteRecord, network: Option<&str>) -> BaselineView {
    let settings = &data.settings;
    let stock = || data.setups.iter().filter(|one| one.setup.spec.antenna == AntennaSwitch::Internal);
    let views = stock().flat_map(|one| one.views.clone()).collect();
    let (found, narrowing) = data.with(|radio| {
        let found = baseline(stock().count(), views, network, radio.env, radio.outside);
        (found, outlook::narrowing(radio, &LinkSetup::new(radio.outside, radio.assumed), None))
    });
    let down = |one: &OutdoorOutlook| one.download_mbps.map_or(0.0, |range| range.likely);
    let fastest = found.verdict.outlooks.iter().max_by(|a, b| down(a).total_cmp(&down(b)));
    let style = data.style();
    let said = |findings: &[_]| -> Vec<Said> { all_said(findings, style) };
    BaselineView {
        title: words::sentence(&found.verdict.title, style),
        next: found.next,
        reasons: found
            .verdict
            .reasons
            .iter()
            .map(|reason| SaidOf {
                said: words::said(reason.finding.clone(), style),
                setup_id: reason.setup_id,
            })
            .collect(),
        would_change: said(&found.verdict.would_change),
        narrowing,
        why: fastest.and_then(|one| one.why.as_ref()).map_or_else(Vec::new, words::why::rows),
        why_of: fastest.map(|one| one.kind),
        network_said: said(&found.network_findings),
        facing_said: said(&found.facing),
        explained: found
            .spots
            .iter()
            .map(|spot| spot.carriers.iter().map(|carrier| said(&carrier.findings)).collect())
            .collect(),
        assumed: settings.outdoor.clone(),
        link: settings.link.clone(),
        known_mast: settings.known_mast.clone(),
        baseline: found,
    }
}

pub(crate) fn all_said(findings: &[open_beacon_core::judge::Finding], style: Style) -> Vec<Said> {
    findings.iter().cloned().map(|finding| words::said(finding, style)).collect()
}
