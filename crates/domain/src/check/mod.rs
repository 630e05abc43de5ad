//! Checks of what users enter, each with the value that would work.

mod gateway;

pub use gateway::is_pointer;

use crate::bands::band_place;
use crate::capacity::duplex::{lte_tdd_share, nr_tdd_share};
use crate::geo::GeoPoint;
use crate::limits::{MOST_AVERAGED, MOST_CARRIERS, is_visible};
use crate::metrics::reporting_range;
use crate::model::{
    AsBuiltDetails, Carrier, FlagKind, KitSettings, KitSpec, LinkAssumptions, Metric, OutdoorAssumptions,
    Passage, RepeatSettings, SetupSpec, SiteEvent, SiteSettings, SpeedFigure, SpeedFigures,
    SpeedTestSettings, origin_of,
};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use serde::{Deserialize, Serialize};

/// One field that cannot stay as it is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldProblem {
    /// JSON Pointer (RFC 6901) into the request.
    pub pointer: String,
    /// What is wrong and what would work.
    pub detail: String,
}

/// Collects the problems of one request.
#[derive(Debug, Default)]
pub struct Checker {
    problems: Vec<FieldProblem>,
}

const NAME_LENGTH: usize = 120;
const TEXT_LENGTH: usize = 4000;
const ADDRESS_LENGTH: usize = 2000;

impl Checker {
    /// Notes that what stands at a JSON Pointer is wrong, with what would be right.
    pub fn refuse(&mut self, pointer: &str, detail: impl Into<String>) {
        self.problems.push(FieldProblem { pointer: pointer.into(), detail: detail.into() });
    }

    /// A problem that was found elsewhere.
    pub fn problem(mut self, pointer: &str, detail: &str) -> Self {
        self.refuse(pointer, detail);
        self
    }

    /// A name that must not be empty.
    pub fn name(mut self, pointer: &str, name: &str, example: &str) -> Self {
        if !is_visible(name) {
            self.refuse(pointer, format!("A name is needed, for instance “{example}”."));
        } else if name.chars().count() > NAME_LENGTH {
            self.refuse(pointer, format!("At most {NAME_LENGTH} characters; put the rest into the notes."));
        }
        self
    }

    /// A text of one line that may be empty.
    pub fn short(mut self, pointer: &str, text: &str) -> Self {
        if text.chars().count() > NAME_LENGTH {
            self.refuse(pointer, format!("At most {NAME_LENGTH} characters."));
        }
        self
    }

    /// A list.
    pub fn listed(mut self, pointer: &str, count: usize, most: usize) -> Self {
        if count > most {
            self.refuse(pointer, format!("At most {most} of them."));
        }
        self
    }

    /// Texts of which the longest has so many bytes.
    pub fn long(mut self, pointer: &str, longest: Option<usize>, most: usize) -> Self {
        if longest.is_some_and(|bytes| bytes > most) {
            self.refuse(pointer, format!("Texts of at most {} KiB each.", most >> 10));
        }
        self
    }

    /// A free text.
    pub fn text(mut self, pointer: &str, text: &str) -> Self {
        if text.chars().count() > TEXT_LENGTH {
            self.refuse(pointer, format!("At most {TEXT_LENGTH} characters."));
        }
        self
    }

    /// What a person writes on a sheet of what was built.
    pub fn as_built(self, details: &AsBuiltDetails) -> Self {
        self.text("/built_by", &details.built_by)
            .text("/address", &details.address)
            .text("/account", &details.account)
            .text("/serials", &details.serials)
            .text("/cable_route", &details.cable_route)
            .text("/joints", &details.joints)
            .text("/grounding", &details.grounding)
            .text("/remarks", &details.remarks)
    }

    /// A point on the earth, if there is one.
    pub fn place(mut self, pointer: &str, place: Option<GeoPoint>) -> Self {
        if let Some(Err(error)) = place.map(GeoPoint::check) {
            self.refuse(pointer, error.to_string());
        }
        self
    }

    /// A number in a range, if there is one. `unit` is shown with the range.
    pub fn range(mut self, pointer: &str, value: Option<f64>, low: f64, high: f64, unit: &str) -> Self {
        if value.is_some_and(|value| !(low..=high).contains(&value)) {
            self.refuse(pointer, format!("Between {} and {}\u{202f}{unit}.", minus(low), minus(high)));
        }
        self
    }

