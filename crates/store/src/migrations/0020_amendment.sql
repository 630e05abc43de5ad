-- What a typed run held before it was corrected.
CREATE TABLE amendment (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX amendment_of_site ON amendment (site_id);
CREATE INDEX amendment_of_run ON amendment (json_extract(body, '$.run_id'));
