//! The chain check: what is missing, what does not mate, what is fragile or wet. Ports are in [`super::ports`], place
//! and mount in [`super::mounting`].

use super::finding::{At, Found, KitFinding};
use super::mounting::mounting;
use super::ports::ports;
pub use super::wanted::Wanted;
use crate::feedline::cable::CableKind;
use crate::feedline::joint::{Mating, Series, adapter_for};
use crate::hardware::budget::joint_loss_db;
use crate::hardware::chain::{Chain, chain};
use crate::hardware::resolve::Resolved;
use crate::model::{ConnectionMode, Metric, PartSpec};

/// Every finding about the parts themselves, the gravest first.
pub fn check(kit: &Resolved, wanted: &Wanted) -> Vec<Found> {
    let mut found = Vec::new();
    missing(kit, &mut found);
    let chain = chain(kit, wanted.placing.in_open(kit));
    joints(kit, &chain, &mut found);
    ports(kit, wanted, &mut found);
    mounting(kit, &chain, &wanted.placing, &mut found);
    gateway(kit, wanted, &mut found);
    stock(kit, &mut found);
    found.sort_by_key(|one| one.severity);
    found
}

fn missing(kit: &Resolved, found: &mut Vec<Found>) {
    if !kit.missing.is_empty() {
        found.push(Found::wrong(At::Kit, KitFinding::PartsGone { count: kit.missing.len() }));
    }
    match kit.gateway {
        None => found.push(Found::wrong(At::Gateway, KitFinding::NoGateway)),
        Some((part, gateway)) if kit.antenna.is_some() && gateway.ports.is_empty() => {
            found.push(Found::wrong(At::Gateway, KitFinding::NoPorts { gateway: part.name.clone() }));
        }
        _ if kit.is_deaf() => found.push(Found::wrong(At::Gateway, KitFinding::NeedsAntenna)),
        _ => {}
    }
    for (place, link) in kit.chain.iter().enumerate() {
        let by_length = matches!(link.part.spec, PartSpec::FeedLine(_));
        if by_length && link.placed.length_m.is_none_or(|length| length <= 0.0) {
            let name = link.part.name.clone();
            found.push(Found::wrong(At::Part { place }, KitFinding::LengthMissing { name }));
        }
    }
}

/// Thickness of what hangs on a joint from the antenna's side, mm.
fn thickness_mm(kit: &Resolved, place: usize) -> f64 {
    let of = |kind: CableKind| kind.cable().diameter_mm;
    let before = place.checked_sub(1).and_then(|at| kit.chain.get(at));
    match before.map(|link| &link.part.spec) {
        Some(PartSpec::FeedLine(line)) => of(line.cable),
        Some(PartSpec::Jumper(_)) => 0.0,
        Some(_) => thickness_mm(kit, place - 1),
        None => kit.antenna.and_then(|(_, antenna)| antenna.tail_cable).map_or(0.0, of),
    }
}

/// A cable this thick levers a small socket off its board, mm (common practice, no source).
const LEVERS_MM: f64 = 4.0;

fn joints(kit: &Resolved, chain: &Chain, found: &mut Vec<Found>) {
    for joint in &chain.joints {
        let at = At::Joint { place: joint.place };
        let (from, to) = (joint.from, joint.to);
        // The adapter brings a joint more: both are counted at 2 GHz.
        let loss_db = adapter_for(from, to)
            .map_or(0.0, |(near, far)| joint_loss_db(from, near, 2000.0) + joint_loss_db(far, to, 2000.0));
        match joint.mating {
            Mating::Mates => {}
            Mating::SameGender => {
                found.push(Found::wrong(at, KitFinding::SameGender { from, to, loss_db }));
            }
            Mating::ReversePolarity => {
                found.push(Found::wrong(at, KitFinding::ReversePolarity { from, to, loss_db }));
            }
            Mating::OtherSeries => {
                found.push(Found::wrong(at, KitFinding::OtherSeries { from, to, loss_db }));
            }
        }
        let fragile = [to, from].into_iter().find(|end| end.series.is_fragile());
        if let Some(socket) = fragile {
            let thickness_mm = thickness_mm(kit, joint.place);
            let made = KitFinding::Fragile { socket, thickness_mm };
            found.push(if thickness_mm >= LEVERS_MM {
                Found::costs(at, made)
            } else {
                Found::mind(at, made)
            });
        }
        let sealed = |series: Series| series.is_for_outdoors();
        if joint.outdoors && !(sealed(from.series) && sealed(to.series)) {
            let end = if sealed(from.series) { to } else { from };
            found.push(Found::costs(at, KitFinding::NotForOutdoors { joint: end }));
        }
    }
    let outdoors = chain.joints.iter().filter(|joint| joint.outdoors).count() * usize::from(chain.leads);
    if outdoors > 0 {
        found.push(Found::mind(At::Kit, KitFinding::OutdoorJoints { count: outdoors }));
    }
}

fn gateway(kit: &Resolved, wanted: &Wanted, found: &mut Vec<Found>) {
    let Some((_, gateway)) = kit.gateway else { return };
    // Without the mode in use it falls back to LTE alone.
    let mut falls_back = |finding| found.push(Found::costs(At::Gateway, finding));
    match wanted.mode {
        Some(ConnectionMode::Sa) if !gateway.standalone => {
            falls_back(KitFinding::ModeMissing { standalone: true });
        }
        Some(ConnectionMode::Nsa) if !gateway.non_standalone && !gateway.standalone => {
            falls_back(KitFinding::ModeMissing { standalone: false });
        }
        _ => {}
    }
    let hidden: Vec<Metric> =
        [Metric::Rsrp, Metric::Sinr].into_iter().filter(|metric| !gateway.shows.contains(metric)).collect();
    if !hidden.is_empty() {
        found.push(Found::costs(At::Gateway, KitFinding::DoesNotShow { metrics: hidden }));
    }
    if gateway.locking == crate::model::Locking::None {
        found.push(Found::mind(At::Gateway, KitFinding::CannotLock));
    }
}

fn stock(kit: &Resolved, found: &mut Vec<Found>) {
    for line in super::effort::parts_list(kit) {
        if let Some(have) = line.stock.filter(|have| *have < line.pieces) {
            let finding = KitFinding::NotEnoughStock { name: line.name, have, need: line.pieces };
            found.push(Found::mind(At::Kit, finding));
        }
    }
}
