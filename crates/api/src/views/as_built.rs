//! The sheet of what was built, as it is drawn up and as it is shown.

use crate::catalogue::{catalogue, style};
use crate::views::comparison::{Asked, recorded, view as compared};
use chrono::{DateTime, Utc};
use open_beacon_core::as_built::{aim, carriers, speeds};
use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::judge::SetupEvidence;
use open_beacon_core::model::{
    AsBuilt, AsBuiltDetails, AsBuiltId, AsBuiltSharing, AsBuiltVerdict, Attachment, Kit, Mast, Position,
    Setup, SetupId, Site, SiteId, SiteSettings,
};
use open_beacon_core::survey::rank::Access;
use open_beacon_core::words;
use open_beacon_core::words::as_built::{Sheet, SheetCarrier, SheetRow, SheetSection};
use open_beacon_store::{Store, StoreError};
use qrcode::render::svg;
use qrcode::{EcLevel, QrCode};
use serde::Serialize;
use utoipa::ToSchema;

/// A setup that a sheet can be of.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BuiltChoice {
    pub setup_id: SetupId,
    pub label: String,
}

/// A sheet in a list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetLine {
    pub id: AsBuiltId,
    pub setup_id: SetupId,
    pub label: String,
    pub drawn_up_at: DateTime<Utc>,
    pub archived_at: Option<DateTime<Utc>>,
}

/// Sheets of a site, and what a new one can be of.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetsView {
    /// The newest first, archived ones last.
    pub sheets: Vec<SheetLine>,
    /// Setups in use.
    pub choices: Vec<BuiltChoice>,
    /// The one being worked on, else the newest measured one.
    pub proposed: Option<SetupId>,
    /// What was written on the newest sheet: where a new one begins.
    pub details: AsBuiltDetails,
}

/// A sheet in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AsBuiltView {
    /// Without what is not shared.
    pub sheet: AsBuilt,
    pub site_name: String,
    /// The setup's name.
    pub label: String,
    pub sections: Vec<SheetSection>,
    pub carriers: Vec<SheetCarrier>,
    pub speeds: Vec<SheetRow>,
    pub gains: Vec<SheetRow>,
    /// What the figures rest on.
    pub rests_on: String,
    /// What nobody wrote yet.
    pub not_written: Vec<String>,
    pub photos: Vec<Attachment>,
    /// The essentials as plain text.
    pub code_text: String,
    /// The same as a QR code (SVG).
    pub code_drawing: String,
    /// What was written, to be changed: nothing of it is left out.
    pub details: AsBuiltDetails,
}

/// What a sheet speaks of, read once.
struct Built {
    site: Site,
    settings: SiteSettings,
    position: Position,
    setup: Setup,
    kit: Option<Kit>,
    catalogue: Catalogue,
}

impl Built {
    fn read(store: &Store, setup: SetupId) -> Result<Self, StoreError> {
        let setup = store.setup(setup)?;
        let position = store.position(setup.position_id)?;
        let kit = setup.spec.kit_id.and_then(|id| store.kit(id).ok());
        Ok(Self {
            site: store.site(position.site_id)?,
            settings: store.settings(position.site_id)?,
            position,
            setup,
            kit,
            catalogue: catalogue(store)?,
        })
    }

    fn label(&self) -> String {
        words::setup_label(&self.position, &self.setup.spec)
    }

    fn evidence(&self, store: &Store) -> Result<SetupEvidence, StoreError> {
        let all = store.evidence(self.setup.id, self.label(), None)?;
        Ok(all.of_network(&self.settings.network))
    }
}

/// Sheets of a site, and what a new one can be of.
pub(crate) fn sheets(store: &Store, site: SiteId) -> Result<SheetsView, StoreError> {
    let settings = store.settings(site)?;
    let (positions, setups) = (store.positions(site)?, store.setups(site)?);
    let label_of = |setup: &Setup| {
        let position = positions.iter().find(|one| one.id == setup.position_id);
        position.map_or(String::new(), |position| words::setup_label(position, &setup.spec))
    };
    let label = |id: SetupId| setups.iter().find(|one| one.id == id).map_or(String::new(), label_of);
    let mut kept: Vec<AsBuilt> = store.entities(site)?;
    kept.sort_by_key(|sheet| (sheet.archived_at.is_some(), std::cmp::Reverse(sheet.drawn_up_at)));
    let details = kept.first().map(|sheet| sheet.details.clone()).unwrap_or_default();
    let line = |sheet: AsBuilt| {
        let AsBuilt { id, setup_id, drawn_up_at, archived_at, .. } = sheet;
        SheetLine { id, setup_id, label: label(setup_id), drawn_up_at, archived_at }
    };
    let in_use = setups.iter().filter(|setup| setup.archived_at.is_none());
    let choice = |setup: &Setup| BuiltChoice { setup_id: setup.id, label: label_of(setup) };
    let choices: Vec<BuiltChoice> = in_use.map(choice).collect();
    let offered = |id: &SetupId| choices.iter().any(|one| one.setup_id == *id);
    let newest = recorded(store, site)?.into_iter().next_back();
    Ok(SheetsView {
        sheets: kept.into_iter().map(line).collect(),
        proposed: settings.active_setup_id.filter(offered).or(newest),
        choices,
        details,
    })
}

