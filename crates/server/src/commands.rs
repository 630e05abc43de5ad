//! What can be done without the web application.

use anyhow::{Context, bail};
use open_beacon_api::outward;
use open_beacon_api::shared_file::SharedFile;
use open_beacon_store::Store;
use std::fs::File;
use std::path::Path;

pub(crate) fn backup(data: &Path, file: &Path) -> anyhow::Result<()> {
    open_beacon_store::backup(data, file)?;
    println!("Backed up {} into {}.", data.display(), file.display());
    Ok(())
}

pub(crate) fn restore(file: &Path, data: &Path) -> anyhow::Result<()> {
    open_beacon_store::restore(file, data)?;
    println!("Restored {} into {}.", file.display(), data.display());
    Ok(())
}

pub(crate) fn import(file: &Path, data: &Path, allow_requests: bool) -> anyhow::Result<()> {
    let reading = || format!("reading {}", file.display());
    let opened = File::open(file).with_context(reading)?;
    let length = opened.metadata().with_context(reading)?.len();
    let bundle = match open_beacon_exchange::from_source(SharedFile::new(opened, length)) {
        Ok(bundle) => bundle,
        Err(problems) => {
            for problem in &problems {
                let line = problem.line.map_or(String::new(), |line| format!(", line {line}"));
                eprintln!("{}{line}: {}", problem.file, problem.reason);
            }
            bail!("{} rows cannot be taken, so none was", problems.len());
        }
    };
    let store = Store::open(data)?;
    let site = bundle.site.id;
    let sends = outward::requests(&bundle.settings);
    if store.site(site).is_err() && !sends.is_empty() {
        store.set_asleep(site, !allow_requests)?;
        println!("This site says what is sent, and where:");
        sends.iter().for_each(|line| println!("  {line}"));
        if !allow_requests {
            println!(
                "None of it is sent before you allow it on the site's page, or import with --allow-requests."
            );
        }
    }
    let plan = store.import_bundle(&bundle)?;
    println!("{}: {} rows brought in, {} were here already.", bundle.site.name, plan.new, plan.same);
    Ok(())
}

pub(crate) fn openapi() -> anyhow::Result<()> {
    println!("{}", open_beacon_api::openapi().to_pretty_json()?);
    Ok(())
}
