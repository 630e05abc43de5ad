//! Plain text: "label: value" lines, tables with a heading row, columns per carrier, labels above their values.

use super::gather::{Gatherer, Group};
use super::label::{Labelled, label_spans, labelled, take_word};
use super::token::{Kind, Token, tokens};
use super::value::{lettered, read_value};
use super::words::{Modifier, Sure, Term, folded, means_nothing, modifier};
use super::{modem, value};
use open_beacon_core::model::Technology;

/// One cell of a line.
#[derive(Clone, Debug)]
struct Cell {
    text: String,
    /// What stands before the first label.
    before: String,
    labels: Vec<Labelled>,
    /// What its words say of a carrier, where all of them do and at least one has weight.
    heading: Option<Group>,
    has_number: bool,
}

/// What earlier lines have set for the next ones.
#[derive(Default)]
struct Context {
    group: Group,
    /// Heading row of a table: a label or nothing for each column.
    header: Option<Vec<Option<Labelled>>>,
    /// Carriers in columns.
    columns: Option<Vec<Group>>,
    /// A label alone on its line, waiting for its value.
    waiting: Option<Labelled>,
}

/// Reads a whole text.
pub(super) fn read(text: &str, gathered: &mut Gatherer) {
    let mut context = Context::default();
    let commas = comma_tables(text);
    for line in commas.as_deref().unwrap_or(text).lines() {
        if line.trim().is_empty() || modem::read(line, gathered) {
            continue;
        }
        let cells = cells(line);
        if !read_line(&cells, &mut context, gathered) {
            gathered.leave(line);
        }
    }
    if let Some(label) = context.waiting {
        gathered.leave(label.label);
    }
}

/// Rows with commas between their cells, made rows with tabs: below a heading row of labels alone, every line with as many commas.
/// `None` where there are none. Elsewhere commas part sentences and decimals.
fn comma_tables(text: &str) -> Option<String> {
    let (mut columns, mut found) = (0, false);
    let row = |line: &str, columns: &mut usize| {
        let parts: Vec<&str> = line.split(',').collect();
        let bare = |part: &&&str| cells(part).iter().all(|cell| cell.labels.len() == 1 && !cell.has_number);
        if parts.len() >= 4 && parts.iter().filter(bare).count() >= 4 {
            *columns = parts.len();
        } else if parts.len() != *columns {
            *columns = 0;
        }
        *columns > 0
    };
    let mut rows: Vec<String> = Vec::new();
    for line in text.lines() {
        if row(line, &mut columns) {
            found = true;
            rows.push(line.replace(',', "\t"));
        } else {
            rows.push(line.to_owned());
        }
    }
    found.then(|| rows.join("\n"))
}

fn cells(line: &str) -> Vec<Cell> {
    let mut all = tokens(line);
    let mut cells = Vec::new();
    // Where a line has marks between its cells, blanks only line them up.
    if let Some(mark) = ["|", "\t", ";"].into_iter().find(|mark| line.trim().contains(*mark)) {
        all.retain(|token| token.kind != Kind::Cell || token.text == mark);
    }
    for part in all.split(|token| token.kind == Kind::Cell) {
        cells.push(cell(line, part));
    }
    // Bars at both ends of a table row make empty cells.
    while cells.len() > 1 && cells.last().is_some_and(|cell| cell.text.is_empty()) {
        cells.pop();
    }
    while cells.len() > 1 && cells.first().is_some_and(|cell| cell.text.is_empty()) && line.contains('|') {
        cells.remove(0);
    }
    cells
}

