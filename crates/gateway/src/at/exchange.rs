//! One question to a modem and its answer, apart from what the modem announces by itself meanwhile (TS 27.007, V.250).

use super::{Wire, nonsense};
use crate::http::DriverError;
use open_beacon_domain::limits::LONGEST_MODEM_ANSWER_BYTES;
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::time::timeout;

/// A question without any result costs itself and no other (common practice, no source: commands of this kind answer within a
/// second).
pub(super) const ONE_QUESTION: Duration = Duration::from_millis(1500);
/// How long the answer may come behind a result that belonged to something else.
const STRAY_RESULT: Duration = Duration::from_millis(300);

/// What stands behind a standard command's own name, in the answer to the question.
pub(super) async fn ask(stream: &mut dyn Wire, command: &str) -> Result<Option<String>, DriverError> {
    let name = command.trim_start_matches("AT").trim_end_matches('?');
    let lines = lines_of(stream, command, Some(name), ONE_QUESTION).await?.lines();
    let mut answers =
        lines.iter().filter_map(|line| Some(line.strip_prefix(name)?.strip_prefix(':')?.trim()));
    // The registration may be announced between question and answer: then its state is the first field, in the answer the second
    // (clause 10.1.22).
    let is_answer = |text: &&str| !command.ends_with("REG?") || state_is_second(text);
    Ok(answers.rfind(is_answer).map(str::to_owned))
}

fn state_is_second(text: &str) -> bool {
    text.split(',').nth(1).is_some_and(|field| field.trim().parse::<u8>().is_ok())
}

/// Whether a line ends an answer, and how (TS 27.007 clause 9, V.250 clause 5.7.1; as numbers with V0).
fn result(line: &str) -> Option<bool> {
    match line {
        "OK" | "0" => Some(true),
        "ERROR" | "4" | "NO CARRIER" | "3" => Some(false),
        _ if line.starts_with("+CME ERROR") || line.starts_with("+CMS ERROR") => Some(false),
        _ => {
            let said = line.to_ascii_uppercase();
            (said.contains("NOT SUPPORT") && !said.starts_with('+')).then_some(false)
        }
    }
}

/// The lines before the first result in what was heard, whether it is a good one, and what came behind it.
fn first_result(heard: &str) -> Option<(Vec<String>, bool, String)> {
    let mut lines = Vec::new();
    let mut rest = heard;
    // Lines are whole once their end has come.
    while let Some(end) = rest.find(['\r', '\n']) {
        let line = rest[..end].trim();
        rest = &rest[end + 1..];
        match result(line) {
            Some(good) => return Some((lines, good, rest.to_owned())),
            // An echo is no answer.
            None if line.is_empty() || line.starts_with("AT") => {}
            None => lines.push(line.to_owned()),
        }
    }
    None
}

/// What came of a command.
pub(super) enum Answered {
    /// A good result, and the lines before it.
    Well(Vec<String>),
    /// An error result: it is not known, or not allowed now.
    Refused,
    /// No result in time.
    Silent,
}

impl Answered {
    /// The lines of a good answer; none of another.
    pub(super) fn lines(self) -> Vec<String> {
        if let Self::Well(lines) = self { lines } else { Vec::new() }
    }
}

/// Whether what was heard is from a server of another kind. Its first line may be an echo of the command.
fn is_no_modem(heard: &str) -> bool {
    let foreign = |line: &str| line.starts_with("HTTP/") || line.starts_with('<');
    heard.split(['\r', '\n']).map(str::trim).filter(|line| !line.is_empty()).take(2).any(foreign)
}

/// Sends a command and reads to the end of its answer. `named`: how a line of the answer begins; a good result without such a line may be a stray one, and
/// the answer still on its way. `longest`: how long a result is waited for.
pub(super) async fn lines_of(
    stream: &mut dyn Wire,
    command: &str,
    named: Option<&str>,
    longest: Duration,
) -> Result<Answered, DriverError> {
    let broke = |_| DriverError::Unreachable("the connection broke off".into());
    let mut chunk = [0u8; 512];
    // What was announced since the last question is no part of this answer.
    while let Ok(Ok(1..)) = timeout(Duration::ZERO, stream.read(&mut chunk)).await {}
    stream.write_all(format!("{command}\r").as_bytes()).await.map_err(broke)?;
    let mut heard = String::new();
    let mut patience = longest;
    let mut stray: Option<Vec<String>> = None;
    loop {
        while let Some((lines, good, rest)) = first_result(&heard) {
            heard = rest;
            let answers = named.is_none_or(|name| lines.iter().any(|line| line.starts_with(name)));
            match (good, answers) {
                (true, true) => return Ok(Answered::Well(lines)),
                (true, false) => {
                    stray.get_or_insert_default().extend(lines);
                    patience = STRAY_RESULT;
                }
                (false, _) => return Ok(Answered::Refused),
            }
        }
        let Ok(read) = timeout(patience, stream.read(&mut chunk)).await else {
            return Ok(stray.map_or(Answered::Silent, Answered::Well));
        };
        let count = read.map_err(broke)?;
        if count == 0 {
            return Err(broke(std::io::Error::from(std::io::ErrorKind::UnexpectedEof)));
        }
        heard.push_str(&String::from_utf8_lossy(&chunk[..count]));
        if heard.len() > LONGEST_MODEM_ANSWER_BYTES || is_no_modem(&heard) {
            return Err(nonsense("this is no modem; check the port", &heard));
        }
    }
}
