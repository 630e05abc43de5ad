//! What limits a setup: causes ranked by what is seen, what speaks for and against each, and the test that tells it from its rival.

mod cause;
mod signs;

use crate::judge::SetupEvidence;
use crate::model::{AntennaSwitch, SetupSpec};
use cause::likelihood;
pub use cause::{Cause, Level, Sign, SignKind};
use serde::{Deserialize, Serialize};
pub use signs::{Known, signs};

/// A cause this likely is called likely, and where it is shown; one from here on may be the cause (common practice, no source).
const LIKELY: f64 = 0.8;
const MAYBE: f64 = 0.35;
/// A sign that makes a cause so many times likelier than all others together speaks for it, and one over that against.
const SPEAKS: f64 = 1.5;
/// How sure a cause is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CauseWord {
    /// Very likely, and of a kind that was looked at.
    Likely,
    /// It may be.
    Maybe,
    /// It can be, as others can.
    Open,
}

/// A test that tells causes apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TellingTest {
    /// Three tests at night.
    AtNight,
    /// Three tests in the evening and three in the morning.
    InTheEvening,
    /// Three tests over a cable to the gateway, without VPN.
    ByWire,
    /// The leads plugged the other way, by turns.
    SwapPorts,
    /// A reading in wet weather and one in dry.
    InTheWet,
}

impl TellingTest {
    /// All of them.
    pub const ALL: [Self; 5] =
        [Self::AtNight, Self::InTheEvening, Self::ByWire, Self::SwapPorts, Self::InTheWet];

    /// Those that a setup allows: leads to plug otherwise, a wire that was not used yet, an antenna that gets wet.
    pub fn doable(spec: &SetupSpec, evidence: &SetupEvidence) -> Vec<Self> {
        let external = spec.antenna == AntennaSwitch::External;
        let can = |test: &Self| match test {
            Self::AtNight | Self::InTheEvening => true,
            Self::ByWire => evidence.tests.iter().any(signs::held_up),
            Self::SwapPorts => external && spec.ports.len() > 1,
            Self::InTheWet => external,
        };
        Self::ALL.into_iter().filter(can).collect()
    }

    /// What it shows.
    pub fn shows(self) -> &'static [SignKind] {
        match self {
            Self::AtNight => &[SignKind::NightShare, SignKind::NightCarriers],
            Self::InTheEvening => &[SignKind::Hours],
            Self::ByWire => &[SignKind::WireHelps],
            Self::SwapPorts => &[SignKind::SwapHelps],
            Self::InTheWet => &[SignKind::Wet],
        }
    }

    /// Its cost in hours of somebody's time and patience (common practice, no source).
    fn cost(self) -> f64 {
        match self {
            Self::ByWire => 0.7,
            Self::InTheEvening => 1.0,
            Self::AtNight | Self::SwapPorts => 1.2,
            Self::InTheWet => 2.0,
        }
    }
}

/// A cause with what speaks for and against it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RankedCause {
    /// The cause.
    pub cause: Cause,
    /// How likely it is, 0..=1, of all causes known here.
    pub chance: f64,
    /// What speaks for it, the strongest first.
    pub speaks_for: Vec<Sign>,
    /// What speaks against it, the strongest first.
    pub against: Vec<Sign>,
}

/// What limits a setup.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Diagnosis {
    /// Likeliest first; those that are hardly possible are left out.
    pub causes: Vec<RankedCause>,
    /// How sure the first one is.
    pub word: CauseWord,
    /// The test that tells most for its time; none where no test tells enough.
    pub next: Option<TellingTest>,
}

/// Causes below this are not told.
const HARDLY: f64 = 0.03;
/// A test that takes away less than this of what is open is not worth it, nats an hour (common practice, no source).
const WORTH_A_TEST: f64 = 0.04;

/// Signs are weighed as if each came by itself; a simulation says that the chances are rather too small than too great.
fn posterior(signs: &[Sign]) -> [f64; 16] {
    let weigh = |cause: Cause| signs.iter().fold(cause.prior(), |odds, sign| odds * likelihood(cause, *sign));
    let odds = Cause::ALL.map(weigh);
    let all: f64 = odds.iter().sum();
    odds.map(|one| one / all)
}

fn entropy(chances: &[f64; 16]) -> f64 {
    -chances.iter().filter(|one| **one > 0.0).map(|one| one * one.ln()).sum::<f64>()
}

/// How much of what is open a test is expected to take away, nats.
fn expected_gain(signs: &[Sign], chances: &[f64; 16], test: TellingTest) -> f64 {
    let now = entropy(chances);
    let of_kind = |kind: &SignKind| {
        let seen = Sign::all_of(*kind).into_iter().map(|sign| {
            let often: f64 =
                Cause::ALL.iter().zip(chances).map(|(cause, chance)| chance * likelihood(*cause, sign)).sum();
            let then = posterior(&[signs, &[sign]].concat());
            often * entropy(&then)
        });
        now - seen.sum::<f64>()
    };
    test.shows().iter().map(of_kind).sum()
}

/// Ranks causes by what is seen. `doable`: the tests that this setup allows.
pub fn diagnose(signs: &[Sign], doable: &[TellingTest]) -> Diagnosis {
    let chances = posterior(signs);
    let mut order: Vec<usize> = (0..Cause::ALL.len()).collect();
    order.sort_by(|a, b| chances[*b].total_cmp(&chances[*a]));
    let ranked = |at: usize| {
        let cause = Cause::ALL[at];
        // Against what is usual where another cause is at work.
        let rest = |sign: Sign| {
            let others = || Cause::ALL.iter().filter(move |other| **other != cause);
            let weight: f64 = others().map(|other| other.prior()).sum();
            others().map(|other| other.prior() * likelihood(*other, sign)).sum::<f64>() / weight
        };
        let mut by: Vec<(Sign, f64)> =
            signs.iter().map(|sign| (*sign, likelihood(cause, *sign) / rest(*sign).max(1e-12))).collect();
        by.sort_by(|a, b| b.1.total_cmp(&a.1));
        let speaks_for = by.iter().filter(|(_, times)| *times >= SPEAKS).map(|(sign, _)| *sign).collect();
        let against =
            by.iter().rev().filter(|(_, times)| *times <= 1.0 / SPEAKS).map(|(sign, _)| *sign).collect();
        RankedCause { cause, chance: chances[at], speaks_for, against }
    };
    let first = order[0];
    let seen = |kind: &SignKind| signs.iter().any(|sign| sign.kind() == *kind);
    let shown = Cause::ALL[first].shown_by().iter().any(seen);
    let word = match chances[first] {
        chance if chance >= LIKELY && shown => CauseWord::Likely,
        chance if chance >= MAYBE => CauseWord::Maybe,
        _ => CauseWord::Open,
    };
    let worth = |test: &TellingTest| expected_gain(signs, &chances, *test) / test.cost();
    let untold = doable.iter().filter(|test| !test.shows().iter().all(seen));
    let best = untold.map(|test| (*test, worth(test))).max_by(|a, b| a.1.total_cmp(&b.1));
    Diagnosis {
        causes: order.into_iter().filter(|at| chances[*at] >= HARDLY).map(ranked).collect(),
        next: best.filter(|(_, worth)| *worth >= WORTH_A_TEST).map(|(test, _)| test),
        word,
    }
}
