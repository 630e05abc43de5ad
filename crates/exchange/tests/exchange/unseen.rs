//! Pasted texts that the reader was not written for: how much of them is right, wrong without a word, or not understood. They
//! were written from the list of fields alone and kept as they were; what the reader learned from them is tested elsewhere.

use open_beacon_core::model::{Carrier, Technology};
use open_beacon_exchange::paste::{Confidence, PasteTarget, Pasted, read_paste};
use std::collections::BTreeMap;
use std::path::Path;

/// Fields of a carrier that are scored.
const SCORED: [(&str, PasteTarget); 9] = [
    ("band", PasteTarget::Band),
    ("channel", PasteTarget::Channel),
    ("bandwidth", PasteTarget::Bandwidth),
    ("pci", PasteTarget::Pci),
    ("cell", PasteTarget::CellIdentity),
    ("rsrp", PasteTarget::Rsrp),
    ("rsrq", PasteTarget::Rsrq),
    ("sinr", PasteTarget::Sinr),
    ("rssi", PasteTarget::Rssi),
];

#[derive(Clone, Debug)]
struct Expected {
    technology: Technology,
    values: BTreeMap<&'static str, f64>,
}

fn expected(line: &str) -> Expected {
    let mut words = line.split_whitespace();
    let technology = if words.next() == Some("nr") { Technology::Nr } else { Technology::Lte };
    let value = |word: &str| {
        let (name, value) = word.split_once('=').unwrap();
        let name = SCORED.iter().find(|(known, _)| *known == name).unwrap().0;
        (name, value.parse().unwrap())
    };
    Expected { technology, values: words.map(value).collect() }
}

fn of(carrier: &Carrier, name: &str) -> Option<f64> {
    match name {
        "band" => carrier.band.map(f64::from),
        "channel" => carrier.channel.map(f64::from),
        "bandwidth" => carrier.bandwidth_mhz,
        "pci" => carrier.pci.map(f64::from),
        "cell" => carrier.cell_identity.map(|value| value as f64),
        "rsrp" => carrier.rsrp_dbm,
        "rsrq" => carrier.rsrq_db,
        "sinr" => carrier.sinr_db,
        "rssi" => carrier.rssi_dbm,
        other => unreachable!("{other}"),
    }
}

#[derive(Debug, Default)]
struct Score {
    right: usize,
    missing: usize,
    /// Wrong, and marked as unsure.
    doubted: usize,
    /// Wrong, as if it were certain.
    silent: Vec<String>,
}

fn score(text: &str, wanted: &[Expected], pasted: &Pasted, into: &mut Score, name: &str) {
    // The most alike first, so that a row that is lost takes nothing of the next one's.
    let same = |at: usize, one: &Expected| {
        one.values.iter().filter(|(field, value)| of(&pasted.carriers[at], field) == Some(**value)).count()
    };
    let mut alike: Vec<(usize, usize, usize)> = (0..pasted.carriers.len())
        .flat_map(|at| wanted.iter().enumerate().map(move |(k, one)| (at, k, one)))
        .filter(|(at, _, one)| {
            pasted.carriers[*at].technology == one.technology || one.values.len() == same(*at, one)
        })
        .map(|(at, k, one)| (same(at, one), at, k))
        .filter(|(same, ..)| *same > 0)
        .collect();
    alike.sort_unstable_by(|a, b| b.cmp(a));
    let mut pairs: Vec<(Option<usize>, Option<&Expected>)> = Vec::new();
    let (mut left, mut open): (Vec<usize>, Vec<usize>) =
        ((0..pasted.carriers.len()).collect(), (0..wanted.len()).collect());
    for (_, at, k) in alike {
        if left.contains(&at) && open.contains(&k) {
            left.retain(|one| *one != at);
            open.retain(|one| *one != k);
            pairs.push((Some(at), Some(&wanted[k])));
        }
    }
    pairs.extend(open.into_iter().map(|k| (None, Some(&wanted[k]))));
    pairs.extend(left.into_iter().map(|at| (Some(at), None)));
    for (at, one) in pairs {
        for (field, target) in SCORED {
            let wanted = one.and_then(|one| one.values.get(field).copied());
            let got = at.and_then(|at| of(&pasted.carriers[at], field));
            match (wanted, got) {
                (None, None) => {}
                (Some(wanted), Some(got)) if wanted == got => into.right += 1,
                (Some(_), None) => into.missing += 1,
                (_, Some(got)) => {
                    let sure = pasted.fields.iter().any(|one| {
                        one.carrier == at && one.target == target && one.confidence == Confidence::High
                    });
                    if sure {
                        into.silent.push(format!("{name}: {field} {got}, wanted {wanted:?} in {text:.60}"));
                    } else {
                        into.doubted += 1;
                    }
                }
            }
        }
    }
}

