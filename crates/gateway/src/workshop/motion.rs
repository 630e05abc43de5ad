//! Which values of a page move.

use super::{LineUse, PageRecording};
use crate::page::{looks_like, parse_page};
use open_beacon_domain::model::{CarrierGroup, GatewayRecipe, PageField, PageFormat};
use serde::Serialize;
use serde_json::Value;
use std::collections::BTreeMap;

/// How a value behaved from answer to answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Motion {
    /// It was missing from some answers.
    ComesAndGoes,
    /// It changed while nobody used the line.
    Moves,
    /// It changed under traffic only.
    MovesUnderTraffic,
    /// It never changed.
    StandsStill,
}

/// One value on a page, over all answers that could be taken apart.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldMotion {
    /// Where it stands, a JSON Pointer.
    pub at: String,
    pub motion: Motion,
    /// As it stood first and last.
    pub first: String,
    pub last: String,
    /// Answers that had it, of those that could be taken apart.
    pub seen: usize,
    pub of: usize,
    /// Changes from one answer to the next, while nobody used the line and under traffic.
    pub changes_idle: usize,
    pub changes_traffic: usize,
    /// What the recipe reads there; none where it reads nothing.
    pub read_as: Option<PageField>,
}

/// Most values that are listed.
const MOST_FIELDS: usize = 250;
/// Longest text of a value that is shown.
const SHOWN: usize = 60;

/// A page's plain values by their place. Of HTML, what stands under headings and labels where there is any: other views of the
/// same page hold the same once more.
pub(super) fn leaves(page: &Value) -> BTreeMap<String, String> {
    let mut found = BTreeMap::new();
    let filled = |name: &str| {
        page.get(name).is_some_and(|part| match part {
            Value::Object(object) => !object.is_empty(),
            Value::Array(list) => !list.is_empty(),
            _ => false,
        })
    };
    let is_html = ["rows", "tables", "ids", "inputs", "meta"].iter().all(|name| page.get(name).is_some());
    let parts: &[&str] = match is_html {
        true if filled("named") => &["named", "ids", "inputs"],
        true if filled("rows") => &["rows", "ids", "inputs"],
        true => &["tables", "ids", "inputs"],
        false => &[],
    };
    if is_html {
        for part in parts {
            walk(&page[*part], format!("/{part}"), &mut found);
        }
    } else {
        walk(page, String::new(), &mut found);
    }
    found
}

fn walk(value: &Value, at: String, found: &mut BTreeMap<String, String>) {
    match value {
        Value::Object(object) => {
            for (name, child) in object {
                walk(child, format!("{at}/{}", name.replace('~', "~0").replace('/', "~1")), found);
            }
        }
        Value::Array(list) => {
            for (place, child) in list.iter().enumerate() {
                walk(child, format!("{at}/{place}"), found);
            }
        }
        Value::String(text) => {
            found.insert(at, text.trim().to_owned());
        }
        other => {
            found.insert(at, other.to_string());
        }
    }
}

/// A place without the numbers of entries in lists.
fn without_places(at: &str) -> String {
    at.split('/').filter(|step| step.parse::<usize>().is_err()).collect::<Vec<_>>().join("/")
}

fn read_as(recipe: &GatewayRecipe, at: &str) -> Option<PageField> {
    let map = recipe.map.clone().unwrap_or_default();
    let here = without_places(at);
    let of = |group: &CarrierGroup| {
        let mut fields = group.fields.iter();
        let stands = |place: &String| without_places(&format!("{}{place}", group.at)) == here;
        fields.find(|field| std::iter::once(&field.at).chain(&field.or).any(stands)).map(|field| field.field)
    };
    map.carriers.iter().chain(&map.neighbours).find_map(of)
}

#[derive(Default)]
struct Seen {
    first: String,
    last: String,
    line: Option<LineUse>,
    seen: usize,
    idle: usize,
    traffic: usize,
}

/// How every value moved, those that move first, and how many are left out.
pub(super) fn motions(recipe: &GatewayRecipe, recording: &PageRecording) -> (Vec<FieldMotion>, usize) {
    let mut all: BTreeMap<String, Seen> = BTreeMap::new();
    let mut of = 0;
    for answer in &recording.answers {
        let format = looks_like(&answer.body);
        let Ok(page) = parse_page(&answer.body, format) else { continue };
        of += 1;
        for (at, value) in leaves(&page) {
            // In XML one element is no list, and two are: the first stands at the same place in both.
            let at = if format == PageFormat::Xml { at.replace("/0/", "/") } else { at };
            let seen = all.entry(at).or_default();
            if seen.seen == 0 {
                seen.first.clone_from(&value);
            } else if seen.last != value {
                // Between the last idle answer and the first under traffic, it was the traffic.
                match answer.line {
                    LineUse::Idle => seen.idle += 1,
                    LineUse::Traffic => seen.traffic += 1,
                }
            }
            (seen.last, seen.line) = (value, Some(answer.line));
            seen.seen += 1;
        }
    }
    let short = |text: &str| text.chars().take(SHOWN).collect::<String>();
    let mut fields: Vec<FieldMotion> = all
        .into_iter()
        .map(|(at, seen)| FieldMotion {
            motion: match (seen.seen < of, seen.idle, seen.traffic) {
                (true, ..) => Motion::ComesAndGoes,
                (_, 0, 0) => Motion::StandsStill,
                (_, 0, _) => Motion::MovesUnderTraffic,
                _ => Motion::Moves,
            },
            read_as: read_as(recipe, &at),
            first: short(&seen.first),
            last: short(&seen.last),
            seen: seen.seen,
            of,
            changes_idle: seen.idle,
            changes_traffic: seen.traffic,
            at,
        })
        .collect();
    fields.sort_by(|a, b| {
        let key = |one: &FieldMotion| (one.read_as.is_none(), one.motion);
        key(a).cmp(&key(b)).then_with(|| a.at.cmp(&b.at))
    });
    let more = fields.len().saturating_sub(MOST_FIELDS);
    fields.truncate(MOST_FIELDS);
    (fields, more)
}
