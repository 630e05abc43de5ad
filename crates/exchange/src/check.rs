//! Whether the parts of an export belong together.

use crate::RowProblem;
use open_beacon_core::check::Checker;
use open_beacon_core::check::FieldProblem;
use open_beacon_core::hardware::catalogue::check_part;
use open_beacon_core::model::SiteBundle;
use open_beacon_core::survey::check::{check_landmark, check_mast, check_obstacle};
use std::collections::HashSet;
use std::hash::Hash;

/// Lists broken references, doubled identifiers and impossible values. Lines count rows of the table after its
/// heading, as both formats keep them in that order.
pub(crate) fn check(bundle: &SiteBundle) -> Vec<RowProblem> {
    let mut problems = Vec::new();
    let positions = unique("positions.csv", bundle.positions.iter().map(|row| row.id), &mut problems);
    let setups = unique("setups.csv", bundle.setups.iter().map(|row| row.id), &mut problems);
    let runs = unique("runs.csv", bundle.runs.iter().map(|row| row.id), &mut problems);
    unique("samples.csv", bundle.samples.iter().map(|row| row.id), &mut problems);
    let tests = unique("speed_tests.csv", bundle.speed_tests.iter().map(|row| row.id), &mut problems);
    unique("attachments.csv", bundle.attachments.iter().map(|row| row.attachment.id), &mut problems);
    unique("kits.csv", bundle.kits.iter().map(|row| row.id), &mut problems);
    unique("parts.csv", bundle.parts.iter().map(|row| row.id), &mut problems);
    unique("masts.csv", bundle.masts.iter().map(|row| row.id), &mut problems);
    unique("obstacles.csv", bundle.obstacles.iter().map(|row| row.id), &mut problems);
    unique("landmarks.csv", bundle.landmarks.iter().map(|row| row.id), &mut problems);
    unique("tiles.csv", bundle.tiles.iter().map(|row| row.tile.id), &mut problems);
    let sweeps = unique("sweeps.csv", bundle.sweeps.iter().map(|row| row.id), &mut problems);
    unique("sweep_stops.csv", bundle.sweep_stops.iter().map(|row| row.id), &mut problems);
    unique("sweep_photos.csv", bundle.sweep_photos.iter().map(|row| row.photo.id), &mut problems);
    unique("backdrops.csv", bundle.backdrops.iter().map(|row| row.backdrop.id), &mut problems);
    let rounds = unique("band_rounds.csv", bundle.band_rounds.iter().map(|row| row.id), &mut problems);
    unique("trials.csv", bundle.trials.iter().map(|row| row.id), &mut problems);
    unique("predictions.csv", bundle.predictions.iter().map(|row| row.id), &mut problems);
    unique("speed_courses.csv", bundle.speed_courses.iter().map(|row| row.id), &mut problems);
    unique("amendments.csv", bundle.amendments.iter().map(|row| row.id), &mut problems);
    unique("as_built.csv", bundle.as_built.iter().map(|row| row.id), &mut problems);
    unique("events.csv", bundle.events.iter().map(|row| row.id), &mut problems);
    unique("sittings.csv", bundle.sittings.iter().map(|row| row.id), &mut problems);
    let mut sized = |file: &str, sizes: Vec<(u64, u64)>| {
        for (index, (told, found)) in sizes.into_iter().enumerate() {
            if told != found {
                problems.push(RowProblem::new(file, line(index), "the file has another size"));
            }
        }
    };
    let (attachments, tiles) = (&bundle.attachments, &bundle.tiles);
    sized(
        "attachments.csv",
        attachments.iter().map(|one| (one.attachment.bytes, one.content.bytes())).collect(),
    );
    sized("tiles.csv", tiles.iter().map(|one| (one.tile.bytes, one.content.bytes())).collect());
    sized(
        "backdrops.csv",
        bundle.backdrops.iter().map(|one| (one.backdrop.bytes, one.content.bytes())).collect(),
    );
    sized(
        "sweep_photos.csv",
        bundle.sweep_photos.iter().map(|one| (one.photo.bytes, one.content.bytes())).collect(),
    );
    let mut refer = |file: &str, index: usize, fine: bool, what: &str| {
        if !fine {
            problems.push(RowProblem::new(file, line(index), format!("its {what} is not in this export")));
        }
    };
    for (index, row) in bundle.positions.iter().enumerate() {
        refer("positions.csv", index, row.site_id == bundle.site.id, "site");
    }
    for (index, row) in bundle.setups.iter().enumerate() {
        refer("setups.csv", index, positions.contains(&row.position_id), "position");
        refer("setups.csv", index, row.made_from.is_none_or(|from| setups.contains(&from)), "parent setup");
    }
    for (index, row) in bundle.runs.iter().enumerate() {
        refer("runs.csv", index, setups.contains(&row.setup_id), "setup");
    }
    for (index, row) in bundle.samples.iter().enumerate() {
        refer("samples.csv", index, runs.contains(&row.run_id), "run");
    }
    for (index, row) in bundle.speed_tests.iter().enumerate() {
        refer("speed_tests.csv", index, runs.contains(&row.run_id), "run");
    }
    for (index, row) in bundle.attachments.iter().enumerate() {
        refer("attachments.csv", index, runs.contains(&row.attachment.run_id), "run");
    }
    for (index, row) in bundle.kits.iter().enumerate() {
        refer("kits.csv", index, row.site_id == bundle.site.id, "site");
        let there = row.spec.position_id.is_none_or(|id| positions.contains(&id));
        refer("kits.csv", index, there, "position");
    }
    for (index, row) in bundle.sweeps.iter().enumerate() {
        refer("sweeps.csv", index, positions.contains(&row.position_id), "position");
        refer("sweeps.csv", index, row.setup_id.is_none_or(|id| setups.contains(&id)), "setup");
    }
    for (index, row) in bundle.sweep_stops.iter().enumerate() {
        refer("sweep_stops.csv", index, sweeps.contains(&row.sweep_id), "sweep");
        refer("sweep_stops.csv", index, row.run_id.is_none_or(|id| runs.contains(&id)), "run");
    }
    for (index, row) in bundle.sweep_photos.iter().enumerate() {
        refer("sweep_photos.csv", index, sweeps.contains(&row.photo.sweep_id), "sweep");
    }
    for (index, row) in bundle.band_rounds.iter().enumerate() {
        refer("band_rounds.csv", index, row.setup_id.is_none_or(|id| setups.contains(&id)), "setup");
    }
    for (index, row) in bundle.trials.iter().enumerate() {
        refer("trials.csv", index, rounds.contains(&row.round_id), "round");
        refer("trials.csv", index, row.run_id.is_none_or(|id| runs.contains(&id)), "run");
    }
    for (index, row) in bundle.predictions.iter().enumerate() {
        let own = setups.contains(&row.setup_id) && row.id.0 == row.setup_id.0;
        refer("predictions.csv", index, own, "setup");
    }
    for (index, row) in bundle.speed_courses.iter().enumerate() {
        let own = tests.contains(&row.test_id) && row.id.0 == row.test_id.0;
        refer("speed_courses.csv", index, own, "speed test");
    }
    for (index, row) in bundle.amendments.iter().enumerate() {
        refer("amendments.csv", index, runs.contains(&row.run_id), "run");
    }
    for (index, row) in bundle.as_built.iter().enumerate() {
        refer("as_built.csv", index, setups.contains(&row.setup_id), "setup");
    }
    let mut of_site = |file: &str, sites: Vec<open_beacon_core::model::SiteId>| {
        for (index, site) in sites.into_iter().enumerate() {
            refer(file, index, site == bundle.site.id, "site");
        }
    };
    of_site("masts.csv", bundle.masts.iter().map(|row| row.site_id).collect());
    of_site("obstacles.csv", bundle.obstacles.iter().map(|row| row.site_id).collect());
    of_site("landmarks.csv", bundle.landmarks.iter().map(|row| row.site_id).collect());
    of_site("sweeps.csv", bundle.sweeps.iter().map(|row| row.site_id).collect());
    of_site("sweep_stops.csv", bundle.sweep_stops.iter().map(|row| row.site_id).collect());
    of_site("sweep_photos.csv", bundle.sweep_photos.iter().map(|row| row.photo.site_id).collect());
    of_site("backdrops.csv", bundle.backdrops.iter().map(|row| row.backdrop.site_id).collect());
    of_site("band_rounds.csv", bundle.band_rounds.iter().map(|row| row.site_id).collect());
    of_site("predictions.csv", bundle.predictions.iter().map(|row| row.site_id).collect());
    of_site("speed_courses.csv", bundle.speed_courses.iter().map(|row| row.site_id).collect());
    of_site("amendments.csv", bundle.amendments.iter().map(|row| row.site_id).collect());
    of_site("as_built.csv", bundle.as_built.iter().map(|row| row.site_id).collect());
    of_site("events.csv", bundle.events.iter().map(|row| row.site_id).collect());
    of_site("sittings.csv", bundle.sittings.iter().map(|row| row.site_id).collect());
    of_site("trials.csv", bundle.trials.iter().map(|row| row.site_id).collect());
    of_site("tiles.csv", bundle.tiles.iter().map(|row| row.tile.site_id).collect());
    let mut fields = |file: &str, index: usize, checker: Checker| {
        for problem in checker.done() {
            let reason = format!("{}: {}", problem.pointer.trim_start_matches('/'), problem.detail);
            problems.push(RowProblem::new(file, line(index), reason));
        }
    };
    for (index, row) in bundle.sweeps.iter().enumerate() {
        let beam = Checker::default()
            .range("/beamwidth_deg", Some(row.beamwidth_deg), 3.0, 180.0, "°")
            .range("/front_to_back_db", Some(row.front_to_back_db), 0.0, 60.0, "dB");
        fields("sweeps.csv", index, beam);
    }
    for (index, row) in bundle.backdrops.iter().enumerate() {
        let one = &row.backdrop;
        let size = Checker::default()
            .range("/width_px", Some(f64::from(one.width_px)), 1.0, 100_000.0, "pixels")
            .range("/height_px", Some(f64::from(one.height_px)), 1.0, 100_000.0, "pixels")
            .range("/opacity", Some(one.opacity), 0.1, 1.0, "of it");
        fields("backdrops.csv", index, size);
    }
    let site = &bundle.site;
    fields(
        "site.csv",
        0,
        Checker::default()
            .name("/name", &site.name, "North farm")
            .place("/place", site.place)
            .settings(&bundle.settings),
    );
    for (index, row) in bundle.positions.iter().enumerate() {
        let checker = Checker::default().name("/name", &row.name, "East gable").place("/place", row.place);
        fields(
            "positions.csv",
            index,
            checker.range("/height_above_ground_m", row.height_above_ground_m, 0.0, 200.0, "m"),
        );
    }
    for (index, row) in bundle.setups.iter().enumerate() {
        fields("setups.csv", index, Checker::default().setup(&row.spec));
    }
    for (index, row) in bundle.events.iter().enumerate() {
        fields("events.csv", index, Checker::default().event(row));
    }
    for (index, row) in bundle.sittings.iter().enumerate() {
        fields("sittings.csv", index, Checker::default().short("/name", &row.name));
    }
    for (index, row) in bundle.kits.iter().enumerate() {
        fields("kits.csv", index, Checker::default().name("/name", &row.name, "Gable panel").kit(&row.spec));
    }
    let mut listed = |file: &str, index: usize, found: Vec<FieldProblem>| {
        for problem in found {
            let reason = format!("{}: {}", problem.pointer.trim_start_matches('/'), problem.detail);
            problems.push(RowProblem::new(file, line(index), reason));
        }
    };
    for (index, row) in bundle.parts.iter().enumerate() {
        listed("parts.csv", index, check_part(row));
    }
    for (index, row) in bundle.masts.iter().enumerate() {
        listed("masts.csv", index, check_mast(row));
    }
    for (index, row) in bundle.obstacles.iter().enumerate() {
        listed("obstacles.csv", index, check_obstacle(row));
    }
    for (index, row) in bundle.landmarks.iter().enumerate() {
        listed("landmarks.csv", index, check_landmark(row));
    }
    problems
}

/// The first row stands below the heading.
fn line(index: usize) -> Option<u64> {
    Some(index as u64 + 2)
}

fn unique<T: Copy + Eq + Hash>(
    file: &str,
    ids: impl Iterator<Item = T>,
    problems: &mut Vec<RowProblem>,
) -> HashSet<T> {
    let mut seen = HashSet::new();
    for (index, id) in ids.enumerate() {
        if !seen.insert(id) {
            problems.push(RowProblem::new(file, line(index), "this identifier stands twice"));
        }
    }
    seen
}
