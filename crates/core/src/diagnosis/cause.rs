//! Causes of a slow line, the signs that speak for and against them, and how likely each sign is under each cause. All shares are common
//! practice, no source; a simulation that knows none of them judges what they come to.

use serde::{Deserialize, Serialize};

/// What may limit a setup.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Cause {
    /// Nothing: what the radio can carry arrives.
    Nothing,
    /// Too little signal over the receiver's own noise.
    WeakSignal,
    /// Other cells disturb.
    Interference,
    /// The cell is shared with many others at busy hours.
    BusyCell,
    /// Wire, adapter, Wi-Fi, VPN or the computer itself.
    LocalNetwork,
    /// A carrier or sector that was there is gone.
    CarrierLost,
    /// Leads in the wrong ports, or polarisations mixed up.
    PortMixUp,
    /// Another cell serves than the one aimed at.
    WrongCell,
    /// The gateway sends at full power and is still not heard well.
    UplinkPower,
    /// The plan's ceiling, or a lowered priority.
    PlanLimit,
    /// The mast's own link is full.
    Backhaul,
    /// Carriers are switched off at night.
    OffAtNight,
    /// SIM or account not set up for this device.
    NotProvisioned,
    /// The gateway queues too much: latency under load.
    Queueing,
    /// Water in a joint.
    WetJoint,
    /// The antenna turned, or the mast's did.
    Turned,
}

impl Cause {
    /// All of them.
    pub const ALL: [Self; 16] = [
        Self::Nothing,
        Self::WeakSignal,
        Self::Interference,
        Self::BusyCell,
        Self::LocalNetwork,
        Self::CarrierLost,
        Self::PortMixUp,
        Self::WrongCell,
        Self::UplinkPower,
        Self::PlanLimit,
        Self::Backhaul,
        Self::OffAtNight,
        Self::NotProvisioned,
        Self::Queueing,
        Self::WetJoint,
        Self::Turned,
    ];

    /// How common it is before anything is known.
    pub(super) fn prior(self) -> f64 {
        match self {
            Self::Nothing => 0.2,
            Self::BusyCell => 0.15,
            Self::WeakSignal | Self::Interference => 0.12,
            Self::LocalNetwork => 0.1,
            Self::WrongCell => 0.05,
            Self::PortMixUp | Self::UplinkPower | Self::PlanLimit | Self::Queueing => 0.04,
            Self::CarrierLost | Self::Backhaul | Self::Turned => 0.03,
            Self::OffAtNight | Self::NotProvisioned | Self::WetJoint => 0.02,
        }
    }

    /// Kinds of signs of which one at least must have been seen before it is called likely.
    pub(super) fn shown_by(self) -> &'static [SignKind] {
        use SignKind as K;
        match self {
            Self::Nothing => &[K::DownShare],
            Self::WeakSignal | Self::Interference => &[K::Disturbance],
            Self::BusyCell => &[K::Hours, K::NightShare],
            Self::Backhaul => &[K::NightShare],
            Self::LocalNetwork => &[K::WireHelps],
            Self::CarrierLost => &[K::Carriers],
            Self::PortMixUp => &[K::SwapHelps, K::Layers],
            Self::WrongCell => &[K::Cell],
            Self::UplinkPower | Self::NotProvisioned => &[K::UpShare],
            Self::PlanLimit => &[K::Ceiling],
            Self::OffAtNight => &[K::NightCarriers],
            Self::Queueing => &[K::LoadedLatency],
            Self::WetJoint => &[K::Wet],
            Self::Turned => &[K::Power],
        }
    }
}

/// Low, middle or high.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // The names say it.
pub enum Level {
    Low,
    Middle,
    High,
}

