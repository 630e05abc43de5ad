//! Setups side by side, in words: figures against the baseline's, and what else differed.

use super::{
    band, bands_differ, baseline, capital, cells, counted, decibels, fairness, figure_words, hours,
    instruments, listed, metric_words, number, number_word, share, sources, times, traffic,
};
use crate::judge::Finding;
use crate::metrics::Metric;
use crate::model::SpeedFigure;

pub(super) fn sentence(finding: &Finding) -> String {
    match finding {
        Finding::ClearGain { setup, baseline, figure, ratio, .. } if figure.larger_is_better() => {
            format!("{setup} gives {} the {} of {baseline}.", times(*ratio), figure_words(*figure))
        }
        Finding::RatioRange { figure, ratio, interval } => format!(
            "{} {} (between {} and {}).",
            capital(figure_words(*figure)),
            times(*ratio),
            number::plain_times(interval.low),
            number::plain_times(interval.high),
        ),
        Finding::ClearLoss { setup, baseline, figure, ratio, .. } if figure.larger_is_better() => {
            format!("{setup} gives only {} of the {} of {baseline}.", share(*ratio), figure_words(*figure),)
        }
        Finding::ClearGain { figure, ratio, .. } => {
            format!("Its {} is lower: {} of the baseline's.", figure_words(*figure), share(*ratio))
        }
        Finding::ClearLoss { figure, ratio, .. } => {
            format!("Its {} is higher: {} the baseline's.", figure_words(*figure), times(*ratio))
        }
        Finding::LikelyGain { setup, baseline, figure, ratio, sittings, .. } => {
            likely(setup, baseline, *figure, *ratio, *sittings)
        }
        Finding::LikelyLoss { setup, baseline, figure, ratio, sittings, .. } => {
            likely(setup, baseline, *figure, *ratio, *sittings)
        }
        Finding::CannotTell { setup, baseline, figure, interval, .. } => format!(
            "Too close to call: the {} of {setup} may be anything from {} to {} that of {baseline}. More sittings would tell.",
            figure_words(*figure),
            number::plain_times(interval.low),
            times(interval.high),
        ),
        Finding::Same { setup, baseline, figure, .. } => {
            format!("{setup} and {baseline} have about the same {}.", figure_words(*figure))
        }
        Finding::TooFew { setup, baseline, figure, have, baseline_has, need, ratio } => {
            let so_far = ratio.map_or(String::new(), |ratio| {
                format!(" So far {} the {}.", times(ratio), figure_words(*figure))
            });
            let (who, sittings) = if have < need { (setup, have) } else { (baseline, baseline_has) };
            format!(
                "Cannot tell yet: {who} was tested in {}; {} are needed, or test both within the same hour, twice.{so_far}",
                counted(*sittings, "sitting"),
                number_word(*need)
            )
        }
        Finding::RivalsUntested { setups, need } => {
            let (shown, more) = (setups.len().min(3), setups.len().saturating_sub(3));
            let mut names: Vec<String> = setups[..shown].to_vec();
            if more > 0 {
                names.push(format!("{} more", number_word(more)));
            }
            format!(
                "{} may match it, but {} tested in fewer than {} sittings.",
                capital(&listed(&names)),
                if setups.len() == 1 { "was" } else { "were" },
                number_word(*need)
            )
        }
        Finding::NotMeasured { setup, figure } => {
            format!("{setup} has no {} measured.", figure_words(*figure))
        }
        Finding::CarrierDiffers { cell: name, metric, difference_db, baseline } => {
            let direction = if *difference_db > 0.0 { "more" } else { "less" };
            let amount =
                if *metric == Metric::Rsrp { difference_db.abs().round() } else { difference_db.abs() };
            format!(
                "On {}, {} {direction} {} than {baseline}.",
                band(name),
                decibels(amount),
                metric_words(*metric)
            )
        }
        Finding::RadioWithoutSpeed { cell: name, sinr_difference_db, download_ratio } => format!(
            "Better radio, yet slower: {} has {} more signal-to-noise but only {} of the download. Likely a busy cell, another sector, or a bottleneck on the wire; turning the antenna will not fix it.",
            band(name),
            decibels(*sinr_difference_db),
            share(*download_ratio),
        ),
        Finding::StrongerNoCleaner { cell: name, power_db, quality_db } => format!(
            "Stronger, but no cleaner: {} has {} more signal and {} less signal quality (RSRQ). The antenna hears other cells better too; a more directional one, or another bearing, would help.",
            band(name),
            decibels(power_db.round()),
            decibels(quality_db.abs()),
        ),
        Finding::UploadWithoutRadio { cell: name, power_db, upload_ratio } => format!(
            "Stronger signal, yet less upload: {} more on {}, but {} of the upload. The signal does not explain it: see which cell and carriers were in use, whether the sending port is the one connected, and test upload again at the same hour.",
            decibels(power_db.round()),
            band(name),
            share(*upload_ratio),
        ),
        Finding::HoursDiffer { setup, baseline } => format!(
            "Other hours of the day: tests here ran {}, the baseline's {}. Load may explain part of it.",
            hours(*setup),
            hours(*baseline),
        ),
        Finding::WeatherDiffers { setup, baseline } => {
            format!("Other weather was noted: {} here, {} at the baseline.", listed(setup), listed(baseline))
        }
        Finding::WeeksApart { weeks } => format!(
            "{} lie between these tests and the baseline's: leaves, load and the network may have changed.",
            capital(&counted(*weeks as usize, "week"))
        ),
        Finding::ServingCellDiffers { setup, baseline } => {
            format!("Other cells answered: {} here, {} at the baseline.", cells(setup), cells(baseline))
        }
        Finding::BandsDiffer { only_setup, only_baseline } => bands_differ(only_setup, only_baseline),
        Finding::ActivityDiffers { setup, baseline } => format!(
            "Readings were taken {} here and {} at the baseline, so they are not compared.",
            traffic(setup),
            traffic(baseline),
        ),
        Finding::InstrumentDiffers { setup, baseline } => format!(
            "Readings here are from {}, the baseline's from {}: other receivers and antennas.",
            instruments(setup),
            instruments(baseline),
        ),
        Finding::SourceDiffers { setup, baseline } => {
            format!("Tests here are {}, the baseline's {}.", sources(setup), sources(baseline))
        }
        Finding::ServerDiffers { .. } => "The speed tests ran against different servers.".into(),
        Finding::AttachDiffers => {
            "What was done with the gateway before the runs (kept attached or restarted) differs.".into()
        }
        Finding::InterfaceDiffers { setup, baseline } => fairness::differ(setup, baseline),
        Finding::AddressVersionDiffers { setup_v6 } => fairness::versions_differ(*setup_v6),
        Finding::PageSlow { times, because } => fairness::page_slow(times, *because),
        Finding::TestsDoubted { doubt, tests, of } => fairness::doubted(doubt, *tests, *of),
        other => baseline::sentence(other),
    }
}

fn likely(setup: &str, baseline: &str, figure: SpeedFigure, ratio: f64, sittings: usize) -> String {
    let what = figure_words(figure);
    let more = match sittings {
        1 => "One hour only: another sitting would make it sure.".into(),
        2 => "Two hours only: another sitting would make it sure.".into(),
        _ => format!("The {} could still be chance.", if ratio > 1.0 { "gain" } else { "loss" }),
    };
    if figure.larger_is_better() {
        let amount = if ratio >= 1.0 { times(ratio) } else { format!("only {} of", share(ratio)) };
        format!("{setup} probably gives {amount} the {what} of {baseline}. {more}")
    } else {
        let amount = if ratio >= 1.0 { times(ratio) } else { format!("{} of", share(ratio)) };
        format!("Its {what} is probably {amount} the baseline's. {more}")
    }
}