fn corpus(folder: &str) -> Vec<(String, String, Vec<Expected>)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/exchange").join(folder);
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.sort();
    assert!(paths.len() >= 30);
    let read = |path: std::path::PathBuf| {
        let whole = std::fs::read_to_string(&path).unwrap();
        let (text, wanted) = whole.split_once("\n----\n").unwrap();
        let name = path.file_stem().unwrap().display().to_string();
        (name, text.to_owned(), wanted.lines().map(expected).collect())
    };
    paths.into_iter().map(read).collect()
}

/// All texts of a folder, with a line for each.
fn scored(folder: &str) -> (Score, usize) {
    let mut total = Score::default();
    for (name, text, wanted) in corpus(folder) {
        let before = (total.right, total.missing, total.doubted);
        score(&text, &wanted, &read_paste(&text).unwrap(), &mut total, &name);
        let (right, missing, doubted) =
            (total.right - before.0, total.missing - before.1, total.doubted - before.2);
        println!("{name}: {right} right, {missing} not understood, {doubted} wrong and marked");
    }
    let Score { right, missing, doubted, silent } = &total;
    let all = right + missing + doubted + silent.len();
    println!(
        "{right} of {all} right, {missing} not understood, {doubted} wrong and marked, {} wrong",
        silent.len()
    );
    (total, all)
}

#[test]
fn texts_not_written_for_the_reader_are_read_or_handed_back() {
    let (Score { right, silent, .. }, all) = scored("unseen");
    assert!(silent.is_empty(), "{}", silent.join("\n"));
    assert!(right * 100 >= 85 * all, "{right} of {all}");
}

/// Thirty more, written after the reader was finished and kept before it was run on them. It first read 208 of 238 values right, handed 20
/// back, marked 5 and had 5 wrong without a word: two columns side by side, a number before a technology, a band named late. Those
/// causes are mended, so these are not unseen any more either.
#[test]
fn thirty_more_are_read_or_handed_back() {
    let (Score { right, silent, .. }, all) = scored("unseen_second");
    assert!(silent.is_empty(), "{}", silent.join("\n"));
    assert!(right * 100 >= 85 * all, "{right} of {all}");
}

/// A text as it comes out of a bad scan or a hasty copy: one to three digits that became letters, marks or units that were lost, or
/// a line that is gone.
fn damaged(text: &str, random: &mut fastrand::Rng) -> String {
    let mut text = text.to_owned();
    for _ in 0..random.usize(1..=3) {
        text = match random.u8(0..4) {
            0 => nth_replaced(&text, random, |c| {
                let letter = match c {
                    '0' => 'O',
                    '1' => 'l',
                    '5' => 'S',
                    '8' => 'B',
                    _ => return None,
                };
                Some(letter.to_string())
            }),
            1 => nth_replaced(&text, random, |c| {
                [':', '=', ';', '|', '-'].contains(&c).then(|| " ".to_owned())
            }),
            2 => {
                let unit = ["dBm", "dB", "MHz", "kHz"][random.usize(0..4)];
                text.replacen(unit, "", 1)
            }
            _ => {
                let lines: Vec<&str> = text.lines().collect();
                let gone = random.usize(0..lines.len().max(1));
                let left = lines.iter().enumerate().filter(|(at, _)| *at != gone).map(|(_, line)| *line);
                left.collect::<Vec<_>>().join("\n")
            }
        };
    }
    text
}

/// One of the characters for which `with` has something is replaced by it.
fn nth_replaced(text: &str, random: &mut fastrand::Rng, with: impl Fn(char) -> Option<String>) -> String {
    let places: Vec<usize> =
        text.char_indices().filter(|(_, c)| with(*c).is_some()).map(|(at, _)| at).collect();
    let Some(at) = random.choice(&places).copied() else { return text.to_owned() };
    let c = text[at..].chars().next().unwrap_or_default();
    format!("{}{}{}", &text[..at], with(c).unwrap_or_default(), &text[at + c.len_utf8()..])
}

#[test]
fn damaged_texts_are_seldom_wrong_without_a_word() {
    let corpus = [corpus("unseen"), corpus("unseen_second")].concat();
    let mut random = fastrand::Rng::with_seed(16);
    let (mut total, mut values) = (Score::default(), 0);
    for n in 0..20_000 {
        let (name, text, wanted) = &corpus[n % corpus.len()];
        let text = damaged(text, &mut random);
        let Ok(pasted) = read_paste(&text) else { continue };
        score(&text, wanted, &pasted, &mut total, name);
        values += wanted.iter().map(|one| one.values.len()).sum::<usize>();
    }
    let Score { right, missing, doubted, silent } = &total;
    println!(
        "{values} values: {right} right, {missing} not understood, {doubted} wrong and marked, {} wrong",
        silent.len()
    );
    for one in silent.iter().step_by(silent.len() / 12 + 1) {
        println!("  {one}");
    }
    assert!(silent.len() * 1000 <= 3 * values, "{} of {values}", silent.len());
}
