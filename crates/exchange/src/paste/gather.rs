//! Collects values into carriers: which of them belong together, and what is odd about the whole.

use super::value::{Found, Value};
use super::words::Modifier;
use super::{Confidence, PasteTarget, Pasted, PastedField};
use open_beacon_core::bands::{bands_of_channel, lte_band_of_earfcn};
use open_beacon_core::metrics::flag_oddities;
use open_beacon_core::model::{Carrier, CarrierRole, ChannelKind, ConnectionMode, Technology};

/// What is known of the carrier that a value belongs to.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Group {
    pub technology: Option<Technology>,
    pub role: Option<CarrierRole>,
    pub index: Option<u8>,
    /// Places in lists, outermost first.
    pub place: Vec<usize>,
    pub neighbour: bool,
}

impl Group {
    /// Takes what a word says; later words count more.
    pub fn take(&mut self, modifier: Modifier) {
        match modifier {
            Modifier::Technology(technology) => self.technology = Some(technology),
            Modifier::Role(role) => self.role = Some(role),
            Modifier::Index(index) => {
                self.index = Some(index);
                self.role = self.role.or(Some(CarrierRole::Secondary));
            }
            Modifier::Neighbour => self.neighbour = true,
            Modifier::Serving => self.neighbour = false,
            Modifier::Filler => {}
        }
    }

    /// Takes what a word says only where nothing is known yet.
    pub fn take_softly(&mut self, modifier: Modifier) {
        let mut said = Self::default();
        said.take(modifier);
        self.technology = self.technology.or(said.technology);
        self.role = self.role.or(said.role);
        self.index = self.index.or(said.index);
    }

    fn says_nothing(&self) -> bool {
        self.technology.is_none() && self.role.is_none() && self.index.is_none() && self.place.is_empty()
    }
}

/// A carrier being put together.
#[derive(Debug)]
struct Draft {
    group: Group,
    carrier: Carrier,
    taken: Vec<(PasteTarget, Value)>,
    /// Under which heading it was opened; 0 before any.
    block: usize,
}

impl Draft {
    fn has(&self, target: PasteTarget) -> bool {
        self.taken.iter().any(|(taken, _)| *taken == target)
    }

    fn measured(&self) -> bool {
        use PasteTarget::{Rsrp, Rsrq, Rssi, Sinr};
        [Rsrp, Rsrq, Sinr, Rssi].into_iter().any(|target| self.has(target))
    }

    fn may_be(&self, group: &Group) -> bool {
        let secondary = |role| role == Some(CarrierRole::Secondary);
        let technology = match (self.group.technology, group.technology) {
            (Some(here), Some(there)) => here == there,
            // Values without a technology may turn out to be NR's, but not once others stand with them.
            (None, Some(_)) => !self.measured(),
            _ => true,
        };
        technology
            && secondary(self.group.role) == secondary(group.role)
            && self.group.index == group.index
            && self.group.place == group.place
    }
}

/// What a value was given to its carrier by.
#[derive(Debug)]
struct Bond {
    /// What its label, its line, its row or the heading above say of the carrier.
    group: Group,
    block: usize,
}

impl Bond {
    /// True where the text itself says which of `drafts` is meant: a place in a list, words that fit one carrier
    /// only, or a heading that opened one carrier only.
    fn names_one(&self, at: usize, drafts: &[Draft]) -> bool {
        let fits = |draft: &&Draft| {
            let group = &draft.group;
            self.group.technology.is_none_or(|own| group.technology.is_none_or(|known| known == own))
                && self.group.role.is_none_or(|own| group.role == Some(own))
                && self.group.index.is_none_or(|own| group.index == Some(own))
        };
        let of_block = |draft: &&Draft| draft.block == self.block && fits(draft);
        !self.group.place.is_empty()
            || drafts.iter().filter(fits).count() == 1
            || self.block > 0 && drafts[at].block == self.block && drafts.iter().filter(of_block).count() == 1
    }
}

/// Said of a carrier of which the text says nothing that only one technology has.
const WHICH_TECHNOLOGY: &str = "The text doesn't say whether this is LTE or NR. It is read as LTE.";
/// Said of a value whose carrier the text does not name.
const WHICH_CARRIER: &str = "The text doesn't say which carrier this belongs to. Check it.";

