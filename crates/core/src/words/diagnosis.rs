//! What limits a setup, in words: the cause, what to do about it, what speaks for and against it, and the test that tells.

use super::{capital, share};
use crate::diagnosis::{Cause, CauseWord, Diagnosis, Level, Sign, TellingTest};

/// The cause as a noun: "a busy cell".
pub fn cause(of: Cause) -> &'static str {
    match of {
        Cause::Nothing => "nothing that can be helped",
        Cause::WeakSignal => "a weak signal",
        Cause::Interference => "interference from other cells",
        Cause::BusyCell => "a busy cell",
        Cause::LocalNetwork => "the way from the gateway to this computer",
        Cause::CarrierLost => "a carrier that is gone",
        Cause::PortMixUp => "leads in the wrong ports",
        Cause::WrongCell => "another cell than the one aimed at",
        Cause::UplinkPower => "too little power to send with",
        Cause::PlanLimit => "a limit of the plan",
        Cause::Backhaul => "the mast's own link",
        Cause::OffAtNight => "carriers that are switched off at night",
        Cause::NotProvisioned => "a SIM or account that is not set up for this device",
        Cause::Queueing => "queues in the gateway",
        Cause::WetJoint => "water in a joint",
        Cause::Turned => "a turned antenna or mast",
    }
}

/// The cause as it stands in a list: "A busy cell".
pub fn name(of: Cause) -> String {
    capital(cause(of))
}

/// What to do about it.
fn remedy(of: Cause) -> &'static str {
    match of {
        Cause::Nothing => "The radio brings what it can here. More needs a better place or a better kit.",
        Cause::WeakSignal => "Try higher, outdoors or with more gain: every dB counts.",
        Cause::Interference => {
            "Turn the antenna to the cleanest bearing, or lock another band. More gain alone does not help."
        }
        Cause::BusyCell => "Try a lock to another band or cell. The antenna cannot help against a full cell.",
        Cause::LocalNetwork => {
            "Test by cable straight at the gateway, without VPN. The antenna is not the matter."
        }
        Cause::CarrierLost => {
            "Look at Bands which carrier is missing. If no lock brings it back, ask the operator."
        }
        Cause::PortMixUp => "Plug the leads the other way and test both ways alternately.",
        Cause::WrongCell => "Aim again, or lock the band of the cell that you want.",
        Cause::UplinkPower => {
            "Shorten the cable, raise the antenna, or lock a lower band: the gateway sends at full power already."
        }
        Cause::PlanLimit => "Ask the operator what the plan allows, and whether its priority was lowered.",
        Cause::Backhaul => "Try another mast. No antenna makes this one's link wider.",
        Cause::OffAtNight => "It comes back in the morning. Lock what stays on if nights matter.",
        Cause::NotProvisioned => "Call the operator: the SIM has to be set up for this device and plan.",
        Cause::Queueing => {
            "Set a rate limit with queue management in your router, a little below the slowest usual speed."
        }
        Cause::WetJoint => "Open, dry and seal the outdoor joints anew, when it is dry and safe to go up.",
        Cause::Turned => "Read the bearing by the landmark, and sweep again a few degrees to either side.",
    }
}

/// The sentence on top: "A busy cell probably limits East gable (87 %)."
pub fn title(label: &str, of: &Diagnosis) -> String {
    let Some(first) = of.causes.first() else { return String::new() };
    let what = capital(cause(first.cause));
    let chance = share(first.chance);
    match (of.word, first.cause) {
        (CauseWord::Open, _) => format!("What limits {label} cannot be told yet."),
        (CauseWord::Likely, Cause::Nothing) => format!("Nothing looks wrong at {label} ({chance})."),
        (CauseWord::Maybe, Cause::Nothing) => format!("Nothing looks wrong at {label} so far ({chance})."),
        (CauseWord::Likely, _) => format!("{what} probably limits {label} ({chance})."),
        (CauseWord::Maybe, _) => format!("{what} may limit {label} ({chance})."),
    }
}

