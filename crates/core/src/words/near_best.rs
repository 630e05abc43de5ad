//! How near the best, in words.

use super::number::{in_cases, length, rate_range, share, signed};
use super::{Style, bearing, counted};
use crate::near_best::{BetterStep, NearBest, StepCost};

/// "East gable brings about 70 % of the best that is foretold for this house (50 to 95 %)."
pub fn title(label: &str, of: &NearBest) -> String {
    if of.best.is_none() {
        return format!("{label} is about the best that is foretold for this house.");
    }
    let (low, likely, high) = (of.share.low, of.share.likely, of.share.high);
    format!(
        "{label} brings about {} of the best download that is foretold for this house ({} to {}).",
        share(likely),
        signed(low * 100.0, 0),
        share(high)
    )
}

/// Whether its chance is worth a sentence of its own.
const MEETS: f64 = 0.9;

/// The step, what it brings and what it costs. `name`: how a setup is called; `currency`: the site's.
pub fn detail(of: &NearBest, name: &str, currency: &str, style: Style) -> String {
    let [setups, places, kits] = of.looked_at;
    let looked = format!(
        "Looked at: {}, {} at a position, {} from the catalogue.",
        counted(setups, "setup"),
        counted(places, "height"),
        counted(kits, "kit")
    );
    let Some(best) = &of.best else {
        return format!("Nothing is expected to serve you clearly better. {looked}");
    };
    let mut said = vec![
        format!("The best: {}.", step(&best.step, name, style)),
        format!("Expect {} there; now {}.", rate_range(best.down_mbps), rate_range(of.now_mbps)),
        format!("It is clearly faster {}.", in_cases(best.chance_of_more)),
        format!("It takes {}.", cost(best.cost, currency)),
    ];
    if of.chance_of_need >= MEETS {
        said.push("What you need is there already.".into());
    }
    said.push(looked);
    said.join(" ")
}

fn step(of: &BetterStep, name: &str, style: Style) -> String {
    match of {
        BetterStep::Setup { .. } => format!("{name}, as it stood"),
        BetterStep::Move { position, height_m, bearing_deg } => {
            let aim = bearing_deg.map_or(String::new(), |deg| format!(", aimed at {}", bearing(deg)));
            format!("the antenna at {position}, {} up{aim}", length(*height_m, style.units))
        }
        BetterStep::Buy { gateway, antenna: Some(antenna) } => format!("{gateway} with {antenna}"),
        BetterStep::Buy { gateway, antenna: None } => gateway.clone(),
    }
}

/// "about 260 EUR, 4 hours and 2 climbs".
fn cost(of: StepCost, currency: &str) -> String {
    let price = (of.price >= 0.5).then(|| format!("about {} {currency}", signed(of.price, 0)));
    let hours = format!("about {}\u{202f}h of work", signed(of.hours, usize::from(of.hours < 3.0)));
    let climbs = match of.climbs {
        0 => "no climb".into(),
        climbs => counted(usize::from(climbs), "climb"),
    };
    let parts: Vec<String> = price.into_iter().chain([hours]).collect();
    format!("{} and {climbs}", parts.join(", "))
}
