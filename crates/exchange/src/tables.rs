//! The columns of every table, in the order written. This list is the format.

use crate::cells::{Column, Kind};
use Kind::{Json, MaybeText, Number, Text};

const fn same(name: &'static str, pointer: &'static str, kind: Kind) -> Column {
    Column { name, pointer, kind }
}

macro_rules! columns {
    ($($name:literal $kind:ident $(at $pointer:literal)?),* $(,)?) => {
        &[$(same($name, columns!(@pointer $name $($pointer)?), $kind)),*]
    };
    (@pointer $name:literal) => { concat!("/", $name) };
    (@pointer $name:literal $pointer:literal) => { $pointer };
}

pub(crate) const SITE: &[Column] = columns![
    "id" Text, "name" Text, "latitude_deg" Number at "/place/latitude_deg",
    "longitude_deg" Number at "/place/longitude_deg", "time_zone" Text, "notes" Text, "created_at" Text,
    "archived_at" MaybeText, "settings" Json,
];

pub(crate) const POSITIONS: &[Column] = columns![
    "id" Text, "site_id" Text, "name" Text, "latitude_deg" Number at "/place/latitude_deg",
    "longitude_deg" Number at "/place/longitude_deg", "height_above_ground_m" Number, "mount" Text, "floor" Text at "/spot/floor",
    "room" Text at "/spot/room", "facing_deg" Number at "/spot/facing_deg", "window" Text at "/spot/window", "notes" Text,
    "created_at" Text, "archived_at" MaybeText,
];

pub(crate) const SETUPS: &[Column] = columns![
    "id" Text, "position_id" Text, "made_from" MaybeText, "name" Text, "antenna" Text, "azimuth_deg" Number,
    "tilt_deg" Number, "gateway_place" Text, "gateway_azimuth_deg" Number, "ports" Json, "kit_id" MaybeText,
    "height_above_ground_m" Number, "polarisation" MaybeText, "lock" Json, "origin" Json, "kit_note" Text, "lock_note" Text,
    "created_at" Text, "archived_at" MaybeText,
];

pub(crate) const RUNS: &[Column] = columns![
    "id" Text, "setup_id" Text, "source" Text, "started_at" Text, "ended_at" MaybeText, "completion" Text,
    "reason" MaybeText, "planned_samples" Number, "planned_speed_tests" Number, "refresh_period_s" Number,
    "attach" Text at "/conditions/attach", "instrument" Text at "/conditions/instrument",
    "network" Text at "/conditions/network", "weather" Text at "/conditions/weather",
    "notes" Text at "/conditions/notes", "context" Json, "archived_at" MaybeText,
];

pub(crate) const SITTINGS: &[Column] = columns![
    "id" Text, "site_id" Text, "started_at" Text, "ended_at" Text, "name" Text, "by_hand" Json, "closed_at" MaybeText,
];

pub(crate) const SAMPLES: &[Column] = columns![
    "id" Text, "run_id" Text, "taken_at" Text, "activity" Text, "mode" Text, "neighbours" Json,
];

pub(crate) const CARRIERS: &[Column] = columns![
    "sample_id" Text, "place" Number, "technology" Text, "role" Text, "band" Number, "channel" Number,
    "channel_kind" Text, "bandwidth_mhz" Number, "pci" Number, "cell_identity" Number, "rsrp_dbm" Number,
    "rsrq_db" Number, "sinr_db" Number, "rssi_dbm" Number, "branch_rsrp_dbm" Json, "rank" Number, "cqi" Number,
    "mcs" Number, "transmit_power_dbm" Number, "timing_advance" Number, "flags" Json,
];

pub(crate) const SPEED_TESTS: &[Column] = columns![
    "id" Text, "run_id" Text, "started_at" Text, "source" Text, "completion" Text, "reason" MaybeText,
    "server" Text, "download_mbps" Number, "upload_mbps" Number, "idle_latency_ms" Number,
    "download_latency_ms" Number, "upload_latency_ms" Number, "probe_loss" Number, "bytes_down" Number,
    "bytes_up" Number, "connections" Number, "sitting_id" MaybeText, "surroundings" Json,
    "average_of" Number,
];

pub(crate) const KITS: &[Column] = columns![
    "id" Text, "site_id" Text, "name" Text, "spec" Json, "bought_on" MaybeText, "return_by" MaybeText, "notes" Text,
    "created_at" Text, "archived_at" MaybeText,
];

pub(crate) const PARTS: &[Column] = columns![
    "id" Text, "name" Text, "price" Number, "stock" Number, "notes" Text, "spec" Json, "archived_at" MaybeText,
];

pub(crate) const MASTS: &[Column] = columns![
    "id" Text, "site_id" Text, "name" Text, "operator" Text, "latitude_deg" Number at "/place/latitude_deg",
    "longitude_deg" Number at "/place/longitude_deg", "height_m" Number, "cells" Json, "notes" Text,
    "archived_at" MaybeText,
];

