//! Sentences of the Baseline stage.

use super::number::{decibels, megahertz, plain_times, power_dbm, rate, share, signed};
use super::{band, capital, class_word, counted, listed, metric_words};
use crate::bands::UsualWidths;
use crate::capacity::Estimate;
use crate::judge::{CellName, Finding};
use crate::metrics::{Limit, Oddity};
use crate::model::Metric;

/// A finding of the Baseline stage as one or two whole sentences; empty for any other.
pub(super) fn sentence(finding: &Finding) -> String {
    match finding {
        Finding::BandGuessed { channel, fits } if fits.len() == 1 => {
            format!("The page names no band; channel {channel} lies in {}.", listed(fits))
        }
        Finding::BandGuessed { channel, fits } => {
            format!("The page names no band, and channel {channel} may be {}.", either(fits))
        }
        Finding::WidthAssumed { cell: name, widths } => width_assumed(name, widths),
        Finding::Odd { oddity, .. } => odd(oddity),
        Finding::MetricMeans { metric, value, class, next, missing_db } => {
            let shown = valued(*metric, *value);
            let on = match (next, missing_db) {
                (Some(next), Some(missing)) => {
                    format!(", {} more would make it {}", decibels(missing.max(0.5)), class_word(*next))
                }
                _ => String::new(),
            };
            format!("{} {shown}: {}{on}.", capital(metric_words(*metric)), class_word(*class))
        }
        Finding::LimitedBy { limit, over_noise_db } => limited(*limit, *over_noise_db),
        Finding::LoadHeard { load } => format!(
            "By its quality (RSRQ) about {} of this cell was in use; a rough figure, as each maker forms its SINR in its own way.",
            share((load * 10.0).round() / 10.0)
        ),
        Finding::CouldCarry { down_mbps, up_mbps, layers, up_power_limited } => {
            let streams =
                if *layers == 1 { "one stream".to_owned() } else { counted(usize::from(*layers), "stream") };
            let up = up_mbps.map_or(String::new(), |up| {
                let why =
                    if *up_power_limited { ", held back by the gateway's own transmit power" } else { "" };
                format!(" and {} up{why}", rate_range(up))
            });
            format!("On an empty cell, {} down is possible with {streams}{up}.", rate_range(*down_mbps))
        }
        other => verdict(other),
    }
}