/// Collects values in the order of the text.
#[derive(Debug, Default)]
pub(super) struct Gatherer {
    drafts: Vec<Draft>,
    mode: Option<ConnectionMode>,
    fields: Vec<(PastedField, Option<Bond>)>,
    block: usize,
    left: Vec<String>,
    current: Option<usize>,
    /// What is taken now stands in one list with what was taken before it.
    listed: bool,
}

fn target_of(value: &Value) -> PasteTarget {
    match value {
        Value::Number(target, _) | Value::Whole(target, _) => *target,
        Value::Band(..) => PasteTarget::Band,
        Value::Mode(_) => PasteTarget::Mode,
        Value::Channel(..) => PasteTarget::Channel,
    }
}

impl Gatherer {
    /// Hands a part of the text back as not understood.
    pub fn leave(&mut self, text: impl Into<String>) {
        let text = text.into();
        if text.chars().any(char::is_alphanumeric) {
            self.left.push(text.trim().to_owned());
        }
    }

    /// Takes a value of a list, at its place in it, as [`Gatherer::take`] does.
    pub fn take_nth(&mut self, at: usize, group: &Group, label: &str, found: Found) -> Result<(), String> {
        self.listed = at > 0;
        let taken = self.take(group, label, found);
        self.listed = false;
        taken
    }

    /// Takes one value. `Err` hands its text back where the carrier has another value in that field already.
    pub fn take(&mut self, group: &Group, label: &str, found: Found) -> Result<(), String> {
        let target = target_of(&found.value);
        if let Value::Mode(mode) = found.value {
            if self.mode.is_some_and(|known| known != mode) {
                return Err(found.text);
            }
            self.mode = Some(mode);
            self.note(None, target, label, found);
            return Ok(());
        }
        let bond = Bond { group: group.clone(), block: self.block };
        let mut group = group.clone();
        if let (Value::Channel(..), Some(technology)) = (&found.value, found.value.technology()) {
            // A channel number that LTE does not have is not an LTE carrier's, whatever stands before it.
            let before = group.technology.or_else(|| {
                self.current.filter(|_| group.says_nothing()).and_then(|at| self.drafts[at].group.technology)
            });
            if before.is_some_and(|before| before != technology) {
                group = Group { technology: Some(technology), place: group.place, ..Group::default() };
            }
        }
        if let Value::Band(Some(technology), _) = found.value {
            // On a plain page the band's letter says what the carrier so far has been.
            let open = self.current.map(|at| &self.drafts[at]).filter(|draft| !draft.has(PasteTarget::Band));
            let fits =
                open.is_some_and(|draft| draft.group.technology.is_none_or(|known| known == technology));
            // "LTE B1" says no more than "B1" does, where there is one carrier so far.
            let twice = Group { technology: None, ..group.clone() }.says_nothing()
                && group.technology == Some(technology)
                && self.drafts.len() == 1;
            let goes_on = fits && (twice || group.says_nothing());
            group.technology = (!goes_on).then_some(technology);
        }
        let mut at = self.draft_for(&group);
        if self.drafts[at].has(target) {
            let same =
                self.drafts[at].taken.iter().any(|(taken, value)| *taken == target && *value == found.value);
            if same {
                return Ok(());
            }
            // The same field again: on a plain page the next carrier begins here; several bands are several carriers.
            let next = target == PasteTarget::Band || group.place.is_empty() && group.index.is_none();
            // A word that pages use for several things begins no carrier.
            if !next || found.confidence == Confidence::Low || self.drafts.len() >= 16 {
                return Err(found.text);
            }
            let before = self.current;
            if target == PasteTarget::Band {
                group.role = Some(CarrierRole::Secondary);
            }
            at = self.open(group);
            if target == PasteTarget::Band && self.listed {
                // Of several bands in one list the first is the one that the other values are of.
                self.current = before;
            }
        }
        self.put(at, target, &found.value);
        // A value that says its technology itself names its carrier by that too.
        let technology = found.value.technology().or(bond.group.technology);
        let bond = Bond { group: Group { technology, ..bond.group }, ..bond };
        self.note(Some((at, bond)), target, label, found);
        Ok(())
    }

