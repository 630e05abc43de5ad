//! Kits considered at the demo site: one bought, one with a fault, an omni, an outdoor unit.

use chrono::{DateTime, Duration, NaiveDate, Utc};
use open_beacon_core::hardware::catalogue::{Catalogue, built_in, named_by};
use open_beacon_core::model::{
    ChainPart, GatewayPlace, Kit, KitId, KitSpec, Part, Passage, PositionId, SiteBundle,
};
use uuid::Uuid;

/// The built-in part whose name begins like this.
fn part(parts: &[Part], name: &str) -> Option<open_beacon_core::model::PartId> {
    parts.iter().find(|part| part.name.starts_with(name)).map(|part| part.id)
}

/// Adds the kits to the demo site. `gable` and `roof`: positions they are to go to; `id` names them.
pub(crate) fn build_kits(
    bundle: &mut SiteBundle,
    begun: DateTime<Utc>,
    gable: Option<PositionId>,
    id: impl Fn(&str) -> Uuid,
) {
    let parts = built_in();
    let find = |name: &str| part(&parts, name);
    let placed = |name: &str, length_m: Option<f64>, turned: bool| {
        find(name).map(|part_id| ChainPart { part_id, length_m, turned, outdoors: false })
    };
    let chain = |list: [Option<ChainPart>; 4]| list.into_iter().flatten().collect();
    let on_gable = KitSpec {
        gateway: find("Vinkel 5 Pro"),
        antenna_count: 1,
        leads: 2,
        mount: find("Gable bracket"),
        position_id: gable,
        gateway_place: GatewayPlace::Room,
        passage: Passage::Hole { diameter_mm: 40.0 },
        ..KitSpec::default()
    };
    let log_periodic = KitSpec {
        antenna: find("Rive log-periodic"),
        chain: chain([
            placed("400-class line, N plug to N plug", Some(9.0), false),
            placed("Gas arrestor, N socket to N socket", None, false),
            placed("Adapter, SMA socket to N plug", None, true),
            placed("Adapter, SMA plug to SMA plug", None, false),
        ]),
        ..on_gable.clone()
    };
    let thin = KitSpec {
        antenna: find("Lade wide panel, 2"),
        chain: chain([placed("240-class twin line", Some(9.0), false), None, None, None]),
        passage: Passage::Hole { diameter_mm: 16.0 },
        ..on_gable.clone()
    };
    let omni = KitSpec { antenna: find("Rund omni crossed"), ..log_periodic.clone() };
    let unit = KitSpec {
        gateway: find("Utvei 5"),
        antenna: None,
        leads: 0,
        ethernet: find("Outdoor Ethernet"),
        ethernet_m: Some(18.0),
        injector: find("Injector, standard"),
        ethernet_arrestor: find("Ethernet arrestor"),
        mount: find("Wall arm"),
        passage: Passage::Hole { diameter_mm: 16.0 },
        ..on_gable
    };
    let bought = begun.date_naive() + Duration::days(1);
    let told: [(&str, KitSpec, Option<NaiveDate>, &str); 4] = [
        (
            "Log-periodic, thick cable",
            log_periodic,
            Some(bought),
            "Bought to try; goes back if it does not pay.",
        ),
        ("Wide panel, thin cable", thin, None, ""),
        ("Omni on the gable", omni, None, ""),
        ("Outdoor unit", unit, None, "Needs a router in the hall."),
    ];
    for (order, (name, spec, bought_on, notes)) in told.into_iter().enumerate() {
        bundle.kits.push(Kit {
            id: KitId(id(&format!("kit/{name}"))),
            site_id: bundle.site.id,
            name: name.into(),
            spec,
            bought_on,
            return_by: bought_on.map(|day| day + Duration::days(30)),
            notes: notes.into(),
            created_at: begun + Duration::hours(20) + Duration::minutes(order as i64),
            archived_at: None,
        });
    }
    bundle.parts = named_by(&bundle.kits, &Catalogue::of(parts));
}
