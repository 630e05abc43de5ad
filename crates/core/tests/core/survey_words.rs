//! What the survey says, sentence by sentence: that each names what is in the way, what it rests on and what to do.

use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::fresnel::{Blocker, Clearance};
use open_beacon_core::link::matching::{CellMatch, Evidence, Fit};
use open_beacon_core::link::route::{Lack, PathSource};
use open_beacon_core::model::*;
use open_beacon_core::survey::aim::LandmarkAim;
use open_beacon_core::survey::calibrate::MastShift;
use open_beacon_core::survey::check::EntryMistake;
use open_beacon_core::survey::rank::{Access, Choice};
use open_beacon_core::survey::ranking::{Ranking, Reason};
use open_beacon_core::survey::sensitivity::{Doubt, Outcome, Sensitivity};
use open_beacon_core::words;
use open_beacon_core::words::Style;
use uuid::Uuid;

const METRIC: Style = Style { units: Units::Metric };
const IMPERIAL: Style = Style { units: Units::Imperial };

fn belt() -> Vec<Obstacle> {
    vec![Obstacle {
        id: ObstacleId(Uuid::nil()),
        site_id: SiteId(Uuid::nil()),
        name: "Poplars".into(),
        kind: ObstacleKind::TreesBare,
        outline: Vec::new(),
        width_m: None,
        height_m: 12.0,
        archived_at: None,
    }]
}

fn clear(share: f64, in_sight: bool, blocker: Blocker, distance_m: f64, raise_m: f64) -> Clearance {
    Clearance {
        in_sight,
        distance_m,
        blocker,
        top_m: 412.5,
        line_m: 410.0,
        fresnel_m: 5.0,
        fresnel_share: share,
        raise_m,
    }
}

#[test]
fn a_line_says_how_free_it_is_and_what_height_would_do() {
    let poplars = Blocker::Obstacle { index: 0 };
    let say = |found: Clearance, style| words::survey::clearance(&found, &belt(), style);
    let free = say(clear(0.8, true, Blocker::Ground, 1240.0, 0.0), METRIC);
    assert!(
        free.starts_with(
            "The path clears 80\u{202f}% of the first Fresnel zone (nearest: the ground 1.2\u{202f}km out)"
        ),
        "{free}"
    );
    let part = say(clear(0.3, true, poplars, 130.0, 2.25), METRIC);
    assert!(
        part.contains("“Poplars” 130\u{202f}m out leaves only 30\u{202f}%")
            && part.ends_with("2.2\u{202f}m more height would clear it."),
        "{part}"
    );
    let shut = say(clear(-0.5, false, poplars, 4.0, 80.0), IMPERIAL);
    assert!(shut.contains("“Poplars” right beside the antenna stands 8\u{202f}ft into the line"), "{shut}");
    assert!(shut.ends_with("No mast on a house clears it: look for another place or mast."), "{shut}");
    assert_eq!(words::survey::blocker_name(Blocker::Obstacle { index: 7 }, &belt()), "an obstacle");
}

#[test]
fn a_prediction_says_what_it_rests_on() {
    let terrain = |surface, voids| words::survey::source(&PathSource::Terrain { surface, voids }, METRIC);
    assert_eq!(terrain(SurfaceKind::Ground, 0), "Over the terrain, trees and buildings as drawn.");
    assert!(terrain(SurfaceKind::Surface, 0).contains("not counted again"));
    assert!(terrain(SurfaceKind::Ground, 1).ends_with("One void point was bridged."));
    assert!(terrain(SurfaceKind::Ground, 12).ends_with("12 void points were bridged."));
    let model = words::survey::source(&PathSource::Model { lack: Lack::Ends { at_m: 6400.0 } }, METRIC);
    assert!(
        model.starts_with("The terrain ends 6.4\u{202f}km from the house") && model.contains("TR 38.901"),
        "{model}"
    );
    let far = words::survey::source(&PathSource::BeyondModel { lack: Lack::Voids }, METRIC);
    assert!(far.contains("only voids") && far.contains("Little can be promised"), "{far}");
}