    /// A web address, if there is one.
    pub fn address(mut self, pointer: &str, address: Option<&str>) -> Self {
        let is_web = |address: &str| address.starts_with("http://") || address.starts_with("https://");
        let fine = |address: &str| {
            is_web(address) && origin_of(address).is_some() && !address.contains(char::is_whitespace)
        };
        let named = |address: &&str| {
            is_web(address) && address.split(['/', '?', '#']).nth(2).is_some_and(|part| part.contains('@'))
        };
        if address.is_some_and(|address| address.chars().count() > ADDRESS_LENGTH) {
            self.refuse(pointer, format!("At most {ADDRESS_LENGTH} characters."));
        } else if address.as_ref().is_some_and(named) {
            self.refuse(
                pointer,
                "Leave name and password out of the address: it is exported. They have fields of their own.",
            );
        } else if address.is_some_and(|address| !fine(address)) {
            self.refuse(pointer, "A web address that begins with http:// or https://, for instance http://192.168.1.1/status.json.");
        }
        self
    }

    /// A setup's fields.
    pub fn setup(self, spec: &SetupSpec) -> Self {
        let mut checked = self
            .text("/kit_note", &spec.kit_note)
            .text("/lock_note", &spec.lock_note)
            .text("/gateway_place", &spec.gateway_place)
            .range("/azimuth_deg", spec.azimuth_deg, 0.0, 359.999, "degrees from true north")
            .range("/gateway_azimuth_deg", spec.gateway_azimuth_deg, 0.0, 359.999, "degrees from true north")
            .range("/tilt_deg", spec.tilt_deg, -90.0, 90.0, "degrees above the horizon")
            .range("/height_above_ground_m", spec.height_above_ground_m, 0.0, 200.0, "m above ground");
        if spec.name.chars().count() > NAME_LENGTH {
            checked.refuse(
                "/name",
                format!("At most {NAME_LENGTH} characters; put the rest into the kit note."),
            );
        }
        for (index, link) in spec.ports.iter().enumerate() {
            if !(1..=8).contains(&link.lead) {
                checked.refuse(&format!("/ports/{index}/lead"), "Leads are numbered 1 to 8.");
            }
            if spec.ports[..index].iter().any(|earlier| earlier.lead == link.lead) {
                checked
                    .refuse(&format!("/ports/{index}/lead"), format!("Lead {} is listed twice.", link.lead));
            }
        }
        checked
    }

    /// A site's settings.
    pub fn settings(self, settings: &SiteSettings) -> Self {
        let mut checked = self
            .address("/stand_in_url", settings.stand_in_url.as_deref())
            .address("/second_test_url", settings.second_test_url.as_deref())
            .text("/network", &settings.network)
            .link(&settings.link)
            .outdoor(&settings.outdoor)
            .kit_settings(&settings.kit)
            .range(
                "/survey/earth_factor",
                settings.survey.earth_factor,
                0.5,
                10.0,
                "times the earth's radius; 1.33 for ordinary air",
            );
        checked = checked
            .range("/trials/difference", Some(settings.trials.difference), 0.05, 1.0, "as a share")
            .range("/trials/data_cap_mb", settings.trials.data_cap_mb, 10.0, 10_000_000.0, "MB")
            .repeats(&settings.protocol.repeats);
        if let Some(mast) = &settings.known_mast {
            checked = checked
                .range(
                    "/known_mast/bearing_deg",
                    Some(mast.bearing_deg),
                    0.0,
                    359.999,
                    "degrees from true north",
                )
                .range("/known_mast/distance_m", mast.distance_m, 10.0, 200_000.0, "m");
        }
        if let Some(gateway) = &settings.gateway {
            checked = checked.gateway(gateway);
        }
        if let Some(SpeedTestSettings {
            download_url,
            upload_url,
            latency_url,
            connections,
            warm_up_s,
            phase_s,
            most_mb,
            precise_to,
            page_part_url,
        }) = &settings.speed_test
        {
            checked = checked
                .address("/speed_test/download_url", Some(download_url))
                .address("/speed_test/upload_url", upload_url.as_deref())
                .address("/speed_test/latency_url", latency_url.as_deref())
                .range("/speed_test/connections", Some(f64::from(*connections)), 1.0, 16.0, "connections")
                .range("/speed_test/warm_up_s", Some(*warm_up_s), 0.0, 10.0, "s")
                .range("/speed_test/phase_s", Some(*phase_s), 1.0, 60.0, "s")
                .range("/speed_test/most_mb", *most_mb, 1.0, 100_000.0, "MB")
                .range("/speed_test/precise_to", *precise_to, 0.01, 0.25, "of the rate")
                .address("/speed_test/page_part_url", page_part_url.as_deref());
        }
        checked
    }

