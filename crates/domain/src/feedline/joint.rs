//! Which connectors mate, and what a joint costs.

use serde::{Deserialize, Serialize};

/// A connector series.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Series {
    /// N.
    N,
    /// SMA.
    Sma,
    /// SMA with the centre contacts swapped; it screws onto plain SMA and does not connect.
    RpSma,
    /// TS9.
    Ts9,
    /// CRC9.
    Crc9,
    /// Tiny board socket, about 30 matings by its data sheets.
    UFl,
}

/// Which half of a pair, by its thread or shell, as it is sold.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Gender {
    /// With a pin.
    Male,
    /// With a socket.
    Female,
}

/// One end of a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Connector {
    /// Series of the connector.
    pub series: Series,
    /// Pin or socket.
    pub gender: Gender,
}

/// What happens when two ends meet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "mating", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Mating {
    /// They fit.
    Mates,
    /// Both ends are of one gender.
    SameGender,
    /// SMA against reverse-polarity SMA: the thread fits, the centre contacts do not meet or are crushed.
    ReversePolarity,
    /// Different series.
    OtherSeries,
}

/// Whether two ends mate.
pub fn mates(a: Connector, b: Connector) -> Mating {
    use Series::{RpSma, Sma};
    match (a.series, b.series) {
        (Sma, RpSma) | (RpSma, Sma) => Mating::ReversePolarity,
        (x, y) if x != y => Mating::OtherSeries,
        _ if a.gender == b.gender => Mating::SameGender,
        _ => Mating::Mates,
    }
}

/// The adapter that joins two ends which do not mate: its own two ends, each mating with one of them. `None` where
/// they mate as they are.
///
/// ```
/// use open_beacon_domain::feedline::joint::{Connector, Gender::*, Series::*, adapter_for};
/// // A cable with an N plug to a gateway with an SMA socket: N socket to SMA plug.
/// let cable = Connector { series: N, gender: Male };
/// let port = Connector { series: Sma, gender: Female };
/// let (to_cable, to_port) = adapter_for(cable, port).unwrap();
/// assert_eq!((to_cable.gender, to_port.gender), (Female, Male));
/// ```
pub fn adapter_for(a: Connector, b: Connector) -> Option<(Connector, Connector)> {
    let partner = |end: Connector| Connector {
        series: end.series,
        gender: match end.gender {
            Gender::Male => Gender::Female,
            Gender::Female => Gender::Male,
        },
    };
    (mates(a, b) != Mating::Mates).then(|| (partner(a), partner(b)))
}

impl Series {
    /// Loss of one mated pair, dB, 10..=6000 MHz; common practice, no source: a tenth of a decibel for the screwed
    /// ones, more for the pushed and the tiny ones, growing with the root of frequency.
    pub fn joint_loss_db(self, frequency_mhz: f64) -> f64 {
        let at_2_ghz = match self {
            Self::N => 0.1,
            Self::Sma | Self::RpSma => 0.12,
            Self::Ts9 | Self::Crc9 => 0.3,
            Self::UFl => 0.25,
        };
        at_2_ghz * (frequency_mhz / 2000.0).sqrt()
    }

    /// True where a cable's weight or a careless pull breaks the socket off its board.
    pub fn is_fragile(self) -> bool {
        matches!(self, Self::Ts9 | Self::Crc9 | Self::UFl)
    }

    /// True where the series can be made weatherproof outdoors with tape.
    pub fn is_for_outdoors(self) -> bool {
        matches!(self, Self::N | Self::Sma | Self::RpSma)
    }
}