/// Something seen that speaks for or against causes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(tag = "sign", content = "value", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Sign {
    /// Signal of the strongest carrier: below −110 dBm, between, from −95 dBm.
    Signal(Level),
    /// Signal-to-noise of the best carrier: below 3 dB, between, from 13 dB.
    Cleanness(Level),
    /// True where other cells, not the receiver's own noise, disturb a carrier that is not clean.
    Disturbance(bool),
    /// Share of what the radio could carry down by day: below 0.3, between, from 0.6.
    DownShare(Level),
    /// The same up.
    UpShare(Level),
    /// The same down at night.
    NightShare(Level),
    /// True where next to nothing comes through either way.
    Crawls(bool),
    /// True where evenings are much slower than other hours.
    Hours(bool),
    /// True where tests of several sittings all end at the same rate.
    Ceiling(bool),
    /// True where tests went over Wi-Fi, a tunnel, a slow wire or a busy computer.
    Local(bool),
    /// True where it is much faster over a plain wire.
    WireHelps(bool),
    /// True where the radio is clean and yet fed with one layer.
    Layers(bool),
    /// True where receive branches are far apart.
    Branches(bool),
    /// True where it is much faster with the leads plugged the other way.
    SwapHelps(bool),
    /// True where another cell serves than the one aimed at.
    Cell(bool),
    /// True where fewer carriers are heard than before.
    Carriers(bool),
    /// True where fewer carriers are heard at night than by day.
    NightCarriers(bool),
    /// True where all carriers are much weaker than before.
    Power(bool),
    /// True where the signal is weaker in wet weather.
    Wet(bool),
    /// True where a small page loads slowly.
    Page(bool),
    /// True where latency rises far under load.
    LoadedLatency(bool),
}

/// What a sign is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[allow(missing_docs)] // As the signs.
pub enum SignKind {
    Signal,
    Cleanness,
    Disturbance,
    DownShare,
    UpShare,
    NightShare,
    Crawls,
    Hours,
    Ceiling,
    Local,
    WireHelps,
    Layers,
    Branches,
    SwapHelps,
    Cell,
    Carriers,
    NightCarriers,
    Power,
    Wet,
    Page,
    LoadedLatency,
}

impl Sign {
    /// What it is of.
    pub fn kind(self) -> SignKind {
        match self {
            Self::Signal(_) => SignKind::Signal,
            Self::Cleanness(_) => SignKind::Cleanness,
            Self::Disturbance(_) => SignKind::Disturbance,
            Self::DownShare(_) => SignKind::DownShare,
            Self::UpShare(_) => SignKind::UpShare,
            Self::NightShare(_) => SignKind::NightShare,
            Self::Crawls(_) => SignKind::Crawls,
            Self::Hours(_) => SignKind::Hours,
            Self::Ceiling(_) => SignKind::Ceiling,
            Self::Local(_) => SignKind::Local,
            Self::WireHelps(_) => SignKind::WireHelps,
            Self::Layers(_) => SignKind::Layers,
            Self::Branches(_) => SignKind::Branches,
            Self::SwapHelps(_) => SignKind::SwapHelps,
            Self::Cell(_) => SignKind::Cell,
            Self::Carriers(_) => SignKind::Carriers,
            Self::NightCarriers(_) => SignKind::NightCarriers,
            Self::Power(_) => SignKind::Power,
            Self::Wet(_) => SignKind::Wet,
            Self::Page(_) => SignKind::Page,
            Self::LoadedLatency(_) => SignKind::LoadedLatency,
        }
    }

