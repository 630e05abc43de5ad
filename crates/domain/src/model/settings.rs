//! What a site's owner sets once.

use super::{
    AimCriterion, GatewaySettings, KitSettings, LinkAssumptions, OutdoorAssumptions, ProtocolSettings,
    ResultTableReading, SetupId, SurveySettings, TrialSettings,
};
use super::{without_token, without_user_info};
use serde::{Deserialize, Serialize};

/// Units that lengths are shown in; values are stored in metres always.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Units {
    /// Metres, kilometres, degrees Celsius.
    #[default]
    Metric,
    /// Feet and miles.
    Imperial,
}

/// What speed tests are run against.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpeedTestSettings {
    /// Address that answers a GET with a long body.
    pub download_url: String,
    /// Address that swallows a POST; without it upload is not measured.
    #[serde(default)]
    pub upload_url: Option<String>,
    /// Address with a short answer, for round trips; without it the download address is asked for its headers.
    #[serde(default)]
    pub latency_url: Option<String>,
    /// Parallel connections, 1..=16.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 16))]
    pub connections: u8,
    /// Time discarded at the start of each direction, s, 0..=10.
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, maximum = 10.0))]
    pub warm_up_s: f64,
    /// Time measured in each direction after warm-up, s, 1..=60.
    #[cfg_attr(feature = "schema", schema(minimum = 1.0, maximum = 60.0))]
    pub phase_s: f64,
    /// A direction ends early once it has moved so much, MB, 1..=100,000; without it only its time ends it.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 1.0, maximum = 100_000.0))]
    pub most_mb: Option<f64>,
    /// A direction ends early once its rate is known to within this share of it, 0.01..=0.25.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 0.25))]
    pub precise_to: Option<f64>,
    /// Address of some kilobytes that a page's parts are fetched from; without it the loading of a page is not measured.
    #[serde(default)]
    pub page_part_url: Option<String>,
}

impl SpeedTestSettings {
    /// Most data that one direction of one test moves at a rate, MB.
    pub fn moved_mb(&self, rate_mbps: f64) -> f64 {
        let in_its_time = (self.warm_up_s + self.phase_s) * rate_mbps / 8.0;
        self.most_mb.map_or(in_its_time, |most| in_its_time.min(most))
    }

    /// Data that one test moves at these rates, MB: both directions, warm-up included.
    pub fn test_mb(&self, (down_mbps, up_mbps): (f64, f64)) -> f64 {
        let up_mb = if self.upload_url.is_some() { self.moved_mb(up_mbps) } else { 0.0 };
        self.moved_mb(down_mbps) + up_mb
    }
}

/// A mast by its direction.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KnownMast {
    /// Name.
    #[serde(default)]
    pub name: String,
    /// Degrees from true north, 0..360.
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, exclusive_maximum = 360.0))]
    pub bearing_deg: f64,
    /// m
    #[serde(default)]
    pub distance_m: Option<f64>,
}

/// A site's settings. All parts are optional: everything can also be typed in by hand.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SiteSettings {
    /// The gateway.
    #[serde(default)]
    pub gateway: Option<GatewaySettings>,
    /// How speed is measured.
    #[serde(default)]
    pub speed_test: Option<SpeedTestSettings>,
    /// Control address of the stand-in devices, where an antenna is turned by software. Demo and rehearsal only.
    #[serde(default)]
    pub stand_in_url: Option<String>,
    /// Whether the stand-in antenna is turned to the setup being worked on.
    #[serde(default = "yes")]
    pub stand_in_follows: bool,
    /// Which rehearsal this site is, if it is one.
    #[serde(default)]
    pub rehearsal: Option<Rehearsal>,
    /// Metres or feet.
    #[serde(default)]
    pub units: Units,
    /// A second speed-test download address, to check the first against.
    #[serde(default)]
    pub second_test_url: Option<String>,
    /// The mast that serves the house, as far as its direction is known before a survey.
    #[serde(default)]
    pub known_mast: Option<KnownMast>,
    /// What is assumed of the link where a reading does not say.
    #[serde(default)]
    pub link: LinkAssumptions,
    /// What is assumed of an outdoor antenna before one is chosen.
    #[serde(default)]
    pub outdoor: OutdoorAssumptions,
    /// What kits are planned by.
    #[serde(default)]
    pub kit: KitSettings,
    /// What is aimed for.
    #[serde(default)]
    #[serde(alias = "school")]
    pub aim_criterion: AimCriterion,
    /// What a survey reckons with.
    #[serde(default)]
    pub survey: SurveySettings,
    /// How band trials are planned, and which lock is kept.
    #[serde(default)]
    pub trials: TrialSettings,
    /// How setups are tested against each other.
    #[serde(default)]
    pub protocol: ProtocolSettings,
    /// How the last table of results was read.
    #[serde(default)]
    pub result_table: ResultTableReading,
    /// The operator whose network is in use, as the user calls it.
    #[serde(default)]
    pub network: String,
    /// The setup being worked on.
    #[serde(default)]
    pub active_setup_id: Option<SetupId>,
    /// The setup that others are compared with.
    #[serde(default)]
    pub baseline_setup_id: Option<SetupId>,
}

fn yes() -> bool {
    true
}

/// What is rehearsed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum RehearsalKind {
    /// One mast, and nothing in the way.
    CleanMast,
    /// A strong interferer beside the wanted mast.
    Interferer,
    /// A gateway that hops between two cells.
    Hopping,
}

/// A rehearsal: an invented site whose truth is hidden until the antenna is set.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rehearsal {
    /// Kind.
    pub kind: RehearsalKind,
    /// Sets where the masts stand and what the channel does.
    pub seed: u32,
}

impl SiteSettings {
    /// Takes tokens of test servers out of its addresses: they are in no export.
    pub fn hide_tokens(&mut self) {
        let test = self.speed_test.as_mut().map(|test| {
            let others = test.upload_url.iter_mut().chain(test.latency_url.iter_mut());
            others.chain(test.page_part_url.iter_mut()).chain([&mut test.download_url])
        });
        for address in test.into_iter().flatten().chain(self.second_test_url.iter_mut()) {
            *address = without_token(address);
        }
    }

    /// Takes names and passwords out of its addresses, and answers those of the gateway: they are kept apart, and in no export.
    pub fn take_user_info(&mut self) -> Option<(String, String)> {
        let strip = |address: &mut String| {
            let (bare, info) = without_user_info(address);
            *address = bare;
            info
        };
        if let Some(test) = &mut self.speed_test {
            let others = test.upload_url.iter_mut().chain(test.latency_url.iter_mut());
            for address in others.chain(test.page_part_url.iter_mut()).chain([&mut test.download_url]) {
                let _ = strip(address);
            }
        }
        for address in self.second_test_url.iter_mut().chain(self.stand_in_url.iter_mut()) {
            let _ = strip(address);
        }
        self.gateway.as_mut().and_then(|gateway| {
            let info = strip(&mut gateway.status_url)?;
            if gateway.recipe.login == super::Login::None {
                gateway.recipe.login = super::Login::Basic;
            }
            Some(info)
        })
    }
}
