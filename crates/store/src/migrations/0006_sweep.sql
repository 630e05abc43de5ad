-- Sweeps and their stops: values as JSON, read whole.
CREATE TABLE sweep (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX sweep_of_site ON sweep (site_id);
CREATE TABLE sweep_stop (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX sweep_stop_of_site ON sweep_stop (site_id);
