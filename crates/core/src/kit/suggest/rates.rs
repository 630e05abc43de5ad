//! Likely rates of antennas and receivers on the site's carriers, each worked out once.

use crate::capacity::possible::{Channel, carries_uplink};
use crate::kit::air::Air;
use crate::kit::predict::{gathered_db, mast_layers, measured_share, mode_of};
use crate::kit::scene::{Scene, SceneCarrier, is_used};
use crate::metrics::NOISE_FIGURE_DB;
use crate::model::{ConnectionMode, GatewaySpec, Technology};

/// One carrier, ready.
pub(super) struct Band<'a> {
    pub(super) at: usize,
    pub(super) scene: &'a SceneCarrier,
    air: Option<Air>,
    channel: Option<Channel>,
    uplink: bool,
}

/// The site's carriers, ready for many kits.
pub(super) struct Table<'a> {
    pub(super) bands: Vec<Band<'a>>,
    mode: ConnectionMode,
    /// What of the possible was measured.
    down_share: f64,
    up_share: f64,
}

/// What a gateway makes of each band, for so many leads.
pub(super) struct Receiver {
    noisier_db: f64,
    /// Layers and branches of each band; 0 for a band it does not carry.
    of_band: Vec<(u8, u8)>,
    transmit_power_dbm: f64,
    aggregated: usize,
    mode: ConnectionMode,
}

impl<'a> Table<'a> {
    pub(super) fn new(scene: &'a Scene) -> Self {
        let bands = scene
            .carriers
            .iter()
            .enumerate()
            .map(|(at, one)| Band {
                at,
                scene: one,
                air: Air::of(&one.carrier),
                channel: Channel::of(&one.carrier, &scene.settings.link),
                uplink: carries_uplink(&one.carrier, scene.mode),
            })
            .collect();
        Self {
            bands,
            mode: scene.mode,
            down_share: measured_share(scene.measured_down_mbps, scene.base_down_mbps),
            up_share: measured_share(scene.measured_up_mbps, scene.base_up_mbps),
        }
    }

    pub(super) fn receiver(&self, gateway: &GatewaySpec, branches: impl Fn(usize) -> u8) -> Receiver {
        let mode = mode_of(gateway, self.mode);
        let of_band = self
            .bands
            .iter()
            .map(|band| {
                if !is_used(band.scene.band.technology, mode) {
                    return (0, 0);
                }
                let has = gateway.layers_on(band.scene.band);
                let branches = branches(band.at);
                (has.min(branches).min(mast_layers(band.scene.frequency_mhz)), branches)
            })
            .collect();
        Receiver {
            noisier_db: gateway.noise_figure_db - NOISE_FIGURE_DB,
            of_band,
            transmit_power_dbm: gateway.transmit_power_dbm,
            aggregated: usize::from(gateway.aggregated_carriers.max(1)),
            mode,
        }
    }

    /// Sums up carriers' rates, as [`crate::kit::predict`] does: the best by download, the uplink on one carrier of
    /// each technology.
    fn sum(&self, receiver: &Receiver, rates: &[(f64, f64)]) -> (f64, f64) {
        let mut order: [usize; 16] = [0; 16];
        let mut n = 0;
        for (at, (layers, _)) in receiver.of_band.iter().enumerate().take(16) {
            if *layers > 0 && !rates[at].0.is_nan() {
                order[n] = at;
                n += 1;
            }
        }
        let order = &mut order[..n];
        order.sort_by(|a, b| rates[*b].0.total_cmp(&rates[*a].0));
        let best = &order[..n.min(receiver.aggregated)];
        let down: f64 = best.iter().map(|at| rates[*at].0).sum();
        let up = |technology: Technology| {
            let of = |primary: bool| {
                best.iter()
                    .filter(|at| self.bands[**at].scene.band.technology == technology)
                    .filter(|at| !primary || self.carries(**at, receiver.mode))
                    .map(|at| rates[*at].1)
                    .reduce(f64::max)
            };
            of(true).or_else(|| of(false)).unwrap_or(0.0)
        };
        (down * self.down_share, (up(Technology::Lte) + up(Technology::Nr)) * self.up_share)
    }

    fn carries(&self, at: usize, mode: ConnectionMode) -> bool {
        if mode == self.mode {
            self.bands[at].uplink
        } else {
            carries_uplink(&self.bands[at].scene.carrier, mode)
        }
    }

    fn down(
        &self,
        band: &Band,
        change_db: f64,
        rejection: f64,
        noisier_db: f64,
        layers: u8,
        branches: u8,
    ) -> f64 {
        match (&band.air, &band.channel) {
            (Some(air), Some(channel)) => {
                let sinr_db = air.sinr_db(change_db, rejection, noisier_db) + gathered_db(branches);
                channel.likely_down_mbps(sinr_db, layers)
            }
            _ => 0.0,
        }
    }

    fn up(&self, band: &Band, change_db: f64, power_dbm: f64) -> f64 {
        match (&band.air, &band.channel) {
            (Some(air), Some(channel)) => channel.likely_up_mbps(air.rsrp_dbm + change_db, power_dbm),
            _ => 0.0,
        }
    }

    /// Rates of one receiver whose bands are changed as given; `None` in `change_db`: not carried.
    pub(super) fn plain(&self, receiver: &Receiver, change_db: &[Option<f64>], rejection: f64) -> (f64, f64) {
        Rates::default().of(self, receiver, change_db, rejection)
    }
}

/// Rates of one antenna and lead, worked out once for each kind of receiver that asks.
#[derive(Default)]
pub(super) struct Rates {
    down: Vec<(usize, u8, u8, f64, f64)>,
    up: Vec<(usize, f64, f64)>,
    line: Vec<(f64, f64)>,
}

impl Rates {
    pub(super) fn of(
        &mut self,
        table: &Table,
        receiver: &Receiver,
        change_db: &[Option<f64>],
        rejection: f64,
    ) -> (f64, f64) {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        for band in &table.bands {
            let (layers, branches) = receiver.of_band[band.at];
            line.push(match change_db[band.at] {
                // Not carried: marked, so that it takes no place among the aggregated ones.
                None => (f64::NAN, 0.0),
                Some(_) if layers == 0 => (f64::NAN, 0.0),
                Some(change) => {
                    let down =
                        self.down_of(table, band, change, rejection, receiver.noisier_db, (layers, branches));
                    (down, self.up_of(table, band, change, receiver.transmit_power_dbm))
                }
            });
        }
        let sum = table.sum(receiver, &line);
        self.line = line;
        sum
    }

    fn down_of(
        &mut self,
        table: &Table,
        band: &Band,
        change: f64,
        rejection: f64,
        noisier_db: f64,
        (layers, branches): (u8, u8),
    ) -> f64 {
        let known = self.down.iter().find(|(at, l, b, noisier, _)| {
            *at == band.at && *l == layers && *b == branches && *noisier == noisier_db
        });
        if let Some((.., down)) = known {
            return *down;
        }
        let down = table.down(band, change, rejection, noisier_db, layers, branches);
        self.down.push((band.at, layers, branches, noisier_db, down));
        down
    }

    fn up_of(&mut self, table: &Table, band: &Band, change: f64, power_dbm: f64) -> f64 {
        if let Some((.., up)) = self.up.iter().find(|(at, power, _)| *at == band.at && *power == power_dbm) {
            return *up;
        }
        let up = table.up(band, change, power_dbm);
        self.up.push((band.at, power_dbm, up));
        up
    }
}
