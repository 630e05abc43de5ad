//! The house is as ARCHITECTURE.md says: every function that it names is there, crates depend on those below them only, and no
//! file has grown too long.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod names;

use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_owned()
}

fn read(path: &Path) -> String {
    std::fs::read_to_string(path).unwrap_or_else(|error| panic!("{}: {error}", path.display()))
}

/// All files below a folder that end like this.
fn files(folder: &Path, ending: &str) -> Vec<PathBuf> {
    let mut found = Vec::new();
    for entry in std::fs::read_dir(folder).into_iter().flatten() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            if !["node_modules", "target", "dist"].iter().any(|name| path.ends_with(name)) {
                found.extend(files(&path, ending));
            }
        } else if path.to_string_lossy().ends_with(ending) {
            found.push(path);
        }
    }
    found.sort();
    found
}

/// From the top of the list in ARCHITECTURE.md to its end.
const ORDER: [&str; 11] = [
    "server",
    "api",
    "simulator",
    "speedtest",
    "gateway",
    "exchange",
    "store",
    "outbound",
    "core",
    "link",
    "domain",
];

#[test]
fn crates_depend_on_those_below_them_only() {
    let listed = read(&root().join("ARCHITECTURE.md"));
    let places: Vec<usize> = ORDER
        .iter()
        .map(|name| {
            listed.find(&format!("| `crates/{name}` |")).unwrap_or_else(|| panic!("{name} is not listed"))
        })
        .collect();
    assert!(places.is_sorted(), "ARCHITECTURE.md lists them in another order");
    for (at, name) in ORDER.iter().enumerate() {
        let manifest = read(&root().join("crates").join(name).join("Cargo.toml"));
        let own = manifest.split("[dependencies]").nth(1).unwrap_or_default();
        let own = own.split("\n[").next().unwrap();
        for above in &ORDER[..=at] {
            assert!(!own.contains(&format!("open_beacon_{above}")), "{name} depends on {above}");
        }
    }
}

/// Hand-written files are read at one sitting.
const LONGEST: usize = 520;

#[test]
fn no_file_is_too_long_to_read() {
    let mut long = Vec::new();
    for (folder, ending) in
        [("crates", ".rs"), ("xtask", ".rs"), ("web/src", ".tsx"), ("web/src", ".ts"), ("e2e/specs", ".ts")]
    {
        for path in files(&root().join(folder), ending) {
            let lines = read(&path).lines().count();
            let generated = path.ends_with("schema.d.ts");
            if lines > LONGEST && !generated {
                long.push(format!("{}: {lines} lines", path.display()));
            }
        }
    }
    assert!(long.is_empty(), "{long:#?}");
}

/// A route reads what was asked, lets others work, and answers: its own lines are few.
const LONGEST_HANDLER: usize = 28;

#[test]
fn routes_hold_no_long_function() {
    let mut long = Vec::new();
    for path in files(&root().join("crates/api/src/routes"), ".rs") {
        let text = read(&path);
        // Behind the attribute of a route stands its function; where its body begins, a line ends in a brace.
        for part in text.split("#[utoipa::path(").skip(1) {
            let Some(function) = part.find("\nasync fn ").or_else(|| part.find("\nfn ")) else { continue };
            let body: Vec<&str> =
                part[function + 1..].lines().skip_while(|line| !line.ends_with('{')).collect();
            let lines = body.iter().position(|line| *line == "}").unwrap_or(body.len()) - 1;
            if lines > LONGEST_HANDLER {
                let name = part[function..].trim_start().lines().next().unwrap_or_default();
                long.push(format!("{}: {name} {lines} lines", path.display()));
            }
        }
    }
    assert!(long.is_empty(), "{long:#?}");
}

#[test]
fn only_callers_of_the_core_make_sentences() {
    let core = root().join("crates/core/src");
    let words = core.join("words");
    let worded: Vec<_> = files(&core, ".rs")
        .into_iter()
        .filter(|path| !path.starts_with(&words) && !path.ends_with("lib.rs"))
        .filter(|path| {
            read(path).lines().any(|line| line.trim_start().starts_with("use") && line.contains("words"))
        })
        .collect();
    assert!(worded.is_empty(), "these decide, and make sentences too: {worded:#?}");
}
