//! Labels in a line: where they stand, which words beside them name a carrier, and what their value is.

use super::gather::Group;
use super::token::{Kind, Token};
use super::value::lettered;
use super::words::{Modifier, Sure, Term, label_at, modifier};

/// A label in a cell, with what stands beside it.
#[derive(Clone, Debug)]
pub(super) struct Labelled {
    pub term: Term,
    pub sure: Sure,
    pub group: Group,
    /// The label with its modifiers as it stands in the text.
    pub label: String,
    /// What stands between it and the next label; empty where nothing does.
    pub value: String,
    /// What stands behind the value and names the carrier of the labels that follow ("… / 5G NR: band n78").
    pub then: Option<Group>,
}

/// A label's tokens with the modifiers before it.
pub(super) struct Span {
    pub from: usize,
    pub label: usize,
    pub to: usize,
    pub term: Term,
    pub sure: Sure,
}

fn joins(token: &Token) -> bool {
    token.kind == Kind::Mark
        && matches!(token.text.as_str(), "\"" | "-" | "_" | "." | "/" | "‑" | "'" | "’" | "+" | "&")
}

/// Words from a place on, with the place of each; marks that join words are passed over.
fn words_from(part: &[Token], from: usize) -> (Vec<&str>, Vec<usize>) {
    let (mut words, mut places) = (Vec::new(), Vec::new());
    for (at, token) in part.iter().enumerate().skip(from) {
        match token.kind {
            Kind::Word => {
                words.push(token.text.as_str());
                places.push(at);
            }
            _ if joins(token) => {}
            _ => break,
        }
        if words.len() > 8 {
            break;
        }
    }
    (words, places)
}

pub(super) fn label_spans(part: &[Token]) -> Vec<Span> {
    let mut spans: Vec<Span> = Vec::new();
    let mut at = 0;
    let mut free_from = 0;
    while at < part.len() {
        if part[at].kind == Kind::Word {
            let (words, places) = words_from(part, at);
            let next = part.get(at + 1).map_or("", |token| token.text.as_str());
            // "Cell" alone may be anything, but a hexadecimal number behind it is its identity.
            let cell = words[0] == "cell" && next.starts_with("0x");
            let label = if cell { Some((Term::CellIdentity, Sure::Yes, 1)) } else { label_at(&words) };
            if let Some((term, sure, taken)) = label {
                let to = places[taken - 1] + 1;
                if stands_as_label(part, to, term, spans.is_empty()) {
                    let from = modifiers_before(part, free_from, at);
                    spans.push(Span { from, label: at, to, term, sure });
                    free_from = to;
                }
                at = to;
                continue;
            }
        }
        at += 1;
    }
    spans
}

/// A word in running text is a label only where a value can follow: a colon or equals sign, a number, a band, or
/// the end of the cell.
fn stands_as_label(part: &[Token], to: usize, term: Term, first: bool) -> bool {
    let rest = part[to..].iter().find(|token| {
        let passed =
            token.kind == Kind::Word && modifier(&token.text).is_some() && lettered(&token.text).is_none();
        !(passed || joins(token) || matches!(token.text.as_str(), "(" | ")" | "[" | "]"))
    });
    match rest {
        None => first,
        Some(token) if matches!(token.text.as_str(), ":" | "=" | ">") => true,
        Some(token) => {
            let value =
                token.kind == Kind::Number || token.kind == Kind::Word && lettered(&token.text).is_some();
            value && term != Term::Mode || term == Term::CellIdentity && token.kind == Kind::Word
        }
    }
}

fn modifiers_before(part: &[Token], free_from: usize, label: usize) -> usize {
    let mut from = label;
    for at in (free_from..label).rev() {
        let word = part[at].kind == Kind::Word && modifier(&part[at].text).is_some();
        if word {
            from = at;
        } else if !joins(&part[at]) {
            break;
        }
    }
    from
}

pub(super) fn labelled(line: &str, part: &[Token], span: &Span, next: usize) -> Labelled {
    let mut group = Group::default();
    for token in &part[span.from..span.label] {
        take_word(&mut group, token);
    }
    // Modifiers may stand behind the label too: "RSRP (NR):", "rsrp_lte = ".
    let mut at = span.to;
    let mut value_begins = false;
    while at < next {
        let token = &part[at];
        let sign = matches!(token.text.as_str(), ":" | "=" | ">");
        let opens =
            sign || matches!(token.text.as_str(), "(" | ")" | "[" | "]") || joins(token) && !value_begins;
        value_begins |= sign;
        let says = token.kind == Kind::Word
            && modifier(&token.text).is_some()
            && span.term != Term::Mode
            && lettered(&token.text).is_none();
        if says {
            take_word(&mut group, token);
        } else if !(token.kind == Kind::Mark && opens) {
            break;
        }
        at += 1;
    }
    let (value_end, then) =
        match carrier_named_behind(&part[at.min(next)..next], span.term, next == part.len()) {
            None => (next, None),
            // "-97 dBm (NR)": in brackets it is said of this value.
            Some(Behind { from, group: own, bracketed: true }) => {
                group.technology = own.technology.or(group.technology);
                group.role = own.role.or(group.role);
                group.index = own.index.or(group.index);
                (at + from, None)
            }
            Some(Behind { from, group: of_next, .. }) => (at + from, Some(of_next)),
        };
    let value = if at < value_end { &line[part[at].start..part[value_end - 1].end] } else { "" };
    Labelled {
        term: span.term,
        sure: span.sure,
        group,
        label: line[part[span.from].start..part[span.to - 1].end].to_owned(),
        value: value.trim().trim_end_matches([',', '(', '[']).trim().to_owned(),
        then,
    }
}

/// Words behind a value that name a carrier.
struct Behind {
    /// Where they begin, counted from the value's first token.
    from: usize,
    group: Group,
    bracketed: bool,
}

/// What the tokens from a value to the next label say of a carrier behind the value itself. Connection modes and bands
/// are made of such words themselves and keep them; so does the last label of a cell, unless they stand in brackets.
fn carrier_named_behind(tokens: &[Token], term: Term, last: bool) -> Option<Behind> {
    if matches!(term, Term::Mode | Term::Band) {
        return None;
    }
    let names = |token: &Token| token.kind == Kind::Word && modifier(&token.text).is_some();
    let from = tokens.iter().rposition(|token| !(token.kind == Kind::Mark || names(token)))? + 1;
    let mut group = Group::default();
    tokens[from..].iter().for_each(|token| take_word(&mut group, token));
    if group == Group::default() {
        return None;
    }
    let weighs = |token: &Token| {
        let found = (token.kind == Kind::Word).then(|| modifier(&token.text)).flatten();
        found.is_some_and(|found| found != Modifier::Filler)
    };
    let named = tokens[from..].iter().position(weighs)?;
    let bracketed = tokens[from..from + named].iter().any(|token| matches!(token.text.as_str(), "(" | "["));
    // A unit stays with its value.
    let from = from
        + tokens[from..]
            .iter()
            .take_while(|token| matches!(token.text.as_str(), "dbm" | "db" | "mhz" | "khz" | "ghz"))
            .count();
    (bracketed || !last).then_some(Behind { from, group, bracketed })
}

pub(super) fn take_word(group: &mut Group, token: &Token) {
    if let Some(found) = (token.kind == Kind::Word).then(|| modifier(&token.text)).flatten() {
        group.take(found);
    }
}
