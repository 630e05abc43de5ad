//! Heavy answers, kept as long as nothing was written since: the same question again costs nothing.

use crate::problem::Problem;
use crate::state::AppState;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use serde::Serialize;
use std::collections::HashMap;
use std::future::Future;
use std::sync::{Arc, Mutex, PoisonError};

/// Answers kept at the most; the oldest version goes first.
const MOST: usize = 32;

type Kept = HashMap<String, (u64, Arc<[u8]>)>;

/// Kept answers; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Answers(Arc<Mutex<Kept>>);

impl Answers {
    fn get(&self, question: &str, version: u64) -> Option<Arc<[u8]>> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.get(question).filter(|(of, _)| *of == version).map(|(_, answer)| answer.clone())
    }

    fn keep(&self, question: String, version: u64, answer: Arc<[u8]>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST {
            let oldest = kept.iter().min_by_key(|(_, (of, _))| *of).map(|(question, _)| question.clone());
            oldest.map(|question| kept.remove(&question));
        }
        kept.insert(question, (version, answer));
    }
}

impl AppState {
    /// Answers a question from what was kept where nothing was written since, else works it out and keeps it. `question`
    /// names everything the answer rests on beside the store.
    ///
    /// # Errors
    /// What working it out answers; that is not kept.
    pub(crate) async fn kept_answer<T: Serialize>(
        &self,
        question: String,
        work_out: impl Future<Output = Result<T, Problem>>,
    ) -> Result<Response, Problem> {
        // Read before the data: a write in between makes the answer older than it says, never younger.
        let version = self.store.version();
        let bytes = match self.answers.get(&question, version) {
            Some(bytes) => bytes,
            None => {
                let answer = work_out.await?;
                let bytes: Arc<[u8]> = serde_json::to_vec(&answer).unwrap_or_default().into();
                self.answers.keep(question, version, bytes.clone());
                bytes
            }
        };
        Ok(([(header::CONTENT_TYPE, "application/json")], bytes.to_vec()).into_response())
    }
}