    /// What is assumed of the link.
    pub fn link(mut self, link: &LinkAssumptions) -> Self {
        if let Err(error) = nr_tdd_share(&link.nr_pattern, (link.nr_special_down, link.nr_special_up)) {
            self.refuse("/link/nr_pattern", error.to_string());
        }
        if lte_tdd_share(link.lte_configuration, link.lte_special).is_none() {
            self.refuse(
                "/link/lte_configuration",
                "Configurations run from 0 to 6, special ones from 0 to 8, for instance 2 and 7.",
            );
        }
        self.range("/link/layers", Some(f64::from(link.layers)), 1.0, 4.0, "layers").range(
            "/link/transmit_power_dbm",
            Some(link.transmit_power_dbm),
            0.0,
            33.0,
            "dBm",
        )
    }

    /// What is assumed of an outdoor antenna.
    pub fn outdoor(self, outdoor: &OutdoorAssumptions) -> Self {
        let mut checked = self
            .range("/outdoor/stock_gain_dbi", Some(outdoor.stock_gain_dbi), -10.0, 15.0, "dBi")
            .range("/outdoor/feed_loss_db", Some(outdoor.feed_loss_db), 0.0, 20.0, "dB");
        for (at, kind) in outdoor.kinds.iter().enumerate() {
            let pointer = |field: &str| format!("/outdoor/kinds/{at}/{field}");
            checked = checked.range(&pointer("gain_dbi"), Some(kind.gain_dbi), -5.0, 35.0, "dBi").range(
                &pointer("rejection_db"),
                Some(kind.rejection_db),
                0.0,
                40.0,
                "dB",
            );
        }
        checked
    }

    /// What kits are planned by.
    pub fn kit_settings(mut self, kit: &KitSettings) -> Self {
        let code = kit.currency.as_str();
        if code.len() != 3 || !code.chars().all(|c| c.is_ascii_uppercase()) {
            self.refuse("/kit/currency", "Three capital letters (ISO 4217), for instance EUR.");
        }
        let mut checked = self
            .range("/kit/cable_m", Some(kit.cable_m), 0.5, 200.0, "m")
            .range("/kit/height_m", Some(kit.height_m), 0.5, 100.0, "m")
            .range("/kit/mast_height_m", Some(kit.mast_height_m), 5.0, 300.0, "m")
            .range("/kit/permitted_eirp_dbm", kit.permitted_eirp_dbm, 10.0, 80.0, "dBm")
            .range("/kit/cable_temperature_c", Some(kit.cable_temperature_c), -55.0, 85.0, "°C")
            .range("/kit/wind_m_s", Some(kit.wind_m_s), 5.0, 80.0, "m/s")
            .range("/kit/overhead_line_m", kit.overhead_line_m, 0.0, 500.0, "m");
        for (at, bearing) in kit.interferer_bearings_deg.iter().enumerate() {
            let pointer = format!("/kit/interferer_bearings_deg/{at}");
            checked = checked.range(&pointer, Some(*bearing), 0.0, 359.999, "degrees from true north");
        }
        for (at, one) in kit.uses.iter().enumerate() {
            let pointer = |field: &str| format!("/kit/uses/{at}/{field}");
            checked = checked
                .range(&pointer("count"), Some(f64::from(one.count)), 0.0, 20.0, "at once")
                .range(&pointer("down_mbps"), Some(one.down_mbps), 0.0, 1000.0, "Mbit/s")
                .range(&pointer("up_mbps"), Some(one.up_mbps), 0.0, 1000.0, "Mbit/s");
        }
        for (at, one) in kit.expected.iter().enumerate() {
            let pointer = format!("/kit/expected/{at}");
            if band_place(one.band.technology, one.band.band).is_none() {
                checked.refuse(&pointer, "There is no such band of this technology in the standard.");
            }
            checked = checked.range(&pointer, Some(one.bandwidth_mhz), 1.4, 400.0, "MHz");
        }
        checked
    }

    /// What a kit consists of. Whether it fits together is not asked here: half a kit may be kept.
    pub fn kit(mut self, spec: &KitSpec) -> Self {
        if spec.chain.len() > 12 {
            self.refuse("/spec/chain", "At most 12 parts in a lead.");
        }
        let mut checked = self
            .range("/spec/antenna_count", Some(f64::from(spec.antenna_count)), 0.0, 4.0, "antennas")
            .range("/spec/leads", Some(f64::from(spec.leads)), 0.0, 8.0, "leads")
            .range("/spec/crossed_deg", spec.crossed_deg, 0.0, 180.0, "degrees")
            .range("/spec/ethernet_m", spec.ethernet_m, 0.0, 200.0, "m")
            .range("/spec/height_above_ground_m", spec.height_above_ground_m, 0.0, 200.0, "m above ground");
        for (at, placed) in spec.chain.iter().enumerate() {
            let pointer = format!("/spec/chain/{at}/length_m");
            checked = checked.range(&pointer, placed.length_m, 0.0, 200.0, "m");
        }
        if let Passage::Hole { diameter_mm } = spec.passage {
            checked = checked.range("/spec/passage/diameter_mm", Some(diameter_mm), 1.0, 300.0, "mm");
        }
        checked
    }