fn verdict(finding: &Finding) -> String {
    match finding {
        Finding::BaselineMissing => "Start by reading the gateway where it stands today.".into(),
        Finding::BaselineThin { spot } => {
            format!("{spot} has too little to judge by: a reading with signal power and bandwidth is needed.")
        }
        Finding::WorthIt { rsrp_change_db, download_ratio, upload_ratio } => {
            let speeds = [(download_ratio, "download"), (upload_ratio, "upload")]
                .into_iter()
                .filter_map(|(ratio, what)| Some(format!("{} the {what}", times_range((*ratio)?))))
                .collect::<Vec<_>>();
            format!(
                "An outdoor antenna is worth it here: expect {} more signal and {}.",
                decibel_range(*rsrp_change_db),
                listed(&speeds)
            )
        }
        Finding::ForMargin { rsrp_change_db, download_ratio } => {
            let speed = download_ratio
                .map_or(String::new(), |ratio| format!(", but only {} the download", times_range(ratio)));
            format!(
                "An outdoor antenna would bring margin more than speed: {} more signal{speed}.",
                decibel_range(*rsrp_change_db)
            )
        }
        Finding::NotTheAntenna { times } => format!(
            "The signal allows {} times what was measured: no antenna fixes that.",
            plain_times(*times)
        ),
        Finding::NoNrHeard { spots } => format!(
            "No 5G was heard at {} on the stock antennas. An antenna for 5G alone is often wasted money until a reading or a path from the mast says that 5G is there.",
            counted(*spots, "spot")
        ),
        Finding::MoreBandsElsewhere { bands, spots, from } => format!(
            "{} {} heard at {}, not at {from}: an antenna outside may receive {} too, on top of the figures here.",
            listed(bands),
            if bands.len() == 1 { "was" } else { "were" },
            listed(spots),
            if bands.len() == 1 { "it" } else { "them" },
        ),
        Finding::AlreadyAmple { cell } => format!(
            "{} is ample already: expect little speed from an antenna, more margin for bad days.",
            band(cell)
        ),
        Finding::InterferenceHere { cell } => format!(
            "{} is limited by other cells on its channel: gain alone lifts them too, an antenna that points away from them helps.",
            band(cell)
        ),
        Finding::NoiseHere { cell } => {
            format!("{} is limited by weak signal: every decibel an antenna adds improves its signal-to-noise.", band(cell))
        }
        Finding::LoadLimited { times, tests } => format!(
            "{} brought far less than the signal allows: the signal allows {} times as much. The cell is busy at those hours, or a wire, a VPN or the account holds it back; another band or hour may help.",
            capital(&counted(*tests, "test")),
            plain_range(*times)
        ),
        Finding::UplinkLimited { upload_mbps } => format!(
            "Upload is only {}, held back by what the gateway can transmit through these walls. An outdoor antenna helps the upload most.",
            rate(*upload_mbps)
        ),
        Finding::IndoorLoss { inside, outside, gained_db } => format!(
            "{outside} hears {} more than {inside}: the house itself takes the signal, and an antenna outside gets it back.",
            decibels(*gained_db)
        ),
        Finding::WantsTests { spot, have } => format!(
            "Three speed tests at {spot} (there {} {}): they show what the cell gives at that hour.",
            if *have == 1 { "is" } else { "are" },
            counted(*have, "test").replace(" tests", "").replace(" test", "")
        ),
        Finding::WantsOutdoorSpot => {
            "A reading outside, by phone or with the gateway carried out for five minutes: it measures what the walls take, in place of the assumption.".into()
        }
        Finding::WantsBandwidth { carriers } => {
            let verb = if *carriers == 1 { "has" } else { "have" };
            format!("The bandwidth: {} {verb} none, so the range above is wide.", counted(*carriers, "carrier"))
        }
        Finding::WantsOtherHour => {
            "Tests early in the morning: if they run much faster, the cell is busy; if not, look at wire, VPN and account.".into()
        }
        Finding::FacesMast { spot, mast, off_deg } => {
            let mast = if mast.is_empty() { "the mast" } else { mast };
            let off = signed(*off_deg, 0);
            match *off_deg {
                off_deg if off_deg <= 30.0 => format!("{spot} faces {mast} ({off}° off)."),
                off_deg if off_deg <= 90.0 => format!("{spot} looks past {mast}: {off}° off."),
                _ => format!("{spot} faces away from {mast}: {off}° off, with the house between them."),
            }
        }
        Finding::NetworkCompare { better, other, spot, ratio, alike, sure } => {
            let doubt = match (*alike, *sure) {
                (_, true) => "",
                (true, false) => " Their ranges overlap, so this is a lean, not a proof.",
                (false, false) => " They were read with different devices, so this is a lean, not a proof.",
            };
            format!(
                "At {spot}, {} allows {} times the download of {}.{doubt}",
                network(better),
                plain_times(*ratio),
                network(other)
            )
        }
        other => address(other),
    }
}

fn address(finding: &Finding) -> String {
    let megabytes =
        |bytes: u64| format!("{}\u{202f}MB", signed(bytes as f64 / 1e6, usize::from(bytes < 10_000_000)));
    match finding {
        Finding::AddressFine { download_mbps, upload_mbps } => {
            let up = upload_mbps.map_or(String::new(), |up| format!(" and takes {} up", rate(up)));
            format!("This address gives {} down{up}.", rate(*download_mbps))
        }
        Finding::AddressSilent { problem } => format!("This address cannot be used: {problem}."),
        Finding::BodyTooSmall { bytes, wanted_bytes } => format!(
            "Its file is too small: {} is over before the rate has settled. One of {} or more would do.",
            megabytes(*bytes),
            megabytes(*wanted_bytes)
        ),
        Finding::NoUpload => {
            "It does not take uploads, so upload cannot be measured. Give an address that accepts a POST."
                .into()
        }
        Finding::SecondFaster { ratio } => format!(
            "The second address is {} times as fast: the first one is the bottleneck. Use the second.",
            plain_times(*ratio)
        ),
        Finding::SecondAgrees { .. } => {
            "The second address gives about the same, so neither holds the line back.".into()
        }
        Finding::SecondSilent { problem } => format!("The second address cannot be used: {problem}."),
        _ => String::new(),
    }
}

fn network(name: &str) -> &str {
    if name.is_empty() { "the network in use" } else { name }
}

fn either(words: &[String]) -> String {
    match words {
        [first @ .., last] if !first.is_empty() => format!("{} or {last}", first.join(", ")),
        _ => listed(words),
    }
}

fn valued(metric: Metric, value: f64) -> String {
    match metric {
        Metric::Rsrp | Metric::Rssi => power_dbm(value),
        Metric::Rsrq | Metric::Sinr => decibels(value),
    }
}

/// "12 to 25 Mbit/s", one figure where both ends look alike.
fn rate_range(range: Estimate) -> String {
    let (low, high) = (rate(range.low), rate(range.high));
    if low == high {
        return low;
    }
    format!("{} to {high}", low.trim_end_matches("\u{202f}Mbit/s"))
}

