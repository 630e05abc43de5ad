-- Tests that a typed or imported speed test is the average of; none for a single test.
ALTER TABLE speed_test ADD COLUMN average_of INTEGER;
