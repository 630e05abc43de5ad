-- Sheets of what was built, kept as they were drawn up.
CREATE TABLE as_built (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX as_built_of_site ON as_built (site_id);
