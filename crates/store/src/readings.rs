//! Samples with their carriers.

use crate::convert::{self, Result as Row_, from_json, id, json, millis, places, time};
use crate::{Store, StoreError};
use open_beacon_core::model::{Carrier, Reading, RunId, Sample, SampleId};
use rusqlite::{Connection, Row, ToSql};

const SAMPLE_COLUMNS: &str =
    "sample.id, sample.run_id, sample.taken_at, sample.activity, sample.mode, sample.neighbours";

fn sample_from_row(row: &Row) -> Row_<Sample> {
    // In the order of `SAMPLE_COLUMNS`.
    let mut next = places();
    Ok(Sample {
        id: id(row, next())?,
        run_id: id(row, next())?,
        taken_at: time(row, next())?,
        activity: convert::from_word(row, next())?,
        reading: Reading {
            mode: convert::from_word(row, next())?,
            carriers: Vec::new(),
            neighbours: from_json(row, next())?,
        },
    })
}

const CARRIER_COLUMNS: &str = "carrier.sample_id, carrier.technology, carrier.role, carrier.band, carrier.channel,
    carrier.channel_kind, carrier.bandwidth_mhz, carrier.pci, carrier.cell_identity, carrier.rsrp_dbm, carrier.rsrq_db,
    carrier.sinr_db, carrier.rssi_dbm, carrier.branch_rsrp_dbm, carrier.rank, carrier.cqi, carrier.mcs,
    carrier.transmit_power_dbm, carrier.timing_advance, carrier.flags";

/// A carrier and the sample it is of.
fn carrier_from_row(row: &Row) -> Row_<(SampleId, Carrier)> {
    // In the order of `CARRIER_COLUMNS`.
    let mut next = places();
    let of = id(row, next())?;
    let carrier = Carrier {
        technology: convert::from_word(row, next())?,
        role: convert::from_word(row, next())?,
        band: row.get(next())?,
        channel: row.get(next())?,
        channel_kind: convert::from_word(row, next())?,
        bandwidth_mhz: row.get(next())?,
        pci: row.get(next())?,
        cell_identity: row.get::<_, Option<i64>>(next())?.map(i64::cast_unsigned),
        rsrp_dbm: row.get(next())?,
        rsrq_db: row.get(next())?,
        sinr_db: row.get(next())?,
        rssi_dbm: row.get(next())?,
        branch_rsrp_dbm: from_json(row, next())?,
        rank: row.get(next())?,
        cqi: row.get(next())?,
        mcs: row.get(next())?,
        transmit_power_dbm: row.get(next())?,
        timing_advance: row.get(next())?,
        flags: from_json(row, next())?,
    };
    Ok((of, carrier))
}

pub(crate) fn insert(db: &Connection, sample: &Sample) -> Result<(), StoreError> {
    db.prepare_cached(
        "INSERT INTO sample (id, run_id, taken_at, activity, mode, neighbours) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
    )?
    .execute((
        sample.id.to_string(),
        sample.run_id.to_string(),
        millis(sample.taken_at),
        convert::word(&sample.activity),
        convert::word(&sample.reading.mode),
        json(&sample.reading.neighbours),
    ))?;
    for (place, carrier) in sample.reading.carriers.iter().enumerate() {
        insert_carrier(db, sample, place, carrier)?;
    }
    Ok(())
}

fn insert_carrier(
    db: &Connection,
    sample: &Sample,
    place: usize,
    carrier: &Carrier,
) -> Result<(), StoreError> {
    db.prepare_cached(
        "INSERT INTO carrier (sample_id, place, technology, role, band, channel, channel_kind, bandwidth_mhz, pci,
         cell_identity, rsrp_dbm, rsrq_db, sinr_db, rssi_dbm, branch_rsrp_dbm, rank, cqi, mcs, transmit_power_dbm,
         timing_advance, flags)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?19, ?20, ?21)",
    )?
    .execute(&[
        &sample.id.to_string() as &dyn ToSql,
        &(place as i64),
        &convert::word(&carrier.technology),
        &convert::word(&carrier.role),
        &carrier.band,
        &carrier.channel,
        &convert::word(&carrier.channel_kind),
        &carrier.bandwidth_mhz,
        &carrier.pci,
        &carrier.cell_identity.map(u64::cast_signed),
        &carrier.rsrp_dbm,
        &carrier.rsrq_db,
        &carrier.sinr_db,
        &carrier.rssi_dbm,
        &json(&carrier.branch_rsrp_dbm),
        &carrier.rank,
        &carrier.cqi,
        &carrier.mcs,
        &carrier.transmit_power_dbm,
        &carrier.timing_advance,
        &json(&carrier.flags),
    ] as &[&dyn ToSql])?;
    Ok(())
}

/// Samples selected by `filter` (a JOIN and WHERE over `sample`, one parameter), in order of time, carriers filled.
pub(crate) fn select(db: &Connection, filter: &str, parameter: &str) -> Result<Vec<Sample>, StoreError> {
    let sql = format!("SELECT {SAMPLE_COLUMNS} FROM sample {filter} ORDER BY sample.taken_at, sample.id");
    let mut statement = db.prepare_cached(&sql)?;
    let mut samples = statement.query_map([parameter], sample_from_row)?.collect::<Row_<Vec<_>>>()?;
    // All carriers in one pass, in the samples' own order: one question a sample would be a hundred thousand of them.
    let sql = format!(
        "SELECT {CARRIER_COLUMNS} FROM sample JOIN carrier ON carrier.sample_id = sample.id {filter}
         ORDER BY sample.taken_at, sample.id, carrier.place"
    );
    let mut statement = db.prepare_cached(&sql)?;
    let mut rows = statement.query([parameter])?;
    let mut at = 0;
    while let Some(row) = rows.next()? {
        let (of, carrier) = carrier_from_row(row)?;
        while samples.get(at).is_some_and(|sample| sample.id != of) {
            at += 1;
        }
        if let Some(sample) = samples.get_mut(at) {
            sample.reading.carriers.push(carrier);
        }
    }
    Ok(samples)
}

impl Store {
    /// Adds one sample to a run. When this returns, it is on disk.
    ///
    /// # Errors
    /// Where the run is not there.
    pub fn add_sample(&self, sample: &Sample) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        insert(&transaction, sample)?;
        transaction.commit()?;
        Ok(())
    }

    /// All samples of a run, in order of time.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn samples_of_run(&self, run: RunId) -> Result<Vec<Sample>, StoreError> {
        select(&self.read(), "WHERE sample.run_id = ?1", &run.to_string())
    }
}
