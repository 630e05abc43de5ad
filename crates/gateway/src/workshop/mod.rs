//! A recipe's workshop: answers of a status page one after the other, which figures on it move, what can be proposed of that,
//! and whether a recipe reads each of them. Pure but for [`PageRecorder`], which fetches.

mod motion;
mod proposal;
mod recorder;
mod scrub;

pub use motion::{FieldMotion, Motion};
pub use proposal::RecipeProposal;
pub use recorder::PageRecorder;
pub use scrub::without_secrets;

use crate::answer::read_answer;
use crate::sound;
use open_beacon_domain::metrics::RefreshLearner;
use open_beacon_domain::model::{GatewayRecipe, Login, PageFormat, Reading};
use serde::{Deserialize, Serialize};
use std::hash::{DefaultHasher, Hash, Hasher};

/// What went on over the line while an answer was recorded.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LineUse {
    /// Nobody used it.
    Idle,
    /// Something was loaded over it.
    Traffic,
}

/// What a recipe made of an answer.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AnswerRead {
    /// What it read.
    pub reading: Option<Reading>,
    /// Why it read nothing, a sentence without a full stop.
    pub problem: Option<String>,
}

/// One answer as it came, without what is secret.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RecordedAnswer {
    pub line: LineUse,
    /// Since the first answer of the recording, ms.
    pub after_ms: u32,
    /// The answer's text.
    pub body: String,
    /// What the recipe made of it when it was kept: the recipe's own test.
    #[serde(default)]
    pub expected: Option<AnswerRead>,
}

/// Answers of one gateway, in the order in which they came.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PageRecording {
    pub answers: Vec<RecordedAnswer>,
}

/// What a recipe makes of an answer now, and whether that is what it made of it before.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AnswerTried {
    pub read: AnswerRead,
    /// None where the recording says nothing of it.
    pub as_expected: Option<bool>,
}

/// All that twenty answers tell of a page and of a recipe for it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Workshop {
    /// What each answer comes to by the recipe, in the recording's order.
    pub tried: Vec<AnswerTried>,
    /// Values on the page and how they moved, the moving ones first.
    pub fields: Vec<FieldMotion>,
    /// Values that are not listed: the page has too many.
    pub more_fields: usize,
    /// How often the page renews itself, s, where the answers tell.
    pub renewed_every_s: Option<f64>,
    /// What can be proposed; none where no signal strength was recognised.
    pub proposal: Option<RecipeProposal>,
}

/// Looks at a recording, and tries a recipe on it.
pub fn examine(recipe: &GatewayRecipe, recording: &PageRecording) -> Workshop {
    let tried: Vec<AnswerTried> = read_all(recipe, recording)
        .into_iter()
        .zip(&recording.answers)
        .map(|(read, answer)| AnswerTried {
            as_expected: answer.expected.as_ref().map(|expected| expected.reading == read.reading),
            read,
        })
        .collect();
    let (fields, more_fields) = motion::motions(recipe, recording);
    let mut learner = RefreshLearner::default();
    for answer in &recording.answers {
        let mut hasher = DefaultHasher::new();
        answer.body.hash(&mut hasher);
        learner.look(f64::from(answer.after_ms) / 1e3, hasher.finish());
    }
    Workshop {
        tried,
        fields,
        more_fields,
        renewed_every_s: learner.period_s(),
        proposal: proposal::propose(recipe, recording),
    }
}

/// Every answer by a recipe, as a driver would have read it when it came.
pub(crate) fn read_all(recipe: &GatewayRecipe, recording: &PageRecording) -> Vec<AnswerRead> {
    let mut closed = false;
    let read = |body: &str, closed: bool| match shut(recipe, body) {
        true => Err("it asks to be signed in to".to_owned()),
        false => read_answer(recipe, body, closed),
    };
    let mut all = Vec::with_capacity(recording.answers.len());
    for answer in &recording.answers {
        all.push(match read(&answer.body, closed) {
            Ok(reading) => {
                closed |= recipe.format == PageFormat::Html && sound::closes(&answer.body);
                AnswerRead { reading: Some(reading), problem: None }
            }
            Err(problem) => AnswerRead { reading: None, problem: Some(problem) },
        });
    }
    all
}

/// Whether an answer is the page that asks to be signed in to, in place of the one that was asked for.
fn shut(recipe: &GatewayRecipe, body: &str) -> bool {
    recipe.login != Login::None && sound::wants_login(body, &recipe.checks)
}
