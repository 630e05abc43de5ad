//! LTE downlink channel numbers: 3GPP TS 36.101 table 5.7.3-1, F_DL = F_DL_low + 0.1 (N_DL − N_offs-DL).

/// One row of TS 36.101 table 5.7.3-1, downlink side. N_offs-DL is the first channel number of the row.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LteBand {
    pub band: u16,
    /// Lower edge of the downlink, MHz.
    pub downlink_low_mhz: f64,
    pub first_earfcn: u32,
    pub last_earfcn: u32,
}

const fn row(band: u16, downlink_low_mhz: f64, first_earfcn: u32, last_earfcn: u32) -> LteBand {
    LteBand { band, downlink_low_mhz, first_earfcn, last_earfcn }
}

const LTE_BANDS: &[LteBand] = &[
    row(1, 2110.0, 0, 599),
    row(2, 1930.0, 600, 1199),
    row(3, 1805.0, 1200, 1949),
    row(4, 2110.0, 1950, 2399),
    row(5, 869.0, 2400, 2649),
    row(7, 2620.0, 2750, 3449),
    row(8, 925.0, 3450, 3799),
    row(9, 1844.9, 3800, 4149),
    row(10, 2110.0, 4150, 4749),
    row(11, 1475.9, 4750, 4949),
    row(12, 729.0, 5010, 5179),
    row(13, 746.0, 5180, 5279),
    row(14, 758.0, 5280, 5379),
    row(17, 734.0, 5730, 5849),
    row(18, 860.0, 5850, 5999),
    row(19, 875.0, 6000, 6149),
    row(20, 791.0, 6150, 6449),
    row(21, 1495.9, 6450, 6599),
    row(22, 3510.0, 6600, 7399),
    row(23, 2180.0, 7500, 7699),
    row(24, 1525.0, 7700, 8039),
    row(25, 1930.0, 8040, 8689),
    row(26, 859.0, 8690, 9039),
    row(27, 852.0, 9040, 9209),
    row(28, 758.0, 9210, 9659),
    row(29, 717.0, 9660, 9769),
    row(30, 2350.0, 9770, 9869),
    row(31, 462.5, 9870, 9919),
    row(32, 1452.0, 9920, 10359),
    row(33, 1900.0, 36000, 36199),
    row(34, 2010.0, 36200, 36349),
    row(35, 1850.0, 36350, 36949),
    row(36, 1930.0, 36950, 37549),
    row(37, 1910.0, 37550, 37749),
    row(38, 2570.0, 37750, 38249),
    row(39, 1880.0, 38250, 38649),
    row(40, 2300.0, 38650, 39649),
    row(41, 2496.0, 39650, 41589),
    row(42, 3400.0, 41590, 43589),
    row(43, 3600.0, 43590, 45589),
    row(44, 703.0, 45590, 46589),
    row(45, 1447.0, 46590, 46789),
    row(46, 5150.0, 46790, 54539),
    row(47, 5855.0, 54540, 55239),
    row(48, 3550.0, 55240, 56739),
    row(49, 3550.0, 56740, 58239),
    row(50, 1432.0, 58240, 59089),
    row(51, 1427.0, 59090, 59139),
    row(52, 3300.0, 59140, 60139),
    row(53, 2483.5, 60140, 60254),
    row(54, 1670.0, 60255, 60304),
    row(65, 2110.0, 65536, 66435),
    row(66, 2110.0, 66436, 67335),
    row(67, 738.0, 67336, 67535),
    row(68, 753.0, 67536, 67835),
    row(69, 2570.0, 67836, 68335),
    row(70, 1995.0, 68336, 68585),
    row(71, 617.0, 68586, 68935),
    row(72, 461.0, 68936, 68985),
    row(73, 460.0, 68986, 69035),
    row(74, 1475.0, 69036, 69465),
    row(75, 1432.0, 69466, 70315),
    row(76, 1427.0, 70316, 70365),
    row(85, 728.0, 70366, 70545),
    row(87, 420.0, 70546, 70595),
    row(88, 422.0, 70596, 70645),
];

/// The band that a downlink EARFCN belongs to. EARFCNs are unique to a band; `None` outside the table.
pub fn lte_band_of_earfcn(earfcn: u32) -> Option<&'static LteBand> {
    LTE_BANDS.iter().find(|band| (band.first_earfcn..=band.last_earfcn).contains(&earfcn))
}

/// Downlink carrier frequency of an EARFCN, MHz, on the 100 kHz raster; `None` outside the table.
///
/// ```
/// // B20: 791.0 MHz + 0.1 (6300 − 6150).
/// assert_eq!(open_beacon_core::bands::lte_downlink_mhz(6300), Some(806.0));
/// ```
pub fn lte_downlink_mhz(earfcn: u32) -> Option<f64> {
    let band = lte_band_of_earfcn(earfcn)?;
    let tenths = (band.downlink_low_mhz * 10.0).round() + f64::from(earfcn - band.first_earfcn);
    Some(tenths / 10.0)
}
