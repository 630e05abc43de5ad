//! LTE operating bands and channel numbers: 3GPP TS 36.101 tables 5.5-1 (bands), 5.6.1-1 (bandwidths) and 5.7.3-1
//! (channel numbers), F = F_low + 0.1 (N − N_offs).

use super::Duplex;

/// One LTE operating band.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LteBand {
    /// Operating band.
    pub band: u16,
    /// Lower edge of the downlink, MHz.
    pub downlink_low_mhz: f64,
    /// First and last downlink EARFCN; N_offs-DL is the first.
    pub first_earfcn: u32,
    /// Last EARFCN of the downlink.
    pub last_earfcn: u32,
    /// Lower edge of the uplink, MHz; `None` where the band has no uplink of its own.
    pub uplink_low_mhz: Option<f64>,
    /// First and last uplink EARFCN, the same as the downlink's for TDD.
    pub uplink_earfcn: Option<(u32, u32)>,
    /// How up and down share the band.
    pub duplex: Duplex,
    /// Channel bandwidths that the standard allows in this band, MHz; from memory of table 5.6.1-1.
    pub bandwidths_mhz: &'static [f64],
}

impl LteBand {
    /// Edges of the downlink, MHz.
    pub fn downlink_mhz(&self) -> (f64, f64) {
        span(self.downlink_low_mhz, self.first_earfcn, self.last_earfcn)
    }

    /// Edges of the uplink, MHz.
    pub fn uplink_mhz(&self) -> Option<(f64, f64)> {
        let (first, last) = self.uplink_earfcn?;
        Some(span(self.uplink_low_mhz?, first, last))
    }
}

fn span(low_mhz: f64, first: u32, last: u32) -> (f64, f64) {
    (low_mhz, ((low_mhz * 10.0).round() + f64::from(last - first + 1)) / 10.0)
}

type Widths = &'static [f64];
const ALL: Widths = &[1.4, 3.0, 5.0, 10.0, 15.0, 20.0];
const FROM_5: Widths = &[5.0, 10.0, 15.0, 20.0];
const FROM_3: Widths = &[3.0, 5.0, 10.0, 15.0, 20.0];
const TO_15: Widths = &[1.4, 3.0, 5.0, 10.0, 15.0];
const TO_10: Widths = &[1.4, 3.0, 5.0, 10.0];
const TO_5: Widths = &[1.4, 3.0, 5.0];
const W5_15: Widths = &[5.0, 10.0, 15.0];
const W5_10: Widths = &[5.0, 10.0];
const W3_10: Widths = &[3.0, 5.0, 10.0];
const W3_5: Widths = &[3.0, 5.0];
const W10_20: Widths = &[10.0, 20.0];
const W5: Widths = &[5.0];

/// Paired band up to B28: the uplink's numbers lie 18000 above the downlink's.
const fn fdd(band: u16, dl: f64, first: u32, last: u32, ul: f64, widths: Widths) -> LteBand {
    fdd_at(band, dl, first, last, ul, (first + 18_000, last + 18_000), widths)
}

const fn fdd_at(
    band: u16,
    dl: f64,
    first: u32,
    last: u32,
    ul: f64,
    numbers: (u32, u32),
    widths: Widths,
) -> LteBand {
    LteBand {
        band,
        downlink_low_mhz: dl,
        first_earfcn: first,
        last_earfcn: last,
        uplink_low_mhz: Some(ul),
        uplink_earfcn: Some(numbers),
        duplex: Duplex::Fdd,
        bandwidths_mhz: widths,
    }
}

const fn sdl(band: u16, dl: f64, first: u32, last: u32, widths: Widths) -> LteBand {
    LteBand {
        band,
        downlink_low_mhz: dl,
        first_earfcn: first,
        last_earfcn: last,
        uplink_low_mhz: None,
        uplink_earfcn: None,
        duplex: Duplex::Sdl,
        bandwidths_mhz: widths,
    }
}

