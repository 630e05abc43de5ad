-- What was heard in a run is read at every comparison, thousands of times over: as packed bytes, beside its key. It is worked out again
-- of the samples when the program opens.
DROP TABLE run_digest;
CREATE TABLE run_digest (
  run_id TEXT PRIMARY KEY REFERENCES run(id) ON DELETE CASCADE,
  format INTEGER NOT NULL,
  samples INTEGER NOT NULL,
  radio BLOB NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX run_digest_kept ON run_digest(run_id, format, samples);