fn cell(line: &str, part: &[Token]) -> Cell {
    let (Some(first), Some(last)) = (part.first(), part.last()) else {
        return Cell {
            text: String::new(),
            before: String::new(),
            labels: Vec::new(),
            heading: None,
            has_number: false,
        };
    };
    let spans = label_spans(part);
    let labels = spans
        .iter()
        .enumerate()
        .map(|(k, span)| {
            let next = spans.get(k + 1).map_or(part.len(), |next| next.from);
            labelled(line, part, span, next)
        })
        .collect();
    let before = spans.first().filter(|span| span.from > 0);
    Cell {
        text: line[first.start..last.end].trim().to_owned(),
        before: before.map_or("", |span| &line[first.start..part[span.from - 1].end]).trim().to_owned(),
        labels,
        heading: heading(part),
        has_number: part.iter().any(|token| token.kind == Kind::Number),
    }
}

/// A cell that only says which carrier comes next: "LTE", "5G NR (n78)", "Secondary cell 1".
fn heading(part: &[Token]) -> Option<Group> {
    let mut group = Group::default();
    let mut weight = false;
    // "Carrier 2": a number after such a word is a carrier's.
    let mut numbered = false;
    for token in part {
        match token.kind {
            Kind::Word => match modifier(&token.text) {
                Some(Modifier::Filler) => numbered = numbers_carriers(&token.text),
                Some(found) => {
                    weight = true;
                    group.take(found);
                }
                None if lettered(&token.text).is_some() => {}
                None => return None,
            },
            Kind::Number => {
                let index: u8 = token.text.parse().ok().filter(|index| *index < 9)?;
                weight |= numbered;
                group.index = Some(index).filter(|_| weight);
            }
            Kind::Mark | Kind::Cell => {}
        }
    }
    weight.then_some(group)
}

/// Words that carriers are numbered by.
fn numbers_carriers(word: &str) -> bool {
    matches!(
        word,
        "carrier"
            | "cell"
            | "zelle"
            | "trager"
            | "traeger"
            | "cellule"
            | "porteuse"
            | "celda"
            | "portadora"
            | "cella"
            | "celula"
            | "celle"
            | "komorka"
    )
}

fn merged(context: &Group, own: &Group) -> Group {
    Group {
        technology: own.technology.or(context.technology),
        role: own.role.or(if own.technology.is_some() && own.technology != context.technology {
            None
        } else {
            context.role
        }),
        index: own.index.or(if own.role.is_some() || own.technology.is_some() {
            None
        } else {
            context.index
        }),
        place: if own.place.is_empty() { context.place.clone() } else { own.place.clone() },
        neighbour: own.neighbour || context.neighbour,
    }
}

/// Enters a label's value. Answers the technology where the value itself says it: a band's letter, a channel number
/// that only NR has.
fn enter(gathered: &mut Gatherer, context: &Group, label: &Labelled, value: &str) -> Option<Technology> {
    let group = merged(context, &label.group);
    let whole = || format!("{}: {value}", label.label);
    if means_nothing(value) {
        return None;
    }
    if group.neighbour || label.term == Term::Passed {
        gathered.leave(whole());
        return None;
    }
    let Some(values) = read_value(label.term, label.sure, value, group.technology) else {
        gathered.leave(whole());
        return None;
    };
    let said = values.first().and_then(|found| found.value.technology());
    for (at, found) in values.into_iter().enumerate() {
        if let Err(unused) = gathered.take_nth(at, &group, &label.label, found) {
            gathered.leave(format!("{}: {unused}", label.label));
        }
    }
    said
}

