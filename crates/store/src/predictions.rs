//! Predictions as they were made.

use crate::{Store, StoreError, survey};
use open_beacon_core::model::{KeptPrediction, SetupId};
use rusqlite::Connection;

fn is_measured(db: &Connection, setup: SetupId) -> Result<bool, StoreError> {
    let sql = "SELECT 1 FROM run WHERE setup_id = ?1 AND (
                 EXISTS (SELECT 1 FROM sample WHERE sample.run_id = run.id)
                 OR EXISTS (SELECT 1 FROM speed_test WHERE speed_test.run_id = run.id))";
    Ok(db.prepare_cached(sql)?.exists([setup.to_string()])?)
}

impl Store {
    /// Whether anything was measured on a setup.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn is_measured(&self, setup: SetupId) -> Result<bool, StoreError> {
        is_measured(&self.read(), setup)
    }

    /// Keeps a prediction in place of an earlier one, unless its setup has been measured meanwhile. Says whether it was kept.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] where the identifier is another site's.
    pub fn keep_prediction(&self, prediction: &KeptPrediction) -> Result<bool, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        if is_measured(&transaction, prediction.setup_id)? {
            return Ok(false);
        }
        survey::put(&transaction, prediction)?;
        transaction.commit()?;
        Ok(true)
    }
}
