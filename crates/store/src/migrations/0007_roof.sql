-- What signs in to a gateway: apart from settings, so that no export holds it.
CREATE TABLE gateway_secret (
    site_id TEXT PRIMARY KEY REFERENCES site (id),
    user TEXT NOT NULL,
    password TEXT NOT NULL,
    failed_logins INTEGER NOT NULL DEFAULT 0
) STRICT;
-- Phones that were let in; of their tokens only the digest is kept.
CREATE TABLE paired_device (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    token_sha256 TEXT NOT NULL UNIQUE,
    paired_at INTEGER NOT NULL,
    last_seen_at INTEGER,
    revoked_at INTEGER
) STRICT;
-- Photographs taken on the roof.
CREATE TABLE sweep_photo (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX sweep_photo_of_site ON sweep_photo (site_id);
