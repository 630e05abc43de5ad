//! The sentence on top of a stage and the one next sensible action.

use super::Finding;
use super::compare::{Comparison, VersusVerdict};
use super::evidence::SetupEvidence;
use crate::model::{Activity, SpeedFigure};
use crate::stats::{FEWEST_SITTINGS, FEWEST_TESTS};
use serde::{Deserialize, Serialize};

/// The next sensible action on a stage; the screen makes it the one filled button.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum NextAction {
    AddSetup,
    Record,
    SpeedTest { tests: usize },
    Compare,
    ChooseSetups,
    Nothing,
}

/// Title, supporting findings and next action.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Advice {
    /// What is said on top.
    pub title: Finding,
    /// Supporting findings.
    pub detail: Vec<Finding>,
    /// The next sensible action.
    pub next: NextAction,
}

/// What the log of one setup says. `setup` is `None` where the site has no setup to work on.
pub fn log_advice(setup: Option<&SetupEvidence>) -> Advice {
    let Some(evidence) = setup else {
        return Advice { title: Finding::NoSetup, detail: Vec::new(), next: NextAction::AddSetup };
    };
    let name = evidence.label.clone();
    let typical = |figure| super::figure_row(evidence, figure).geometric_mean;
    let download = super::figure_row(evidence, SpeedFigure::Download);
    let (downloads, sittings) = (download.tests, download.sittings);
    let mut detail = carrier_medians(evidence);
    if !evidence.has_samples() && evidence.tests.is_empty() {
        return Advice { title: Finding::NothingRecorded { setup: name }, detail, next: NextAction::Record };
    }
    if downloads == 0 {
        let title = Finding::TestsMissing { setup: name, have: 0, need: FEWEST_TESTS };
        return Advice { title, detail, next: NextAction::SpeedTest { tests: FEWEST_TESTS } };
    }
    let title = Finding::SetupFigures {
        setup: name.clone(),
        tests: downloads,
        sittings,
        download_mbps: typical(SpeedFigure::Download),
        upload_mbps: typical(SpeedFigure::Upload),
        idle_latency_ms: typical(SpeedFigure::IdleLatency),
    };
    // More tests of the same kind would not help: it is said before how many are missing.
    let doubted = super::tests_doubted(&evidence.tests);
    if downloads < FEWEST_TESTS {
        detail.insert(0, Finding::TestsMissing { setup: name, have: downloads, need: FEWEST_TESTS });
        detail.splice(0..0, doubted);
        return Advice { title, detail, next: NextAction::SpeedTest { tests: FEWEST_TESTS - downloads } };
    }
    if sittings < FEWEST_SITTINGS {
        detail.insert(0, Finding::SittingsMissing { have: sittings, need: FEWEST_SITTINGS });
    }
    detail.splice(0..0, doubted);
    let next = if evidence.has_samples() { NextAction::Compare } else { NextAction::Record };
    Advice { title, detail, next }
}

/// One finding for the carrier that moves the most bits: the widest. Trickle samples are preferred, because idle
/// ones miss NR.
fn carrier_medians(evidence: &SetupEvidence) -> Vec<Finding> {
    let radio = evidence.whole_radio().summary();
    let rank = |activity| match activity {
        Activity::Trickle => 0,
        Activity::Loaded => 1,
        Activity::Unknown => 2,
        Activity::Idle => 3,
    };
    let widest = radio.carriers.iter().max_by(|a, b| {
        let width = |carrier: &super::CarrierSummary| carrier.bandwidth_mhz.unwrap_or(0.0);
        width(a).total_cmp(&width(b)).then(rank(b.activity).cmp(&rank(a.activity)))
    });
    widest
        .map(|carrier| Finding::CarrierMedians {
            cell: carrier.cell,
            samples: carrier.samples,
            rsrp_dbm: carrier.rsrp_dbm.map(|summary| summary.median),
            sinr_db: carrier.sinr_db.map(|summary| summary.median),
            class: carrier.class.map(|class| class.class),
        })
        .into_iter()
        .collect()
}

/// A setup that cannot be judged yet is worth a word where it has at least this share of the leader's ratio (common
/// practice, no source).
pub(super) const MAY_MATCH: f64 = 0.7;

