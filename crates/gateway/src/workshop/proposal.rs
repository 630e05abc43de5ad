//! What twenty answers propose: a map, what every carrier shows, how a whole answer ends and what has to stand in it.

use super::motion::leaves;
use super::{PageRecording, read_all, shut};
use crate::page::{looks_like, parse_page};
use crate::sound::{closes, shows};
use crate::suggest::suggest_map;
use open_beacon_domain::model::{
    Carrier, FieldMap, GatewayRecipe, PageChecks, PageCondition, PageField, PageFormat,
};
use serde::Serialize;
use serde_json::Value;
use std::collections::BTreeMap;

/// A recipe's parts, to be looked over by the user.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RecipeProposal {
    pub format: PageFormat,
    pub map: FieldMap,
    pub checks: PageChecks,
    /// Answers of the recording that the recipe would read with this.
    pub reads: usize,
}

/// What may be required of every carrier: what pages show of it always, if they show it at all.
const MAY_BE_REQUIRED: [PageField; 6] = [
    PageField::RsrpDbm,
    PageField::SinrDb,
    PageField::RsrqDb,
    PageField::Band,
    PageField::Channel,
    PageField::Pci,
];
/// Names under which pages say whether they could answer (common practice, no source).
const OUTCOME_NAMES: [&str; 8] =
    ["code", "errorcode", "errcode", "errno", "retcode", "ret", "success", "resultcode"];
const MOST_CONDITIONS: usize = 2;

/// An answer that is whole, taken apart.
struct Whole<'a> {
    body: &'a str,
    page: Value,
}

/// Answers that can be taken apart, in the format of most of them; of HTML that some answers close, the closed ones only.
fn whole<'a>(recipe: &GatewayRecipe, recording: &'a PageRecording) -> (PageFormat, Vec<Whole<'a>>) {
    let open: Vec<&str> = recording
        .answers
        .iter()
        .map(|answer| answer.body.as_str())
        .filter(|body| !shut(recipe, body))
        .collect();
    let count = |format| open.iter().filter(|body| looks_like(body) == format).count();
    let formats = [PageFormat::Json, PageFormat::Xml, PageFormat::Html];
    let format = formats.into_iter().max_by_key(|format| count(*format)).unwrap_or_default();
    let must_close = format == PageFormat::Html && open.iter().any(|body| closes(body));
    let read = |body: &'a str| {
        let page = parse_page(body, format).ok().filter(|page| page.is_object() || page.is_array())?;
        (looks_like(body) == format && (!must_close || closes(body))).then_some(Whole { body, page })
    };
    (format, open.into_iter().filter_map(read).collect())
}

/// Outcomes that every whole answer gave alike.
fn conditions(whole: &[Whole<'_>]) -> Vec<PageCondition> {
    let all: Vec<BTreeMap<String, String>> = whole.iter().map(|one| leaves(&one.page)).collect();
    let Some((first, rest)) = all.split_first() else { return Vec::new() };
    let says_outcome = |at: &str| {
        let name: String =
            at.rsplit('/').next().unwrap_or_default().chars().filter(char::is_ascii_alphanumeric).collect();
        at.matches('/').count() <= 2 && OUTCOME_NAMES.contains(&name.to_lowercase().as_str())
    };
    first
        .iter()
        .filter(|(at, is)| says_outcome(at) && !is.is_empty() && is.len() <= 20)
        .filter(|(at, is)| rest.iter().all(|other| other.get(*at) == Some(is)))
        .take(MOST_CONDITIONS)
        .map(|(at, is)| PageCondition { at: at.clone(), is: is.clone() })
        .collect()
}

/// What can be proposed of a recording; none where no signal strength was recognised on it.
pub(super) fn propose(recipe: &GatewayRecipe, recording: &PageRecording) -> Option<RecipeProposal> {
    let (format, whole) = whole(recipe, recording);
    // The fullest answer shows the most: a carrier that comes and goes is on it.
    let fullest = whole.iter().max_by_key(|one| leaves(&one.page).len())?;
    let map = suggest_map(&fullest.page)?;
    let mut proposed = GatewayRecipe { format, map: Some(map.clone()), ..recipe.clone() };
    proposed.checks.required.clear();
    let carriers: Vec<Carrier> = read_all(&proposed, recording)
        .into_iter()
        .filter_map(|read| read.reading)
        .flat_map(|one| one.carriers)
        .collect();
    let always =
        |field: &PageField| !carriers.is_empty() && carriers.iter().all(|carrier| shows(carrier, *field));
    proposed.checks.required = MAY_BE_REQUIRED.into_iter().filter(always).collect();
    if proposed.checks.end_mark.is_empty()
        && format == PageFormat::Html
        && whole.iter().all(|one| closes(one.body))
    {
        "</html>".clone_into(&mut proposed.checks.end_mark);
    }
    if proposed.checks.must_hold.is_empty() {
        proposed.checks.must_hold = conditions(&whole);
    }
    let reads = read_all(&proposed, recording).iter().filter(|read| read.reading.is_some()).count();
    Some(RecipeProposal { format, map, checks: proposed.checks, reads })
}
