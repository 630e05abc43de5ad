//! Short spellings of lists, "B3:2 n78:4" for instance, so that a catalogue is filled in without a form in a form. What is
//! written is read back as it was. The spellings are the program's own; names of bands are those of TS 36.101 and TS 38.101-1.

use crate::bands::band_name;
use crate::feedline::joint::{Connector, Gender, Series};
use crate::model::{
    BandName, BandSupport, ExpectedCarrier, GainPoint, GatewayPort, Metric, PartSpec, PortDirection,
    Technology,
};
use serde::{Deserialize, Serialize};

/// A piece of a text that is not understood, with what would be.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("“{piece}”: {works}")]
pub struct SpellingError {
    /// The piece that is not understood.
    pub piece: String,
    /// What would work.
    pub works: &'static str,
}

/// Which list a text spells.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ListKind {
    /// Carriers expected of a network.
    ExpectedCarriers,
    /// Combinations of bands.
    Combinations,
    /// Bands with their layers.
    BandSupport,
    /// Gain by frequency.
    Gain,
    /// Antenna ports.
    Ports,
    /// Metrics that a gateway shows.
    Metrics,
}

/// What can stand in a list that is spelled in one text.
pub trait Spelled: Sized {
    /// What would work.
    const WORKS: &'static str;
    /// Parts one entry from the next when written.
    const PARTED_BY: &'static str;

    /// Pieces of a text, an entry each.
    fn pieces(text: &str) -> Vec<&str> {
        words(text).collect()
    }

    /// An entry, from its trimmed piece.
    fn parse(piece: &str) -> Option<Self>;

    /// The entry as [`Spelled::parse`] takes it.
    fn spell(&self) -> String;
}

/// Reads a whole list; an empty text is an empty list.
///
/// # Errors
/// [`SpellingError`] at the first piece that is not understood.
pub fn read_list<T: Spelled>(text: &str) -> Result<Vec<T>, SpellingError> {
    let one = |piece: &str| {
        T::parse(piece).ok_or_else(|| SpellingError { piece: piece.to_owned(), works: T::WORKS })
    };
    T::pieces(text).into_iter().map(one).collect()
}

/// A list as [`read_list`] takes it.
pub fn write_list<T: Spelled>(list: &[T]) -> String {
    list.iter().map(T::spell).collect::<Vec<_>>().join(T::PARTED_BY)
}

fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|sign: char| sign == ',' || sign == ';' || sign.is_whitespace())
        .filter(|word| !word.is_empty())
}

fn lines(text: &str, at: impl Fn(char) -> bool) -> Vec<&str> {
    text.split(at).map(str::trim).filter(|piece| !piece.is_empty()).collect()
}

/// "B3", "n78": the band's name, or nothing.
pub fn read_band(word: &str) -> Option<BandName> {
    let mut signs = word.chars();
    let technology = match signs.next()?.to_ascii_lowercase() {
        'b' => Technology::Lte,
        'n' => Technology::Nr,
        _ => return None,
    };
    let digits = signs.as_str();
    let fine = (1..=3).contains(&digits.len()) && digits.bytes().all(|sign| sign.is_ascii_digit());
    Some(BandName { technology, band: fine.then(|| digits.parse().ok())?? })
}

fn name_of(band: BandName) -> String {
    band_name(band.technology, band.band)
}

/// A number with a decimal point and either kind of minus.
fn read_number(word: &str) -> Option<f64> {
    word.replace('−', "-").parse().ok().filter(|value: &f64| value.is_finite())
}

/// "B20 10, n78 80".
impl Spelled for ExpectedCarrier {
    const WORKS: &'static str = "a band and its width in MHz, for instance B20 10.";
    const PARTED_BY: &'static str = ", ";

    fn pieces(text: &str) -> Vec<&str> {
        lines(text, |sign| matches!(sign, ',' | ';' | '\n'))
    }

    fn parse(piece: &str) -> Option<Self> {
        let mut parts = words(piece);
        let (band, width) = (read_band(parts.next()?)?, read_number(parts.next()?)?);
        (width > 0.0 && parts.next().is_none()).then_some(Self { band, bandwidth_mhz: width })
    }

    fn spell(&self) -> String {
        format!("{} {}", name_of(self.band), self.bandwidth_mhz)
    }
}

/// "B3+B20, B3+n78".
impl Spelled for Vec<BandName> {
    const WORKS: &'static str = "bands joined by +, for instance B3+B20 or B3+n78.";
    const PARTED_BY: &'static str = ", ";

    fn parse(piece: &str) -> Option<Self> {
        let bands: Self = piece.split('+').map(read_band).collect::<Option<_>>()?;
        (bands.len() > 1).then_some(bands)
    }

    fn spell(&self) -> String {
        self.iter().map(|band| name_of(*band)).collect::<Vec<_>>().join("+")
    }
}

/// "B3:2 n78:4"; two streams where none are said.
impl Spelled for BandSupport {
    const WORKS: &'static str = "a band and its streams, for instance B3:2 or n78:4.";
    const PARTED_BY: &'static str = " ";

    fn parse(piece: &str) -> Option<Self> {
        let (name, layers) = piece.split_once(':').unwrap_or((piece, "2"));
        let layers = layers.parse().ok().filter(|layers| (1..=4).contains(layers))?;
        Some(Self { band: read_band(name)?, layers })
    }

