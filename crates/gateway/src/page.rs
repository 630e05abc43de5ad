//! One shape for all pages: JSON as it is; XML and HTML as JSON values, so that JSON Pointers reach into them too.

use open_beacon_domain::limits::check_markup;
use open_beacon_domain::model::PageFormat;
use scraper::{ElementRef, Html, Selector};
use serde_json::{Map, Value};

/// Turns a page into a JSON value.
///
/// XML: an element becomes an object of its children, repeated children a list, an element without children its text;
/// attributes stand under `@name`. HTML: an object with `title`; `rows`, the cells beside a label in two-column tables
/// and definition lists; `tables`, each a list of rows of cells; `ids`, texts of elements with an identifier; `inputs`
/// and `meta`, values by name.
///
/// # Errors
/// What the page is not, in words.
pub fn parse_page(body: &str, format: PageFormat) -> Result<Value, String> {
    match format {
        PageFormat::Json => {
            serde_json::from_str(body).map_err(|_| "the page is not JSON; is this the right address?".into())
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
            Ok(html(body))
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
        lower.contains("type=\"password\"") || lower.contains("type='password'") || lower.contains("sign in")
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

fn words(of: ElementRef<'_>) -> String {
    of.text().flat_map(str::split_whitespace).collect::<Vec<_>>().join(" ")
}

fn select<'a>(document: &'a Html, selector: &str) -> Vec<ElementRef<'a>> {
    Selector::parse(selector).map(|selector| document.select(&selector).collect()).unwrap_or_default()
}

fn html(body: &str) -> Value {
    let document = Html::parse_document(body);
    let (mut rows, mut tables) = (Map::new(), Vec::new());
    let label = |text: &str| text.trim_end_matches([':', ' ']).to_owned();
    for table in select(&document, "table") {
        let cells_of = |row: ElementRef<'_>| -> Vec<String> {
            let cells = row.child_elements().filter(|one| matches!(one.value().name(), "td" | "th"));
            cells.map(words).collect()
        };
        let lines: Vec<Vec<String>> =
            table.descendent_elements().filter(|one| one.value().name() == "tr").map(cells_of).collect();
        for line in lines.iter().filter(|line| line.len() == 2) {
            rows.entry(label(&line[0])).or_insert_with(|| Value::String(line[1].clone()));
        }
        tables.push(Value::from(lines));
    }
    for term in select(&document, "dt") {
        let value = term.next_siblings().filter_map(ElementRef::wrap).find(|one| one.value().name() == "dd");
        if let Some(value) = value {
            rows.entry(label(&words(term))).or_insert_with(|| Value::String(words(value)));
        }
    }
    let pairs = |selector: &str, name: &str, value: Option<&str>| -> Map<String, Value> {
        select(&document, selector)
            .into_iter()
            .filter_map(|one| {
                let name = one.attr(name)?.to_owned();
                let value =
                    value.map_or_else(|| Some(words(one)), |value| one.attr(value).map(str::to_owned));
                Some((name, Value::String(value.unwrap_or_default())))
            })
            .collect()
    };
    let title = select(&document, "title").first().map(|one| words(*one)).unwrap_or_default();
    Value::Object(Map::from_iter([
        ("title".to_owned(), Value::String(title)),
        ("rows".to_owned(), Value::Object(rows)),
        ("tables".to_owned(), Value::Array(tables)),
        ("ids".to_owned(), Value::Object(pairs("body [id]", "id", None))),
        ("inputs".to_owned(), Value::Object(pairs("input[name]", "name", Some("value")))),
        ("meta".to_owned(), Value::Object(pairs("meta[name]", "name", Some("content")))),
    ]))
}
