//! Loss, noise and gain of a kit on one band.

pub use super::gain::gain_at_dbi;
use super::resolve::Resolved;
use open_beacon_domain::antenna::pattern::{Pattern, measured_below_db};
use open_beacon_domain::feedline::cable::cable_loss_db;
use open_beacon_domain::feedline::joint::Connector;
use open_beacon_domain::feedline::noise::{CascadeStage, cascade_noise_figure_db};
use open_beacon_domain::model::{AntennaSpec, ArrestorSpec, PartSpec};
use serde::{Deserialize, Serialize};

/// One step down the line.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LossStep {
    /// What it is.
    pub what: LossOf,
    /// Loss, dB.
    pub loss_db: f64,
    /// From the antenna to here, dB.
    pub so_far_db: f64,
}

/// What takes the loss.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "of", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum LossOf {
    /// The antenna's own leads.
    Tail,
    /// A joint; place 0 is at the antenna.
    Joint { place: usize },
    /// A part; place 0 is the first.
    Part { place: usize },
}

/// A kit's figures at one frequency.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Budget {
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Steps, in order.
    pub steps: Vec<LossStep>,
    /// All steps together, dB.
    pub feed_loss_db: f64,
    /// At the antenna, dBi; `None` outside the antenna's range.
    pub antenna_gain_dbi: Option<f64>,
    /// Gain less feed loss, dBi.
    pub net_gain_dbi: Option<f64>,
    /// Of the receive chain, seen at the antenna, dB.
    pub noise_figure_db: f64,
    /// Radiated power (EIRP) at full transmit power, dBm.
    pub eirp_dbm: Option<f64>,
}

/// How far the antenna hears below its middle at an angle in azimuth, dB: by its measured pattern, else by beamwidth
/// and front-to-back ratio.
pub fn below_db(antenna: &AntennaSpec, off_deg: f64) -> f64 {
    measured_below_db(&antenna.pattern, off_deg).unwrap_or_else(|| {
        let pattern = Pattern {
            gain_dbi: 0.0,
            beamwidth_azimuth_deg: antenna.beamwidth_azimuth_deg,
            beamwidth_elevation_deg: antenna.beamwidth_elevation_deg,
            front_to_back_db: antenna.front_to_back_db,
        };
        -pattern.gain_dbi(off_deg, 0.0)
    })
}

/// Loss of an antenna's fixed leads, dB.
pub fn tail_loss_db(antenna: &AntennaSpec, frequency_mhz: f64, temperature_c: f64) -> f64 {
    antenna
        .tail_cable
        .map_or(0.0, |kind| cable_loss_db(kind, antenna.tail_m, frequency_mhz, temperature_c).unwrap_or(0.0))
}

/// Loss of one part, dB, its joints not counted. Cable of unknown length is taken as none; the checks say so.
pub fn part_loss_db(spec: &PartSpec, length_m: Option<f64>, frequency_mhz: f64, temperature_c: f64) -> f64 {
    let root = (frequency_mhz / 2000.0).sqrt();
    match spec {
        PartSpec::FeedLine(line) => {
            cable_loss_db(line.cable, length_m.unwrap_or(0.0), frequency_mhz, temperature_c).unwrap_or(0.0)
        }
        PartSpec::Jumper(jumper) => jumper.loss_db_2ghz * root,
        PartSpec::Arrestor(ArrestorSpec::Coax { loss_db_2ghz, .. }) => loss_db_2ghz * root,
        _ => 0.0,
    }
}

/// Loss of the joint of two ends, dB: the worse series of the two.
pub fn joint_loss_db(from: Connector, to: Connector, frequency_mhz: f64) -> f64 {
    from.series.joint_loss_db(frequency_mhz).max(to.series.joint_loss_db(frequency_mhz))
}

/// A kit's figures on a frequency. An outdoor unit and a gateway on its own antennas have no feed line;
/// `stock_gain_dbi` is the gain of the latter.
pub fn budget(kit: &Resolved, frequency_mhz: f64, temperature_c: f64, stock_gain_dbi: f64) -> Budget {
    let mut steps: Vec<LossStep> = Vec::new();
    let mut so_far_db = 0.0;
    let mut push = |what, loss_db: f64| {
        so_far_db += loss_db;
        steps.push(LossStep { what, loss_db, so_far_db });
    };
    if let Some((_, antenna)) = kit.antenna {
        if antenna.tail_m > 0.0 {
            push(LossOf::Tail, tail_loss_db(antenna, frequency_mhz, temperature_c));
        }
        let joints = super::chain::chain(kit, false).joints;
        let joint = |place: usize| joints.get(place).map(|j| joint_loss_db(j.from, j.to, frequency_mhz));
        for (place, link) in kit.chain.iter().enumerate() {
            push(LossOf::Joint { place }, joint(place).unwrap_or(0.0));
            let loss = part_loss_db(&link.part.spec, link.placed.length_m, frequency_mhz, temperature_c);
            push(LossOf::Part { place }, loss);
        }
        if let Some(loss_db) = joint(kit.chain.len()) {
            push(LossOf::Joint { place: kit.chain.len() }, loss_db);
        }
    }
    let feed_loss_db = so_far_db;
    let antenna_gain_dbi =
        kit.antenna_spec().map_or(Some(stock_gain_dbi), |antenna| gain_at_dbi(antenna, frequency_mhz));
    let gateway = kit.gateway.map(|(_, gateway)| gateway);
    let receiver =
        gateway.map_or(open_beacon_domain::metrics::NOISE_FIGURE_DB, |gateway| gateway.noise_figure_db);
    let mut stages: Vec<CascadeStage> = steps.iter().map(|step| CascadeStage::loss(step.loss_db)).collect();
    stages.push(CascadeStage { gain_db: 0.0, noise_figure_db: receiver });
    let net_gain_dbi = antenna_gain_dbi.map(|gain| gain - feed_loss_db);
    Budget {
        frequency_mhz,
        steps,
        feed_loss_db,
        antenna_gain_dbi,
        net_gain_dbi,
        noise_figure_db: cascade_noise_figure_db(&stages),
        eirp_dbm: net_gain_dbi.and_then(|net| Some(net + gateway?.transmit_power_dbm)),
    }
}
