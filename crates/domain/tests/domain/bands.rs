use open_beacon_domain::bands::*;
use open_beacon_domain::model::Technology;
use proptest::prelude::*;

fn rows(text: &str) -> Vec<csv::StringRecord> {
    csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes())
        .records()
        .map(|row| row.unwrap())
        .collect()
}

/// Against nrarfcn 2.6.0 (tests/vectors/make.py), both ends and points of every band that both know.
#[test]
fn lte_channels_match_the_reference_library() {
    let mut compared = 0;
    let mut unknown_here = Vec::new();
    for row in rows(include_str!("../../../../tests/vectors/lte_channels.csv")) {
        let (band, earfcn, mhz): (u16, u32, f64) =
            (row[0].parse().unwrap(), row[1].parse().unwrap(), row[2].parse().unwrap());
        match lte_band_of_earfcn(earfcn) {
            None => unknown_here.push(band),
            Some(found) => {
                assert_eq!(found.band, band, "EARFCN {earfcn}");
                assert_eq!(lte_downlink_mhz(earfcn), Some(mhz), "EARFCN {earfcn}");
                compared += 1;
            }
        }
    }
    unknown_here.dedup();
    assert!(compared > 500, "only {compared} points were compared");
    // Bands that TS 36.101 table 5.5-1 marks as not used or not applicable and this table leaves out.
    assert!(unknown_here.iter().all(|band| [6, 15, 16, 64, 86].contains(band)), "missing: {unknown_here:?}");
}

/// Against nrarfcn 2.6.0, over all three parts of the raster of TS 38.104 table 5.4.2.1-1.
#[test]
fn nr_channels_match_the_reference_library() {
    let rows = rows(include_str!("../../../../tests/vectors/nr_channels.csv"));
    assert!(rows.len() > 80);
    for row in rows {
        let (channel, mhz): (u32, f64) = (row[0].parse().unwrap(), row[1].parse().unwrap());
        let here = nr_frequency_mhz(channel).unwrap();
        assert!((here - mhz).abs() < 1e-3, "NR-ARFCN {channel}: {here} against {mhz}");
    }
    assert_eq!(nr_frequency_mhz(3_279_166), None);
}

/// TS 36.101 table 5.7.3-1: B3 begins at EARFCN 1200 with 1805 MHz. TS 38.104: n78's 636666 is 3549.99 MHz.
#[test]
fn a_carrier_is_placed_by_its_channel_number() {
    let mut carrier = crate::samples::lte(3, 1, -90.0, 10.0);
    assert_eq!(carrier_frequency_mhz(&carrier), None);
    carrier.channel = Some(1200);
    assert_eq!(carrier_frequency_mhz(&carrier), Some(1805.0));
    carrier.technology = Technology::Nr;
    carrier.channel = Some(636_666);
    assert_eq!(carrier_frequency_mhz(&carrier), Some(3549.99));
    assert_eq!(band_name(Technology::Nr, 78), "n78");
    assert_eq!(band_name(Technology::Lte, 3), "B3");
}

#[test]
fn numbers_between_bands_belong_to_none() {
    // 5180..5279 is B13; 4950..5009 is a gap in the table.
    assert_eq!(lte_band_of_earfcn(4_960), None);
    assert_eq!(lte_band_of_earfcn(200_000), None);
}

fn number(text: &str) -> Option<f64> {
    text.parse().ok()
}

