//! Identifiers. They are made by the client (UUIDv7), so that a repeated request is harmless.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

macro_rules! id {
    ($($(#[$doc:meta])* $name:ident),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Debug, Serialize, Deserialize)]
        #[serde(transparent)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub struct $name(pub Uuid);

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                self.0.fmt(f)
            }
        }

        impl std::str::FromStr for $name {
            type Err = uuid::Error;
            fn from_str(s: &str) -> Result<Self, Self::Err> {
                Uuid::parse_str(s).map(Self)
            }
        }
    )*};
}

id! {
    /// Identifies a [`super::Site`].
    SiteId,
    /// Identifies a [`super::Position`].
    PositionId,
    /// Identifies a [`super::Setup`].
    SetupId,
    /// Identifies a [`super::Sitting`].
    SittingId,
    /// Identifies a [`super::Run`].
    RunId,
    /// Identifies a [`super::Sample`].
    SampleId,
    /// Identifies a [`super::SpeedTest`].
    SpeedTestId,
    /// Identifies a [`super::Attachment`].
    AttachmentId,
    /// Identifies a [`super::SpeedCourse`].
    SpeedCourseId,
    /// Identifies a [`super::KeptPrediction`].
    PredictionId,
    /// Identifies a [`super::Kit`].
    KitId,
    /// Identifies a [`super::Part`].
    PartId,
    /// Identifies a [`super::Mast`].
    MastId,
    /// Identifies a [`super::Obstacle`].
    ObstacleId,
    /// Identifies a [`super::Landmark`].
    LandmarkId,
    /// Identifies a [`super::TerrainTile`].
    TileId,
    /// Identifies a [`super::Backdrop`].
    BackdropId,
    /// Identifies a [`super::SweepNote`].
    SweepNoteId,
    /// Identifies a [`super::SweepPhoto`].
    SweepPhotoId,
    /// Identifies a [`super::PairedDevice`].
    DeviceId,
    /// Identifies a [`super::Sweep`].
    SweepId,
    /// Identifies a [`super::SweepStop`].
    SweepStopId,
    /// Identifies a [`super::BandRound`].
    RoundId,
    /// Identifies a [`super::AsBuilt`].
    AsBuiltId,
    /// Identifies a [`super::Amendment`].
    AmendmentId,
    /// Identifies a [`super::SiteEvent`].
    EventId,
    /// Identifies a [`super::Trial`].
    TrialId,
}