pub(crate) const OBSTACLES: &[Column] = columns![
    "id" Text, "site_id" Text, "name" Text, "kind" Text, "outline" Json, "width_m" Number, "height_m" Number,
    "archived_at" MaybeText,
];

pub(crate) const LANDMARKS: &[Column] = columns![
    "id" Text, "site_id" Text, "name" Text, "latitude_deg" Number at "/place/latitude_deg",
    "longitude_deg" Number at "/place/longitude_deg", "archived_at" MaybeText,
];

pub(crate) const TILES: &[Column] = columns![
    "id" Text, "site_id" Text, "file_name" Text, "format" Text, "surface" Text, "span" Json, "columns" Number,
    "rows" Number, "step_east_m" Number, "step_north_m" Number, "voids" Number, "lowest_m" Number,
    "highest_m" Number, "bytes" Number, "added_at" Text, "archived_at" MaybeText,
];

pub(crate) const BACKDROPS: &[Column] = columns![
    "id" Text, "site_id" Text, "file_name" Text, "media_type" Text, "width_px" Number, "height_px" Number,
    "bytes" Number, "control_points" Json, "opacity" Number, "added_at" Text, "archived_at" MaybeText,
];

pub(crate) const SWEEPS: &[Column] = columns![
    "id" Text, "site_id" Text, "position_id" Text, "setup_id" MaybeText, "axis" Text, "beamwidth_deg" Number, "front_to_back_db" Number,
    "expected_deg" Number, "cell" Json, "speed_tests" Json, "attach" Text, "notes" Json, "started_at" Text, "set_deg" Number, "ended_at" MaybeText,
    "archived_at" MaybeText,
];

pub(crate) const SWEEP_STOPS: &[Column] = columns![
    "id" Text, "site_id" Text, "sweep_id" Text, "angle_deg" Number, "taken_at" Text, "run_id" MaybeText, "samples" Json,
    "typed" Json, "pressed_at" MaybeText, "clock_offset_ms" Number, "archived_at" MaybeText,
];

pub(crate) const BAND_ROUNDS: &[Column] = columns![
    "id" Text, "site_id" Text, "setup_id" MaybeText, "goal" Text, "choices" Json, "tests_a_visit" Number,
    "blocks" Number, "difference" Number, "cap_mb" Number, "by_hand" Json, "started_at" Text, "ended_at" MaybeText,
    "end" MaybeText, "reason" MaybeText, "kept" Json, "archived_at" MaybeText,
];

pub(crate) const TRIALS: &[Column] = columns![
    "id" Text, "site_id" Text, "round_id" Text, "choice" Json, "block" Number, "started_at" Text, "reattach_s" Number,
    "outcome" Text, "reason" MaybeText, "run_id" MaybeText, "samples" Json, "tests" Json, "archived_at" MaybeText,
];

pub(crate) const PREDICTIONS: &[Column] = columns![
    "id" Text, "site_id" Text, "setup_id" Text, "made_at" Text, "program" Text, "setups" Json, "masts" Json,
    "figures" Json,
];

pub(crate) const EVENTS: &[Column] = columns![
    "id" Text, "site_id" Text, "happened_at" Text, "kind" Text, "text" Text, "noted_at" Text, "archived_at" MaybeText,
];

pub(crate) const AMENDMENTS: &[Column] = columns![
    "id" Text, "site_id" Text, "run_id" Text, "amended_at" Text, "by" Text, "why" Text, "before" Json,
];

pub(crate) const AS_BUILT: &[Column] = columns![
    "id" Text, "site_id" Text, "setup_id" Text, "drawn_up_at" Text, "program" Text, "details" Json, "aim" Json,
    "carriers" Json, "speeds" Json, "undo" Json, "cautions" Json, "verdict" Json, "archived_at" MaybeText,
];

pub(crate) const SPEED_COURSES: &[Column] = columns![
    "id" Text, "site_id" Text, "test_id" Text, "step_ms" Number, "warm_up_ms" Number, "down_mbps" Json, "up_mbps" Json,
    "down_from" Number, "up_from" Number, "idle" Json, "while_down" Json, "while_up" Json, "down_ended" Json, "up_ended" Json,
];

pub(crate) const SWEEP_PHOTOS: &[Column] = columns![
    "id" Text, "site_id" Text, "sweep_id" Text, "file_name" Text, "media_type" Text, "bytes" Number, "taken_at" Text,
    "archived_at" MaybeText,
];

pub(crate) const ATTACHMENTS: &[Column] = columns![
    "id" Text, "run_id" Text, "file_name" Text, "media_type" Text, "bytes" Number, "sha256" Text, "added_at" Text,
];
