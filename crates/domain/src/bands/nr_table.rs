//! NR operating bands in FR1: 3GPP TS 38.104 table 5.2-1; channel bandwidths TS 38.101-1 table 5.3.5-1.

use super::Duplex;

/// One row of TS 38.104 table 5.2-1. Frequencies MHz, lower and upper edge; `None` where the band has no such side.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct NrBand {
    /// Operating band.
    pub band: u16,
    /// Lowest and highest uplink frequency, MHz.
    pub uplink_mhz: Option<(f64, f64)>,
    /// Lowest and highest downlink frequency, MHz.
    pub downlink_mhz: Option<(f64, f64)>,
    /// How up and down share the band.
    pub duplex: Duplex,
    /// Widest channel bandwidth, MHz, of those in [`super::NR_BANDWIDTHS_MHZ`]; 0 where the table here has none.
    pub widest_mhz: u16,
}

const fn fdd(band: u16, ul: (f64, f64), dl: (f64, f64), widest_mhz: u16) -> NrBand {
    NrBand { band, uplink_mhz: Some(ul), downlink_mhz: Some(dl), duplex: Duplex::Fdd, widest_mhz }
}

const fn tdd(band: u16, low: f64, high: f64, widest_mhz: u16) -> NrBand {
    let range = Some((low, high));
    NrBand { band, uplink_mhz: range, downlink_mhz: range, duplex: Duplex::Tdd, widest_mhz }
}

const fn sdl(band: u16, low: f64, high: f64, widest_mhz: u16) -> NrBand {
    NrBand { band, uplink_mhz: None, downlink_mhz: Some((low, high)), duplex: Duplex::Sdl, widest_mhz }
}

const fn sul(band: u16, low: f64, high: f64) -> NrBand {
    NrBand { band, uplink_mhz: Some((low, high)), downlink_mhz: None, duplex: Duplex::Sul, widest_mhz: 0 }
}

/// Widest bandwidths are from memory of TS 38.101-1 table 5.3.5-1; ranges are checked against a library.
pub(super) const NR_BANDS: &[NrBand] = &[
    fdd(1, (1920.0, 1980.0), (2110.0, 2170.0), 50),
    fdd(2, (1850.0, 1910.0), (1930.0, 1990.0), 40),
    fdd(3, (1710.0, 1785.0), (1805.0, 1880.0), 50),
    fdd(5, (824.0, 849.0), (869.0, 894.0), 25),
    fdd(7, (2500.0, 2570.0), (2620.0, 2690.0), 50),
    fdd(8, (880.0, 915.0), (925.0, 960.0), 35),
    fdd(12, (699.0, 716.0), (729.0, 746.0), 15),
    fdd(13, (777.0, 787.0), (746.0, 756.0), 10),
    fdd(14, (788.0, 798.0), (758.0, 768.0), 10),
    fdd(18, (815.0, 830.0), (860.0, 875.0), 15),
    fdd(20, (832.0, 862.0), (791.0, 821.0), 20),
    fdd(24, (1626.5, 1660.5), (1525.0, 1559.0), 10),
    fdd(25, (1850.0, 1915.0), (1930.0, 1995.0), 45),
    fdd(26, (814.0, 849.0), (859.0, 894.0), 30),
    fdd(28, (703.0, 748.0), (758.0, 803.0), 40),
    sdl(29, 717.0, 728.0, 10),
    fdd(30, (2305.0, 2315.0), (2350.0, 2360.0), 10),
    tdd(34, 2010.0, 2025.0, 15),
    tdd(38, 2570.0, 2620.0, 40),
    tdd(39, 1880.0, 1920.0, 40),
    tdd(40, 2300.0, 2400.0, 100),
    tdd(41, 2496.0, 2690.0, 100),
    tdd(46, 5150.0, 5925.0, 100),
    tdd(47, 5855.0, 5925.0, 40),
    tdd(48, 3550.0, 3700.0, 100),
    tdd(50, 1432.0, 1517.0, 80),
    tdd(51, 1427.0, 1432.0, 5),
    tdd(53, 2483.5, 2495.0, 10),
    tdd(54, 1670.0, 1675.0, 5),
    fdd(65, (1920.0, 2010.0), (2110.0, 2200.0), 50),
    fdd(66, (1710.0, 1780.0), (2110.0, 2200.0), 45),
    sdl(67, 738.0, 758.0, 20),
    fdd(70, (1695.0, 1710.0), (1995.0, 2020.0), 25),
    fdd(71, (663.0, 698.0), (617.0, 652.0), 35),
    fdd(74, (1427.0, 1470.0), (1475.0, 1518.0), 20),
    sdl(75, 1432.0, 1517.0, 50),
    sdl(76, 1427.0, 1432.0, 5),
    tdd(77, 3300.0, 4200.0, 100),
    tdd(78, 3300.0, 3800.0, 100),
    tdd(79, 4400.0, 5000.0, 100),
    sul(80, 1710.0, 1785.0),
    sul(81, 880.0, 915.0),
    sul(82, 832.0, 862.0),
    sul(83, 703.0, 748.0),
    sul(84, 1920.0, 1980.0),
    fdd(85, (698.0, 716.0), (728.0, 746.0), 15),
    sul(86, 1710.0, 1780.0),
    sul(89, 824.0, 849.0),
    tdd(90, 2496.0, 2690.0, 100),
    fdd(91, (832.0, 862.0), (1427.0, 1432.0), 10),
    fdd(92, (832.0, 862.0), (1432.0, 1517.0), 20),
    fdd(93, (880.0, 915.0), (1427.0, 1432.0), 10),
    fdd(94, (880.0, 915.0), (1432.0, 1517.0), 20),
    sul(95, 2010.0, 2025.0),
    tdd(96, 5925.0, 7125.0, 100),
    sul(97, 2300.0, 2400.0),
    sul(98, 1880.0, 1920.0),
    sul(99, 1626.5, 1660.5),
    fdd(100, (874.4, 880.0), (919.4, 925.0), 5),
    tdd(101, 1900.0, 1910.0, 10),
    tdd(102, 5925.0, 6425.0, 100),
    tdd(104, 6425.0, 7125.0, 100),
    fdd(105, (663.0, 703.0), (612.0, 652.0), 35),
    fdd(106, (896.0, 901.0), (935.0, 940.0), 5),
    fdd(109, (703.0, 733.0), (1432.0, 1517.0), 50),
];
