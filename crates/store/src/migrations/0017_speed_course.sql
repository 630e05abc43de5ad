-- How a speed test went, 100 ms by 100 ms.
CREATE TABLE speed_course (
    id TEXT PRIMARY KEY,
    site_id TEXT NOT NULL REFERENCES site (id),
    body TEXT NOT NULL
) STRICT;
CREATE INDEX speed_course_of_site ON speed_course (site_id);
