-- A setup is kit, position, aim and lock, as values; notes stay beside them.
ALTER TABLE setup ADD COLUMN kit_id TEXT;
ALTER TABLE setup ADD COLUMN height_above_ground_m REAL;
ALTER TABLE setup ADD COLUMN polarisation TEXT;
ALTER TABLE setup ADD COLUMN lock TEXT NOT NULL DEFAULT '{}';
ALTER TABLE setup ADD COLUMN origin TEXT NOT NULL DEFAULT '{"kind":"by_hand"}';
-- What a run was taken for.
ALTER TABLE run ADD COLUMN context TEXT NOT NULL DEFAULT '{"kind":"log"}';
-- Visits to one hour: what comparisons count.
CREATE TABLE sitting (
  id TEXT PRIMARY KEY,
  site_id TEXT NOT NULL REFERENCES site(id),
  started_at INTEGER NOT NULL,
  ended_at INTEGER NOT NULL
) STRICT;
CREATE INDEX sitting_site ON sitting(site_id, started_at);
ALTER TABLE speed_test ADD COLUMN sitting_id TEXT REFERENCES sitting(id);
-- Each section of the settings has a version, so that a form an hour old overwrites nothing.
ALTER TABLE site ADD COLUMN settings_versions TEXT NOT NULL DEFAULT '{}';
