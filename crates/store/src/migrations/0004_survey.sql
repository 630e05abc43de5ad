-- Masts, what stands in the way, landmarks: values as JSON, for nothing is searched in them here.
CREATE TABLE mast (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX mast_of_site ON mast (site_id);
CREATE TABLE obstacle (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX obstacle_of_site ON obstacle (site_id);
CREATE TABLE landmark (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX landmark_of_site ON landmark (site_id);
-- Terrain files as they were given, and what was read of them.
CREATE TABLE tile (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX tile_of_site ON tile (site_id);
