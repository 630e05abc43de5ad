//! A copy of a site under new identifiers, for importing beside the original.

use open_beacon_core::model::{FileContent, SiteBundle};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::collections::HashMap;
use std::mem::take;
use uuid::Uuid;

/// Gives everything a new identifier from `make`, keeping what belongs together together: an identifier of a row of this export
/// is another one wherever it stands, in a column of its own or deep inside a value. Parts keep theirs: they are the catalogue's, not
/// the site's. Row by row, so that no second copy of the whole is held.
///
/// # Errors
/// Where a row is no such JSON as it is exported; that would be a fault of this program.
pub fn with_new_ids(
    mut bundle: SiteBundle,
    make: impl FnMut() -> Uuid,
) -> Result<SiteBundle, serde_json::Error> {
    let contents: Vec<FileContent> = contents(&mut bundle).map(take).collect();
    let mut renaming = Renaming { new: HashMap::new(), make };
    renaming.tables(&mut bundle, Pass::Collect)?;
    renaming.tables(&mut bundle, Pass::Rename)?;
    for (place, content) in self::contents(&mut bundle).zip(contents) {
        *place = content;
    }
    Ok(bundle)
}

/// The contents of all files, always in the same order.
fn contents(bundle: &mut SiteBundle) -> impl Iterator<Item = &mut FileContent> {
    let attachments = bundle.attachments.iter_mut().map(|file| &mut file.content);
    let tiles = bundle.tiles.iter_mut().map(|file| &mut file.content);
    let backdrops = bundle.backdrops.iter_mut().map(|file| &mut file.content);
    let photos = bundle.sweep_photos.iter_mut().map(|file| &mut file.content);
    attachments.chain(tiles).chain(backdrops).chain(photos)
}

#[derive(Clone, Copy, PartialEq)]
enum Pass {
    Collect,
    Rename,
}

struct Renaming<M> {
    new: HashMap<String, String>,
    make: M,
}

impl<M: FnMut() -> Uuid> Renaming<M> {
    fn tables(&mut self, bundle: &mut SiteBundle, pass: Pass) -> Result<(), serde_json::Error> {
        macro_rules! tables {
            ($($table:ident),*) => {
                // Every field stands here or below: one that is new does not compile until it does.
                let SiteBundle { format: _, version: _, site, settings, parts, $($table),* } = bundle;
                self.value(site, pass)?;
                $(for row in $table.iter_mut() {
                    self.value(row, pass)?;
                })*
                if pass == Pass::Rename {
                    self.value(settings, pass)?;
                    for row in parts.iter_mut() {
                        self.value(row, pass)?;
                    }
                }
            };
        }
        tables!(
            positions,
            setups,
            runs,
            samples,
            speed_tests,
            sittings,
            attachments,
            kits,
            masts,
            obstacles,
            landmarks,
            tiles,
            backdrops,
            sweeps,
            sweep_stops,
            sweep_photos,
            band_rounds,
            trials,
            predictions,
            speed_courses,
            events,
            amendments,
            as_built
        );
        Ok(())
    }

    fn value<T: Serialize + DeserializeOwned>(
        &mut self,
        row: &mut T,
        pass: Pass,
    ) -> Result<(), serde_json::Error> {
        let mut value = serde_json::to_value(&*row)?;
        match pass {
            Pass::Collect => {
                self.know(&value);
                for note in value.get("notes").and_then(Value::as_array).into_iter().flatten() {
                    self.know(note);
                }
            }
            Pass::Rename => {
                rename(&mut value, &self.new);
                *row = serde_json::from_value(value)?;
            }
        }
        Ok(())
    }

    fn know(&mut self, row: &Value) {
        if let Some(id) = row.get("id").and_then(Value::as_str) {
            self.new.entry(id.to_owned()).or_insert_with(|| (self.make)().to_string());
        }
    }
}

fn rename(value: &mut Value, new: &HashMap<String, String>) {
    match value {
        Value::String(text) => {
            if let Some(id) = new.get(text.as_str()) {
                text.clone_from(id);
            }
        }
        Value::Array(values) => values.iter_mut().for_each(|one| rename(one, new)),
        Value::Object(fields) => fields.values_mut().for_each(|one| rename(one, new)),
        _ => {}
    }
}
