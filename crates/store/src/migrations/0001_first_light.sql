-- Times are UTC milliseconds since 1970. Identifiers are UUID text. Lengths m, angles degrees, power dBm, rates Mbit/s.
CREATE TABLE site (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  latitude_deg REAL,
  longitude_deg REAL,
  time_zone TEXT NOT NULL,
  notes TEXT NOT NULL,
  created_at INTEGER NOT NULL,
  archived_at INTEGER,
  settings TEXT NOT NULL DEFAULT '{}'
) STRICT;

CREATE TABLE position (
  id TEXT PRIMARY KEY,
  site_id TEXT NOT NULL REFERENCES site(id),
  name TEXT NOT NULL,
  latitude_deg REAL,
  longitude_deg REAL,
  height_above_ground_m REAL,
  mount TEXT NOT NULL,
  notes TEXT NOT NULL,
  created_at INTEGER NOT NULL,
  archived_at INTEGER
) STRICT;
CREATE INDEX position_site ON position(site_id);

CREATE TABLE setup (
  id TEXT PRIMARY KEY,
  position_id TEXT NOT NULL REFERENCES position(id),
  made_from TEXT REFERENCES setup(id),
  name TEXT NOT NULL,
  antenna TEXT NOT NULL,
  azimuth_deg REAL,
  tilt_deg REAL,
  gateway_place TEXT NOT NULL,
  gateway_azimuth_deg REAL,
  ports TEXT NOT NULL,
  kit_note TEXT NOT NULL,
  lock_note TEXT NOT NULL,
  created_at INTEGER NOT NULL,
  archived_at INTEGER
) STRICT;
CREATE INDEX setup_position ON setup(position_id);

CREATE TABLE run (
  id TEXT PRIMARY KEY,
  setup_id TEXT NOT NULL REFERENCES setup(id),
  source TEXT NOT NULL,
  started_at INTEGER NOT NULL,
  ended_at INTEGER,
  completion TEXT NOT NULL,
  reason TEXT,
  planned_samples INTEGER NOT NULL,
  planned_speed_tests INTEGER NOT NULL,
  refresh_period_s REAL,
  attach TEXT NOT NULL,
  weather TEXT NOT NULL,
  notes TEXT NOT NULL,
  archived_at INTEGER
) STRICT;
CREATE INDEX run_setup ON run(setup_id, started_at);
-- Asked at every start: what was running when the program last ended?
CREATE INDEX run_running ON run(completion) WHERE completion = 'running';

CREATE TABLE sample (
  id TEXT PRIMARY KEY,
  run_id TEXT NOT NULL REFERENCES run(id),
  taken_at INTEGER NOT NULL,
  activity TEXT NOT NULL,
  mode TEXT NOT NULL,
  neighbours TEXT NOT NULL
) STRICT;
CREATE INDEX sample_run ON sample(run_id, taken_at);

CREATE TABLE carrier (
  sample_id TEXT NOT NULL REFERENCES sample(id),
  place INTEGER NOT NULL,
  technology TEXT NOT NULL,
  role TEXT NOT NULL,
  band INTEGER,
  channel INTEGER,
  channel_kind TEXT NOT NULL,
  bandwidth_mhz REAL,
  pci INTEGER,
  cell_identity INTEGER,
  rsrp_dbm REAL,
  rsrq_db REAL,
  sinr_db REAL,
  rssi_dbm REAL,
  branch_rsrp_dbm TEXT NOT NULL,
  rank INTEGER,
  cqi INTEGER,
  mcs INTEGER,
  transmit_power_dbm REAL,
  timing_advance INTEGER,
  flags TEXT NOT NULL,
  PRIMARY KEY (sample_id, place)
) STRICT, WITHOUT ROWID;

CREATE TABLE speed_test (
  id TEXT PRIMARY KEY,
  run_id TEXT NOT NULL REFERENCES run(id),
  started_at INTEGER NOT NULL,
  source TEXT NOT NULL,
  completion TEXT NOT NULL,
  reason TEXT,
  server TEXT NOT NULL,
  download_mbps REAL,
  upload_mbps REAL,
  idle_latency_ms REAL,
  download_latency_ms REAL,
  upload_latency_ms REAL,
  probe_loss REAL,
  bytes_down INTEGER NOT NULL,
  bytes_up INTEGER NOT NULL,
  connections INTEGER
) STRICT;
CREATE INDEX speed_test_run ON speed_test(run_id, started_at);

CREATE TABLE attachment (
  id TEXT PRIMARY KEY,
  run_id TEXT NOT NULL REFERENCES run(id),
  file_name TEXT NOT NULL,
  media_type TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  sha256 TEXT NOT NULL,
  added_at INTEGER NOT NULL,
  content BLOB NOT NULL
) STRICT;
CREATE INDEX attachment_run ON attachment(run_id);

-- What a client-made identifier was first used for: the same again is harmless, another body is a conflict.
CREATE TABLE creation (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  body_sha256 TEXT NOT NULL
) STRICT, WITHOUT ROWID;
