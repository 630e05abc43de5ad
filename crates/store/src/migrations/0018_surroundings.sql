-- What a speed test went over, and what else went on.
ALTER TABLE speed_test ADD COLUMN surroundings TEXT;
