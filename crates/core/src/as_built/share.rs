//! A sheet as a file: of the site only what the sheet speaks of, and of that only what may be given away.

use crate::hardware::catalogue::{Catalogue, named_by};
use crate::model::{
    AsBuilt, AsBuiltSharing, Conditions, Kit, Position, RunContext, Setup, SetupOrigin, Site, SiteBundle,
    SiteSettings,
};
use std::collections::HashSet;

/// The site export that holds a sheet: site, position, setup, kit with its parts, the sheet itself, and as far as `with` says masts,
/// coordinates and photographs. Imported into an empty program it gives a site to build again from. No measurements, no addresses of
/// devices, no free notes of others are in it. `bundle`: the whole site that the sheet is of.
pub fn share(bundle: SiteBundle, sheet: &AsBuilt, with: AsBuiltSharing) -> SiteBundle {
    let setups: Vec<Setup> = bundle.setups.into_iter().filter(|one| one.id == sheet.setup_id).collect();
    let stands_at = setups.first().map(|setup| setup.position_id);
    let kit_id = setups.first().and_then(|setup| setup.spec.kit_id);
    let kits: Vec<Kit> = bundle.kits.into_iter().filter(|kit| Some(kit.id) == kit_id).collect();
    let parts = named_by(&kits, &Catalogue::with_own(bundle.parts));
    let masts = if with.place { bundle.masts } else { Vec::new() };
    let aimed_at_known = |origin: SetupOrigin| match origin {
        SetupOrigin::SurveyChoice { .. } if with.place => origin,
        _ => SetupOrigin::ByHand,
    };
    let pictured: HashSet<_> = bundle.attachments.iter().map(|one| one.attachment.run_id).collect();
    let own = bundle.runs.iter().filter(|run| with.photos && run.setup_id == sheet.setup_id);
    let runs: Vec<_> = own
        .filter(|run| run.archived_at.is_none() && pictured.contains(&run.id))
        .map(|run| {
            // What the run was a part of is not in the file, nor what was noted beside it.
            let conditions = Conditions { notes: String::new(), ..run.conditions.clone() };
            crate::model::Run { conditions, context: RunContext::Log, ..run.clone() }
        })
        .collect();
    let kept: HashSet<_> = runs.iter().map(|run| run.id).collect();
    let place_of = |place| if with.place { place } else { None };
    SiteBundle {
        format: bundle.format,
        version: bundle.version,
        settings: SiteSettings {
            units: bundle.settings.units,
            known_mast: bundle.settings.known_mast.filter(|_| with.place),
            network: bundle.settings.network,
            active_setup_id: Some(sheet.setup_id),
            stand_in_follows: bundle.settings.stand_in_follows,
            ..SiteSettings::default()
        },
        site: Site { place: place_of(bundle.site.place), notes: String::new(), ..bundle.site },
        positions: bundle
            .positions
            .into_iter()
            .filter(|one| Some(one.id) == stands_at)
            .map(|one| Position { place: place_of(one.place), notes: String::new(), ..one })
            .collect(),
        setups: setups
            .into_iter()
            .map(|one| Setup { made_from: None, origin: aimed_at_known(one.origin), ..one })
            .collect(),
        attachments: bundle
            .attachments
            .into_iter()
            .filter(|one| kept.contains(&one.attachment.run_id))
            .collect(),
        runs,
        kits: kits
            .into_iter()
            .map(|mut kit| {
                kit.spec.position_id = kit.spec.position_id.filter(|id| Some(*id) == stands_at);
                Kit { bought_on: None, return_by: None, notes: String::new(), ..kit }
            })
            .collect(),
        parts,
        masts,
        as_built: vec![sheet.clone().shared(with)],
        samples: Vec::new(),
        speed_tests: Vec::new(),
        sittings: Vec::new(),
        obstacles: Vec::new(),
        landmarks: Vec::new(),
        tiles: Vec::new(),
        backdrops: Vec::new(),
        sweeps: Vec::new(),
        sweep_stops: Vec::new(),
        sweep_photos: Vec::new(),
        band_rounds: Vec::new(),
        trials: Vec::new(),
        predictions: Vec::new(),
        speed_courses: Vec::new(),
        events: Vec::new(),
        amendments: Vec::new(),
    }
}
