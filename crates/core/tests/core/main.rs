//! Tests of the core, one file a topic. Sources stand beside each check.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod advice;
mod aim;
mod aim_field;
mod aim_live;
mod aim_pairs_and_ports;
mod aim_world;
mod as_built;
mod baseline;
mod baseline_words;
mod compare;
mod credit;
mod diagnosis;
mod digest;
mod draws;
mod evidence;
mod fairness;
mod foil_and_registers;
mod ground;
mod handover;
mod households;
mod invariants;
mod kit_chain;
mod kit_link;
mod kit_scenario;
mod kit_suggest;
mod kit_words;
mod kits;
mod link;
mod near_best;
mod over_time;
mod preflight;
mod protocol;
mod repeats;
mod samples;
mod say;
mod second_opinions;
mod setup_outlook;
mod sittings;
mod stopping;
mod survey;
mod survey_antennas_and_maps;
mod survey_properties;
mod survey_words;
mod track;
mod trial;
mod trial_laws;
mod trial_offers;
mod verdict_weights;
mod verdicts;
mod why;
mod worklist;