fn choice(position: &str, mast: &str, down_mbps: f64) -> Choice {
    Choice {
        position_id: PositionId(Uuid::nil()),
        position: position.into(),
        mount: Mount::Gable,
        mast_id: MastId(Uuid::nil()),
        mast: mast.into(),
        height_m: 6.0,
        raised_m: 0.0,
        distance_m: 4000.0,
        bearing_deg: 143.0,
        elevation_deg: None,
        source: PathSource::Model { lack: Lack::NoTerrain },
        clearance: None,
        bands: Vec::new(),
        down_mbps: Estimate { low: 0.5 * down_mbps, likely: down_mbps, high: 1.5 * down_mbps },
        up_mbps: Estimate::exactly(5.0),
        possible_down_mbps: Estimate::exactly(90.0),
        possible_up_mbps: Estimate::exactly(9.0),
        margin: None,
        day: None,
        why: None,
        cable_m: 12.0,
        access: Access::Ladder,
        chance_of_best: None,
        doubts: Vec::new(),
    }
}

#[test]
fn a_ranking_says_the_best_the_runner_up_and_why() {
    let with = |reason| Ranking {
        choices: vec![choice("Gable", "Ridge", 100.0), choice("Attic", "Fen", 60.0)],
        runner_up: Some(1),
        reason: Some(reason),
        sensitivity: Vec::new(),
    };
    let stronger = with(Reason::Stronger { by_db: 6.0, ratio: 1.67 });
    assert_eq!(
        words::survey::title(&stronger, METRIC),
        "Gable to Ridge: aim 143°\u{202f}T from 6.0\u{202f}m up; expect 50 to 150\u{202f}Mbit/s down."
    );
    let why = |reason| words::survey::reason(&with(reason), &belt(), METRIC).unwrap();
    assert!(
        why(Reason::Stronger { by_db: 6.0, ratio: 1.67 })
            .starts_with("Runner-up: Attic to Fen; this one is 6\u{202f}dB stronger")
    );
    let mut sure = with(Reason::Stronger { by_db: 6.0, ratio: 1.67 });
    sure.choices[0].chance_of_best = Some(0.71);
    let said = words::survey::reason(&sure, &belt(), METRIC).unwrap();
    assert!(
        said.ends_with("No other place or mast is clearly better: that holds in about 7 of 10 cases."),
        "{said}"
    );
    let up = why(Reason::FasterUp { ratio: 2.0 });
    assert!(up.contains("about the same down, but here") && up.contains("goes up"), "{up}");
    let blocked =
        why(Reason::OtherBlocked { blocker: Blocker::Obstacle { index: 0 }, at_m: 90.0, ratio: 3.0 });
    assert!(
        blocked.contains("whose line “Poplars” blocks 90\u{202f}m out") && blocked.contains("3.0 times"),
        "{blocked}"
    );
    assert!(why(Reason::Cleaner { by_db: 4.0, ratio: 1.4 }).contains("less of the other masts is heard"));
    assert!(why(Reason::MoreCarriers { ratio: 1.4 }).contains("carriers move 1.4 times"));
    let easier =
        |access, other, cable_m, other_cable_m| why(Reason::Easier { access, other, cable_m, other_cable_m });
    let reach = easier(Access::Inside, Access::Roof, 5.0, 9.0);
    assert!(reach.ends_with("Gable is reached from inside, not on the roof."), "{reach}");
    let cable = easier(Access::Ladder, Access::Ladder, 5.0, 9.0);
    assert!(cable.ends_with("Gable needs 5\u{202f}m of cable, not 9\u{202f}m."), "{cable}");
    let none = Ranking { choices: Vec::new(), runner_up: None, reason: None, sensitivity: Vec::new() };
    assert!(words::survey::title(&none, METRIC).starts_with("Enter the masts around you"));
    assert_eq!(words::survey::reason(&none, &belt(), METRIC), None);
    let said =
        |one: &Sensitivity, style| words::survey::sensitivities(std::slice::from_ref(one), style).remove(0);
    let trees = Doubt::TreesTaller { by_m: 3.0 };
    let gable = Outcome::Other { position: "Gable".into(), height_m: 8.4, mast: "Fen".into() };
    let other = Sensitivity { doubt: trees, outcome: gable };
    assert_eq!(
        said(&other, METRIC),
        "If the trees are 3\u{202f}m taller than drawn, Gable at 8.4\u{202f}m to Fen wins: measure both."
    );
    let stays = |signal_db, clean_db| Outcome::Stays { signal_db, clean_db };
    let same = Sensitivity { doubt: trees, outcome: stays(2.5, 2.5) };
    let busy = Sensitivity { doubt: Doubt::AllBusy, outcome: stays(0.0, 4.0) };
    assert!(said(&busy, METRIC).ends_with("its signal is 4\u{202f}dB less clean."));
    let leaves = Sensitivity { doubt: Doubt::InLeaf, outcome: stays(0.0, 0.2) };
    let firm = Sensitivity { doubt: Doubt::MastsLower { by_m: 10.0 }, outcome: stays(0.1, 0.0) };
    assert_eq!(
        words::survey::sensitivities(&[firm.clone(), other.clone(), leaves.clone(), firm.clone()], METRIC),
        [
            said(&other, METRIC),
            "It stays first and barely changes if masts of unknown height are 10\u{202f}m lower than taken, if the trees that are drawn bare are in leaf or if masts of unknown height are 10\u{202f}m lower than taken.".into()
        ]
    );
    assert!(said(&same, IMPERIAL).contains("10\u{202f}ft taller"), "{}", said(&same, IMPERIAL));
}

