//! HTML as a JSON value: what stands in tables and lists, under the headings that a reader would look for.

use crate::find::label;
use scraper::{ElementRef, Html, Selector};
use serde_json::{Map, Value};

pub(crate) fn as_value(body: &str) -> Value {
    let document = Html::parse_document(body);
    let mut found = Sections::default();
    for element in select(&document, "h1, h2, h3, h4, h5, h6, legend, table, dl, ul, ol") {
        match element.value().name() {
            "table" => found.table(element),
            "dl" => found.lines(None, definitions(element)),
            "ul" | "ol" => found.lines(None, labelled_items(element)),
            _ => found.heading = words(element),
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
        ("named".to_owned(), Value::Object(found.named)),
        ("rows".to_owned(), Value::Object(found.rows)),
        ("tables".to_owned(), Value::Array(found.tables)),
        ("ids".to_owned(), Value::Object(pairs("body [id]", "id", None))),
        ("inputs".to_owned(), Value::Object(pairs("input[name]", "name", Some("value")))),
        ("meta".to_owned(), Value::Object(pairs("meta[name]", "name", Some("content")))),
    ]))
}

/// One line of a table: its cells, and whether all of them are headings.
struct Line {
    cells: Vec<String>,
    heads: bool,
}

#[derive(Default)]
struct Sections {
    /// The last heading passed.
    heading: String,
    /// Labels of the whole page, each with the first value beside it.
    rows: Map<String, Value>,
    /// The same by heading; tables with a heading row as lists too.
    named: Map<String, Value>,
    tables: Vec<Value>,
}

impl Sections {
    /// A table by its caption, else by the heading above it; a line with a single cell begins a part of its own.
    fn table(&mut self, table: ElementRef<'_>) {
        let caption = table.child_elements().find(|one| one.value().name() == "caption").map(words);
        let lines: Vec<Line> =
            table.descendent_elements().filter(|one| one.value().name() == "tr").map(line_of).collect();
        self.tables.push(lines.iter().map(|line| line.cells.clone()).collect::<Vec<_>>().into());
        let mut name = caption.filter(|text| !text.is_empty());
        let mut part: Vec<Line> = Vec::new();
        for line in lines {
            match line.cells.as_slice() {
                [title] if !title.is_empty() => {
                    let before = name.replace(title.clone());
                    self.lines(before, std::mem::take(&mut part));
                }
                _ => part.push(line),
            }
        }
        self.lines(name, part);
    }

    /// Lines under a name of their own, else under the last heading passed.
    fn lines(&mut self, name: Option<String>, lines: Vec<Line>) {
        if lines.is_empty() {
            return;
        }
        let mut rows = Map::new();
        for line in &lines {
            let [name, values @ ..] = line.cells.as_slice() else { continue };
            let name = name.trim_end_matches([':', ' ']).to_owned();
            let value = match values {
                [] => continue,
                [value] => Value::from(value.clone()),
                several => Value::from(several.to_vec()),
            };
            if values.len() == 1 {
                self.rows.entry(name.clone()).or_insert_with(|| value.clone());
            }
            rows.entry(name).or_insert(value);
        }
        let mut section = Map::from_iter([("rows".to_owned(), Value::Object(rows))]);
        section.extend(list_of(&lines).map(|list| ("list".to_owned(), list)));
        let name = name.unwrap_or_else(|| self.heading.clone());
        let name = name.trim_end_matches([':', ' ']);
        let free = (1..).map(|n| if n == 1 { name.to_owned() } else { format!("{name} ({n})") });
        let free = free.into_iter().take(20).find(|name| !self.named.contains_key(name));
        self.named.extend(free.filter(|name| !name.is_empty()).map(|name| (name, Value::Object(section))));
    }
}

/// A table with a heading row: an entry for each further line, its cells by their headings.
fn list_of(lines: &[Line]) -> Option<Value> {
    let (head, rest) = lines.split_first()?;
    let width = head.cells.len();
    let wordy = |cell: &String| !cell.is_empty() && !cell.chars().any(|c| c.is_ascii_digit());
    let is_head = head.heads || width > 2 && head.cells.iter().all(wordy);
    if width < 2 || !is_head {
        return None;
    }
    let entry = |line: &Line| -> Option<Value> {
        let fits = line.cells.len() == width && !line.heads;
        let named = head.cells.iter().zip(&line.cells);
        fits.then(|| named.map(|(name, cell)| (name.clone(), Value::from(cell.clone()))).collect())
    };
    let list: Vec<Value> = rest.iter().filter_map(entry).collect();
    (!list.is_empty()).then(|| list.into())
}

fn line_of(row: ElementRef<'_>) -> Line {
    let cells: Vec<ElementRef<'_>> =
        row.child_elements().filter(|one| matches!(one.value().name(), "td" | "th")).collect();
    let heads = !cells.is_empty() && cells.iter().all(|cell| cell.value().name() == "th");
    Line { cells: cells.into_iter().map(words).collect(), heads }
}

fn definitions(list: ElementRef<'_>) -> Vec<Line> {
    let terms = list.descendent_elements().filter(|one| one.value().name() == "dt");
    let pair = |term: ElementRef<'_>| {
        let value =
            term.next_siblings().filter_map(ElementRef::wrap).find(|one| one.value().name() == "dd")?;
        Some(Line { cells: vec![words(term), words(value)], heads: false })
    };
    terms.filter_map(pair).collect()
}

/// `RSRP: -97 dBm` in the items of a list.
fn labelled_items(list: ElementRef<'_>) -> Vec<Line> {
    let items = list.child_elements().filter(|one| one.value().name() == "li").map(words);
    let split = |item: String| {
        let (name, value) = item.split_once(':')?;
        let fine = !label(name).is_empty() && name.len() <= 60 && !value.trim().is_empty();
        fine.then(|| Line { cells: vec![name.trim().to_owned(), value.trim().to_owned()], heads: false })
    };
    items.filter_map(split).collect()
}

fn words(of: ElementRef<'_>) -> String {
    of.text().flat_map(str::split_whitespace).collect::<Vec<_>>().join(" ")
}

fn select<'a>(document: &'a Html, selector: &str) -> Vec<ElementRef<'a>> {
    Selector::parse(selector).map(|selector| document.select(&selector).collect()).unwrap_or_default()
}