const fn tdd(band: u16, low: f64, first: u32, last: u32, widths: Widths) -> LteBand {
    LteBand {
        band,
        downlink_low_mhz: low,
        first_earfcn: first,
        last_earfcn: last,
        uplink_low_mhz: Some(low),
        uplink_earfcn: Some((first, last)),
        duplex: Duplex::Tdd,
        bandwidths_mhz: widths,
    }
}

pub(super) const LTE_BANDS: &[LteBand] = &[
    fdd(1, 2110.0, 0, 599, 1920.0, FROM_5),
    fdd(2, 1930.0, 600, 1199, 1850.0, ALL),
    fdd(3, 1805.0, 1200, 1949, 1710.0, ALL),
    fdd(4, 2110.0, 1950, 2399, 1710.0, ALL),
    fdd(5, 869.0, 2400, 2649, 824.0, TO_10),
    fdd(7, 2620.0, 2750, 3449, 2500.0, FROM_5),
    fdd(8, 925.0, 3450, 3799, 880.0, TO_10),
    fdd(9, 1844.9, 3800, 4149, 1749.9, FROM_5),
    fdd(10, 2110.0, 4150, 4749, 1710.0, FROM_5),
    fdd(11, 1475.9, 4750, 4949, 1427.9, W5_10),
    fdd(12, 729.0, 5010, 5179, 699.0, TO_10),
    fdd(13, 746.0, 5180, 5279, 777.0, W5_10),
    fdd(14, 758.0, 5280, 5379, 788.0, W5_10),
    fdd(17, 734.0, 5730, 5849, 704.0, W5_10),
    fdd(18, 860.0, 5850, 5999, 815.0, W5_15),
    fdd(19, 875.0, 6000, 6149, 830.0, W5_15),
    fdd(20, 791.0, 6150, 6449, 832.0, FROM_5),
    fdd(21, 1495.9, 6450, 6599, 1447.9, W5_15),
    fdd(22, 3510.0, 6600, 7399, 3410.0, FROM_5),
    fdd(23, 2180.0, 7500, 7699, 2000.0, ALL),
    fdd(24, 1525.0, 7700, 8039, 1626.5, W5_10),
    fdd(25, 1930.0, 8040, 8689, 1850.0, ALL),
    fdd(26, 859.0, 8690, 9039, 814.0, TO_15),
    fdd(27, 852.0, 9040, 9209, 807.0, TO_10),
    fdd(28, 758.0, 9210, 9659, 703.0, FROM_3),
    sdl(29, 717.0, 9660, 9769, W3_10),
    // B29 has no uplink and takes no uplink numbers, so these two lie closer.
    fdd_at(30, 2350.0, 9770, 9869, 2305.0, (27_660, 27_759), W5_10),
    fdd_at(31, 462.5, 9870, 9919, 452.5, (27_760, 27_809), TO_5),
    sdl(32, 1452.0, 9920, 10359, FROM_5),
    tdd(33, 1900.0, 36000, 36199, FROM_5),
    tdd(34, 2010.0, 36200, 36349, W5_15),
    tdd(35, 1850.0, 36350, 36949, ALL),
    tdd(36, 1930.0, 36950, 37549, ALL),
    tdd(37, 1910.0, 37550, 37749, FROM_5),
    tdd(38, 2570.0, 37750, 38249, FROM_5),
    tdd(39, 1880.0, 38250, 38649, FROM_5),
    tdd(40, 2300.0, 38650, 39649, FROM_5),
    tdd(41, 2496.0, 39650, 41589, FROM_5),
    tdd(42, 3400.0, 41590, 43589, FROM_5),
    tdd(43, 3600.0, 43590, 45589, FROM_5),
    tdd(44, 703.0, 45590, 46589, FROM_3),
    tdd(45, 1447.0, 46590, 46789, FROM_5),
    tdd(46, 5150.0, 46790, 54539, W10_20),
    tdd(47, 5855.0, 54540, 55239, W10_20),
    tdd(48, 3550.0, 55240, 56739, FROM_5),
    tdd(49, 3550.0, 56740, 58239, W10_20),
    tdd(50, 1432.0, 58240, 59089, FROM_3),
    tdd(51, 1427.0, 59090, 59139, W3_5),
    tdd(52, 3300.0, 59140, 60139, FROM_5),
    tdd(53, 2483.5, 60140, 60254, TO_10),
    tdd(54, 1670.0, 60255, 60304, TO_5),
    fdd_at(65, 2110.0, 65536, 66435, 1920.0, (131_072, 131_971), ALL),
    fdd_at(66, 2110.0, 66436, 67335, 1710.0, (131_972, 132_671), ALL),
    sdl(67, 738.0, 67336, 67535, FROM_5),
    fdd_at(68, 753.0, 67536, 67835, 698.0, (132_672, 132_971), W5_15),
    sdl(69, 2570.0, 67836, 68335, W5),
    fdd_at(70, 1995.0, 68336, 68585, 1695.0, (132_972, 133_121), FROM_5),
    fdd_at(71, 617.0, 68586, 68935, 663.0, (133_122, 133_471), FROM_5),
    fdd_at(72, 461.0, 68936, 68985, 451.0, (133_472, 133_521), TO_5),
    fdd_at(73, 460.0, 68986, 69035, 450.0, (133_522, 133_571), TO_5),
    fdd_at(74, 1475.0, 69036, 69465, 1427.0, (133_572, 134_001), ALL),
    sdl(75, 1432.0, 69466, 70315, FROM_5),
    sdl(76, 1427.0, 70316, 70365, W5),
    fdd_at(85, 728.0, 70366, 70545, 698.0, (134_002, 134_181), W5_10),
    fdd_at(87, 420.0, 70546, 70595, 410.0, (134_182, 134_231), TO_5),
    fdd_at(88, 422.0, 70596, 70645, 412.0, (134_232, 134_281), TO_5),
];

