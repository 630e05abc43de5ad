-- What was foretold of a setup before anything was measured on it.
CREATE TABLE prediction (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX prediction_of_site ON prediction (site_id);
