//! The cells that one row of a masts table lists: one, or several bands and sector bearings in one field.

use super::Row;
use open_beacon_core::bands::{CellIdentity, NodeBits, bands_of_channel};
use open_beacon_core::geo::normalise_bearing_deg;
use open_beacon_core::model::{MastCell, MastField, Technology};

/// Cells of a row, and what of it could not be given to one of them.
pub(super) struct RowCells {
    pub cells: Vec<MastCell>,
    pub left_out: Option<String>,
}

/// LTE channel numbers end at 70645 (TS 36.101 table 5.7.3-1); NR's of these bands begin above 120000.
const HIGHEST_LTE_CHANNEL: u32 = 80_000;

/// The cells of a row, none where it names neither band nor channel; `None` for technologies before LTE.
pub(super) fn cells_of(row: &Row) -> Result<Option<RowCells>, String> {
    let Some(named) = named_technology(row.text(MastField::Technology))? else { return Ok(None) };
    let bands = row.text(MastField::Band).map_or(Ok(Vec::new()), bands_in)?;
    let bearings = row.text(MastField::BearingDeg).map_or(Ok(Vec::new()), bearings_in)?;
    let channel = row.whole(MastField::Channel, "channel", 3_279_165.0)?.map(|value| value as u32);
    let carriers = carriers(named, &bands, channel);
    let several = carriers.len() * bearings.len().max(1) > 1;
    let own = CellFields::of(row)?;
    let left_out = (several && own.says_anything()).then(|| {
        "PCI, cell numbers and bandwidth are of one cell, but this row lists several; the mast was taken without them"
            .to_owned()
    });
    let own = if several { CellFields::default() } else { own };
    let mut cells = Vec::new();
    for (technology, band, channel) in carriers {
        let whole = bearings.iter().copied().map(Some).collect::<Vec<_>>();
        for bearing_deg in if whole.is_empty() { vec![None] } else { whole } {
            cells.push(own.cell(row, technology, band, channel, bearing_deg)?);
        }
    }
    Ok(Some(RowCells { cells, left_out }))
}

/// `Ok(None)` for technologies before LTE, `Ok(Some(None))` where the row names none.
fn named_technology(text: Option<&str>) -> Result<Option<Option<Technology>>, String> {
    let Some(text) = text.map(str::to_ascii_uppercase) else { return Ok(Some(None)) };
    let has = |words: &[&str]| words.iter().any(|word| text.contains(word));
    let (nr, lte) = (has(&["NR", "5G"]), has(&["LTE", "4G", "E-UTRA"]));
    match (nr, lte) {
        // Both are named: each band must say which it is.
        (true, true) => Ok(Some(None)),
        (true, false) => Ok(Some(Some(Technology::Nr))),
        (false, true) => Ok(Some(Some(Technology::Lte))),
        _ if has(&["GSM", "UMTS", "WCDMA", "CDMA", "2G", "3G", "UTRA"]) => Ok(None),
        _ => Err(format!("technology “{text}” is not known; LTE or NR is")),
    }
}

/// "B3", "n78", "3", "B20,B3,n78", "B1 + n28": each with its technology where a letter says it.
fn bands_in(text: &str) -> Result<Vec<(Option<Technology>, u16)>, String> {
    let parts = text.split(|letter: char| letter.is_whitespace() || ",;/+|&".contains(letter));
    parts
        .filter(|part| part.chars().any(|letter| letter.is_ascii_digit()))
        .map(|part| {
            let digits = part.trim_start_matches(|letter: char| !letter.is_ascii_digit());
            let technology = match part.chars().next() {
                Some('n' | 'N') => Some(Technology::Nr),
                Some('b' | 'B') => Some(Technology::Lte),
                _ => None,
            };
            let number = digits.parse().ok().filter(|band| (1..=261).contains(band));
            number
                .map(|band| (technology, band))
                .ok_or_else(|| format!("band “{part}” is none; write 3, B3 or n78"))
        })
        .collect()
}

