//! Sweeps as they are in the field, taken by the tool's own advice to its own end: wrong datasheets, hops over a third of the
//! bearings, one or two interferers, whole decibels, few samples. The world is that of `aim_world.rs`: an array factor with ripple, not the
//! fit's own shape.

use crate::aim_world::{Dice, Real, World};
use open_beacon_core::aim::advice::{AimCriterion, AimFit, Ask, aim_fit, ask};
use open_beacon_core::aim::fit::Nominal;
use open_beacon_core::aim::sweep::{CellSweep, Stop, by_cell, unclear};
use open_beacon_core::geo::turn_deg;
use open_beacon_core::model::*;
use open_beacon_core::words;

/// Sweeps of each kind; `cargo xtask sweeps` takes 2,000.
fn sweeps() -> u64 {
    std::env::var("OPEN_BEACON_SWEEPS").ok().and_then(|told| told.parse().ok()).unwrap_or(150)
}

#[derive(Clone, Copy, Debug)]
struct Kind {
    name: &'static str,
    /// The datasheet's beamwidth against the true one, lowest and highest.
    stated: (f64, f64),
    interferers: usize,
    /// Share of bearings at which another cell answers.
    hops: f64,
    /// Readings are whole decibels.
    whole: bool,
    /// Share of bearings at which half of the samples still show the bearing before.
    stale: f64,
}

const KINDS: [Kind; 7] = [
    Kind { name: "honest", stated: (0.87, 1.15), interferers: 0, hops: 0.0, whole: false, stale: 0.0 },
    Kind {
        name: "datasheet wrong by up to two",
        stated: (0.5, 2.0),
        interferers: 0,
        hops: 0.0,
        whole: false,
        stale: 0.0,
    },
    Kind {
        name: "one interferer",
        stated: (0.87, 1.15),
        interferers: 1,
        hops: 0.0,
        whole: false,
        stale: 0.0,
    },
    Kind {
        name: "two interferers",
        stated: (0.87, 1.15),
        interferers: 2,
        hops: 0.0,
        whole: false,
        stale: 0.0,
    },
    Kind {
        name: "hops over a third",
        stated: (0.87, 1.15),
        interferers: 0,
        hops: 0.33,
        whole: false,
        stale: 0.0,
    },
    Kind { name: "whole decibels", stated: (0.87, 1.15), interferers: 1, hops: 0.1, whole: true, stale: 0.0 },
    Kind {
        name: "stale and whole decibels",
        stated: (0.87, 1.15),
        interferers: 0,
        hops: 0.1,
        whole: true,
        stale: 0.2,
    },
];

struct Taken {
    world: World,
    fit: AimFit,
    asked: Ask,
    points: usize,
    /// Most visits to one bearing.
    most_at_one: usize,
}

fn carrier(pci: u16, rsrp_dbm: f64, sinr_db: f64, whole: bool) -> Carrier {
    let shown = |value: f64| if whole { value.round() } else { value };
    Carrier {
        pci: Some(pci),
        rsrp_dbm: Some(shown(rsrp_dbm)),
        sinr_db: Some(shown(sinr_db)),
        ..Carrier::empty(Technology::Lte, CarrierRole::Primary)
    }
}