    fn spell(&self) -> String {
        format!("{}:{}", name_of(self.band), self.layers)
    }
}

/// "698:5 1710:8".
impl Spelled for GainPoint {
    const WORKS: &'static str = "a frequency in MHz and a gain in dBi, for instance 1710:8.";
    const PARTED_BY: &'static str = " ";

    fn parse(piece: &str) -> Option<Self> {
        let (mhz, dbi) = piece.split_once(':')?;
        let frequency_mhz = read_number(mhz).filter(|mhz| *mhz > 0.0)?;
        Some(Self { frequency_mhz, gain_dbi: read_number(dbi)? })
    }

    fn spell(&self) -> String {
        format!("{}:{}", self.frequency_mhz, self.gain_dbi)
    }
}

const SERIES: [(Series, &str); 6] = [
    (Series::N, "n"),
    (Series::Sma, "sma"),
    (Series::RpSma, "rpsma"),
    (Series::Ts9, "ts9"),
    (Series::Crc9, "crc9"),
    (Series::UFl, "ufl"),
];

/// "sma-f".
fn read_connector(word: &str) -> Option<Connector> {
    let (series, gender) = word.split_once('-')?;
    let (series, _) = SERIES.into_iter().find(|(_, name)| name.eq_ignore_ascii_case(series))?;
    let gender = match gender {
        "f" | "F" => Gender::Female,
        "m" | "M" => Gender::Male,
        _ => return None,
    };
    Some(Connector { series, gender })
}

fn connector_text(connector: Connector) -> String {
    let name =
        SERIES.into_iter().find(|(series, _)| *series == connector.series).map_or("", |(_, name)| name);
    format!("{name}-{}", if connector.gender == Gender::Female { "f" } else { "m" })
}

/// One port a line: "1 sma-f pair1", then "rx" where it only receives, then its bands if not all. A name is one word.
impl Spelled for GatewayPort {
    const WORKS: &'static str = "name, connector, pair, “rx” if it only receives, bands if not all; for instance 3 sma-f pair2 rx B3 n78.";
    const PARTED_BY: &'static str = "\n";

    fn pieces(text: &str) -> Vec<&str> {
        lines(text, |sign| sign == '\n')
    }

    fn parse(piece: &str) -> Option<Self> {
        let mut parts = words(piece);
        let (name, connector) = (parts.next()?.to_owned(), read_connector(parts.next()?)?);
        let pair = parts.next()?.to_ascii_lowercase().strip_prefix("pair")?.parse().ok();
        let mut direction = PortDirection::Both;
        let mut bands = Vec::new();
        for word in parts {
            if word == "rx" {
                direction = PortDirection::Receive;
            } else {
                bands.push(read_band(word)?);
            }
        }
        let pair = pair.filter(|pair| (1..=4).contains(pair))?;
        Some(Self { name, connector, bands, direction, pair })
    }

    fn spell(&self) -> String {
        let mut parts = vec![self.name.clone(), connector_text(self.connector), format!("pair{}", self.pair)];
        if self.direction == PortDirection::Receive {
            parts.push("rx".into());
        }
        parts.extend(self.bands.iter().map(|band| name_of(*band)));
        parts.join(" ")
    }
}

const METRICS: [(Metric, &str); 4] =
    [(Metric::Rsrp, "RSRP"), (Metric::Rsrq, "RSRQ"), (Metric::Sinr, "SINR"), (Metric::Rssi, "RSSI")];

/// "RSRP SINR".
impl Spelled for Metric {
    const WORKS: &'static str = "of RSRP, RSRQ, SINR and RSSI, for instance RSRP SINR.";
    const PARTED_BY: &'static str = " ";

    fn parse(piece: &str) -> Option<Self> {
        METRICS.into_iter().find(|(_, name)| name.eq_ignore_ascii_case(piece)).map(|(metric, _)| metric)
    }

    fn spell(&self) -> String {
        METRICS.into_iter().find(|(metric, _)| metric == self).map_or("", |(_, name)| name).to_owned()
    }
}

/// Metrics as they are named in a text, each once, in their own order.
///
/// # Errors
/// [`SpellingError`].
pub fn read_metrics(text: &str) -> Result<Vec<Metric>, SpellingError> {
    let named: Vec<Metric> = read_list(text)?;
    Ok(METRICS.into_iter().map(|(metric, _)| metric).filter(|metric| named.contains(metric)).collect())
}

/// The lists of a part in their spellings, each by the path of its field.
pub fn lists_of(spec: &PartSpec) -> Vec<(&'static str, String)> {
    match spec {
        PartSpec::Gateway(gateway) => {
            let outdoor = gateway.outdoor.as_ref().map(|one| ("outdoor.gain", write_list(&one.gain)));
            let own = [
                ("bands", write_list(&gateway.bands)),
                ("ports", write_list(&gateway.ports)),
                ("shows", write_list(&gateway.shows)),
            ];
            own.into_iter().chain(outdoor).collect()
        }
        PartSpec::Antenna(antenna) => vec![("gain", write_list(&antenna.gain))],
        _ => Vec::new(),
    }
}