/// "90", "90,270", "0/120/240", "12,5": one bearing or one a sector. A comma before three digits parts two bearings, before
/// one digit it is a decimal sign; before two it could be either, and is asked for.
fn bearings_in(text: &str) -> Result<Vec<f64>, String> {
    let parts: Vec<&str> = text
        .split(|letter: char| letter.is_whitespace() || ";/|+".contains(letter))
        .map(|part| part.trim_matches(','))
        .filter(|part| !part.is_empty())
        .collect();
    let mut found = Vec::new();
    for part in parts {
        let commas: Vec<&str> = part.split(',').collect();
        match commas[..] {
            [whole, rest] if rest.len() == 1 => found.push(degrees(&format!("{whole}.{rest}"))?),
            [_, rest] if rest.len() == 2 => {
                return Err(format!(
                    "bearing “{part}” can be read two ways; write {} for one bearing or {} for two sectors",
                    part.replace(',', "."),
                    part.replace(',', "; ")
                ));
            }
            _ => {
                for one in commas {
                    found.push(degrees(one)?);
                }
            }
        }
    }
    Ok(found)
}

fn degrees(text: &str) -> Result<f64, String> {
    let plain = text.replace('−', "-");
    let value: Option<f64> = plain.trim_end_matches(['°', 'T']).parse().ok();
    value
        .filter(|value: &f64| value.is_finite())
        .map(normalise_bearing_deg)
        .ok_or_else(|| format!("bearing “{text}” is no number; write 90, or 90; 270 for two sectors"))
}

/// Technology, band and channel of each carrier a row lists.
fn carriers(
    named: Option<Technology>,
    bands: &[(Option<Technology>, u16)],
    channel: Option<u32>,
) -> Vec<(Technology, Option<u16>, Option<u32>)> {
    let by_channel =
        channel.map(|channel| if channel > HIGHEST_LTE_CHANNEL { Technology::Nr } else { Technology::Lte });
    if bands.is_empty() {
        let (Some(technology), Some(number)) = (named.or(by_channel), channel) else { return Vec::new() };
        // A channel number in one band only says the band.
        let band = match bands_of_channel(technology, number)[..] {
            [only] => Some(only),
            _ => None,
        };
        return vec![(technology, band, channel)];
    }
    let letters_differ = bands.iter().any(|(said, _)| *said == Some(Technology::Nr));
    bands
        .iter()
        .filter_map(|(said, band)| {
            let technology = match said {
                Some(Technology::Nr) => Some(Technology::Nr),
                // "B78" in a table of NR: the letter stands for "band".
                Some(Technology::Lte) if bands.len() == 1 || !letters_differ => named.or(*said),
                Some(Technology::Lte) => *said,
                None => named.or(by_channel),
            }?;
            let own = channel
                .filter(|number| bands.len() == 1 || bands_of_channel(technology, *number).contains(band));
            Some((technology, Some(*band), own))
        })
        .collect()
}

/// Fields that belong to one cell only.
#[derive(Clone, Debug, Default)]
struct CellFields {
    bandwidth_mhz: Option<f64>,
    pci: Option<u16>,
    identity: Option<u64>,
    node: Option<u64>,
    local_cell: Option<u64>,
}

impl CellFields {
    fn of(row: &Row) -> Result<Self, String> {
        Ok(Self {
            bandwidth_mhz: row.number(MastField::BandwidthMhz, "bandwidth")?,
            pci: row.whole(MastField::Pci, "PCI", 1007.0)?.map(|value| value as u16),
            identity: row.whole(MastField::CellIdentity, "cell identity", 68_719_476_735.0)?,
            node: row.whole(MastField::Node, "base station", 4_294_967_295.0)?,
            local_cell: row.whole(MastField::LocalCell, "local cell", 268_435_455.0)?,
        })
    }

    /// The base station is common to all cells of a mast.
    fn says_anything(&self) -> bool {
        self.bandwidth_mhz.is_some()
            || self.pci.is_some()
            || self.identity.is_some()
            || self.local_cell.is_some()
    }

    fn cell(
        &self,
        row: &Row,
        technology: Technology,
        band: Option<u16>,
        channel: Option<u32>,
        bearing_deg: Option<f64>,
    ) -> Result<MastCell, String> {
        let split = self
            .identity
            .and_then(|whole| CellIdentity::split(technology, whole, NodeBits::usual(technology)).ok());
        Ok(MastCell {
            technology,
            band,
            channel,
            bandwidth_mhz: self.bandwidth_mhz,
            pci: self.pci,
            node: self.node.or(split.map(|split| split.node)),
            local_cell: self.local_cell.or(split.map(|split| split.local)),
            bearing_deg,
            power_dbm: row.number(MastField::PowerDbm, "power")?,
            load: None,
        })
    }
}