/// Draws up a sheet of what stands now and of what was measured on it until now.
pub(crate) fn drawn_up(
    store: &Store,
    (id, setup): (AsBuiltId, SetupId),
    details: AsBuiltDetails,
    now: DateTime<Utc>,
) -> Result<AsBuilt, StoreError> {
    let built = Built::read(store, setup)?;
    let evidence = built.evidence(store)?;
    let mut masts: Vec<Mast> = store.entities(built.site.id)?;
    masts.retain(|mast| mast.archived_at.is_none());
    let from = built.position.place.or(built.site.place);
    let on = now.with_timezone(&built.site.time_zone).date_naive();
    let recipe = built.settings.gateway.as_ref().and_then(|one| one.recipe.lock.as_ref());
    let height_m = built.setup.spec.height_above_ground_m.or(built.position.height_above_ground_m);
    let access = Access::of(built.position.mount, height_m.unwrap_or(0.0));
    Ok(AsBuilt {
        id,
        site_id: built.site.id,
        setup_id: setup,
        drawn_up_at: now,
        program: env!("CARGO_PKG_VERSION").into(),
        details,
        aim: aim(&built.setup, from, &masts, &evidence.whole_radio(), on),
        carriers: carriers(&evidence),
        speeds: speeds(&evidence),
        undo: words::as_built::undo(recipe, &built.setup.spec.lock),
        cautions: words::survey::cautions(access).into_iter().map(str::to_owned).collect(),
        verdict: verdict(store, built.site.id, setup)?,
        archived_at: None,
    })
}

/// What the comparison of all setups says of one today.
fn verdict(store: &Store, site: SiteId, setup: SetupId) -> Result<AsBuiltVerdict, StoreError> {
    let found = compared(store, site, Asked::default())?;
    let Some(own) = found.rows.iter().find(|one| one.row.setup_id == setup) else {
        return Ok(AsBuiltVerdict::default());
    };
    let before = found.rows.first().filter(|one| one.row.setup_id != setup).map(|one| &one.row);
    let best = found.best.as_ref();
    let standing = best.and_then(|view| {
        let at = view.best.standings.iter().position(|one| one.setup_id == setup)?;
        view.standings_said.get(at)
    });
    let best = best.map(|view| (&view.best, view.title.as_str()));
    Ok(words::as_built::verdict(&own.row, before, best, standing.map_or("", String::as_str)))
}

/// A sheet as it is shown, with what is shared. `link`: where others reach it.
pub(crate) fn view(
    store: &Store,
    id: AsBuiltId,
    with: AsBuiltSharing,
    link: Option<String>,
) -> Result<AsBuiltView, StoreError> {
    let kept = store.as_built(id)?;
    let details = kept.details.clone();
    let sheet = kept.shared(with);
    let built = Built::read(store, sheet.setup_id)?;
    let style = style(&built.settings);
    let parts = built.kit.as_ref().map(|kit| (kit.name.as_str(), Resolved::new(&kit.spec, &built.catalogue)));
    let place = built.position.place.or(built.site.place).filter(|_| with.place);
    let of = Sheet {
        sheet: &sheet,
        site: &built.site.name,
        place,
        position: &built.position,
        setup: &built.setup,
        kit: parts.as_ref().map(|(name, parts)| (*name, parts)),
    };
    let photos = if with.photos { photos(store, built.setup.id)? } else { Vec::new() };
    let code_text = words::as_built::code_text(of, style, link.as_deref());
    Ok(AsBuiltView {
        site_name: built.site.name.clone(),
        label: built.label(),
        sections: words::as_built::sections(of, style),
        carriers: words::as_built::carriers(&sheet),
        speeds: words::as_built::speeds(&sheet),
        gains: words::as_built::gains(&sheet),
        rests_on: words::as_built::rests_on(&sheet),
        not_written: words::as_built::not_written(&sheet),
        photos,
        code_drawing: code(&code_text),
        code_text,
        details,
        sheet,
    })
}

/// Photographs of a setup's runs that count.
fn photos(store: &Store, setup: SetupId) -> Result<Vec<Attachment>, StoreError> {
    let mut found = Vec::new();
    for run in store.evidence(setup, String::new(), None)?.runs {
        found.extend(store.attachments_of_run(run.id)?);
    }
    Ok(found)
}

/// The text as a QR code that survives a crease: a seventh of it may be lost. Nothing where it is too long for one.
fn code(text: &str) -> String {
    let made = QrCode::with_error_correction_level(text.as_bytes(), EcLevel::M);
    made.map(|code| code.render::<svg::Color<'_>>().min_dimensions(240, 240).quiet_zone(true).build())
        .unwrap_or_default()
}