    /// Every value that a sign of a kind can have.
    pub(super) fn all_of(kind: SignKind) -> Vec<Self> {
        let levels = |of: fn(Level) -> Self| [Level::Low, Level::Middle, Level::High].map(of).to_vec();
        let either = |of: fn(bool) -> Self| [false, true].map(of).to_vec();
        match kind {
            SignKind::Signal => levels(Self::Signal),
            SignKind::Cleanness => levels(Self::Cleanness),
            SignKind::DownShare => levels(Self::DownShare),
            SignKind::UpShare => levels(Self::UpShare),
            SignKind::NightShare => levels(Self::NightShare),
            SignKind::Disturbance => either(Self::Disturbance),
            SignKind::Crawls => either(Self::Crawls),
            SignKind::Hours => either(Self::Hours),
            SignKind::Ceiling => either(Self::Ceiling),
            SignKind::Local => either(Self::Local),
            SignKind::WireHelps => either(Self::WireHelps),
            SignKind::Layers => either(Self::Layers),
            SignKind::Branches => either(Self::Branches),
            SignKind::SwapHelps => either(Self::SwapHelps),
            SignKind::Cell => either(Self::Cell),
            SignKind::Carriers => either(Self::Carriers),
            SignKind::NightCarriers => either(Self::NightCarriers),
            SignKind::Power => either(Self::Power),
            SignKind::Wet => either(Self::Wet),
            SignKind::Page => either(Self::Page),
            SignKind::LoadedLatency => either(Self::LoadedLatency),
        }
    }
}

fn of(level: Level, [low, middle, high]: [f64; 3]) -> f64 {
    match level {
        Level::Low => low,
        Level::Middle => middle,
        Level::High => high,
    }
}

fn either(is: bool, often: f64) -> f64 {
    if is { often } else { 1.0 - often }
}