#[test]
fn measurements_matches_and_slips_are_said_with_their_figures() {
    let shift = |count, shift_db| MastShift {
        mast_id: MastId(Uuid::nil()),
        count,
        shift_db,
        before_db: 10.0,
        after_db: 6.5,
    };
    assert_eq!(
        words::survey::shift(&shift(1, 3.0), "Ridge"),
        "One carrier heard here put Ridge 3\u{202f}dB stronger than computed, and narrow the doubt from ±10\u{202f}dB to ±6.5\u{202f}dB."
    );
    assert!(
        words::survey::shift(&shift(6, -4.0), "Ridge")
            .starts_with("6 carriers heard here put Ridge 4\u{202f}dB weaker")
    );
    let evidence = vec![
        Evidence::NodeDiffers { heard: 7, listed: 8 },
        Evidence::LocalDiffers { heard: 1, listed: 2 },
        Evidence::ChannelDiffers { heard: 636_666, listed: 640_000 },
        Evidence::RingHolds { from_m: 4600.0, to_m: 4800.0, distance_m: 4706.0 },
        Evidence::NotAlone { others: 1 },
        Evidence::NotAlone { others: 3 },
    ];
    let found = CellMatch { carrier: 0, mast_id: MastId(Uuid::nil()), cell: 0, fit: Fit::Possible, evidence };
    let words = words::survey::evidence(&found, METRIC);
    assert_eq!(words[0], "base station 7 heard, 8 listed");
    assert!(
        words[2].contains("synchronisation block") && words[3].ends_with("the mast is 4.7\u{202f}km away")
    );
    assert_eq!(words[4], "another mast's cell fits as well");
    assert_eq!(words[5], "3 other masts' cells fit as well");
    assert_eq!(
        [Fit::Confirmed, Fit::Possible, Fit::Contradicted].map(words::survey::fit),
        ["confirmed", "possible", "contradicted"]
    );
    let near = GeoPoint { latitude_deg: 61.4, longitude_deg: -8.25 };
    let slip = |slip| words::survey::slip(&slip, METRIC);
    assert!(slip(EntryMistake::Swapped { corrected: near }).contains("61.4000, −8.2500 lies near the house"));
    assert!(
        slip(EntryMistake::Feet { height_m: 120.0, corrected_m: 36.6 })
            .contains("if it was feet, it is 37\u{202f}m")
    );
    assert!(
        slip(EntryMistake::FarAway { distance_m: 640_000.0 }).starts_with("640\u{202f}km from the house")
    );
    assert!(slip(EntryMistake::NullIsland).contains("missing"));
    let beside = |turn_deg| LandmarkAim {
        landmark_id: LandmarkId(Uuid::nil()),
        name: "the spire".into(),
        bearing_deg: 140.0,
        distance_m: 900.0,
        turn_deg,
        doubt_deg: 0.3,
    };
    assert_eq!(words::survey::landmark(&beside(0.3)), "straight at the spire");
    assert_eq!(words::survey::landmark(&beside(12.4)), "12° right of the spire");
}