/// Reads one line; false where nothing of it could be used.
fn read_line(cells: &[Cell], context: &mut Context, gathered: &mut Gatherer) -> bool {
    let filled: Vec<&Cell> = cells.iter().filter(|cell| !cell.text.is_empty()).collect();
    let labels: usize = cells.iter().map(|cell| cell.labels.len()).sum();
    let bare = |cell: &&Cell| cell.labels.len() == 1 && cell.labels[0].value.is_empty();
    let numbers = cells.iter().any(|cell| cell.has_number);

    if let Some(label) = context.waiting.take() {
        if labels == 0 && filled.len() == 1 {
            enter(gathered, &context.group, &label, &filled[0].text);
            return true;
        }
        gathered.leave(label.label);
    }
    // A heading row of a table.
    if cells.len() >= 2 && cells.iter().filter(bare).count() >= 2 && !numbers {
        let header = cells.iter().map(|cell| cell.labels.first().cloned()).collect();
        context.header = Some(header);
        context.columns = None;
        return true;
    }
    if let Some(header) = context.header.clone() {
        if labels == 0 && cells.len() == header.len() && filled.len() >= 2 {
            table_row(cells, &header, context, gathered);
            return true;
        }
        context.header = None;
    }
    if labels == 0 {
        return headings(cells, &filled, context, gathered);
    }
    if cells.len() >= 2 && bare(&filled[0]) && filled[1..].iter().all(|cell| cell.labels.is_empty()) {
        return label_and_values(cells, &filled, context, gathered);
    }
    if let Some(columns) = context.columns.clone()
        && cells.len() == columns.len()
        && cells.iter().all(|cell| !cell.labels.is_empty())
    {
        // "LTE | 5G NR", and below it "Band: B20 | Band: n28": each stands below its carrier.
        for (cell, column) in cells.iter().zip(&columns) {
            for label in &cell.labels {
                enter(gathered, column, label, &label.value);
            }
        }
        return true;
    }
    if filled.len() == 1 && bare(&filled[0]) {
        context.waiting = Some(filled[0].labels[0].clone());
        return true;
    }
    let mut group = merged(&context.group, &leading(cells));
    for cell in cells {
        if let (true, Some(named)) = (cell.labels.is_empty(), &cell.heading) {
            // "LTE  RSRP -97  5G NR  RSRP -101": from here on the line speaks of another carrier.
            group = merged(&context.group, named);
            continue;
        }
        // "LTE B3 RSRP -97": what stands before the first label may name the carrier.
        let lead = tokens(&cell.before);
        if lead.iter().any(|token| lettered(&token.text).is_some()) {
            lead.iter().for_each(|token| take_word(&mut group, token));
            let bands = read_value(Term::Band, Sure::Yes, &cell.before, group.technology);
            for (at, found) in bands.into_iter().flatten().enumerate() {
                group.technology = found.value.technology().or(group.technology);
                if let Err(unused) = gathered.take_nth(at, &group, &cell.before, found) {
                    gathered.leave(unused);
                }
            }
        } else if lead.iter().any(|token| token.kind != Kind::Mark && modifier(&token.text).is_none()) {
            gathered.leave(cell.before.clone());
        } else {
            lead.iter().for_each(|token| take_word(&mut group, token));
        }
        if cell.labels.is_empty() {
            // "LTE | B3 | RSRP -97": a band needs no label.
            let band = value::lettered(&folded(&cell.text))
                .and_then(|_| read_value(Term::Band, Sure::Yes, &cell.text, group.technology));
            if band.is_none() {
                gathered.leave(cell.text.clone());
            }
            for (at, found) in band.into_iter().flatten().enumerate() {
                group.technology = found.value.technology().or(group.technology);
                if let Err(unused) = gathered.take_nth(at, &group, &cell.text, found) {
                    gathered.leave(unused);
                }
            }
            continue;
        }
        for (at, label) in cell.labels.iter().enumerate() {
            // "LTE Band 3 RSRP -97": what leads the line holds for all of it.
            if at == 0 && cell.before.is_empty() && label.label.contains(' ') {
                group = merged(&group, &label.group);
            }
            if let Some(technology) = enter(gathered, &group, label, &label.value) {
                group = Group { technology: Some(technology), ..own_or_none(&group, technology) };
            }
            if let Some(named) = &label.then {
                group = merged(&context.group, named);
            }
        }
    }
    true
}