fn decibel_range(range: Estimate) -> String {
    format!("{} to {}\u{202f}dB", signed(range.low, 0), signed(range.high, 0))
}

fn plain_range(range: Estimate) -> String {
    format!("{} to {}", plain_times(range.low), plain_times(range.high))
}

fn times_range(range: Estimate) -> String {
    format!("{} times", plain_range(range))
}

fn limited(limit: Limit, over_noise_db: Option<f64>) -> String {
    let over = over_noise_db
        .map_or(String::new(), |over| format!(", {} above the gateway's own noise", decibels(over)));
    match limit {
        Limit::Interference => format!(
            "What disturbs it is other cells{over}: turning away from them or hiding behind the house helps, gain alone does not."
        ),
        Limit::Noise => {
            "What disturbs it is the gateway's own noise: more signal makes it cleaner, decibel for decibel."
                .into()
        }
        Limit::Both => {
            format!("Noise and other cells disturb it about alike{over}: gain helps, and direction helps.")
        }
        Limit::Fine => "It is clean: there is little left to gain in signal.".into(),
        Limit::Unknown => {
            "Signal strength (RSRP) and signal-to-noise (SINR) are both needed to say what limits it.".into()
        }
    }
}

fn odd(oddity: &Oddity) -> String {
    match oddity {
        Oddity::OutOfRange { metric, value, low, high } => format!(
            "{} {} cannot be: reported values run from {} to {}. It is kept as reported.",
            capital(metric_words(*metric)),
            valued(*metric, *value),
            valued(*metric, *low),
            valued(*metric, *high)
        ),
        Oddity::BandChannel { band, channel, fits } => {
            let fits: Vec<String> = fits.iter().map(u16::to_string).collect();
            format!(
                "Band {band} and channel {channel} disagree: that channel is in band {}. Both are kept.",
                either(&fits)
            )
        }
        Oddity::NoSuchChannel { channel } => {
            format!(
                "Channel {channel} is in no band of this technology. A digit may be missing, or it is the uplink's."
            )
        }
        Oddity::NoSuchBand { band } => format!("There is no band {band} of this technology in the standard."),
        Oddity::Bandwidth { band, bandwidth_mhz, allowed_mhz } => {
            let allowed: Vec<String> = allowed_mhz.iter().map(|width| megahertz(*width)).collect();
            format!(
                "Band {band} has no carriers of {}; it has {}.",
                megahertz(*bandwidth_mhz),
                either(&allowed)
            )
        }
        Oddity::Pci { pci, highest } => {
            format!("PCI {pci} cannot be: they run from 0 to {highest}. It may be a cell identity.")
        }
        Oddity::RsrpAboveRssi { rsrp_dbm, rssi_dbm } => format!(
            "Signal power (RSRP) {} above total power (RSSI) {} cannot be: the whole holds its parts. They may be swapped.",
            power_dbm(*rsrp_dbm),
            power_dbm(*rssi_dbm)
        ),
        Oddity::RsrqRssi { rsrq_db, computed_db } => format!(
            "RSRQ {} does not follow from RSRP and RSSI at this width ({} would). The RSSI may be of another width or moment.",
            decibels(*rsrq_db),
            decibels(*computed_db)
        ),
        Oddity::RsrqSinr { rsrq_db, sinr_db, by_db, .. } => {
            let better = if *by_db > 0.0 { "better" } else { "worse" };
            let judged = if *by_db > 0.0 { " The carrier is judged by the worse of the two." } else { "" };
            format!(
                "RSRQ {} and SINR {} disagree: the SINR is {} {better} than that RSRQ allows even in a full cell. Makers form SINR in their own way, or the two are of different moments.{judged}",
                decibels(*rsrq_db),
                decibels(*sinr_db),
                decibels(by_db.abs())
            )
        }
        Oddity::RsrqTooGood { rsrq_db, best_db } => format!(
            "RSRQ {} cannot be: even an idle cell without any interference shows {} at the best.",
            decibels(*rsrq_db),
            decibels(*best_db)
        ),
    }
}

fn width_assumed(name: &CellName, widths: &UsualWidths) -> String {
    let mhz = |value: f64| format!("{value}\u{202f}MHz");
    let usual = if widths.low_mhz < widths.high_mhz {
        format!(
            "{} to {} is usual on {}, most often {}",
            widths.low_mhz,
            mhz(widths.high_mhz),
            band(name),
            mhz(widths.likely_mhz)
        )
    } else {
        format!("{} is usual on {}", mhz(widths.likely_mhz), band(name))
    };
    format!("The page doesn't show this carrier's bandwidth: {usual}. The rates cover that range.")
}
