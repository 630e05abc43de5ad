-- Band trials: rounds and the visits to choices in them.
CREATE TABLE band_round (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX band_round_of_site ON band_round (site_id);
CREATE TABLE trial (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX trial_of_site ON trial (site_id);
-- What a gateway was about to be told: there before it is sent, away once it is settled.
CREATE TABLE lock_intent (
    site_id TEXT PRIMARY KEY REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