    /// A typed-in carrier: values outside the reporting range must be flagged "as reported".
    pub fn typed_carrier(mut self, pointer: &str, carrier: &Carrier) -> Self {
        for metric in Metric::ALL {
            let Some(value) = carrier.value(metric) else { continue };
            let range = reporting_range(carrier.technology, metric);
            let kept =
                carrier.flags.iter().any(|flag| flag.metric == metric && flag.kind == FlagKind::AsReported);
            if !value.is_finite() || (!range.holds(value) && !kept) {
                let field = match metric {
                    Metric::Rsrp => "rsrp_dbm",
                    Metric::Rsrq => "rsrq_db",
                    Metric::Sinr => "sinr_db",
                    Metric::Rssi => "rssi_dbm",
                };
                self.refuse(
                    &format!("{pointer}/{field}"),
                    format!(
                        "Reported values run from {} to {}\u{202f}{}. Correct it, or keep the value as reported.",
                        minus(range.low),
                        minus(range.high),
                        metric.unit()
                    ),
                );
            }
        }
        self.range(&format!("{pointer}/rank"), carrier.rank.map(f64::from), 1.0, 8.0, "layers").range(
            &format!("{pointer}/bandwidth_mhz"),
            carrier.bandwidth_mhz,
            0.2,
            400.0,
            "MHz",
        )
    }

    /// When something was measured: not before 2000, and not after tomorrow.
    pub fn measured_at(mut self, pointer: &str, at: DateTime<Utc>, now: DateTime<Utc>) -> Self {
        if at.year() < 2000 || at > now + TimeDelta::days(1) {
            self.refuse(
                pointer,
                "A day between the year 2000 and tomorrow: look at the date and at this computer's clock.",
            );
        }
        self
    }

    /// Tests that run by themselves.
    pub fn repeats(self, repeats: &RepeatSettings) -> Self {
        self.range("/protocol/repeats/every_h", Some(repeats.every_h), 1.0, 48.0, "hours")
            .range("/protocol/repeats/tests", Some(f64::from(repeats.tests)), 1.0, 5.0, "tests")
            .range("/protocol/repeats/monthly_mb", Some(repeats.monthly_mb), 50.0, 10_000_000.0, "MB")
    }

    /// Something that happened.
    pub fn event(self, event: &SiteEvent) -> Self {
        let said = is_visible(&event.text);
        let checker = self.text("/text", &event.text);
        if said {
            checker
        } else {
            checker.problem("/text", "Say what happened, for instance “rain began”.")
        }
    }

    /// How many carriers one reading has.
    pub fn carrier_count(mut self, pointer: &str, count: usize) -> Self {
        if count > MOST_CARRIERS {
            self.refuse(pointer, format!("At most {MOST_CARRIERS} carriers in one reading."));
        }
        self
    }

    /// Typed-in figures of a speed test.
    pub fn typed_figures(mut self, pointer: &str, figures: &SpeedFigures) -> Self {
        for figure in SpeedFigure::ALL {
            let (field, high, unit) = match figure {
                SpeedFigure::Download => ("download_mbps", 20_000.0, "Mbit/s"),
                SpeedFigure::Upload => ("upload_mbps", 20_000.0, "Mbit/s"),
                SpeedFigure::IdleLatency => ("idle_latency_ms", 60_000.0, "ms"),
                SpeedFigure::DownloadLatency => ("download_latency_ms", 60_000.0, "ms"),
                SpeedFigure::UploadLatency => ("upload_latency_ms", 60_000.0, "ms"),
            };
            self = self.range(&format!("{pointer}/{field}"), figure.of(figures), 0.0, high, unit);
        }
        if figures.average_of.is_some_and(|tests| !(2..=MOST_AVERAGED).contains(&tests)) {
            let detail = format!("Between 2 and {MOST_AVERAGED} tests; leave it empty for a single test.");
            self.refuse(&format!("{pointer}/average_of"), detail);
        }
        if SpeedFigure::ALL.iter().all(|figure| figure.of(figures).is_none()) {
            self.refuse(
                pointer,
                "At least one figure is needed, for instance a download of 42.5\u{202f}Mbit/s.",
            );
        }
        self
    }

    /// Everything that was found; empty where all is well.
    pub fn done(self) -> Vec<FieldProblem> {
        self.problems
    }
}

fn minus(value: f64) -> String {
    value.to_string().replace('-', "−")
}