/// A sweep from the plan to the end, as the tool asks for it.
fn taken(kind: Kind, seed: u64) -> Taken {
    let mut dice = Dice::seeded(seed);
    let width_deg = 30.0 + 40.0 * dice.next();
    let real = Real { width_deg, ripple_db: 0.4, ripple_phase: std::f64::consts::TAU * dice.next() };
    let truth_deg = 360.0 * dice.next();
    let mut world = World {
        truth_deg,
        real,
        interferers: Vec::new(),
        noise_dbm: -118.0,
        level_dbm: -95.0 + 15.0 * dice.next(),
    };
    for _ in 0..kind.interferers {
        let side = if dice.next() < 0.5 { -1.0 } else { 1.0 };
        let beside = side * width_deg * (0.5 + 0.9 * dice.next());
        world.interferers.push((truth_deg + beside, 12.0 + 10.0 * dice.next()));
    }
    let (low, high) = kind.stated;
    let stated = width_deg * (low.ln() + (high.ln() - low.ln()) * dice.next()).exp();
    let nominal = Nominal { beamwidth_deg: stated.clamp(15.0, 150.0), front_to_back_db: 20.0 };
    // The map says about where: within a quarter of a beam.
    let expected_deg = truth_deg + width_deg * 0.5 * (dice.next() - 0.5);
    let mut stops: Vec<(f64, Vec<Vec<Carrier>>)> = Vec::new();
    loop {
        let measured: Vec<f64> = stops.iter().map(|(angle, _)| *angle).collect();
        let read: Vec<Stop> = stops
            .iter()
            .map(|(angle_deg, samples)| Stop {
                angle_deg: *angle_deg,
                samples: samples.iter().map(Vec::as_slice).collect(),
            })
            .collect();
        let cells: Vec<CellSweep> = by_cell(&read, None);
        let fitted = cells
            .first()
            .and_then(|one| aim_fit(one, SweepAxis::Azimuth, nominal, AimCriterion::Quality, &[]));
        let (_, asked) =
            ask(SweepAxis::Azimuth, nominal, Some(expected_deg), 2.0, &measured, fitted.as_ref());
        if let (Ask::Set { .. } | Ask::Stopped { .. }, Some(fit)) = (&asked, &fitted) {
            let visits = |angle: &f64| measured.iter().filter(|one| *one == angle).count();
            let most_at_one = measured.iter().map(visits).max().unwrap_or(0);
            return Taken { fit: fit.clone(), asked, points: measured.len(), most_at_one, world };
        }
        let angle_deg = asked.angle_deg();
        let point = world.point(angle_deg, 1.5, &mut dice);
        // The sweep begins on the cell that serves.
        let hops = !stops.is_empty() && dice.next() < kind.hops;
        let off = turn_deg(world.truth_deg + 65.0, angle_deg);
        let other = carrier(305, world.level_dbm - 3.0 + world.real.gain_db(off), 4.0, kind.whole);
        let before = stops.last().filter(|_| kind.stale > 0.0 && dice.next() < kind.stale);
        let before = before.map(|(_, samples)| samples[3].clone());
        let samples = (0..4)
            .map(|at| {
                if let Some(before) = before.as_ref().filter(|_| at < 2) {
                    before.clone()
                } else if hops {
                    vec![other.clone()]
                } else {
                    vec![carrier(211, point.rsrp_dbm, point.sinr_db.unwrap_or(0.0), kind.whole)]
                }
            })
            .collect();
        stops.push((angle_deg, samples));
        assert!(stops.len() < 40, "no end");
    }
}

fn sinr_db(world: &World, at_deg: f64) -> f64 {
    world.rsrp_dbm(at_deg) - world.disturbance_dbm(at_deg)
}

/// The issue's own bounds: intervals hold at least 86 % in each kind (less what so many sweeps may show by chance), SINR lost at the
/// recommended bearing below 0.7 dB in the median and 2 dB at the 95th percentile, at most 14 points in the median with hops, never
/// "enough" with an interval wider than half a beamwidth.
#[test]
fn sweeps_by_the_tools_own_advice_end_well() {
    let mut failed = Vec::new();
    let sweeps = sweeps();
    for (at, kind) in KINDS.into_iter().enumerate() {
        let (mut held, mut lost, mut points, mut ended, mut widths) =
            (0.0, Vec::new(), Vec::new(), 0, Vec::new());
        for sweep in 0..sweeps {
            let taken = taken(kind, 70_000 + 1_000 * at as u64 + sweep % 1_000 + sweep / 1_000 * 1_000_000);
            let Taken { world, fit, asked, .. } = &taken;
            held += f64::from(u8::from(fit.strongest.holds(world.truth_deg))) / sweeps as f64;
            lost.push(sinr_db(world, world.cleanest_deg()) - sinr_db(world, fit.recommended_deg));
            points.push(taken.points);
            widths.push((fit.strongest.left_deg + fit.strongest.right_deg) / fit.beamwidth_deg);
            assert_eq!(fit.cell.pci, Some(211), "another cell's points became the curve");
            assert!(
                taken.most_at_one <= 6,
                "{kind:?}: one bearing was asked for {} times",
                taken.most_at_one
            );
            if let Ask::Set { .. } = asked {
                ended += 1;
                let whole = fit.strongest.left_deg + fit.strongest.right_deg;
                assert!(whole <= fit.beamwidth_deg / 2.0 + 1e-9, "{kind:?}: enough with {whole}");
            }
        }
        lost.sort_by(f64::total_cmp);
        points.sort_unstable();
        widths.sort_by(f64::total_cmp);
        let (middle, most) = (lost[lost.len() / 2], lost[lost.len() * 95 / 100]);
        println!(
            "{}: held {held:.3} in {:.2} of a beam, SINR lost {middle:.2} dB median, {most:.2} dB at 95 %, {} points, {ended} ended by their interval",
            kind.name,
            widths[widths.len() / 2],
            points[points.len() / 2]
        );
        // Two standard errors of a share of 0.86 among so many.
        let chance = 2.0 * (0.86 * 0.14 / sweeps as f64).sqrt();
        let fine = held >= 0.86 - chance && middle < 0.7 && most < 2.0 && points[points.len() / 2] <= 14;
        failed.extend((!fine).then_some(kind.name));
    }
    assert!(failed.is_empty(), "{failed:?}");
}

