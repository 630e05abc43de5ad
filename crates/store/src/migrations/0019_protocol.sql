-- A sitting may be opened and closed on the page, and have a name.
ALTER TABLE sitting ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE sitting ADD COLUMN by_hand INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sitting ADD COLUMN closed_at INTEGER;
-- What happened at a site, noted by the user.
CREATE TABLE event (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX event_of_site ON event (site_id);
-- The time line reads a site's runs by time.
CREATE INDEX run_by_time ON run (started_at);
