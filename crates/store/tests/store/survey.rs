use crate::{demo_bundle, open, site};
use open_beacon_core::model::*;
use open_beacon_store::{Store, StoreError};
use uuid::Uuid;

#[test]
fn what_a_survey_is_made_of_comes_back_as_it_went_in() {
    let (directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let of = bundle.site.id;
    drop(store);
    let store = Store::open(directory.path()).unwrap();
    assert_eq!(store.entities::<Mast>(of).unwrap(), bundle.masts);
    assert_eq!(store.entities::<Obstacle>(of).unwrap(), bundle.obstacles);
    assert_eq!(store.entities::<Landmark>(of).unwrap(), bundle.landmarks);
    let tile = &bundle.tiles[0];
    assert_eq!(store.entities::<TerrainTile>(of).unwrap(), std::slice::from_ref(&tile.tile));
    assert_eq!(&store.site_file::<TileFile>(tile.tile.id).unwrap(), tile, "the file to the last byte");
    assert_eq!(store.bundle(of).unwrap().tiles, bundle.tiles);
}

#[test]
fn a_thing_is_changed_at_its_own_site_only_and_all_or_none() {
    let (_directory, store) = open();
    let (north, south) = (site(1, "North farm"), site(2, "South farm"));
    store.create_site(&north, &north).unwrap();
    store.create_site(&south, &south).unwrap();
    let mast = Mast { site_id: north.id, ..demo_bundle().masts[0].clone() };
    store.put_entities(north.id, std::slice::from_ref(&mast)).unwrap();
    let renamed = Mast { name: "Ridge".into(), ..mast.clone() };
    store.put_entities(north.id, std::slice::from_ref(&renamed)).unwrap();
    assert_eq!(store.entities::<Mast>(north.id).unwrap(), std::slice::from_ref(&renamed));
    // One that belongs elsewhere keeps the whole lot out.
    let fresh = Mast { id: MastId(Uuid::from_u128(5)), site_id: south.id, ..mast.clone() };
    let stolen = Mast { site_id: south.id, ..mast };
    let lot = [fresh, stolen];
    assert!(matches!(store.put_entities(south.id, &lot), Err(StoreError::IdTaken)));
    assert!(store.entities::<Mast>(south.id).unwrap().is_empty());
    assert_eq!(store.entities::<Mast>(north.id).unwrap(), [renamed]);
    let nowhere = SiteId(Uuid::from_u128(404));
    assert!(matches!(store.put_entities::<Mast>(nowhere, &[]), Err(StoreError::NotFound("site"))));
}

#[test]
fn a_terrain_file_is_kept_once_and_its_words_can_change() {
    let (_directory, store) = open();
    let of = site(1, "North farm");
    store.create_site(&of, &of).unwrap();
    let mut file = demo_bundle().tiles.remove(0);
    file.tile.site_id = of.id;
    store.add_file(&file).unwrap();
    let other = TileFile { content: vec![1, 2, 3].into(), ..file.clone() };
    store.add_file(&other).unwrap();
    assert_eq!(store.site_file::<TileFile>(file.tile.id).unwrap(), file, "a repeat changes nothing");
    let said = TerrainTile { surface: SurfaceKind::Surface, ..file.tile.clone() };
    store.change_file::<TileFile>(&said).unwrap();
    let found = store.site_file::<TileFile>(file.tile.id).unwrap();
    assert_eq!((found.tile, found.content), (said.clone(), file.content));
    let nowhere = TerrainTile { id: TileId(Uuid::from_u128(404)), ..said };
    assert!(matches!(store.change_file::<TileFile>(&nowhere), Err(StoreError::NotFound(_))));
    assert!(matches!(store.site_file::<TileFile>(nowhere.id), Err(StoreError::NotFound(_))));
}

#[test]
fn an_import_over_what_was_changed_is_refused_and_says_what() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    bundle.masts[0].name = "Another name".into();
    bundle.landmarks[0].name = "another silo".into();
    let plan = store.plan_import(&bundle).unwrap();
    let kinds: Vec<&str> = plan.conflicts.iter().map(|one| one.kind).collect();
    assert_eq!(kinds, ["mast", "landmark"]);
    assert!(matches!(store.import_bundle(&bundle), Err(StoreError::Refused(_))));
    assert_eq!(store.entities::<Mast>(bundle.site.id).unwrap()[0].name, "Skarvnut");
}