#[test]
fn a_wrong_datasheet_is_noticed_and_said() {
    let said = |stated: f64, seed: u64| {
        let mut dice = Dice::seeded(seed);
        let real = Real { width_deg: 60.0, ripple_db: 0.3, ripple_phase: 1.0 };
        let world =
            World { truth_deg: 143.0, real, interferers: Vec::new(), noise_dbm: -118.0, level_dbm: -90.0 };
        let points: Vec<_> =
            (0..15).map(|at| world.point(73.0 + 10.0 * f64::from(at), 0.7, &mut dice)).collect();
        let stops = (0..points.len()).collect();
        let cell = open_beacon_core::aim::sweep::CellKey {
            technology: Technology::Lte,
            band: Some(3),
            channel: None,
            pci: Some(211),
        };
        let sweep = CellSweep { cell, bandwidth_mhz: None, points, stops, unanswered_deg: Vec::new() };
        let nominal = Nominal { beamwidth_deg: stated, front_to_back_db: 20.0 };
        let fit = aim_fit(&sweep, SweepAxis::Azimuth, nominal, AimCriterion::Quality, &[]).unwrap();
        assert!(turn_deg(fit.strongest.angle_deg, 143.0).abs() < 4.0, "{:?}", fit.strongest);
        words::aim::detail(&fit)
    };
    for seed in 0..8 {
        assert!(said(30.0, seed).contains("not 30°"), "{}", said(30.0, seed));
        assert!(!said(60.0, seed).contains("beam is about"), "{}", said(60.0, seed));
    }
}

/// Many points of another cell do not make it the one that is aimed at; the page says what to do about it.
#[test]
fn the_cell_that_served_at_the_beginning_is_the_one_that_is_aimed_at() {
    let here = [carrier(211, -90.0, 10.0, false)];
    let other = [carrier(305, -95.0, 2.0, false)];
    let stop = |angle_deg: f64, hopped: bool| Stop {
        angle_deg,
        samples: vec![if hopped { &other } else { &here }; 4],
    };
    let stops: Vec<Stop> = (0..12).map(|at| stop(10.0 * f64::from(at), at % 2 == 1 || at == 10)).collect();
    let cells = by_cell(&stops, None);
    assert_eq!((cells[0].cell.pci, cells[1].cell.pci), (Some(211), Some(305)));
    assert!(cells[1].points.len() > cells[0].points.len());
    assert_eq!(cells[0].points.len() + cells[0].unanswered_deg.len(), stops.len());
    let said = words::aim::left_out(&cells);
    // With less than half of the other's points it is not the wanted one any more.
    assert!(said.is_some_and(|said| said.contains("lock the cell or the band first")));
    let few: Vec<Stop> = (0..12).map(|at| stop(10.0 * f64::from(at), at > 0)).collect();
    assert_eq!(by_cell(&few, None)[0].cell.pci, Some(305));
    // It is asked which one is meant, and what is chosen is aimed at however few its points are.
    assert_eq!(unclear(&cells).iter().map(|one| one.cell.pci).collect::<Vec<_>>(), [Some(211), Some(305)]);
    let chosen = by_cell(&few, Some(cells[0].cell));
    assert_eq!((chosen[0].cell.pci, chosen[0].points.len()), (Some(211), 1));
    let clear: Vec<Stop> = (0..12).map(|at| stop(10.0 * f64::from(at), at == 5)).collect();
    assert!(unclear(&by_cell(&clear, None)).is_empty() && unclear(&[]).is_empty());
}
