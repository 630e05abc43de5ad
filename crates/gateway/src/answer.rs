//! One answer of a status page, from its text to a reading.

use crate::fields::{MapError, read_carriers};
use crate::page::parse_page;
use crate::sound;
use open_beacon_domain::model::{GatewayRecipe, Reading};

/// What an answer says by a recipe, where it is a whole status page. `closed`: an earlier answer was seen to close its HTML.
///
/// # Errors
/// What it is not, a sentence without a full stop.
pub(crate) fn read_answer(recipe: &GatewayRecipe, body: &str, closed: bool) -> Result<Reading, String> {
    let checks = &recipe.checks;
    sound::whole(body, checks, closed)?;
    let page = parse_page(body, recipe.format)?;
    if let Some(no_service) = sound::conditions(body, &page, recipe.format, checks)? {
        return Ok(no_service);
    }
    let map = recipe.map.clone().unwrap_or_default();
    let reading = read_carriers(&page, &map, !checks.required.is_empty())
        .map_err(|error: MapError| error.to_string())?;
    sound::complete(&reading, checks)?;
    Ok(reading)
}
