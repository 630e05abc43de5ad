//! Heavy answers, kept as long as nothing was written since: the same question again costs nothing.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// Answers kept at the most; the oldest version goes first.
const MOST: usize = 32;

type Kept = HashMap<String, (u64, Arc<[u8]>)>;

/// Kept answers; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Answers(Arc<Mutex<Kept>>);

impl Answers {
    pub(crate) fn get(&self, question: &str, version: u64) -> Option<Arc<[u8]>> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.get(question).filter(|(of, _)| *of == version).map(|(_, answer)| answer.clone())
    }

    pub(crate) fn keep(&self, question: String, version: u64, answer: Arc<[u8]>) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST {
            let oldest = kept.iter().min_by_key(|(_, (of, _))| *of).map(|(question, _)| question.clone());
            oldest.map(|question| kept.remove(&question));
        }
        kept.insert(question, (version, answer));
    }
}
