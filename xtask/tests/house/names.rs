//! Every type and function that the table of numbers names.

use crate::{files, read, root};
use std::path::{Path, PathBuf};

/// What stands between backticks, with `{a, b}` written out.
fn quoted(cell: &str) -> Vec<String> {
    let names = cell.split('`').skip(1).step_by(2);
    names
        .flat_map(|name| match name.split_once('{') {
            Some((stem, rest)) => {
                let ends = rest.trim_end_matches('}').split(',').map(|end| format!("{stem}{}", end.trim()));
                ends.collect()
            }
            None => vec![name.to_owned()],
        })
        .collect()
}

fn says(text: &str, name: &str) -> bool {
    let kinds = ["fn", "struct", "enum", "trait", "const", "type", "mod"];
    let plain = |kind: &str| {
        text.match_indices(&format!("{kind} {name}")).any(|(at, found)| {
            let next = text[at + found.len()..].chars().next().unwrap_or(' ');
            !next.is_alphanumeric() && next != '_'
        })
    };
    kinds.into_iter().any(plain)
}

/// The files in which the item of a path may stand: its module's own, else all of the folder that the module is re-exported
/// from.
fn places(path: &str) -> (Vec<PathBuf>, String) {
    let mut parts: Vec<&str> = path.split("::").collect();
    let item = parts.pop().unwrap();
    let mut folder = root().join("crates").join(parts[0]).join("src");
    for part in &parts[1..] {
        let file = folder.join(format!("{part}.rs"));
        if file.exists() {
            return (vec![file], item.to_owned());
        }
        let inside = folder.join(part);
        if inside.is_dir() {
            folder = inside;
        }
    }
    (files(&folder, ".rs"), item.to_owned())
}

fn exists(path: &str) -> bool {
    let (files, item) = places(path);
    let as_module = |file: &Path| {
        file.file_stem().is_some_and(|stem| stem == item.as_str())
            || file.parent().is_some_and(|one| one.ends_with(&item))
    };
    files.iter().any(|file| says(&read(file), &item) || as_module(file))
}

#[test]
fn every_number_leads_to_a_function_that_is_there() {
    let text = read(&root().join("ARCHITECTURE.md"));
    let table = text.split("| On the screen | Type | Function |").nth(1).unwrap();
    let rows = table.lines().skip(2).take_while(|line| line.starts_with('|'));
    let sources: String =
        files(&root().join("crates"), ".rs").iter().map(|file| read(file)).collect::<Vec<_>>().join("\n");
    let (mut numbers, mut gone) = (0, Vec::new());
    for row in rows {
        numbers += 1;
        let cells: Vec<&str> = row.split('|').collect();
        for name in quoted(cells[2]) {
            let bare = name.split('.').next().unwrap();
            if !says(&sources, bare) {
                gone.push(format!("{name} of {}", cells[1].trim()));
            }
        }
        let functions = quoted(cells[3]);
        assert!(!functions.is_empty(), "no function at {row}");
        for name in functions {
            // "`module`: `Type::method`" names the method of a type that stands there.
            let there = if name.starts_with(char::is_uppercase) {
                name.split("::").all(|part| says(&sources, part))
            } else {
                exists(&name)
            };
            if !there {
                gone.push(format!("{name} of {}", cells[1].trim()));
            }
        }
    }
    assert!(numbers > 50, "{numbers} rows");
    assert!(gone.is_empty(), "{gone:#?}");
}

#[test]
fn a_name_that_is_gone_is_noticed() {
    assert!(exists("domain::metrics::class_of_carrier") && exists("link::predict::predict"));
    assert!(!exists("domain::metrics::no_such_function") && !exists("core::kit::predict::nothing_here"));
}

/// Every public item of the pure crates says what it is. Fields bear their unit in their name and are left to their authors.
#[test]
fn public_items_of_the_pure_crates_are_documented() {
    let items =
        ["pub fn ", "pub const fn ", "pub struct ", "pub enum ", "pub trait ", "pub type ", "pub const "];
    let mut undocumented = Vec::new();
    let mut seen = 0;
    for name in ["domain", "link", "core"] {
        for file in files(&root().join(format!("crates/{name}/src")), ".rs") {
            let text = read(&file);
            assert!(text.starts_with("//!"), "{} does not say what it is for", file.display());
            let lines: Vec<&str> = text.lines().map(str::trim).collect();
            for (at, line) in lines.iter().enumerate() {
                // A macro hands the docstring on.
                if line.contains('$') || !items.iter().any(|item| line.starts_with(item)) {
                    continue;
                }
                seen += 1;
                // Upwards over attributes, to the docstring or to where it should be.
                let above = lines[..at].iter().rev();
                let end = |line: &&&str| {
                    line.starts_with("///")
                        || line.is_empty()
                        || line.ends_with('{')
                        || line.ends_with(['}', ';'])
                };
                if above.clone().find(end).is_none_or(|line| !line.starts_with("///")) {
                    undocumented.push(format!("{}:{}: {line}", file.display(), at + 1));
                }
            }
        }
    }
    assert!(undocumented.is_empty(), "{undocumented:#?}");
    assert!(seen > 500, "only {seen} items were looked at");
}
