//! Likely rates of antennas and receivers on the site's carriers, each worked out once: the likely case of
//! [`crate::link::predict`] for many kits, which a test holds against it.

use crate::capacity::possible::{Channel, SHARED_POWER_DB, carries_uplink};
use crate::kit::scenario::Scenario;
use crate::link::antenna::AimAntenna;
use crate::link::cells::LinkCell;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::link::predict::expected_shares;
use crate::link::received::sinr_db;
use crate::link::receiver::{gathered_db, is_used, mast_layers, mode_of};
use crate::metrics::NOISE_FIGURE_DB;
use crate::model::{ConnectionMode, GatewaySpec, Technology};

/// One carrier, ready.
pub(super) struct Band<'a> {
    pub(super) at: usize,
    pub(super) cell: &'a LinkCell,
    place: usize,
    noise_dbm: f64,
    channel: Option<Channel>,
    uplink: bool,
}

/// Power and interference on a band, one resource element, dBm.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Levels {
    signal_dbm: f64,
    interference_dbm: f64,
}

impl Levels {
    /// Behind a loss, dB.
    pub(super) fn after(self, loss_db: f64) -> Self {
        Self { signal_dbm: self.signal_dbm - loss_db, interference_dbm: self.interference_dbm - loss_db }
    }
}

/// What an antenna at a place brings, before any lead.
pub(super) struct Reached {
    /// Of each band; `None` outside the antenna's range.
    pub(super) levels: Vec<Option<Levels>>,
    /// What of the possible is expected there, down and up.
    pub(super) shares: (f64, f64),
}

/// The site's carriers, ready for many kits.
pub(super) struct Table<'a> {
    pub(super) bands: Vec<Band<'a>>,
    scenario: &'a Scenario<'a>,
    mode: ConnectionMode,
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
    pub(super) fn new(scenario: &'a Scenario<'a>) -> Self {
        let (settings, mode) = (scenario.settings(), scenario.env.mode);
        let bands = scenario
            .cells
            .iter()
            .enumerate()
            .map(|(at, place)| {
                let cell = &scenario.env.cells[*place];
                Band {
                    at,
                    cell,
                    place: *place,
                    noise_dbm: cell.noise_dbm,
                    channel: Channel::of(&cell.carrier, &settings.link),
                    uplink: carries_uplink(&cell.carrier, mode),
                }
            })
            .collect();
        Self { bands, scenario, mode }
    }

    /// Levels at an antenna's connectors where it stands, aimed at each cell's mast, and the share that is expected of it.
    pub(super) fn reached(&self, antenna: &AimAntenna, location: AntennaLocation) -> Reached {
        let env = self.scenario.env;
        let arriving = env.arriving(&location, antenna, WhatIf::default());
        let of = |place: usize| {
            let from = arriving.iter().find(|one| one.cell == place)?.from;
            let aim = from.map(|from| antenna.aimed_at(from));
            let one = env.received(place, &location, &arriving, antenna, aim, NOISE_FIGURE_DB)?;
            let (signal_dbm, interference_dbm) = (one.rsrp_dbm.mean, one.interference_dbm.mean);
            Some(Levels { signal_dbm, interference_dbm })
        };
        let levels = self.bands.iter().map(|band| of(band.place)).collect();
        let from =
            self.bands.iter().find_map(|band| arriving.iter().find(|one| one.cell == band.place)?.from);
        let aim = from.map(|from| antenna.aimed_at(from));
        Reached { levels, shares: expected_shares(env, &location, antenna, aim) }
    }

    pub(super) fn receiver(&self, gateway: &GatewaySpec, branches: impl Fn(usize) -> u8) -> Receiver {
        let mode = mode_of(gateway, self.mode);
        let of_band = self
            .bands
            .iter()
            .map(|band| {
                if !is_used(band.cell.band.technology, mode) {
                    return (0, 0);
                }
                let has = gateway.layers_on(band.cell.band);
                let branches = branches(band.at);
                (has.min(branches).min(mast_layers(band.cell.frequency_mhz)), branches)
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

    /// Sums up carriers' rates, as [`crate::link::receiver`] does: the best by download, the uplink on one carrier of
    /// each technology.
    fn sum(&self, receiver: &Receiver, rates: &[(f64, [f64; 2])], shares: (f64, f64)) -> (f64, f64) {
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
                    .filter(|at| self.bands[**at].cell.band.technology == technology)
                    .filter(|at| !primary || self.carries(**at, receiver.mode))
                    .map(|at| rates[*at].1)
                    .reduce(|a, b| if b[0] > a[0] { b } else { a })
            };
            of(true).or_else(|| of(false))
        };
        // Where both send, each has half of the power.
        let up = match (up(Technology::Lte), up(Technology::Nr)) {
            (Some(lte), Some(nr)) => lte[1] + nr[1],
            (one, other) => one.or(other).map_or(0.0, |alone| alone[0]),
        };
        (down * shares.0, up * shares.1)
    }

    fn carries(&self, at: usize, mode: ConnectionMode) -> bool {
        if mode == self.mode {
            self.bands[at].uplink
        } else {
            carries_uplink(&self.bands[at].cell.carrier, mode)
        }
    }

    fn down(&self, band: &Band, levels: Levels, noisier_db: f64, layers: u8, branches: u8) -> f64 {
        let sinr_db = sinr_db(levels.signal_dbm, levels.interference_dbm, band.noise_dbm + noisier_db)
            .min(self.scenario.env.cleanest_sinr_db());
        let with_branches = sinr_db + gathered_db(branches);
        band.channel.map_or(0.0, |channel| channel.likely_down_mbps(with_branches, layers))
    }

    fn up(&self, band: &Band, levels: Levels, power_dbm: f64) -> f64 {
        band.channel.map_or(0.0, |channel| channel.likely_up_mbps(levels.signal_dbm, power_dbm))
    }

    /// With all of the transmit power, and with half of it.
    fn ups(&self, band: &Band, levels: Levels, power_dbm: f64) -> [f64; 2] {
        [0.0, SHARED_POWER_DB].map(|less_db| self.up(band, levels, power_dbm - less_db))
    }

    /// Rates of one receiver behind an antenna.
    pub(super) fn plain(&self, receiver: &Receiver, reached: &Reached) -> (f64, f64) {
        Rates::default().of(self, receiver, &reached.levels, reached.shares)
    }
}

