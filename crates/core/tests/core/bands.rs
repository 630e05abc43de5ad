use open_beacon_core::bands::{
    band_name, carrier_frequency_mhz, lte_band_of_earfcn, lte_downlink_mhz, nr_frequency_mhz,
};
use open_beacon_core::model::Technology;

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
