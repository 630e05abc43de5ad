-- Which runs lack a digest is asked at every start and after every write of a sweep or a round: answered from two indexes, without
-- a row of either table.
DROP INDEX run_digest_samples;
CREATE INDEX run_digest_kept ON run_digest(run_id, format, samples);
CREATE INDEX run_over ON run(completion, id);