/// Rates of one antenna and lead, worked out once for each kind of receiver that asks.
#[derive(Default)]
pub(super) struct Rates {
    down: Vec<(usize, u8, u8, f64, f64)>,
    up: Vec<(usize, f64, [f64; 2])>,
    line: Vec<(f64, [f64; 2])>,
}

impl Rates {
    pub(super) fn of(
        &mut self,
        table: &Table,
        receiver: &Receiver,
        levels: &[Option<Levels>],
        shares: (f64, f64),
    ) -> (f64, f64) {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        for band in &table.bands {
            let (layers, branches) = receiver.of_band[band.at];
            line.push(match levels[band.at] {
                // Not carried: marked, so that it takes no place among the aggregated ones.
                None => (f64::NAN, [0.0; 2]),
                Some(_) if layers == 0 => (f64::NAN, [0.0; 2]),
                Some(levels) => {
                    let down = self.down_of(table, band, levels, receiver.noisier_db, (layers, branches));
                    (down, self.up_of(table, band, levels, receiver.transmit_power_dbm))
                }
            });
        }
        let sum = table.sum(receiver, &line, shares);
        self.line = line;
        sum
    }

    fn down_of(
        &mut self,
        table: &Table,
        band: &Band,
        levels: Levels,
        noisier_db: f64,
        (layers, branches): (u8, u8),
    ) -> f64 {
        let known = self.down.iter().find(|(at, l, b, noisier, _)| {
            *at == band.at && *l == layers && *b == branches && *noisier == noisier_db
        });
        if let Some((.., down)) = known {
            return *down;
        }
        let down = table.down(band, levels, noisier_db, layers, branches);
        self.down.push((band.at, layers, branches, noisier_db, down));
        down
    }

    fn up_of(&mut self, table: &Table, band: &Band, levels: Levels, power_dbm: f64) -> [f64; 2] {
        if let Some((.., up)) = self.up.iter().find(|(at, power, _)| *at == band.at && *power == power_dbm) {
            return *up;
        }
        let up = table.ups(band, levels, power_dbm);
        self.up.push((band.at, power_dbm, up));
        up
    }
}
