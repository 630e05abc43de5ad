//! One shape for all pages: JSON as it is; XML and HTML as JSON values, so that JSON Pointers reach into them too.

use crate::html;
use open_beacon_domain::limits::check_markup;
use open_beacon_domain::model::PageFormat;
use serde_json::{Map, Value};

/// Turns a page into a JSON value.
///
/// XML: an element becomes an object of its children, repeated children a list, an element without children its text;
/// attributes stand under `@name`. HTML: an object with `title`; `rows`, the cells beside a label in two-column tables
/// and definition lists; `named`, the same and the lists of tables with a heading row, under the caption or heading above
/// them; `tables`, each a list of rows of cells; `ids`, texts of elements with an identifier; `inputs` and `meta`, values
/// by name.
///
/// # Errors
/// What the page is not, in words.
pub fn parse_page(body: &str, format: PageFormat) -> Result<Value, String> {
    match format {
        PageFormat::Json => {
            serde_json::from_str(body).map_err(|error: serde_json::Error| {
                // What began as JSON and ends too soon came from the right address.
                let torn = error.is_eof() && body.trim_start().starts_with(['{', '[']);
                let why = if torn {
                    "the page is torn: it ends in the middle"
                } else {
                    "the page is not JSON; check the address"
                };
                why.to_owned()
            })
        }
        PageFormat::Xml => {
            check_markup(body, false).map_err(|limit| format!("the page is not read: {limit}"))?;
            let document = roxmltree::Document::parse(body.trim_start_matches('\u{feff}').trim_start())
                .map_err(|error| format!("the page is not XML: {error}"))?;
            let root = document.root_element();
            Ok(Value::Object(Map::from_iter([(root.tag_name().name().to_owned(), element(root))])))
        }
        PageFormat::Html => {
            check_markup(body, true).map_err(|limit| format!("the page is not read: {limit}"))?;
            Ok(html::as_value(body))
        }
    }
}

/// What a page seems to be written in.
pub fn looks_like(body: &str) -> PageFormat {
    let start = body.trim_start_matches('\u{feff}').trim_start();
    let begins = |with: &str| start.get(..with.len()).is_some_and(|head| head.eq_ignore_ascii_case(with));
    if start.starts_with(['{', '[']) {
        PageFormat::Json
    } else if begins("<!doctype html") || begins("<html") || start.to_ascii_lowercase().contains("<body") {
        PageFormat::Html
    } else if start.starts_with('<') {
        PageFormat::Xml
    } else {
        PageFormat::Json
    }
}

/// Whether a page asks to be signed in to: HTML with a field for a password.
pub fn asks_for_login(body: &str) -> bool {
    looks_like(body) == PageFormat::Html && {
        let lower = body.to_ascii_lowercase();
        ["type=\"password\"", "type='password'", "type=password"].iter().any(|sign| lower.contains(sign))
    }
}

fn element(node: roxmltree::Node<'_, '_>) -> Value {
    let children: Vec<_> = node.children().filter(roxmltree::Node::is_element).collect();
    let text: String = node.children().filter_map(|child| child.text().filter(|_| child.is_text())).collect();
    let text = text.trim();
    if children.is_empty() && node.attributes().len() == 0 {
        return Value::String(text.to_owned());
    }
    let mut object = Map::new();
    for attribute in node.attributes() {
        object.insert(format!("@{}", attribute.name()), Value::String(attribute.value().to_owned()));
    }
    for child in children {
        let value = element(child);
        match object.entry(child.tag_name().name()) {
            serde_json::map::Entry::Vacant(place) => {
                place.insert(value);
            }
            serde_json::map::Entry::Occupied(mut there) => {
                if let Value::Array(list) = there.get_mut() {
                    list.push(value);
                } else {
                    let first = there.get().clone();
                    there.insert(Value::Array(vec![first, value]));
                }
            }
        }
    }
    if !text.is_empty() {
        object.insert("#text".into(), Value::String(text.to_owned()));
    }
    Value::Object(object)
}