/// What to do: the remedy where the cause is likely, else the test that tells.
pub fn detail(of: &Diagnosis) -> String {
    let Some(first) = of.causes.first() else { return String::new() };
    let test = of.next.map(|next| format!("To be sure: {}.", telling(next)));
    let remedy = match of.word {
        CauseWord::Likely => Some(remedy(first.cause).to_owned()),
        CauseWord::Maybe | CauseWord::Open => None,
    };
    let found: Vec<String> = remedy.into_iter().chain(test).collect();
    if found.is_empty() { "No test here would tell much more.".into() } else { found.join(" ") }
}

/// A test that tells causes apart.
pub fn telling(test: TellingTest) -> &'static str {
    match test {
        TellingTest::AtNight => "run three tests between 1 and 5 at night",
        TellingTest::InTheEvening => "run three tests in the evening and three on a morning",
        TellingTest::ByWire => "run three tests by cable straight at the gateway, without VPN",
        TellingTest::SwapPorts => "plug the leads the other way and test both ways alternately",
        TellingTest::InTheWet => "read it once in the rain and once dry, and note the weather",
    }
}

fn of_share(level: Level, what: &str) -> String {
    match level {
        Level::Low => format!("{what} is less than a third of what the radio allows"),
        Level::Middle => format!("{what} is about half of what the radio allows"),
        Level::High => format!("{what} is most of what the radio allows"),
    }
}

/// A sign as a clause: "evenings are much slower than other hours".
pub fn sign(of: Sign) -> String {
    let said = match of {
        Sign::Signal(Level::Low) => "the signal (RSRP) is below −110\u{202f}dBm",
        Sign::Signal(Level::Middle) => "the signal (RSRP) is fair",
        Sign::Signal(Level::High) => "the signal (RSRP) is strong",
        Sign::Cleanness(Level::Low) => "signal-to-noise (SINR) is poor",
        Sign::Cleanness(Level::Middle) => "signal-to-noise (SINR) is fair",
        Sign::Cleanness(Level::High) => "signal-to-noise (SINR) is good",
        Sign::Disturbance(true) => "other cells disturb more than the gateway's own noise",
        Sign::Disturbance(false) => "the gateway's own noise is what disturbs",
        Sign::DownShare(level) => return of_share(level, "by day, download"),
        Sign::UpShare(level) => return of_share(level, "upload"),
        Sign::NightShare(level) => return of_share(level, "at night, download"),
        Sign::Crawls(true) => "next to nothing comes through, either way",
        Sign::Crawls(false) => "more than a trickle comes through",
        Sign::Hours(true) => "evenings are much slower than other hours",
        Sign::Hours(false) => "evenings are about as fast as other hours",
        Sign::Ceiling(true) => "every sitting ends at the same rate",
        Sign::Ceiling(false) => "rates differ from sitting to sitting",
        Sign::Local(true) => "tests went over Wi-Fi, a VPN, a slow wire or a busy computer",
        Sign::Local(false) => "tests went over a plain wire",
        Sign::WireHelps(true) => "it is much faster over a plain wire",
        Sign::WireHelps(false) => "a plain wire makes it no faster",
        Sign::Layers(true) => "one layer only in spite of good signal-to-noise (SINR)",
        Sign::Layers(false) => "good signal-to-noise (SINR) brings several layers",
        Sign::Branches(true) => "the receive branches are far apart",
        Sign::Branches(false) => "the receive branches are alike",
        Sign::SwapHelps(true) => "it is faster with the leads the other way",
        Sign::SwapHelps(false) => "the other way of plugging is no faster",
        Sign::Cell(true) => "another cell serves than the mast's that it is aimed at",
        Sign::Cell(false) => "a cell of the mast that it is aimed at serves",
        Sign::Carriers(true) => "fewer carriers are heard than at first",
        Sign::Carriers(false) => "as many carriers are heard as at first",
        Sign::NightCarriers(true) => "fewer carriers are heard at night",
        Sign::NightCarriers(false) => "as many carriers are heard at night",
        Sign::Power(true) => "the signal is much weaker than at first",
        Sign::Power(false) => "the signal is as strong as at first",
        Sign::Wet(true) => "the signal is weaker in wet weather",
        Sign::Wet(false) => "wet weather does not weaken the signal",
        Sign::Page(true) => "a small page takes long to load",
        Sign::Page(false) => "a small page loads quickly",
        Sign::LoadedLatency(true) => "latency rises far under load",
        Sign::LoadedLatency(false) => "latency stays low under load",
    };
    said.into()
}