/// How likely a sign is where a cause is at work.
pub(super) fn likelihood(cause: Cause, sign: Sign) -> f64 {
    use Cause as C;
    match sign {
        Sign::Signal(level) => of(
            level,
            match cause {
                C::Nothing => [0.01, 0.29, 0.7],
                C::WeakSignal => [0.66, 0.29, 0.05],
                C::UplinkPower => [0.55, 0.38, 0.07],
                C::WetJoint | C::Turned => [0.2, 0.45, 0.35],
                C::NotProvisioned => [0.05, 0.35, 0.6],
                _ => [0.12, 0.46, 0.42],
            },
        ),
        Sign::Cleanness(level) => of(
            level,
            match cause {
                C::Nothing => [0.01, 0.1, 0.89],
                C::WeakSignal => [0.4, 0.5, 0.1],
                C::Interference => [0.55, 0.4, 0.05],
                C::WrongCell => [0.35, 0.4, 0.25],
                C::WetJoint | C::Turned => [0.15, 0.45, 0.4],
                C::NotProvisioned => [0.05, 0.3, 0.65],
                C::PortMixUp => [0.08, 0.3, 0.62],
                _ => [0.1, 0.42, 0.48],
            },
        ),
        Sign::Disturbance(is) => either(
            is,
            match cause {
                C::Nothing => 0.3,
                C::WeakSignal => 0.12,
                C::Interference => 0.92,
                C::WetJoint | C::Turned => 0.4,
                _ => 0.5,
            },
        ),
        Sign::DownShare(level) => of(
            level,
            match cause {
                C::Nothing => [0.02, 0.3, 0.68],
                C::NotProvisioned => [0.96, 0.03, 0.01],
                C::BusyCell | C::LocalNetwork | C::PlanLimit | C::Backhaul => [0.65, 0.28, 0.07],
                C::PortMixUp => [0.35, 0.5, 0.15],
                C::WrongCell => [0.25, 0.4, 0.35],
                _ => [0.06, 0.34, 0.6],
            },
        ),
        Sign::UpShare(level) => of(
            level,
            match cause {
                C::Nothing => [0.02, 0.3, 0.68],
                C::NotProvisioned => [0.96, 0.03, 0.01],
                C::UplinkPower => [0.8, 0.16, 0.04],
                C::PlanLimit | C::Backhaul | C::LocalNetwork => [0.4, 0.35, 0.25],
                C::BusyCell => [0.2, 0.45, 0.35],
                _ => [0.08, 0.37, 0.55],
            },
        ),
        Sign::NightShare(level) => of(
            level,
            match cause {
                C::Nothing => [0.02, 0.25, 0.73],
                C::NotProvisioned => [0.96, 0.03, 0.01],
                C::LocalNetwork | C::PlanLimit | C::Backhaul => [0.7, 0.24, 0.06],
                C::PortMixUp => [0.35, 0.5, 0.15],
                C::OffAtNight => [0.25, 0.4, 0.35],
                _ => [0.05, 0.3, 0.65],
            },
        ),
        Sign::Crawls(is) => either(
            is,
            match cause {
                C::NotProvisioned => 0.9,
                C::PlanLimit => 0.08,
                C::LocalNetwork | C::Backhaul => 0.04,
                C::Nothing => 0.002,
                _ => 0.01,
            },
        ),
        Sign::Hours(is) => either(
            is,
            match cause {
                C::Nothing => 0.05,
                C::BusyCell => 0.9,
                C::Backhaul => 0.3,
                C::LocalNetwork | C::PlanLimit => 0.05,
                _ => 0.12,
            },
        ),
        Sign::Ceiling(is) => either(
            is,
            match cause {
                C::Nothing => 0.02,
                C::PlanLimit => 0.9,
                C::LocalNetwork => 0.45,
                C::NotProvisioned => 0.15,
                _ => 0.03,
            },
        ),
        Sign::Local(is) => either(
            is,
            match cause {
                C::LocalNetwork => 0.92,
                C::Nothing => 0.2,
                _ => 0.25,
            },
        ),
        Sign::WireHelps(is) => either(
            is,
            match cause {
                C::LocalNetwork => 0.94,
                C::Nothing => 0.02,
                _ => 0.04,
            },
        ),
        Sign::Layers(is) => either(
            is,
            match cause {
                C::PortMixUp => 0.88,
                C::Nothing => 0.03,
                _ => 0.08,
            },
        ),
        Sign::Branches(is) => either(
            is,
            match cause {
                C::Nothing => 0.04,
                C::PortMixUp => 0.65,
                C::WetJoint => 0.4,
                _ => 0.06,
            },
        ),
        Sign::SwapHelps(is) => either(
            is,
            match cause {
                C::PortMixUp => 0.92,
                C::Nothing => 0.03,
                _ => 0.05,
            },
        ),
        Sign::Cell(is) => either(
            is,
            match cause {
                C::Nothing => 0.005,
                C::WrongCell => 0.94,
                C::Turned => 0.2,
                _ => 0.04,
            },
        ),
        Sign::Carriers(is) => either(
            is,
            match cause {
                C::Nothing => 0.01,
                C::CarrierLost => 0.95,
                C::WetJoint | C::Turned | C::WeakSignal => 0.15,
                _ => 0.04,
            },
        ),
        Sign::NightCarriers(is) => either(
            is,
            match cause {
                C::OffAtNight => 0.95,
                C::Nothing => 0.005,
                _ => 0.03,
            },
        ),
        Sign::Power(is) => either(
            is,
            match cause {
                C::Nothing => 0.005,
                C::Turned => 0.92,
                C::WetJoint => 0.75,
                C::CarrierLost | C::WrongCell => 0.12,
                _ => 0.03,
            },
        ),
        Sign::Wet(is) => either(
            is,
            match cause {
                C::WetJoint => 0.92,
                C::Nothing => 0.04,
                _ => 0.08,
            },
        ),
        Sign::Page(is) => either(
            is,
            match cause {
                C::Nothing => 0.03,
                C::NotProvisioned => 0.92,
                C::LocalNetwork | C::BusyCell | C::Backhaul | C::WeakSignal => 0.25,
                _ => 0.08,
            },
        ),
        Sign::LoadedLatency(is) => either(
            is,
            match cause {
                C::Nothing => 0.01,
                C::Queueing => 0.95,
                C::NotProvisioned | C::BusyCell | C::UplinkPower => 0.35,
                _ => 0.12,
            },
        ),
    }
}
