//! What limits a setup, in values and in words.

use crate::views::comparison::labels;
use open_beacon_core::diagnosis::{Diagnosis, Known, TellingTest, diagnose, signs};
use open_beacon_core::judge::{SetupEvidence, mast_aimed_at};
use open_beacon_core::model::{ConnectionMode, Mast, Setup, SetupId};
use open_beacon_core::protocol::{Built, ChangedPart, changes};
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// A cause in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CauseSaid {
    /// "A busy cell".
    pub name: String,
    /// What speaks for it.
    pub speaks_for: Vec<String>,
    /// What speaks against it.
    pub against: Vec<String>,
}

/// What limits a setup.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct DiagnosisView {
    pub diagnosis: Diagnosis,
    pub title: String,
    /// What to do about it, and the test that tells more.
    pub detail: String,
    /// In the order of the diagnosis.
    pub causes_said: Vec<CauseSaid>,
}

/// Newest runs whose samples are read for layers and receive branches.
const RUNS: u32 = 5;

/// What limits a setup by everything recorded on it; none where nothing was.
pub(crate) fn view(store: &Store, id: SetupId) -> Result<Option<DiagnosisView>, StoreError> {
    let setup = store.setup(id)?;
    let position = store.position(setup.position_id)?;
    let (site, settings) = (store.site(position.site_id)?, store.settings(position.site_id)?);
    let network = &settings.network;
    let evidence = |id| -> Result<SetupEvidence, StoreError> {
        Ok(store.evidence(id, String::new(), None)?.of_network(network))
    };
    let own = evidence(id)?;
    if own.tests.is_empty() && !own.has_samples() {
        return Ok(None);
    }
    let swapped = match otherwise_plugged(store, &setup)? {
        Some(other) => Some(evidence(other)?),
        None => None,
    };
    let samples = store.newest_samples(id, network, RUNS)?;
    let mode = samples.last().map_or(ConnectionMode::Unknown, |sample| sample.reading.mode);
    let masts: Vec<Mast> = store.entities(site.id)?;
    let aimed = mast_aimed_at(&setup, position.place.or(site.place), &masts);
    let cells = aimed.map_or(Vec::new(), |mast| mast.cells.iter().filter_map(|cell| cell.pci).collect());
    let known = Known {
        evidence: &own,
        samples: &samples,
        swapped: swapped.as_ref(),
        aimed_at: &cells,
        link: &settings.link,
        mode,
        zone: site.time_zone,
    };
    let diagnosis = diagnose(&signs(&known), &TellingTest::doable(&setup.spec, &own));
    let label = labels(store, &[id], crate::catalogue::style(&settings))?.0.pop().unwrap_or_default();
    let said = |one: &open_beacon_core::diagnosis::RankedCause| CauseSaid {
        name: words::diagnosis::name(one.cause),
        speaks_for: one.speaks_for.iter().map(|sign| words::diagnosis::sign(*sign)).collect(),
        against: one.against.iter().map(|sign| words::diagnosis::sign(*sign)).collect(),
    };
    Ok(Some(DiagnosisView {
        title: words::diagnosis::title(&label, &diagnosis),
        detail: words::diagnosis::detail(&diagnosis),
        causes_said: diagnosis.causes.iter().map(said).collect(),
        diagnosis,
    }))
}

/// The newest setup that differs in nothing but its leads.
fn otherwise_plugged(store: &Store, setup: &Setup) -> Result<Option<SetupId>, StoreError> {
    let position = store.position(setup.position_id)?;
    let here = Built { setup, position: &position };
    let all = store.setups(position.site_id)?;
    let swapped = all.iter().filter(|other| {
        let there = Built { setup: other, position: &position };
        other.position_id == setup.position_id && changes(here, there) == [ChangedPart::Ports]
    });
    Ok(swapped.max_by_key(|other| other.created_at).map(|other| other.id))
}
