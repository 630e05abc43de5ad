//! Tests of the words and the physics, one file a topic. Sources stand beside each check.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod bands;
mod capacity;
mod checks;
mod consistency;
mod course;
mod entry;
mod feedline;
mod limits;
mod metrics;
mod mixed;
mod path;
mod refresh;
mod samples;
mod spelling;
mod statistics;
mod sun;
