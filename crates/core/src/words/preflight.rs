//! Sentences on what to know before a run.

use super::fairness::{over, way};
use super::listed;
use super::number::megabytes;
use crate::model::{Attach, InterfaceKind};
use crate::protocol::PreflightItem;
use chrono_tz::Tz;

/// What is to be known, and what to do about it.
pub fn item(of: &PreflightItem, zone: Tz) -> String {
    match of {
        PreflightItem::BuildFirst { last, changed } => {
            let names: Vec<String> =
                changed.iter().map(|what| super::protocol::changed(*what).to_owned()).collect();
            format!("{last} was measured last. Change the {} first.", listed(&names))
        }
        PreflightItem::WayDoubtful { interface } if interface.kind == InterfaceKind::Tunnel => {
            format!("Tests would go through a tunnel ({}). Switch the VPN off first.", interface.name)
        }
        PreflightItem::WayDoubtful { interface } => {
            format!(
                "Tests would go over {}. Connect this computer to the gateway by cable first.",
                way(interface)
            )
        }
        PreflightItem::WayDiffers { interface, baseline } => format!(
            "Tests would go over {}, the baseline's went over {}. Use the same way for both.",
            way(interface),
            over(baseline)
        ),
        PreflightItem::ServerDiffers { baseline } => format!(
            "The baseline was tested with {}. Use the same test address for both, or test the baseline again.",
            listed(baseline)
        ),
        PreflightItem::EventSince { at, text } => format!(
            "Since the baseline was tested, on {}: “{text}”. Test the baseline again to tell this from the antenna's effect.",
            at.with_timezone(&zone).format("%-d %B")
        ),
        PreflightItem::DataShort { left_mb, tests_mb } => format!(
            "Three tests move about {}, and the month has {} left. Allow less data each way in Settings, or wait.",
            megabytes(*tests_mb),
            megabytes(*left_mb)
        ),
        PreflightItem::PortsUnknown => {
            "Which lead goes to which port is not noted. Note it with the setup: a later swap is then seen."
                .into()
        }
        PreflightItem::AskAttach => {
            "The antenna was moved. Did the gateway stay attached, or was it restarted?".into()
        }
        PreflightItem::AskWeather => "What is the weather, and are there leaves on the trees?".into(),
        PreflightItem::Stands { since } => {
            format!(
                "The antenna stands as in the run of {}.",
                since.with_timezone(&zone).format("%-d %B, %H:%M")
            )
        }
        PreflightItem::AttachCarried { attach } => match attach {
            Attach::RestartedToRescan => "The gateway was restarted, as noted before.".into(),
            _ => "The gateway stayed attached, as noted before.".into(),
        },
        PreflightItem::WeatherCarried { weather } => format!("Weather as noted before: {weather}."),
        PreflightItem::Way { interface } => format!("Tests go over {}.", way(interface)),
        PreflightItem::SameServer => "The test address is the baseline's.".into(),
    }
}