/// A line's carrier, or nothing where its technology is another: role and number were of that one.
fn own_or_none(group: &Group, technology: Technology) -> Group {
    if group.technology.is_none_or(|known| known == technology) {
        group.clone()
    } else {
        Group { place: group.place.clone(), neighbour: group.neighbour, ..Group::default() }
    }
}

/// What a line's first cell says of all its labels ("SCC1 | RSRP -97 | SINR 3").
fn leading(cells: &[Cell]) -> Group {
    cells
        .first()
        .filter(|cell| cell.labels.is_empty())
        .and_then(|cell| cell.heading.clone())
        .unwrap_or_default()
}

fn headings(cells: &[Cell], filled: &[&Cell], context: &mut Context, gathered: &mut Gatherer) -> bool {
    let said: Vec<Group> = filled.iter().filter_map(|cell| cell.heading.clone()).collect();
    if said.len() >= 2 && said.len() + 1 >= filled.len() && cells.len() >= 2 {
        context.columns = Some(numbered(said));
        return true;
    }
    let [only] = filled else { return false };
    let Some(group) = &only.heading else { return false };
    context.group = group.clone();
    context.columns = None;
    gathered.heading();
    // A band in the heading belongs to what follows: "5G NR (n78)".
    if let Some(bands) = tokens(&only.text)
        .iter()
        .any(|token| lettered(&token.text).is_some())
        .then(|| value::read_value(Term::Band, Sure::Yes, &only.text, group.technology))
    {
        for (at, found) in bands.into_iter().flatten().enumerate() {
            if let Err(unused) = gathered.take_nth(at, &context.group, &only.text, found) {
                gathered.leave(unused);
            }
        }
    }
    true
}

/// Columns that say the same ("LTE", "LTE") are told apart by their place.
fn numbered(mut said: Vec<Group>) -> Vec<Group> {
    for at in 0..said.len() {
        if said[..at].contains(&said[at]) {
            said[at].place = vec![at];
        }
    }
    said
}

fn label_and_values(
    cells: &[Cell],
    filled: &[&Cell],
    context: &mut Context,
    gathered: &mut Gatherer,
) -> bool {
    let label = &filled[0].labels[0];
    let values = &filled[1..];
    if let Some(columns) = context.columns.clone() {
        // Values stand below their columns; empty cells keep their place.
        let first = cells.iter().position(|cell| !cell.labels.is_empty()).unwrap_or(0);
        let below = &cells[first + 1..];
        if below.len() == columns.len() {
            for (cell, column) in below.iter().zip(&columns) {
                enter(gathered, column, label, &cell.text);
            }
            return true;
        }
        context.columns = None;
    }
    if let Some((first, rest)) = values.split_first() {
        enter(gathered, &context.group, label, &first.text);
        for cell in rest {
            gathered.leave(format!("{}: {}", label.label, cell.text));
        }
    }
    true
}

fn table_row(cells: &[Cell], header: &[Option<Labelled>], context: &mut Context, gathered: &mut Gatherer) {
    let mut group = context.group.clone();
    for (cell, label) in cells.iter().zip(header) {
        // Columns without a label may say which carrier the row is.
        if let (None, Some(said)) = (label, &cell.heading) {
            group = merged(&group, said);
        }
    }
    for (cell, label) in cells.iter().zip(header) {
        // A band with a letter says the row's technology before anything else is read.
        if let Some(label) = label.as_ref().filter(|label| label.term == Term::Band)
            && let Some(bands) = read_value(label.term, label.sure, &cell.text, None)
            && let Some(value::Value::Band(Some(technology), _)) = bands.first().map(|found| &found.value)
        {
            group.technology = Some(*technology);
        }
    }
    gathered.heading();
    group.place = vec![gathered.rows_so_far()];
    for (cell, label) in cells.iter().zip(header) {
        match label {
            Some(label) => {
                enter(gathered, &group, label, &cell.text);
            }
            None if cell.heading.is_some() || cell.text.is_empty() => {}
            None => gathered.leave(cell.text.clone()),
        }
    }
}
