//! The valley: invented masts with cells of invented carriers on test network codes.

use open_beacon_core::model::Technology;

/// Where the house stands.
pub const HOUSE_LATITUDE_DEG: f64 = 61.4213;
/// Where the house stands.
pub const HOUSE_LONGITUDE_DEG: f64 = 8.2087;

/// A mast, placed by metres east and north of the house.
#[derive(Clone, Debug)]
pub struct Mast {
    pub name: &'static str,
    pub east_m: f64,
    pub north_m: f64,
    pub cells: Vec<Cell>,
}

impl Mast {
    /// Horizontal distance from a point given as metres east and north of the house.
    pub fn distance_m(&self, east_m: f64, north_m: f64) -> f64 {
        (self.east_m - east_m).hypot(self.north_m - north_m)
    }

    /// Bearing from that point, degrees from north.
    pub fn bearing_deg(&self, east_m: f64, north_m: f64) -> f64 {
        (self.east_m - east_m).atan2(self.north_m - north_m).to_degrees().rem_euclid(360.0)
    }
}

/// One cell.
#[derive(Clone, Debug)]
pub struct Cell {
    pub technology: Technology,
    pub band: u16,
    pub channel: u32,
    pub frequency_mhz: f64,
    pub bandwidth_mhz: f64,
    pub resource_elements: f64,
    pub pci: u16,
    pub cell_identity: u64,
    /// Radiated power of one resource element towards the valley, dBm.
    pub eirp_per_element_dbm: f64,
    /// Loss beyond free space on the way to the house, dB.
    pub excess_db: f64,
    /// Share of the time given to the downlink; 1 for FDD.
    pub downlink_share: f64,
    /// Share of the cell in use by others at the quietest and at the busiest hour.
    pub load: (f64, f64),
    /// Hour at which it is busiest.
    pub busiest_hour: f64,
    /// NR: reachable on its own core.
    pub standalone: bool,
    /// NR: LTE bands of the mast that it rides on; empty for all.
    pub anchors: Vec<u16>,
}

impl Cell {
    /// With another busiest hour.
    pub fn busiest_at(mut self, hour: f64) -> Self {
        self.busiest_hour = hour;
        self
    }

    /// Without a core of its own.
    pub fn non_standalone(mut self) -> Self {
        self.standalone = false;
        self
    }

    /// Riding on these LTE bands only.
    pub fn on_anchors(mut self, anchors: &[u16]) -> Self {
        self.anchors = anchors.to_vec();
        self
    }
}

pub(crate) struct Kind(Technology, u16, u32, f64, f64, f64, f64, f64);

pub(crate) const B20: Kind = Kind(Technology::Lte, 20, 6300, 806.0, 10.0, 600.0, 33.0, 1.0);
pub(crate) const B28: Kind = Kind(Technology::Lte, 28, 9435, 780.5, 10.0, 600.0, 33.0, 1.0);
pub(crate) const B3: Kind = Kind(Technology::Lte, 3, 1300, 1815.0, 20.0, 1200.0, 32.0, 1.0);
pub(crate) const B7: Kind = Kind(Technology::Lte, 7, 2850, 2630.0, 20.0, 1200.0, 32.0, 1.0);
pub(crate) const N28: Kind = Kind(Technology::Nr, 28, 154_600, 773.0, 10.0, 624.0, 33.0, 1.0);
pub(crate) const N78: Kind = Kind(Technology::Nr, 78, 636_666, 3549.99, 90.0, 2940.0, 43.0, 0.74);

/// A cell of a kind.
pub(crate) fn cell(kind: &Kind, pci: u16, cell_identity: u64, excess_db: f64, load: (f64, f64)) -> Cell {
    Cell {
        technology: kind.0,
        band: kind.1,
        channel: kind.2,
        frequency_mhz: kind.3,
        bandwidth_mhz: kind.4,
        resource_elements: kind.5,
        pci,
        cell_identity,
        eirp_per_element_dbm: kind.6,
        excess_db,
        downlink_share: kind.7,
        load,
        busiest_hour: 20.5,
        standalone: kind.0 == Technology::Nr,
        anchors: Vec::new(),
    }
}

/// The valley's masts: the wanted one to the south-east, one behind the ridge to the north, and one down the valley
/// that shares channels with the wanted one.
pub fn valley() -> Vec<Mast> {
    vec![
        Mast {
            name: "Skarvnut",
            east_m: 2829.0,
            north_m: -3754.0,
            cells: vec![
                cell(&B3, 211, 0x0_1A_2B_02, 20.0, (0.18, 0.62)),
                cell(&B20, 211, 0x0_1A_2B_12, 15.0, (0.25, 0.70)),
                cell(&N78, 611, 0x1_01A2_B002, 22.0, (0.15, 0.55)),
                cell(&N28, 612, 0x1_01A2_B012, 16.0, (0.20, 0.60)),
            ],
        },
        Mast {
            name: "Kvernhaug",
            east_m: 2997.0,
            north_m: 7417.0,
            cells: vec![
                cell(&B3, 87, 0x0_1A_31_01, 25.0, (0.10, 0.40)),
                cell(&B20, 87, 0x0_1A_31_11, 17.0, (0.15, 0.50)),
                cell(&B28, 88, 0x0_1A_31_21, 18.0, (0.10, 0.40)),
            ],
        },
        Mast {
            name: "Dimlia",
            east_m: -3581.0,
            north_m: -10_400.0,
            cells: vec![
                cell(&B3, 305, 0x0_1A_44_03, 17.0, (0.30, 0.75)),
                cell(&B7, 305, 0x0_1A_44_33, 19.0, (0.20, 0.60)),
                cell(&N78, 702, 0x1_01A4_4003, 14.0, (0.30, 0.75)),
            ],
        },
    ]
}
