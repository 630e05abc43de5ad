//! A sheet of what was built as a file: only what may be given away is in it, and it can be imported into an empty program.

use super::demo_bundle;
use open_beacon_core::as_built::share;
use open_beacon_core::model::*;
use open_beacon_exchange::*;

/// The awkward site with something private in every place that a person writes in.
fn written_over() -> (SiteBundle, AsBuilt) {
    let mut bundle = demo_bundle();
    let secret = |what: &str| format!("secret {what}");
    bundle.site.notes = secret("site");
    bundle.setups[1].kit_id_of_first(&bundle.kits);
    bundle.positions.iter_mut().for_each(|one| one.notes = secret("position"));
    bundle.kits.iter_mut().for_each(|one| one.notes = secret("kit"));
    bundle.events.iter_mut().for_each(|one| one.text = secret("event"));
    bundle.runs.iter_mut().for_each(|one| one.conditions.notes = secret("conditions"));
    let sheet = &mut bundle.as_built[0];
    sheet.details.address = secret("address");
    sheet.details.built_by = secret("name");
    sheet.details.serials = secret("serial");
    sheet.details.account = secret("account");
    sheet.aim.mast = Some(secret("mast"));
    sheet.aim.mast_distance_m = Some(4321.0);
    let picture = &mut bundle.attachments[0];
    let run = bundle.runs.iter().find(|run| run.setup_id == sheet.setup_id && run.archived_at.is_none());
    picture.attachment.run_id = run.unwrap().id;
    let sheet = sheet.clone();
    (bundle, sheet)
}

trait FirstKit {
    fn kit_id_of_first(&mut self, kits: &[Kit]);
}

impl FirstKit for Setup {
    fn kit_id_of_first(&mut self, kits: &[Kit]) {
        self.spec.kit_id = kits.first().map(|kit| kit.id);
    }
}

#[test]
fn only_what_may_be_given_away_is_in_the_file() {
    let (bundle, sheet) = written_over();
    let file = |with: AsBuiltSharing| {
        let made = share(bundle.clone(), &sheet, with);
        (String::from_utf8(to_json(&made)).unwrap(), made)
    };
    let none = AsBuiltSharing::default();
    let (text, made) = file(none);
    assert!(!text.contains("secret") && !text.contains("127.0.0.1") && !text.contains("4321"), "{text}");
    for named in ["latitude_deg", "\"photograph", "password"] {
        assert!(!text.contains(named), "{named} in {text}");
    }
    assert_eq!((made.setups.len(), made.positions.len(), made.kits.len(), made.runs.len()), (1, 1, 1, 0));
    assert!(made.masts.is_empty() && made.samples.is_empty() && made.attachments.is_empty());
    assert!(!made.parts.is_empty(), "the kit's parts");
    for (with, what) in [
        (
            AsBuiltSharing { place: true, ..none },
            vec!["secret address", "secret mast", "latitude_deg", "4321"],
        ),
        (AsBuiltSharing { people: true, ..none }, vec!["secret name"]),
        (AsBuiltSharing { serials: true, ..none }, vec!["secret serial"]),
        (AsBuiltSharing { account: true, ..none }, vec!["secret account"]),
    ] {
        let text = file(with).0;
        assert!(what.iter().all(|one| text.contains(one)), "{what:?} in {text}");
        for never in ["secret site", "secret position", "secret kit", "secret event", "secret conditions"] {
            assert!(!text.contains(never), "{never} in {text}");
        }
    }
    let pictured = file(AsBuiltSharing { photos: true, ..none }).1;
    assert_eq!((pictured.attachments.len(), pictured.runs.len()), (1, 1));
}

/// What is given away is a site export like any other: it is read again whole, by itself.
#[test]
fn the_file_stands_by_itself() {
    let (bundle, sheet) = written_over();
    for with in [AsBuiltSharing::default(), AsBuiltSharing::WHOLE] {
        let made = share(bundle.clone(), &sheet, with);
        let read = from_source(std::io::Cursor::new(to_json(&made))).unwrap();
        assert_eq!(read, made);
        assert_eq!(read.settings.active_setup_id, Some(sheet.setup_id));
        assert_eq!(read.as_built, [sheet.clone().shared(with)]);
        let zipped = from_source(std::io::Cursor::new(to_zip(&made))).unwrap();
        assert_eq!(zipped, made);
    }
}