    fn note(&mut self, carrier: Option<(usize, Bond)>, target: PasteTarget, label: &str, found: Found) {
        let Found { text, confidence, note, .. } = found;
        let (carrier, bond) = carrier.unzip();
        let label = label.trim().to_owned();
        self.fields.push((PastedField { carrier, target, label, text, confidence, note }, bond));
    }

    /// Confidence must be earned: where there are several carriers, a value whose carrier is not named is probable
    /// at the most. A band is what names its carrier.
    fn weighed_fields(&mut self) -> Vec<PastedField> {
        let fields = std::mem::take(&mut self.fields);
        let several = self.drafts.len() > 1;
        let weighed = fields.into_iter().map(|(mut field, bond)| {
            let named = match (field.carrier, bond) {
                (Some(at), Some(bond)) => {
                    field.target == PasteTarget::Band || bond.names_one(at, &self.drafts)
                }
                _ => true,
            };
            if several && !named {
                field.confidence = field.confidence.min(Confidence::Medium);
                field.note = Some(
                    field
                        .note
                        .map_or_else(|| WHICH_CARRIER.to_owned(), |note| format!("{note} {WHICH_CARRIER}")),
                );
            }
            field
        });
        let mut weighed: Vec<PastedField> = weighed.collect();
        for (at, draft) in self.drafts.iter().enumerate() {
            if says_technology(draft, self.mode) {
                continue;
            }
            let names =
                |field: &PastedField| matches!(field.target, PasteTarget::Band | PasteTarget::Channel);
            let band = weighed.iter().position(|field| field.carrier == Some(at) && names(field));
            let first = weighed.iter().position(|field| field.carrier == Some(at));
            if let Some(field) = band.or(first).and_then(|index| weighed.get_mut(index)) {
                field.confidence = field.confidence.min(Confidence::Medium);
                let note = field.note.take().map(|note| note + " ").unwrap_or_default();
                field.note = Some(note + WHICH_TECHNOLOGY);
            }
        }
        weighed
    }

    fn draft_for(&mut self, group: &Group) -> usize {
        let current = self.current.filter(|_| group.says_nothing());
        let known = current.or_else(|| {
            // The latest that fits: pages go from one carrier to the next.
            self.drafts.iter().rposition(|draft| draft.may_be(group))
        });
        let at = known.unwrap_or_else(|| self.open(group.clone()));
        self.current = Some(at);
        at
    }

    fn open(&mut self, group: Group) -> usize {
        let technology = group.technology.unwrap_or(Technology::Lte);
        let carrier = Carrier::empty(technology, CarrierRole::Unknown);
        self.drafts.push(Draft { group, carrier, taken: Vec::new(), block: self.block });
        self.current = Some(self.drafts.len() - 1);
        self.drafts.len() - 1
    }

    /// A number for the next row of a table: each is a carrier of its own.
    pub fn rows_so_far(&self) -> usize {
        self.drafts.len()
    }

    /// A heading begins another carrier, unless the last one is still empty.
    pub fn heading(&mut self) {
        self.block += 1;
        self.current = None;
    }

    fn put(&mut self, at: usize, target: PasteTarget, value: &Value) {
        let draft = &mut self.drafts[at];
        draft.taken.push((target, value.clone()));
        let carrier = &mut draft.carrier;
        match value {
            Value::Number(PasteTarget::Rsrp, value) => carrier.rsrp_dbm = Some(*value),
            Value::Number(PasteTarget::Rsrq, value) => carrier.rsrq_db = Some(*value),
            Value::Number(PasteTarget::Sinr, value) => carrier.sinr_db = Some(*value),
            Value::Number(PasteTarget::Rssi, value) => carrier.rssi_dbm = Some(*value),
            Value::Number(PasteTarget::Bandwidth, value) => carrier.bandwidth_mhz = Some(*value),
            Value::Number(PasteTarget::TransmitPower, value) => carrier.transmit_power_dbm = Some(*value),
            Value::Whole(PasteTarget::Pci, value) => carrier.pci = u16::try_from(*value).ok(),
            Value::Whole(PasteTarget::CellIdentity, value) => carrier.cell_identity = Some(*value),
            Value::Whole(PasteTarget::Rank, value) => carrier.rank = u8::try_from(*value).ok(),
            Value::Whole(PasteTarget::Cqi, value) => carrier.cqi = u8::try_from(*value).ok(),
            Value::Whole(PasteTarget::Mcs, value) => carrier.mcs = u8::try_from(*value).ok(),
            Value::Whole(PasteTarget::TimingAdvance, value) => {
                carrier.timing_advance = u16::try_from(*value).ok()
            }
            Value::Band(technology, band) => {
                carrier.band = Some(*band);
                draft.group.technology = technology.or(draft.group.technology);
            }
            Value::Channel(channel, ssb) => {
                carrier.channel = Some(*channel);
                if *ssb {
                    carrier.channel_kind = ChannelKind::Ssb;
                }
            }
            Value::Number(..) | Value::Whole(..) | Value::Mode(_) => {}
        }
    }