/// What a comparison says in one sentence. The best download leads; what may match it or is too thin to tell is
/// named in the detail.
pub fn verdict_advice(comparison: &Comparison) -> Advice {
    let with_tests = comparison.rows.iter().filter(|row| row.tests > 0).count();
    if comparison.rows.len() < 2 {
        let title = Finding::NothingToCompare { with_tests };
        return Advice { title, detail: Vec::new(), next: NextAction::ChooseSetups };
    }
    let download = |row: &super::ComparisonRow| {
        row.figures
            .iter()
            .find(|figure| figure.figure == SpeedFigure::Download)
            .and_then(|figure| figure.versus)
    };
    let others = &comparison.rows[1..];
    let gains = |row: &super::ComparisonRow, word| download(row).is_some_and(|versus| versus.verdict == word);
    let of_word = |word: VersusVerdict| others.iter().filter(move |row| gains(row, word));
    let by_ratio = |a: &&super::ComparisonRow, b: &&super::ComparisonRow| {
        let ratio = |row| download(row).map_or(0.0, |versus| versus.of.ratio);
        ratio(a).total_cmp(&ratio(b))
    };
    let leader = (of_word(VersusVerdict::ClearGain).max_by(by_ratio))
        .or_else(|| of_word(VersusVerdict::LikelyGain).max_by(by_ratio))
        .or_else(|| others.iter().max_by(by_ratio));
    let Some(leader) = leader else {
        let title = Finding::NothingToCompare { with_tests };
        return Advice { title, detail: Vec::new(), next: NextAction::ChooseSetups };
    };
    let of = |row: &super::ComparisonRow, wanted: SpeedFigure| {
        row.findings.iter().find(|finding| figure_of(finding) == Some(wanted)).cloned()
    };
    let title = of(leader, SpeedFigure::Download)
        .unwrap_or(Finding::NotMeasured { setup: leader.label.clone(), figure: SpeedFigure::Download });
    let mut detail: Vec<Finding> = leader.figures.iter().filter_map(ratio_range).collect();
    let radio = leader.findings.iter().find(|finding| {
        matches!(
            finding,
            Finding::CarrierDiffers { .. }
                | Finding::RadioWithoutSpeed { .. }
                | Finding::StrongerNoCleaner { .. }
                | Finding::UploadWithoutRadio { .. }
        )
    });
    detail.extend(radio.cloned());
    let ratio_of = |row: &super::ComparisonRow| download(row).map_or(0.0, |versus| versus.of.ratio);
    let may_match = |row: &&super::ComparisonRow| ratio_of(row) >= MAY_MATCH * ratio_of(leader);
    let thin: Vec<Finding> = others
        .iter()
        .filter(|row| row.setup_id != leader.setup_id)
        .filter(may_match)
        .filter_map(|row| of(row, SpeedFigure::Download))
        .filter(|finding| untested(finding).is_some() || matches!(finding, Finding::CannotTell { .. }))
        .collect();
    // What cannot be told yet for want of sittings is one sentence, however many setups it is said of.
    let (setups, unclear): (Vec<_>, Vec<_>) = thin.iter().partition(|finding| untested(finding).is_some());
    detail.extend(unclear.into_iter().cloned());
    let setups: Vec<String> = setups.into_iter().filter_map(untested).cloned().collect();
    if !setups.is_empty() {
        detail.push(Finding::RivalsUntested { setups, need: FEWEST_SITTINGS });
    }
    detail.extend(leader.differed.iter().take(1).cloned());
    let sure = matches!(title, Finding::ClearGain { .. } | Finding::ClearLoss { .. } | Finding::Same { .. });
    let too_few = !sure;
    let next = if too_few { NextAction::SpeedTest { tests: FEWEST_TESTS } } else { NextAction::Nothing };
    Advice { title, detail, next }
}

/// The setup that was tested in too few sittings to be sure of.
fn untested(finding: &Finding) -> Option<&String> {
    match finding {
        Finding::TooFew { setup, .. } => Some(setup),
        Finding::LikelyGain { setup, sittings, .. } if *sittings < FEWEST_SITTINGS => Some(setup),
        _ => None,
    }
}

/// The ratios of both rates with their intervals.
fn ratio_range(row: &super::FigureRow) -> Option<Finding> {
    let versus = row.versus.filter(|_| row.figure.larger_is_better())?;
    Some(Finding::RatioRange {
        figure: row.figure,
        ratio: versus.told_ratio,
        interval: versus.model.interval,
    })
}

fn figure_of(finding: &Finding) -> Option<SpeedFigure> {
    match finding {
        Finding::ClearGain { figure, .. }
        | Finding::LikelyGain { figure, .. }
        | Finding::LikelyLoss { figure, .. }
        | Finding::ClearLoss { figure, .. }
        | Finding::CannotTell { figure, .. }
        | Finding::Same { figure, .. }
        | Finding::TooFew { figure, .. }
        | Finding::NotMeasured { figure, .. } => Some(*figure),
        _ => None,
    }
}
