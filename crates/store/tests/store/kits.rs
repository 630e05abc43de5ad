use crate::{demo_bundle, open, site};
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::model::*;
use open_beacon_store::{Archivable, Created, Store, StoreError};
use uuid::Uuid;

fn kit(n: u128, of: SiteId) -> Kit {
    Kit {
        id: KitId(Uuid::from_u128(n)),
        site_id: of,
        name: "Gable".into(),
        spec: demo_bundle().kits[0].spec.clone(),
        bought_on: "2026-11-20".parse().ok(),
        return_by: "2026-12-20".parse().ok(),
        notes: "from the shop".into(),
        created_at: site(1, "").created_at,
        archived_at: None,
    }
}

#[test]
fn a_kit_comes_back_as_it_went_in_after_the_program_was_opened_again() {
    let (directory, store) = open();
    let of = site(1, "North farm");
    store.create_site(&of, &of).unwrap();
    let kit = kit(9, of.id);
    // Its position is another site's: an export would hold a kit that stands nowhere.
    assert!(matches!(store.create_kit(&kit, &"body"), Err(StoreError::Refused(_))));
    let here =
        Position { id: PositionId(Uuid::from_u128(8)), site_id: of.id, ..demo_bundle().positions[0].clone() };
    store.create_position(&here, &"position").unwrap();
    let kit = Kit { spec: KitSpec { position_id: Some(here.id), ..kit.spec.clone() }, ..kit };
    assert_eq!(store.create_kit(&kit, &"body").unwrap(), Created::Now);
    assert_eq!(store.create_kit(&kit, &"body").unwrap(), Created::Before);
    assert!(matches!(store.create_kit(&kit, &"another"), Err(StoreError::IdTaken)));
    drop(store);
    let store = Store::open(directory.path()).unwrap();
    assert_eq!(store.kits(of.id).unwrap(), std::slice::from_ref(&kit));
    let changed = Kit { name: "Roof".into(), return_by: None, ..kit.clone() };
    store.update_kit(&changed).unwrap();
    assert_eq!(store.kit(kit.id).unwrap(), changed);
    store.set_archived(Archivable::Kit, &kit.id.to_string(), Some(of.created_at)).unwrap();
    assert!(store.kit(kit.id).unwrap().archived_at.is_some());
    let nowhere = Kit { id: KitId(Uuid::from_u128(404)), ..kit };
    assert!(matches!(store.update_kit(&nowhere), Err(StoreError::NotFound("kit"))));
}

#[test]
fn own_parts_lie_over_the_built_in_ones_and_can_be_forgotten() {
    let (_directory, store) = open();
    let mut part = built_in().remove(0);
    part.price = Some(12.5);
    part.stock = Some(3);
    store.put_parts(std::slice::from_ref(&part)).unwrap();
    let catalogue = Catalogue::with_own(store.own_parts().unwrap());
    assert_eq!(catalogue.part(part.id), Some(&part));
    assert_eq!(catalogue.all().count(), built_in().len());
    store.forget_part(part.id).unwrap();
    assert!(store.own_parts().unwrap().is_empty());
}

#[test]
fn an_import_brings_parts_that_are_not_here_and_leaves_prices_that_are() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    let own = PartId(Uuid::from_u128(77));
    let mut part = bundle.parts[0].clone();
    let old = std::mem::replace(&mut part.id, own);
    bundle.parts[0] = part.clone();
    for kit in &mut bundle.kits {
        for id in [&mut kit.spec.gateway, &mut kit.spec.antenna, &mut kit.spec.mount] {
            if *id == Some(old) {
                *id = Some(own);
            }
        }
    }
    store.import_bundle(&bundle).unwrap();
    assert_eq!(store.own_parts().unwrap(), [part.clone()], "built-in parts are not kept twice");
    let back = store.bundle(bundle.site.id).unwrap();
    assert_eq!((back.kits, back.parts.len()), (bundle.kits.clone(), bundle.parts.len()));
    let mine = Part { price: Some(1.0), ..part };
    store.put_parts(std::slice::from_ref(&mine)).unwrap();
    store.import_bundle(&bundle).unwrap();
    assert_eq!(store.own_parts().unwrap(), [mine]);
}
