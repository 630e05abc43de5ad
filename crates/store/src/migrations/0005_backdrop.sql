-- Aerial pictures behind the plan, as they were given.
CREATE TABLE backdrop (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX backdrop_of_site ON backdrop (site_id);
