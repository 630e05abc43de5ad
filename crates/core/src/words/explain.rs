//! Where folklore misleads, with this site's own figures where it has them.

use super::trial::choice_words;
use crate::capacity::possible::{carrier_rates, time_share};
use crate::model::{BandAccess, LinkAssumptions};
use crate::trial::judge::Standing;
use crate::trial::offer::{BandOffer, OfferedCarrier};
use crate::words::{decibels, milliseconds, power_dbm, rate, rough_rate, share};
use serde::{Deserialize, Serialize};

/// A question that people answer wrongly, and what is so.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Explanation {
    /// What is asked.
    pub question: String,
    /// The answer, a sentence.
    pub answer: String,
    /// The same with this site's figures, where they show it.
    pub here: Option<String>,
}

fn explanation(question: &str, answer: &str, here: Option<String>) -> Explanation {
    Explanation { question: question.into(), answer: answer.into(), here }
}

/// All four.
pub fn explanations(
    offers: &[BandOffer],
    standings: &[Standing],
    link: &LinkAssumptions,
) -> Vec<Explanation> {
    vec![
        explanation(
            "Why may a low band upload faster than a mid band with more megahertz?",
            "Upload is sent with the power of a phone. A low band loses less of it on the way, and its up and down have a frequency each, all the time. A mid band in TDD has one frequency for both and gives upload about a fifth of the time.",
            upload_here(offers, link),
        ),
        explanation(
            "Why may SA ping better than NSA?",
            "NSA goes through two radios and the older core: the LTE anchor is asked first. SA has one radio and its own core. Its upload may still be less, for the LTE carrier is gone.",
            latency_here(standings),
        ),
        explanation(
            "Why may two carriers beat one better one?",
            "Each aggregated carrier adds its own bits. Half the rate on each of two is the whole of one, and when one is crowded the other still carries.",
            bundle_here(standings),
        ),
        explanation(
            "Why is the strongest not always the best?",
            "Strength (RSRP) says how loud the mast is, signal-to-noise (SINR) how well it is understood, and load how much of it is left for you. Bars show the first only.",
            strongest_here(standings),
        ),
    ]
}

fn upload_here(offers: &[BandOffer], link: &LinkAssumptions) -> Option<String> {
    let all: Vec<(&BandOffer, &OfferedCarrier, f64)> = offers
        .iter()
        .flat_map(|offer| offer.carriers.iter().map(move |one| (offer, one)))
        .filter_map(|(offer, one)| Some((offer, one, carrier_rates(&one.carrier, link).up_mbps?.likely)))
        .collect();
    let low =
        all.iter().filter(|(_, one, _)| one.frequency_mhz < 1000.0).max_by(|a, b| a.2.total_cmp(&b.2))?;
    let mid = all
        .iter()
        .filter(|(_, one, _)| one.frequency_mhz > 1000.0 && time_share(&one.carrier, link).up < 1.0)
        .max_by(|a, b| a.2.total_cmp(&b.2))?;
    let part = time_share(&mid.1.carrier, link).up;
    (low.2 > mid.2).then(|| {
        format!(
            "Here {} could send about {}, {} about {} with {} of the time.",
            low.0.name,
            rough_rate(low.2),
            mid.0.name,
            rough_rate(mid.2),
            share(part)
        )
    })
}

fn latency_here(standings: &[Standing]) -> Option<String> {
    let best = |access| {
        standings
            .iter()
            .filter(|one| one.choice.access == access)
            .filter_map(|one| one.idle_latency.map(|one| one.median))
            .min_by(f64::total_cmp)
    };
    let (sa, nsa) = (best(BandAccess::Sa)?, best(BandAccess::Nsa).or_else(|| best(BandAccess::Any))?);
    let verb = if sa < nsa - 1.0 { "Measured here" } else { "Not here" };
    Some(format!("{verb}: SA {} idle, NSA {}.", milliseconds(sa), milliseconds(nsa)))
}

fn bundle_here(standings: &[Standing]) -> Option<String> {
    let measured = standings.iter().filter(|one| one.down_mbps().is_some());
    let lone = measured.clone().filter(|one| one.obtained.len() == 1).max_by(by_down)?;
    let several = measured.filter(|one| one.obtained.len() > 1).max_by(by_down)?;
    let (one, more) = (lone.down_mbps()?, several.down_mbps()?);
    let tail = if more > one { "" } else { ": here the one is enough" };
    Some(format!(
        "Measured here: {} with {} carriers ({}), {} with one ({}){tail}.",
        rate(more),
        several.obtained.len(),
        choice_words(&several.choice),
        rate(one),
        choice_words(&lone.choice)
    ))
}

fn by_down(a: &&Standing, b: &&Standing) -> std::cmp::Ordering {
    a.down_mbps().partial_cmp(&b.down_mbps()).unwrap_or(std::cmp::Ordering::Equal)
}

fn strongest_here(standings: &[Standing]) -> Option<String> {
    let power = |one: &&Standing| one.obtained.first().and_then(|carrier| carrier.rsrp_dbm);
    let measured = standings.iter().filter(|one| one.down_mbps().is_some() && power(one).is_some());
    let strongest = measured
        .clone()
        .max_by(|a, b| power(a).partial_cmp(&power(b)).unwrap_or(std::cmp::Ordering::Equal))?;
    let fastest = measured.max_by(by_down)?;
    let clean = |one: &Standing| one.obtained.first().and_then(|carrier| carrier.sinr_db);
    (strongest.choice != fastest.choice).then(|| {
        let said = |one: &Standing| {
            let clean = clean(one).map_or_else(String::new, |db| format!(", SINR {}", decibels(db)));
            let power = power(&one).unwrap_or_default();
            format!(
                "{} at {}{clean}: {}",
                choice_words(&one.choice),
                power_dbm(power),
                rate(one.down_mbps().unwrap_or_default())
            )
        };
        format!("Measured here: {}; {}.", said(strongest), said(fastest))
    })
}
