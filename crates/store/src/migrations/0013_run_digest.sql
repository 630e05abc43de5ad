-- What was heard in a run, in short: worked out of its samples by the program, so that a long record is not read again for every
-- page. It can be thrown away at any time. `format` says which program wrote it.
CREATE TABLE run_digest (
  run_id TEXT PRIMARY KEY REFERENCES run(id) ON DELETE CASCADE,
  format INTEGER NOT NULL,
  samples INTEGER NOT NULL,
  radio TEXT NOT NULL
) STRICT;

-- A digest holds for the samples it was made of.
CREATE TRIGGER sample_ends_digest AFTER INSERT ON sample BEGIN
  DELETE FROM run_digest WHERE run_id = NEW.run_id;
END;

-- The shell shows how many samples, tests and sittings each setup has: counted without reading them.
CREATE INDEX run_digest_samples ON run_digest(run_id, samples);
CREATE INDEX speed_test_counts ON speed_test(run_id, completion, sitting_id);