    /// Everything as one reading.
    pub fn finish(mut self) -> Pasted {
        let fields = self.weighed_fields();
        let mut carriers: Vec<Carrier> = self
            .drafts
            .into_iter()
            .map(|mut draft| {
                draft.carrier.technology = technology_of(&draft, self.mode);
                draft.carrier.role = draft.group.role.unwrap_or(CarrierRole::Unknown);
                draft.carrier
            })
            .collect();
        let has = |technology| carriers.iter().any(|carrier: &Carrier| carrier.technology == technology);
        let mode = self.mode.unwrap_or(match (has(Technology::Lte), has(Technology::Nr)) {
            (true, true) => ConnectionMode::Nsa,
            (true, false) if carriers.iter().any(|carrier| carrier.rsrp_dbm.is_some()) => ConnectionMode::Lte,
            _ => ConnectionMode::Unknown,
        });
        give_roles(&mut carriers, mode);
        for carrier in &mut carriers {
            flag_oddities(carrier);
        }
        Pasted { mode, carriers, fields, not_understood: self.left }
    }
}

/// Whether the text says what a carrier is, by a word, by a channel number that only one has, or by the mode.
fn says_technology(draft: &Draft, mode: Option<ConnectionMode>) -> bool {
    let by_channel = |channel| {
        lte_band_of_earfcn(channel).is_some() || !bands_of_channel(Technology::Nr, channel).is_empty()
    };
    draft.group.technology.is_some()
        || draft.carrier.channel.is_some_and(by_channel)
        || matches!(mode, Some(ConnectionMode::Sa | ConnectionMode::Lte))
}

/// By what was said, else by a channel number that only NR has, else by the mode, else LTE.
fn technology_of(draft: &Draft, mode: Option<ConnectionMode>) -> Technology {
    if let Some(technology) = draft.group.technology {
        return technology;
    }
    match draft.carrier.channel {
        Some(channel) if lte_band_of_earfcn(channel).is_some() => Technology::Lte,
        Some(channel) if !bands_of_channel(Technology::Nr, channel).is_empty() => Technology::Nr,
        _ if mode == Some(ConnectionMode::Sa) => Technology::Nr,
        _ => Technology::Lte,
    }
}

/// Roles where the page does not say: the first of each technology leads, and LTE anchors NR.
fn give_roles(carriers: &mut [Carrier], mode: ConnectionMode) {
    for technology in [Technology::Lte, Technology::Nr] {
        let lead = match (technology, mode) {
            (Technology::Lte, ConnectionMode::Nsa) => CarrierRole::Anchor,
            _ => CarrierRole::Primary,
        };
        let own = || |carrier: &&mut Carrier| carrier.technology == technology;
        let led = carriers
            .iter_mut()
            .filter(own())
            .any(|carrier| matches!(carrier.role, CarrierRole::Primary | CarrierRole::Anchor));
        let mut first = !led;
        for carrier in carriers.iter_mut().filter(own()) {
            match carrier.role {
                CarrierRole::Unknown if std::mem::replace(&mut first, false) => carrier.role = lead,
                CarrierRole::Unknown => carrier.role = CarrierRole::Secondary,
                CarrierRole::Primary if lead == CarrierRole::Anchor => carrier.role = lead,
                _ => {}
            }
        }
    }
}