/// Ranges, uplink numbers and duplex modes against nrarfcn 2.6.0 (tests/vectors/make.py). Where the library and the
/// table here part, TS 36.101 table 5.5-1 decides; each such band is named.
#[test]
fn lte_bands_match_the_reference_library() {
    let mut disagree = Vec::new();
    let mut compared = 0;
    for row in rows(include_str!("../../../../tests/vectors/lte_bands.csv")) {
        let band: u16 = row[0].parse().unwrap();
        let Some(here) = lte_band(band) else { continue };
        let up = here.uplink_earfcn.filter(|_| here.duplex == Duplex::Fdd);
        let same = Some(here.downlink_mhz()) == number(&row[1]).zip(number(&row[2]))
            && (number(&row[3]), number(&row[4]))
                == (Some(f64::from(here.first_earfcn)), Some(f64::from(here.last_earfcn)))
            && (here.duplex != Duplex::Fdd || here.uplink_mhz() == number(&row[5]).zip(number(&row[6])))
            && up.is_none_or(|(first, last)| {
                (number(&row[7]), number(&row[8])) == (Some(f64::from(first)), Some(f64::from(last)))
            });
        let duplex = format!("{:?}", here.duplex).to_uppercase();
        // The library calls bands without an uplink FDD, as the standard's table does with a footnote.
        let mode = duplex == row[9] || here.duplex == Duplex::Sdl;
        if !(same && mode) {
            disagree.push(band);
        }
        compared += 1;
    }
    assert!(compared > 60, "only {compared}");
    assert_eq!(disagree, EXPECTED_LTE_DISAGREEMENTS);
}

const EXPECTED_LTE_DISAGREEMENTS: [u16; 0] = [];

/// Both ends of every band against a second library, earfcn 0.0.3. Its disagreements, settled by TS 36.101: B6 is
/// "not applicable"; it begins B22 at 3500 instead of 3510 MHz and gives B23 no width; B64 is no band; it has no
/// frequency for B72.
#[test]
fn lte_channels_match_a_second_library_but_for_its_known_faults() {
    let mut disagree = Vec::new();
    for row in rows(include_str!("../../../../tests/vectors/lte_channels_second.csv")) {
        let (band, earfcn, mhz): (u16, u32, f64) =
            (row[0].parse().unwrap(), row[1].parse().unwrap(), row[2].parse().unwrap());
        let here = lte_band_of_earfcn(earfcn).map(|found| found.band);
        if here != Some(band) || lte_downlink_mhz(earfcn) != Some(mhz) {
            disagree.push(band);
        }
    }
    disagree.dedup();
    assert_eq!(disagree, [6, 22, 64, 72]);
}

/// FR1 ranges and duplex modes against nrarfcn 2.6.0.
#[test]
fn nr_bands_match_the_reference_library() {
    let mut disagree = Vec::new();
    let mut missing = Vec::new();
    for row in rows(include_str!("../../../../tests/vectors/nr_bands.csv")) {
        let band: u16 = row[0].parse().unwrap();
        let Some(here) = nr_band(band) else {
            missing.push(band);
            continue;
        };
        let same = here.downlink_mhz == number(&row[1]).zip(number(&row[2]))
            && here.uplink_mhz == number(&row[3]).zip(number(&row[4]))
            && format!("{:?}", here.duplex).to_uppercase() == row[5];
        if !same {
            disagree.push(band);
        }
    }
    assert_eq!(disagree, EXPECTED_NR_DISAGREEMENTS);
    assert!(missing.is_empty(), "{missing:?}");
}

const EXPECTED_NR_DISAGREEMENTS: [u16; 0] = [];

/// TS 38.104 5.4.2.1 with table 5.2-1: 636666 is 3549.99 MHz, in n77, n78 and at the very edge outside n48 (3550).
#[test]
fn an_nr_channel_may_belong_to_several_bands() {
    assert_eq!(nr_bands_of_arfcn(636_666), [77, 78]);
    assert_eq!(nr_bands_of_arfcn(154_600), [28]);
    assert_eq!(nr_bands_of_arfcn(386_000), [2, 25]);
    assert!(nr_bands_of_arfcn(2_100_000).is_empty());
}