/// The band that a downlink EARFCN belongs to. EARFCNs are unique to a band; `None` outside the table.
pub fn lte_band_of_earfcn(earfcn: u32) -> Option<&'static LteBand> {
    LTE_BANDS.iter().find(|band| (band.first_earfcn..=band.last_earfcn).contains(&earfcn))
}

/// The band of this number, if the table has it.
pub fn lte_band(band: u16) -> Option<&'static LteBand> {
    LTE_BANDS.iter().find(|row| row.band == band)
}

/// Downlink carrier frequency of an EARFCN, MHz, on the 100 kHz raster; `None` outside the table.
///
/// ```
/// // B20: 791.0 MHz + 0.1 (6300 − 6150).
/// assert_eq!(open_beacon_domain::bands::lte_downlink_mhz(6300), Some(806.0));
/// ```
pub fn lte_downlink_mhz(earfcn: u32) -> Option<f64> {
    let band = lte_band_of_earfcn(earfcn)?;
    Some(tenths(band.downlink_low_mhz, earfcn - band.first_earfcn))
}

/// Uplink carrier frequency of an uplink EARFCN, MHz; `None` outside the table.
pub fn lte_uplink_mhz(earfcn: u32) -> Option<f64> {
    LTE_BANDS.iter().find_map(|band| {
        let (first, last) = band.uplink_earfcn?;
        (first..=last)
            .contains(&earfcn)
            .then(|| tenths(band.uplink_low_mhz.unwrap_or_default(), earfcn - first))
    })
}

/// Downlink EARFCN of a frequency in a band; `None` where it is off the 100 kHz raster or outside the band.
pub fn lte_earfcn(band: u16, downlink_mhz: f64) -> Option<u32> {
    let row = lte_band(band)?;
    let steps = (downlink_mhz - row.downlink_low_mhz) * 10.0;
    let whole = steps.round();
    let on_raster = (steps - whole).abs() < 1e-3 && whole >= 0.0;
    let earfcn = row.first_earfcn + if on_raster { whole as u32 } else { return None };
    (earfcn <= row.last_earfcn).then_some(earfcn)
}

fn tenths(low_mhz: f64, steps: u32) -> f64 {
    ((low_mhz * 10.0).round() + f64::from(steps)) / 10.0
}
