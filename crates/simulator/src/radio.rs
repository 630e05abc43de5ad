//! What the gateway hears and what the line carries at one instant.

use crate::antenna::{feed_loss_db, internal_gain_dbi, panel_gain_dbi};
use crate::channel::{Cover, Stand, load, path_gain_db};
use crate::world::{Cell, HOUSE_LATITUDE_DEG, HOUSE_LONGITUDE_DEG, Mast};
use chrono::{DateTime, Timelike, Utc};
use open_beacon_core::model::{Carrier, CarrierRole, ChannelKind, Neighbour, Technology};
use serde::{Deserialize, Serialize};

/// How the stand-in's antenna stands and points. This is what the control address takes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Pose {
    pub latitude_deg: f64,
    pub longitude_deg: f64,
    pub height_above_ground_m: f64,
    /// `indoor`, `window`, `attic`, `wall`, `gable`, `roof_mast`, `chimney`, `pole` or `other`.
    pub mount: String,
    /// `internal` or `external`.
    pub antenna: String,
    /// Degrees from true north.
    pub azimuth_deg: f64,
    pub tilt_deg: f64,
}

impl Default for Pose {
    fn default() -> Self {
        Self {
            latitude_deg: HOUSE_LATITUDE_DEG,
            longitude_deg: HOUSE_LONGITUDE_DEG,
            height_above_ground_m: 1.1,
            mount: "indoor".into(),
            antenna: "internal".into(),
            azimuth_deg: 0.0,
            tilt_deg: 0.0,
        }
    }
}

impl Pose {
    fn stand(&self) -> Stand {
        let metres_per_degree = 111_320.0;
        Stand {
            east_m: (self.longitude_deg - HOUSE_LONGITUDE_DEG)
                * metres_per_degree
                * HOUSE_LATITUDE_DEG.to_radians().cos(),
            north_m: (self.latitude_deg - HOUSE_LATITUDE_DEG) * metres_per_degree,
            height_m: self.height_above_ground_m,
            cover: match self.mount.as_str() {
                "indoor" => Cover::Indoor,
                "window" => Cover::Window,
                "attic" => Cover::Attic,
                "wall" | "gable" => Cover::AtHouse,
                _ => Cover::Free,
            },
        }
    }

    fn gain_db(&self, bearing_deg: f64, frequency_mhz: f64) -> f64 {
        let off = (bearing_deg - self.azimuth_deg + 180.0).rem_euclid(360.0) - 180.0;
        if self.antenna == "external" {
            panel_gain_dbi(off, self.tilt_deg - 1.0) - feed_loss_db(frequency_mhz)
        } else {
            internal_gain_dbi(off)
        }
    }
}

/// One cell as it arrives at the receiver.
#[derive(Clone, Debug)]
pub struct Heard {
    pub mast: usize,
    pub cell: Cell,
    pub rsrp_dbm: f64,
    pub rsrq_db: f64,
    pub rssi_dbm: f64,
    pub sinr_db: f64,
    pub load: f64,
    /// Gain of the way including the antenna, dB.
    pub path_db: f64,
}

/// What the line would carry.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Rates {
    pub down_mbps: f64,
    pub up_mbps: f64,
    pub idle_latency_ms: f64,
    pub loaded_latency_ms: f64,
}

/// Noise in one LTE resource element, dBm: thermal in 15 kHz and a noise figure of 7 dB.
const NOISE_PER_ELEMENT_DBM: f64 = -132.2 + 7.0;

/// Hour of the day in the valley, which keeps UTC+1.
fn hour(at_s: f64) -> f64 {
    DateTime::<Utc>::from_timestamp(at_s as i64, 0)
        .map_or(12.0, |at| (f64::from(at.hour()) + f64::from(at.minute()) / 60.0 + 1.0).rem_euclid(24.0))
}

