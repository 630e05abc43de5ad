//! A line as words, numbers and marks, each with its place in the line.

/// One piece of a line.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Token {
    pub kind: Kind,
    /// Byte range in the line.
    pub start: usize,
    pub end: usize,
    /// Folded text of a word; of a number as it stands.
    pub text: String,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    Word,
    Number,
    /// Ends a cell: tab, bar, semicolon, or two blanks and more.
    Cell,
    /// Anything else: colon, equals sign, comma, bracket.
    Mark,
}

fn is_minus(c: char) -> bool {
    matches!(c, '-' | '−' | '–' | '—')
}

/// Splits a line. A number is an optional sign and digits with at most one decimal sign between digits; digits with
/// letters right after them are a word ("5G"), but for a unit ("97dBm", "20MHz").
pub(super) fn tokens(line: &str) -> Vec<Token> {
    let chars: Vec<(usize, char)> = line.char_indices().collect();
    let end_of = |at: usize| chars.get(at).map_or(line.len(), |(byte, _)| *byte);
    let mut found = Vec::new();
    let mut at = 0;
    while at < chars.len() {
        let (start, c) = chars[at];
        if c == '\t' || c == '|' || c == ';' {
            found.push(Token { kind: Kind::Cell, start, end: end_of(at + 1), text: c.to_string() });
            at += 1;
        } else if c.is_whitespace() {
            let run = chars[at..].iter().take_while(|(_, c)| c.is_whitespace()).count();
            if run >= 2 && at > 0 && at + run < chars.len() {
                found.push(Token { kind: Kind::Cell, start, end: end_of(at + run), text: " ".into() });
            }
            at += run;
        } else if let Some(length) = number_length(&chars[at..], at == 0 || boundary(chars[at - 1].1)) {
            let whole = !damaged(&found, &chars[..at]) && !cut_short(&chars[at + length..]);
            let kind = if whole { Kind::Number } else { Kind::Word };
            found.push(Token {
                kind,
                start,
                end: end_of(at + length),
                text: line[start..end_of(at + length)].into(),
            });
            at += length;
        } else if c.is_alphanumeric() {
            let length = chars[at..].iter().take_while(|(_, c)| c.is_alphanumeric()).count();
            let text = super::words::folded(&line[start..end_of(at + length)]);
            found.push(Token { kind: Kind::Word, start, end: end_of(at + length), text });
            at += length;
        } else {
            found.push(Token { kind: Kind::Mark, start, end: end_of(at + 1), text: c.to_string() });
            at += 1;
        }
    }
    found
}

/// Whether digits are the rest of a number whose beginning was misread, "l2.5" for 12.5: a decimal sign glued to a word that is no
/// band. What is not wholly a number is none.
fn damaged(found: &[Token], before: &[(usize, char)]) -> bool {
    let [.., (_, word), (_, sign)] = before else { return false };
    let glued = matches!(sign, '.' | ',') && word.is_alphanumeric();
    let [.., last, mark] = found else { return false };
    glued
        && mark.kind == Kind::Mark
        && last.kind == Kind::Word
        && super::value::lettered(&last.text).is_none()
}

/// Whether a word is of digits and letters that digits are misread as: "3OO".
pub(super) fn misread(word: &str) -> bool {
    let like_digits = |c: char| c.is_ascii_digit() || "oOlIiSsBbZzg".contains(c);
    word.chars().all(like_digits) && word.chars().any(char::is_alphabetic)
}

/// Whether digits are only the beginning of a number whose rest was misread, "107.S" for 107.5.
fn cut_short(after: &[(usize, char)]) -> bool {
    let [(_, '.' | ','), rest @ ..] = after else { return false };
    let rest: String = rest.iter().map(|(_, c)| *c).take_while(|c| c.is_alphanumeric()).collect();
    (1..=3).contains(&rest.len()) && misread(&rest) && super::value::lettered(&rest.to_lowercase()).is_none()
}

/// A sign counts as one only where no word or number stands right before it.
fn boundary(before: char) -> bool {
    !before.is_alphanumeric()
}

fn number_length(chars: &[(usize, char)], sign_counts: bool) -> Option<usize> {
    let at = |k: usize| chars.get(k).map(|(_, c)| *c);
    let mut length = 0;
    if at(0).is_some_and(|c| is_minus(c) || c == '+') {
        if !sign_counts {
            return None;
        }
        length = 1;
        // One blank between sign and digits is forgiven.
        if at(1) == Some(' ') && at(2).is_some_and(|c| c.is_ascii_digit()) {
            length = 2;
        }
    }
    let digits = |from: usize| chars.iter().skip(from).take_while(|(_, c)| c.is_ascii_digit()).count();
    let whole = digits(length);
    if whole == 0 {
        return None;
    }
    length += whole;
    if at(length).is_some_and(|c| c == '.' || c == ',') && digits(length + 1) > 0 {
        let more = digits(length + 1);
        // "-97,-11" and "99,99,255" are lists: a comma is a decimal sign before one or two digits that end there.
        let ends = !at(length + 1 + more).is_some_and(|c| c == ',' || c == '.' || c.is_ascii_digit());
        if at(length) == Some('.') || (more <= 2 && ends) {
            length += 1 + more;
        }
    }
    let rest: String =
        chars.iter().skip(length).map(|(_, c)| *c).take_while(|c| c.is_alphanumeric()).collect();
    let unit = matches!(
        rest.to_lowercase().as_str(),
        "" | "dbm" | "db" | "mhz" | "khz" | "ghz" | "m" | "mbit" | "mbps"
    );
    unit.then_some(length)
}
