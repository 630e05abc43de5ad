-- The user's own parts, laid over the built-in catalogue, and kits.
CREATE TABLE part (
    id TEXT PRIMARY KEY,
    body TEXT NOT NULL
) STRICT;
CREATE TABLE kit (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    name TEXT NOT NULL,
    spec TEXT NOT NULL,
    bought_on TEXT,
    return_by TEXT,
    notes TEXT NOT NULL,
    created_at INTEGER NOT NULL,
    archived_at INTEGER
) STRICT;
CREATE INDEX kit_of_site ON kit (site_id);
