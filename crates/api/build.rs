//! One name, one schema: in the OpenAPI document two types of one name overwrite each other without a word, so the
//! build fails where two types that are documented share a name.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// Crates whose types appear in the document.
const CRATES: [&str; 8] = ["domain", "link", "core", "exchange", "gateway", "speedtest", "store", "api"];

fn main() {
    let mut seen: BTreeMap<String, Vec<PathBuf>> = BTreeMap::new();
    for name in CRATES {
        let folder = Path::new("..").join(name).join("src");
        println!("cargo:rerun-if-changed={}", folder.display());
        visit(&folder, &mut seen);
    }
    let doubled: Vec<String> = seen
        .into_iter()
        .filter(|(_, files)| files.len() > 1)
        .map(|(name, files)| {
            format!(
                "{name} in {}",
                files.iter().map(|file| file.display().to_string()).collect::<Vec<_>>().join(" and ")
            )
        })
        .collect();
    assert!(
        doubled.is_empty(),
        "types that share a schema name (rename one, or give it #[schema(as = …)]): {}",
        doubled.join("; ")
    );
}

fn visit(folder: &Path, seen: &mut BTreeMap<String, Vec<PathBuf>>) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    for path in entries.flatten().map(|entry| entry.path()) {
        if path.is_dir() {
            visit(&path, seen);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            let text = std::fs::read_to_string(&path).unwrap_or_default();
            for name in schema_names(&text) {
                seen.entry(name).or_default().push(path.clone());
            }
        }
    }
}

/// Names of the types below a `derive` with `ToSchema`.
fn schema_names(text: &str) -> Vec<String> {
    let mut names = Vec::new();
    let mut documented = false;
    for line in text.lines().map(str::trim_start) {
        if line.starts_with("#[") && line.contains("ToSchema") {
            documented = true;
        }
        if let Some((_, renamed)) = line.split_once("schema(as = ").filter(|_| documented) {
            names.push(renamed.trim_end_matches([')', ']', ',']).to_owned());
            documented = false;
        }
        let words: Vec<&str> =
            line.split(|c: char| !(c.is_alphanumeric() || c == '_')).filter(|w| !w.is_empty()).collect();
        let declared = words.iter().position(|word| matches!(*word, "struct" | "enum"));
        if let Some(at) =
            declared.filter(|at| documented && *at <= 2 && (line.starts_with("pub") || *at == 0))
        {
            names.extend(words.get(at + 1).map(|name| (*name).to_owned()));
            documented = false;
        }
    }
    names
}
