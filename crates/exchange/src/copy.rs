//! A copy of a site under new identifiers, for importing beside the original.

use open_beacon_core::model::{
    AttachmentId, BackdropId, KitId, LandmarkId, MastId, ObstacleId, PositionId, RoundId, RunId, SampleId,
    SetupId, SiteBundle, SiteId, SpeedTestId, SweepId, SweepPhotoId, SweepStopId, TileId, TrialId,
};
use std::collections::HashMap;
use uuid::Uuid;

/// Gives everything a new identifier from `make`, keeping what belongs together together.
pub fn with_new_ids(mut bundle: SiteBundle, mut make: impl FnMut() -> Uuid) -> SiteBundle {
    let mut known: HashMap<Uuid, Uuid> = HashMap::new();
    let mut new = |old: Uuid| *known.entry(old).or_insert_with(&mut make);
    bundle.site.id = SiteId(new(bundle.site.id.0));
    for row in &mut bundle.positions {
        row.id = PositionId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
    }
    for row in &mut bundle.setups {
        row.id = SetupId(new(row.id.0));
        row.position_id = PositionId(new(row.position_id.0));
        row.made_from = row.made_from.map(|id| SetupId(new(id.0)));
    }
    for row in &mut bundle.runs {
        row.id = RunId(new(row.id.0));
        row.setup_id = SetupId(new(row.setup_id.0));
    }
    for row in &mut bundle.samples {
        row.id = SampleId(new(row.id.0));
        row.run_id = RunId(new(row.run_id.0));
    }
    for row in &mut bundle.speed_tests {
        row.id = SpeedTestId(new(row.id.0));
        row.run_id = RunId(new(row.run_id.0));
    }
    for row in &mut bundle.attachments {
        row.attachment.id = AttachmentId(new(row.attachment.id.0));
        row.attachment.run_id = RunId(new(row.attachment.run_id.0));
    }
    // Parts are the catalogue's, not the site's: they keep their identifiers.
    for row in &mut bundle.kits {
        row.id = KitId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
        row.spec.position_id = row.spec.position_id.map(|id| PositionId(new(id.0)));
    }
    for row in &mut bundle.masts {
        row.id = MastId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
    }
    for row in &mut bundle.obstacles {
        row.id = ObstacleId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
    }
    for row in &mut bundle.landmarks {
        row.id = LandmarkId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
    }
    for row in &mut bundle.tiles {
        row.tile.id = TileId(new(row.tile.id.0));
        row.tile.site_id = SiteId(new(row.tile.site_id.0));
    }
    for row in &mut bundle.backdrops {
        row.backdrop.id = BackdropId(new(row.backdrop.id.0));
        row.backdrop.site_id = SiteId(new(row.backdrop.site_id.0));
    }
    for row in &mut bundle.sweeps {
        row.id = SweepId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
        row.position_id = PositionId(new(row.position_id.0));
    }
    for row in &mut bundle.sweep_photos {
        row.photo.id = SweepPhotoId(new(row.photo.id.0));
        row.photo.site_id = SiteId(new(row.photo.site_id.0));
        row.photo.sweep_id = SweepId(new(row.photo.sweep_id.0));
    }
    for row in &mut bundle.sweep_stops {
        row.id = SweepStopId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
        row.sweep_id = SweepId(new(row.sweep_id.0));
    }
    for row in &mut bundle.band_rounds {
        row.id = RoundId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
        row.setup_id = row.setup_id.map(|id| SetupId(new(id.0)));
    }
    for row in &mut bundle.trials {
        row.id = TrialId(new(row.id.0));
        row.site_id = SiteId(new(row.site_id.0));
        row.round_id = RoundId(new(row.round_id.0));
    }
    let settings = &mut bundle.settings;
    settings.survey.kit_id = settings.survey.kit_id.map(|id| KitId(new(id.0)));
    settings.active_setup_id = settings.active_setup_id.map(|id| SetupId(new(id.0)));
    settings.baseline_setup_id = settings.baseline_setup_id.map(|id| SetupId(new(id.0)));
    bundle
}