/// Everything that arrives at the antenna at a time, interference worked out a channel at a time. `own_traffic`
/// raises the serving cells' own load as a speed test does.
pub fn hear(seed: u64, masts: &[Mast], pose: &Pose, at_s: f64) -> Vec<Heard> {
    let stand = pose.stand();
    let hour = hour(at_s);
    let milliwatts = |dbm: f64| 10f64.powf(dbm / 10.0);
    let decibels = |mw: f64| 10.0 * mw.log10();
    let mut heard: Vec<Heard> = Vec::new();
    for (index, mast) in masts.iter().enumerate() {
        for cell in &mast.cells {
            let bearing = mast.bearing_deg(stand.east_m, stand.north_m);
            let path_db =
                path_gain_db(seed, mast, cell, &stand, at_s) + pose.gain_db(bearing, cell.frequency_mhz);
            heard.push(Heard {
                mast: index,
                rsrp_dbm: cell.eirp_per_element_dbm + path_db,
                load: load(seed, cell, at_s, hour),
                cell: cell.clone(),
                path_db,
                rsrq_db: 0.0,
                rssi_dbm: 0.0,
                sinr_db: 0.0,
            });
        }
    }
    // Sub-carriers of 30 kHz collect twice the noise.
    let noise = |cell: &Cell| milliwatts(NOISE_PER_ELEMENT_DBM + if cell.band == 78 { 3.0 } else { 0.0 });
    let powers: Vec<(u32, f64, f64)> =
        heard.iter().map(|entry| (entry.cell.channel, milliwatts(entry.rsrp_dbm), entry.load)).collect();
    for (index, entry) in heard.iter_mut().enumerate() {
        let own = powers[index].1;
        let others: f64 = powers
            .iter()
            .enumerate()
            .filter(|(other, power)| *other != index && power.0 == entry.cell.channel)
            .map(|(_, power)| power.1 * (0.12 + 0.88 * power.2))
            .sum();
        let noise = noise(&entry.cell);
        // Transmitter and receiver add their own error: nothing comes out cleaner than 27 dB.
        entry.sinr_db = decibels(own / (others + noise + own * milliwatts(-27.0))).max(-20.0);
        let blocks = entry.cell.resource_elements / 12.0;
        // Own reference signals fill a sixth of the elements, data the rest as far as the cell is loaded.
        let per_element = own * (0.16 + 0.84 * entry.load) + others + noise;
        entry.rssi_dbm = decibels(per_element * entry.cell.resource_elements);
        entry.rsrq_db = 10.0 * blocks.log10() + entry.rsrp_dbm - entry.rssi_dbm;
    }
    heard
}

impl Heard {
    /// As a carrier of a reading, rounded as gateways round.
    pub fn carrier(&self, role: CarrierRole) -> Carrier {
        let mut carrier = Carrier::empty(self.cell.technology, role);
        carrier.band = Some(self.cell.band);
        carrier.channel = Some(self.cell.channel);
        carrier.channel_kind =
            if self.cell.technology == Technology::Lte { ChannelKind::Carrier } else { ChannelKind::Unknown };
        carrier.bandwidth_mhz = Some(self.cell.bandwidth_mhz);
        carrier.pci = Some(self.cell.pci);
        carrier.cell_identity = Some(self.cell.cell_identity);
        carrier.rsrp_dbm = Some(self.rsrp_dbm.round());
        carrier.rsrq_db = Some((self.rsrq_db * 2.0).round() / 2.0);
        carrier.sinr_db = Some((self.sinr_db * 2.0).round() / 2.0);
        if self.cell.technology == Technology::Lte {
            carrier.rssi_dbm = Some(self.rssi_dbm.round());
        }
        carrier.rank = Some(self.layers() as u8);
        carrier
    }

    /// As a neighbour of a reading.
    pub fn neighbour(&self) -> Neighbour {
        Neighbour {
            technology: self.cell.technology,
            band: Some(self.cell.band),
            channel: Some(self.cell.channel),
            pci: Some(self.cell.pci),
            rsrp_dbm: Some(self.rsrp_dbm.round()),
            rsrq_db: Some((self.rsrq_db * 2.0).round() / 2.0),
        }
    }

    fn layers(&self) -> u32 {
        if self.sinr_db > 11.0 { 2 } else { 1 }
    }

    /// What this carrier moves down at the moment, Mbit/s: the stand-in's own law, not the core's.
    pub fn down_mbps(&self) -> f64 {
        let layers = f64::from(self.layers());
        let signal = 10f64.powf((self.sinr_db - 3.0 * (layers - 1.0)) / 10.0);
        let per_hertz = (0.42 * (1.0 + signal / 1.6).log2()).min(3.4) * layers;
        per_hertz * self.cell.bandwidth_mhz * 0.86 * self.cell.downlink_share * (1.0 - self.load)
    }

    /// What a phone-class transmitter gets up on this carrier, Mbit/s.
    pub fn up_mbps(&self) -> f64 {
        let share = if self.cell.downlink_share < 1.0 { 1.0 - self.cell.downlink_share } else { 1.0 };
        // 23 dBm over the blocks it is given, the mast's receive gain, its noise and what others do.
        let blocks_mhz = self.cell.bandwidth_mhz.min(10.0);
        let noise_dbm = -174.0 + 10.0 * (blocks_mhz * 1e6).log10() + 5.0;
        let arriving_dbm = 23.0 + 15.0 + self.path_db - 3.0;
        let signal = 10f64.powf((arriving_dbm - noise_dbm).clamp(-12.0, 22.0) / 10.0);
        0.55 * (1.0 + signal / 2.0).log2() * blocks_mhz * share * (1.0 - 0.6 * self.load)
    }
}
