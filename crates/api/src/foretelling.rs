//! Predictions are kept before the first measurement that they can be held against.

use crate::grounds::Grounds;
use crate::site_record::SiteRecord;
use chrono::{DateTime, Utc};
use open_beacon_core::judge::figures;
use open_beacon_core::link::predict::predict;
use open_beacon_core::model::{KeptPrediction, PredictedFigure, PredictionId, Run, SetupId};
use open_beacon_store::{Created, Store, StoreError};
use serde::Serialize;

/// Keeps what is foretold of a setup on which nothing was measured yet. A measurement does not wait on it: what fails is logged.
pub(crate) fn keep(store: &Store, grounds: &Grounds, setup: SetupId, now: DateTime<Utc>) {
    if let Err(error) = try_keep(store, grounds, setup, now) {
        tracing::warn!(%setup, %error, "what was foretold is not kept");
    }
}

/// Adds a run that begins now, with what is foretold of its setup kept before.
///
/// # Errors
/// As `Store::create_run`.
pub(crate) fn begun(
    store: &Store,
    grounds: &Grounds,
    run: &Run,
    body: &impl Serialize,
) -> Result<(Created, Run), StoreError> {
    keep(store, grounds, run.setup_id, run.started_at);
    Ok((store.create_run(run, body)?, store.run(run.id)?))
}

fn try_keep(
    store: &Store,
    grounds: &Grounds,
    setup_id: SetupId,
    made_at: DateTime<Utc>,
) -> Result<(), StoreError> {
    if store.is_measured(setup_id)? {
        return Ok(());
    }
    let site_id = store.site_of_setup(setup_id)?;
    let record = SiteRecord::read(store, grounds, site_id)?;
    let figures = foretold(&record, setup_id);
    if figures.is_empty() {
        return Ok(());
    }
    let prediction = KeptPrediction {
        id: PredictionId(setup_id.0),
        site_id,
        setup_id,
        made_at,
        program: env!("CARGO_PKG_VERSION").into(),
        setups: heard(&record),
        masts: record.masts.iter().map(|mast| mast.id).collect(),
        figures,
    };
    store.keep_prediction(&prediction)?;
    Ok(())
}

/// What a record foretells of a setup.
pub(crate) fn foretold(record: &SiteRecord, setup_id: SetupId) -> Vec<PredictedFigure> {
    record.with(|radio| {
        let asked = radio.setups.iter().find(|(setup, _)| *setup == setup_id);
        let foretold = asked.and_then(|(_, setup)| predict(radio.env, setup));
        foretold.map_or_else(Vec::new, |foretold| figures(radio.env, &foretold))
    })
}

/// Setups that the gateway was heard on.
pub(crate) fn heard(record: &SiteRecord) -> Vec<SetupId> {
    let heard = record.setups.iter().filter(|one| record.of_gateway(one).is_some());
    heard.map(|one| one.setup.id).collect()
}