/// TS 36.101 table 5.6-1, TS 38.101-1 table 5.3.2-1: worked values.
#[test]
fn bandwidths_have_their_resource_blocks() {
    assert_eq!(lte_resource_blocks(20.0), Some(100));
    assert_eq!(lte_resource_blocks(1.4), Some(6));
    assert_eq!(lte_resource_blocks(90.0), None);
    assert_eq!(nr_resource_blocks(100.0, 30), Some(273));
    assert_eq!(nr_resource_blocks(20.0, 15), Some(106));
    assert_eq!(nr_resource_blocks(90.0, 30), Some(245));
    assert_eq!(nr_resource_blocks(100.0, 15), None);
    assert_eq!(nr_resource_blocks(5.0, 60), None);
}

/// B9 lies inside B3, B4 and B10 inside B66; n78 inside n77 (TS 36.101 table 5.5-1, TS 38.104 table 5.2-1).
#[test]
fn bands_inside_others_are_known() {
    let of = |technology, band, other| {
        overlaps_of(technology, band).into_iter().find(|found| found.band == other).map(|found| found.overlap)
    };
    assert_eq!(of(Technology::Lte, 9, 3), Some(Overlap::Inside));
    assert_eq!(of(Technology::Lte, 66, 4), Some(Overlap::Holds));
    assert_eq!(of(Technology::Nr, 78, 77), Some(Overlap::Inside));
    assert_eq!(of(Technology::Nr, 41, 90), Some(Overlap::Same));
    assert_eq!(of(Technology::Lte, 20, 3), None);
}

/// Worked cases of common practice, no source: band n is bit n − 1, bands above 64 in the second word.
#[test]
fn lock_masks_by_worked_cases() {
    assert_eq!(LockMask::of(&[1]).unwrap(), LockMask { low: 1, high: 0 });
    assert_eq!(LockMask::of(&[20, 3, 3]).unwrap(), LockMask { low: 0x8_0004, high: 0 });
    assert_eq!(LockMask::of(&[66, 64]).unwrap(), LockMask { low: 1 << 63, high: 2 });
    assert_eq!(LockMask::of(&[0]), Err(LockError::Band(0)));
    assert_eq!(LockMask::of(&[261]), Err(LockError::Band(261)));
}

/// eNB 107187 (0x1A2B3), cell 2: bit arithmetic by hand.
#[test]
fn a_cell_identity_has_two_parts() {
    let of = CellIdentity::split(Technology::Lte, 0x1A2_B302, NodeBits(20)).unwrap();
    assert_eq!((of.node, of.local), (0x1_A2B3, 2));
    assert_eq!(CellIdentity::split(Technology::Lte, 1 << 28, NodeBits(20)), Err(IdentityError::TooLarge(28)));
    assert_eq!(CellIdentity::split(Technology::Nr, 1, NodeBits(20)), Err(IdentityError::NodeBits));
}

proptest! {
    #[test]
    fn masks_and_lists_turn_into_each_other(mut bands in prop::collection::vec(1_u16..=128, 0..20)) {
        let mask = LockMask::of(&bands).unwrap();
        bands.sort_unstable();
        bands.dedup();
        prop_assert_eq!(mask.bands(), bands);
    }

    #[test]
    fn identities_come_back_whole(whole in 0_u64..1 << 36, bits in 22_u8..=32) {
        let split = CellIdentity::split(Technology::Nr, whole, NodeBits(bits)).unwrap();
        prop_assert_eq!(split.whole(Technology::Nr), whole);
        let lte = CellIdentity::split(Technology::Lte, whole >> 8, NodeBits(20)).unwrap();
        prop_assert_eq!(lte.whole(Technology::Lte), whole >> 8);
    }

    #[test]
    fn channel_numbers_come_back(earfcn in 0_u32..70_700, arfcn in 0_u32..=3_279_165) {
        if let Some(band) = lte_band_of_earfcn(earfcn) {
            prop_assert_eq!(lte_earfcn(band.band, lte_downlink_mhz(earfcn).unwrap()), Some(earfcn));
        }
        prop_assert_eq!(nr_arfcn(nr_frequency_mhz(arfcn).unwrap()), Some(arfcn));
    }
}
