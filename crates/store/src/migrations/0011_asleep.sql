-- Sites that came from a file: nothing is sent for them before somebody has seen what, and said yes.
CREATE TABLE asleep (site_id TEXT PRIMARY KEY) STRICT;
