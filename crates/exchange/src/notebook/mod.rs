//! Lines of a notebook, a result each: "gable 143 -92 24 266/23.6/36". What can be read in one way only is read; of the rest is
//! asked what is missing. Nothing is guessed silently, and no word is lost: what is no figure goes into the notes.

mod assign;
mod place;
mod token;

use assign::{Figures, assign};
use open_beacon_core::model::{BandName, SetupId};
pub(crate) use place::{Place, Places};
use serde::{Deserialize, Serialize};
use token::{Token, tokens};

/// Most lines that are read at once.
pub const MOST_LINES: usize = 200;

/// A setup that a line may be of.
#[derive(Clone, Debug, PartialEq)]
pub struct KnownSetup {
    pub setup_id: SetupId,
    /// Name of its position.
    pub position: String,
    /// Name of the whole.
    pub label: String,
    /// Degrees from true north.
    pub azimuth_deg: Option<f64>,
    /// Whether it is locked to bands: meant only where it is chosen.
    pub locked: bool,
}

/// What the user said a name means.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NameMeans {
    /// As [`NotebookLine::name`] gives it.
    pub name: String,
    pub setup_id: SetupId,
}

/// A setup that may be meant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MaybeSetup {
    pub setup_id: SetupId,
    pub label: String,
}

/// One line as it was understood.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NotebookLine {
    /// Counted from one, empty ones too.
    pub line: usize,
    pub text: String,
    /// Name and bearing as they were written: what is chosen for it holds for every line that says the same.
    pub name: String,
    pub setup_id: Option<SetupId>,
    pub setup: Option<String>,
    /// Setups to choose from where it is not clear.
    pub maybe: Vec<MaybeSetup>,
    /// Band that signal power and noise ratio are of.
    pub band: Option<BandName>,
    pub rsrp_dbm: Option<f64>,
    pub sinr_db: Option<f64>,
    pub rsrq_db: Option<f64>,
    pub download_mbps: Option<f64>,
    pub upload_mbps: Option<f64>,
    pub idle_latency_ms: Option<f64>,
    /// Tests that the speeds are the average of; none for a single test.
    pub average_of: Option<u16>,
    /// Hour and minute as written, "14:20".
    pub clock: Option<String>,
    /// Words that are none of this.
    pub notes: String,
    /// What was taken for granted.
    pub taken: Vec<String>,
    /// What has to be said before the line can be kept.
    pub question: Option<String>,
}

/// Reads lines; empty ones are passed over. A line without a name is of the place of the line before, the first one of the
/// `chosen` setup's. A band holds until another one is named.
pub fn read_notebook(
    text: &str,
    known: &[KnownSetup],
    chosen: Option<SetupId>,
    means: &[NameMeans],
) -> Vec<NotebookLine> {
    let mut places = Places::new(known, chosen, means);
    let mut band = None;
    let lines = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    lines
        .take(MOST_LINES)
        .map(|(index, line)| {
            let read = tokens(line);
            let azimuths: Vec<f64> = known.iter().filter_map(|setup| setup.azimuth_deg).collect();
            let figures = assign(&read, &azimuths, band);
            band = figures.band.or(band);
            let name: Vec<&str> = leading_words(&read);
            let place = places.of(&name, figures.bearing_deg);
            line_of(index + 1, line, (figures, band), place)
        })
        .collect()
}

/// Words before the first figure: a name.
fn leading_words(read: &[Token]) -> Vec<&str> {
    let words = read.iter().map_while(|token| match token {
        Token::Word(word) => Some(word.as_str()),
        _ => None,
    });
    words.collect()
}

fn line_of(
    line: usize,
    text: &str,
    (figures, band): (Figures, Option<BandName>),
    place: Place,
) -> NotebookLine {
    let signal = figures.rsrp_dbm.or(figures.sinr_db).or(figures.rsrq_db).is_some();
    let speed = figures.download_mbps.or(figures.upload_mbps).or(figures.idle_latency_ms).is_some();
    let no_band = (signal && band.is_none())
        .then(|| "Which band is the signal of? Write it once, for instance n78 or B20.".to_owned());
    let nothing = (!signal && !speed).then(|| {
        "No figure is read from it. Write signal and speeds, for instance -92 dBm 24 dB 266/23.6/36."
            .to_owned()
    });
    let mut taken = place.taken;
    taken.extend(figures.taken);
    if signal && figures.band.is_none() && band.is_some() {
        taken.push("band as before".into());
    }
    NotebookLine {
        line,
        text: text.trim().to_owned(),
        name: place.name,
        setup_id: place.setup.as_ref().map(|setup| setup.setup_id),
        setup: place.setup.map(|setup| setup.label),
        maybe: place.maybe,
        band: band.filter(|_| signal),
        rsrp_dbm: figures.rsrp_dbm,
        sinr_db: figures.sinr_db,
        rsrq_db: figures.rsrq_db,
        download_mbps: figures.download_mbps,
        upload_mbps: figures.upload_mbps,
        idle_latency_ms: figures.idle_latency_ms,
        average_of: figures.average_of.map(|tests| tests as u16).filter(|tests| speed && *tests > 1),
        clock: figures.clock,
        notes: figures.notes.join(" "),
        taken,
        question: figures.question.or(nothing).or(place.question).or(no_band),
    }
}
