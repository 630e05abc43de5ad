use crate::samples::*;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;

const UTC: chrono_tz::Tz = chrono_tz::UTC;

#[test]
fn the_log_leads_from_nothing_to_a_comparison() {
    let next = |evidence: &SetupEvidence| log_advice(Some(evidence)).next;
    assert_eq!(log_advice(None).next, NextAction::AddSetup);
    let mut setup = evidence("A", &[]);
    assert_eq!(next(&setup), NextAction::Record);
    setup.heard(&[sample(1, 1, Activity::Trickle, vec![lte(3, 1, -90.0, 10.0)])]);
    assert_eq!(next(&setup), NextAction::SpeedTest { tests: 3 });
    let mut one = evidence("A", &[10.0]);
    assert_eq!(next(&one), NextAction::SpeedTest { tests: 2 });
    one = evidence("A", &[10.0, 11.0, 12.0]);
    assert_eq!(next(&one), NextAction::Record, "tests without a reading");
    one.radio = setup.radio;
    assert_eq!(next(&one), NextAction::Compare);
}

#[test]
fn the_widest_carrier_is_told_of() {
    let mut setup = evidence("A", &[10.0, 11.0, 12.0]);
    setup.heard(&[sample(1, 1, Activity::Trickle, vec![lte(3, 1, -90.0, 10.0), nr(78, 2, -95.0, 14.0)])]);
    let advice = log_advice(Some(&setup));
    assert!(matches!(&advice.detail[..], [Finding::CarrierMedians { cell, .. }] if cell.band == Some(78)));
}

#[test]
fn the_best_clear_gain_leads_the_verdict() {
    let others = [
        evidence("wild", &[25.0, 60.0, 130.0]),
        evidence("steady", &[160.0, 162.0, 164.0]),
        evidence("thin", &[190.0]),
    ];
    let advice = verdict_advice(&compare(&evidence("base", &[20.0, 21.0, 22.0]), &others, UTC));
    assert!(
        matches!(&advice.title, Finding::ClearGain { setup, .. } if setup == "steady"),
        "{:?}",
        advice.title
    );
    assert!(
        !advice
            .detail
            .iter()
            .any(|finding| matches!(finding, Finding::CannotTell { setup, .. } if setup == "wild")),
        "far behind"
    );
    assert!(advice.detail.iter().any(
        |finding| matches!(finding, Finding::RivalsUntested { setups, need: 3 } if setups == &["thin"])
    ));
    assert_eq!(advice.next, NextAction::Nothing);
}

#[test]
fn a_lone_setup_cannot_be_judged() {
    let advice = verdict_advice(&compare(&evidence("base", &[20.0, 21.0, 22.0]), &[], UTC));
    assert_eq!(advice.title, Finding::NothingToCompare { with_tests: 1 });
    assert_eq!(advice.next, NextAction::ChooseSetups);
}

#[test]
fn too_few_asks_for_more_tests() {
    let advice = verdict_advice(&compare(&evidence("base", &[20.0]), &[evidence("B", &[22.0, 27.0])], UTC));
    assert!(matches!(advice.title, Finding::TooFew { have: 2, baseline_has: 1, need: 3, .. }));
    assert_eq!(advice.next, NextAction::SpeedTest { tests: 3 });
}

#[test]
fn stages_show_how_far_the_work_is() {
    let states = |tests: &[usize]| -> Vec<StageState> {
        let tally = |tests: &usize| SetupTally { stock_antennas: false, samples: 0, tests: *tests };
        let setups: Vec<SetupTally> = tests.iter().map(tally).collect();
        let of = stage_states(&setups, Planned::default());
        of.iter()
            .skip(3)
            .filter(|one| !matches!(one.stage, Stage::Aim | Stage::Bands))
            .map(|one| one.state)
            .collect()
    };
    let baseline = |samples, tests| {
        stage_states(&[SetupTally { stock_antennas: true, samples, tests }], Planned::default())[0].state
    };
    let aim = |sweeps_set, sweeps_open| {
        stage_states(&[], Planned { sweeps_set, sweeps_open, ..Planned::default() })[4]
    };
    use StageState::{Attention, Done, Open};
    assert_eq!([aim(0, 0).state, aim(1, 0).state, aim(1, 1).state], [Open, Done, Attention]);
    assert_eq!(aim(0, 0).stage, Stage::Aim);
    assert_eq!(states(&[]), [Open, Open, Open]);
    assert_eq!(states(&[0, 0]), [Done, Open, Open]);
    assert_eq!(states(&[3, 1]), [Done, Attention, Open]);
    assert_eq!(states(&[3, 6]), [Done, Done, Done]);
    assert_eq!(
        [baseline(0, 0), baseline(10, 1), baseline(0, 3), baseline(10, 3)],
        [Open, Attention, Attention, Done]
    );
}

/// Only what could still match the best is worth a word in the detail.
#[test]
fn a_setup_far_behind_is_not_named_as_a_rival() {
    let base = evidence("base", &[20.0, 21.0, 22.0]);
    let best = evidence("best", &[100.0, 104.0, 98.0]);
    let rival = evidence("rival", &[95.0, 99.0]);
    let behind = evidence("behind", &[23.0, 24.0]);
    let advice = verdict_advice(&compare(&base, &[best, rival, behind], UTC));
    let named = |name: &str| {
        advice.detail.iter().any(|finding| {
            matches!(finding, Finding::RivalsUntested { setups, .. } if setups.iter().any(|setup| setup == name))
        })
    };
    assert!(named("rival") && !named("behind"), "{:?}", advice.detail);
}
