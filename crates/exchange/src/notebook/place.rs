//! Which setup a line is of.

use super::{KnownSetup, MaybeSetup, NameMeans};
use open_beacon_core::geo::turn_deg;
use open_beacon_core::model::SetupId;

/// A compass in the hand is read this near, degrees (common practice, no source).
const BEARING_DEG: f64 = 2.5;

/// What was found of a line's place.
#[derive(Clone, Debug, Default)]
pub(crate) struct Place {
    pub(crate) name: String,
    pub(crate) setup: Option<KnownSetup>,
    pub(crate) maybe: Vec<MaybeSetup>,
    pub(crate) taken: Vec<String>,
    pub(crate) question: Option<String>,
}

/// The setups there are, and where the lines have come to.
pub(crate) struct Places<'a> {
    known: &'a [KnownSetup],
    means: &'a [NameMeans],
    /// Of the line before.
    last: Option<&'a KnownSetup>,
}

impl<'a> Places<'a> {
    pub(crate) fn new(known: &'a [KnownSetup], chosen: Option<SetupId>, means: &'a [NameMeans]) -> Self {
        let last = known.iter().find(|setup| Some(setup.setup_id) == chosen);
        Self { known, means, last }
    }

    /// The place that words and a bearing name.
    pub(crate) fn of(&mut self, words: &[&str], bearing_deg: Option<f64>) -> Place {
        let bearing = bearing_deg.map(|bearing| format!("{bearing}°"));
        let said: Vec<&str> = words.iter().copied().chain(bearing.as_deref()).collect();
        let name = said.join(" ");
        let chosen = self.means.iter().find(|one| !name.is_empty() && one.name == name);
        if let Some(setup) =
            chosen.and_then(|one| self.known.iter().find(|setup| setup.setup_id == one.setup_id))
        {
            self.last = Some(setup);
            return Place { name, setup: Some(setup.clone()), ..Place::default() };
        }
        if said.is_empty() {
            let taken = self.last.map(|_| "setup as before".to_owned());
            let question =
                self.last.is_none().then(|| "Which setup is it of? Begin with its name.".to_owned());
            return Place {
                name,
                setup: self.last.cloned(),
                taken: taken.into_iter().collect(),
                question,
                ..Place::default()
            };
        }
        let here: Vec<&KnownSetup> = match (words.is_empty(), self.last) {
            (true, Some(last)) => self.known.iter().filter(|setup| setup.position == last.position).collect(),
            (true, None) => self.known.iter().collect(),
            (false, _) => self.known.iter().filter(|setup| is_named(setup, words)).collect(),
        };
        let found = nearest(&here, bearing_deg);
        match (&found[..], &here[..]) {
            ([only], _) => {
                self.last = Some(only);
                Place { name, setup: Some((*only).clone()), ..Place::default() }
            }
            ([], []) => {
                let asked = format!("No position is called “{}”. Choose what it means.", words.join(" "));
                self.asked(name, self.known.iter().collect(), asked)
            }
            ([], here) => {
                let asked =
                    format!("No setup there points to {}. Choose the one that is meant.", said.join(" "));
                self.asked(name, here.to_vec(), asked)
            }
            (several, _) => {
                self.asked(name, several.to_vec(), "Several setups may be meant. Choose one.".into())
            }
        }
    }

    fn asked(&mut self, name: String, maybe: Vec<&KnownSetup>, question: String) -> Place {
        self.last = None;
        let maybe = maybe
            .into_iter()
            .map(|setup| MaybeSetup { setup_id: setup.setup_id, label: setup.label.clone() })
            .collect();
        Place { name, maybe, question: Some(question), ..Place::default() }
    }
}

/// Whether every word begins a word of the position's name.
fn is_named(setup: &KnownSetup, words: &[&str]) -> bool {
    let name = setup.position.to_lowercase();
    let parts: Vec<&str> = name.split(|sign: char| !sign.is_alphanumeric()).collect();
    let begins = |word: &str| {
        let word = word.to_lowercase();
        let word = word.trim_matches(|sign: char| !sign.is_alphanumeric());
        !word.is_empty() && parts.iter().any(|part| part.starts_with(word))
    };
    words.iter().all(|word| begins(word))
}

/// Those that point to a bearing, or all where none is said; of several, those that are not locked to bands.
fn nearest<'a>(setups: &[&'a KnownSetup], bearing_deg: Option<f64>) -> Vec<&'a KnownSetup> {
    let off = |azimuth: f64, bearing: f64| turn_deg(azimuth, bearing).abs();
    let points = |setup: &&&KnownSetup| {
        bearing_deg.is_none_or(|bearing| {
            setup.azimuth_deg.is_some_and(|azimuth| off(azimuth, bearing) <= BEARING_DEG)
        })
    };
    let found: Vec<&KnownSetup> = setups.iter().filter(points).copied().collect();
    let free: Vec<&KnownSetup> = found.iter().filter(|setup| !setup.locked).copied().collect();
    if free.is_empty() { found } else { free }
}
