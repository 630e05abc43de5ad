-- Spots in the house, what a run was read from, and whose network it was.
ALTER TABLE position ADD COLUMN floor TEXT NOT NULL DEFAULT '';
ALTER TABLE position ADD COLUMN room TEXT NOT NULL DEFAULT '';
ALTER TABLE position ADD COLUMN facing_deg REAL;
ALTER TABLE position ADD COLUMN near_window TEXT NOT NULL DEFAULT '';
ALTER TABLE run ADD COLUMN instrument TEXT NOT NULL DEFAULT 'gateway';
ALTER TABLE run ADD COLUMN network TEXT NOT NULL DEFAULT '';
