-- Points of sweeps become runs of the setup that was turned; the program moves them.
CREATE INDEX IF NOT EXISTS sweep_stop_site ON sweep_stop(site_id);
