//! What is missing, and what to measure next.

use super::number_word;
use crate::judge::{EVENING_HOURS, Missing, NextWork, WorkRow, Worklist};

/// "Missing: three speed tests, the evening"; what is said where nothing is.
pub fn missing(row: &WorkRow) -> String {
    if row.behind {
        return "Clearly slower than the fastest".into();
    }
    let all: Vec<String> = row.missing.iter().map(|one| short(*one)).collect();
    if all.is_empty() && row.settled {
        return "More sittings would hardly change the verdict".into();
    }
    if all.is_empty() { "Nothing is missing".into() } else { format!("Missing: {}", all.join(", ")) }
}

fn short(missing: Missing) -> String {
    match missing {
        Missing::Reading => "a reading".into(),
        Missing::Tests { tests } => super::counted(tests, "speed test"),
        Missing::Sittings { sittings: 1 } => "another hour".into(),
        Missing::Sittings { sittings } => format!("{} other hours", number_word(sittings)),
        Missing::Evening => "the evening".into(),
    }
}

/// The one sentence of what comes next.
pub fn next(list: &Worklist) -> String {
    let Some(next) = &list.next else {
        return match list.rows.len() {
            0 => "Add a position and a setup first.".into(),
            1 => "This setup has all that it needs. Test another one to compare it with.".into(),
            _ if list.rows.iter().any(|row| row.settled) => {
                "More sittings would hardly change the verdict. See Verdict.".into()
            }
            _ => "Every setup that may be the best was tested at three hours or more, the evening among them. Compare them.".into(),
        };
    };
    let what = match next.missing {
        Missing::Reading => format!("record 10 samples at {}", next.label),
        Missing::Tests { tests } => format!("run {} at {}", super::counted(tests, "speed test"), next.label),
        Missing::Sittings { sittings: 1 } => format!("test {} at one more hour", next.label),
        Missing::Sittings { sittings } => {
            format!("test {} at {} more hours", next.label, number_word(sittings))
        }
        Missing::Evening => format!(
            "test {} between {} and {} h, when networks are the busiest",
            next.label,
            EVENING_HOURS.start(),
            EVENING_HOURS.end() + 1
        ),
    };
    format!("Next, {what}. {}", how(next))
}

fn how(next: &NextWork) -> &'static str {
    match (next.climb, next.later, next.missing) {
        (false, false, _) => "It was measured last, so nothing has to be moved.",
        (false, true, Missing::Evening) => "It was measured last: leave the antenna as it is until then.",
        (false, true, _) => "It was measured last: wait an hour, since tests of one hour count once.",
        (true, ..) => "The antenna has to be moved for that.",
    }
}
