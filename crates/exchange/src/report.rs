//! A site as one page that needs nothing else: for reading and printing, by anyone, on anything that shows a page.
//!
//! HTML that is well-formed XML too, so that other programs can take it apart. No script, no address: nothing is fetched.

use crate::site_map::evidence;
use chrono::{DateTime, Utc};
use open_beacon_core::judge::{compare, figure_row, summarise_samples, verdict_advice};
use open_beacon_core::model::{
    Attach, Instrument, Position, Run, RunContext, RunId, Sample, Setup, SetupId, SiteBundle, Source,
    SpeedFigure, SpeedTest,
};
use open_beacon_core::words::{self, Style, setup_label};
use std::collections::HashMap;
use std::fmt::Write as _;

const STYLE: &str = "body{font:16px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#1d2433;background:#fffdf7}\
h1,h2{line-height:1.2}h2{margin-top:2rem;border-bottom:1px solid #c9c2b2}table{border-collapse:collapse;width:100%}\
th,td{text-align:left;vertical-align:top;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #e4decf}th{font-size:.85rem}\
.t{overflow-x:auto}.n{text-align:right;white-space:nowrap}.muted{color:#5a6172}@media print{body{margin:0;max-width:none}tr{break-inside:avoid}}";

/// The page under way.
struct Page(String);

impl Page {
    fn heading(&mut self, text: &str) {
        let _ = writeln!(self.0, "<h2>{}</h2>", escaped(text));
    }

    fn paragraph(&mut self, text: &str) {
        if !text.is_empty() {
            let _ = writeln!(self.0, "<p>{}</p>", escaped(text));
        }
    }

    /// A table; names of columns that begin with `#` are of numbers.
    fn table(&mut self, columns: &[&str], rows: impl IntoIterator<Item = Vec<String>>) {
        let class = |column: &str| if column.starts_with('#') { " class=\"n\"" } else { "" };
        self.0.push_str("<div class=\"t\"><table><thead><tr>");
        for column in columns {
            let _ = write!(self.0, "<th{}>{}</th>", class(column), escaped(column.trim_start_matches('#')));
        }
        self.0.push_str("</tr></thead><tbody>\n");
        for row in rows {
            self.0.push_str("<tr>");
            for (column, cell) in columns.iter().zip(row) {
                let _ = write!(self.0, "<td{}>{}</td>", class(column), escaped(&cell));
            }
            self.0.push_str("</tr>\n");
        }
        self.0.push_str("</tbody></table></div>\n");
    }
}

/// For text and attributes (XML 1.0, 2.4); characters that XML does not have become blanks.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for sign in text.chars() {
        match sign {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&#39;"),
            '\n' | '\t' => out.push(sign),
            sign if sign.is_control() || matches!(sign, '\u{fffe}' | '\u{ffff}') => out.push(' '),
            sign => out.push(sign),
        }
    }
    out
}

/// What the tables look things up in.
struct Known<'a> {
    bundle: &'a SiteBundle,
    style: Style,
    labels: HashMap<SetupId, String>,
    samples: HashMap<RunId, Vec<Sample>>,
    tests: HashMap<RunId, Vec<&'a SpeedTest>>,
}

impl<'a> Known<'a> {
    fn of(bundle: &'a SiteBundle) -> Self {
        let place = |setup: &Setup| bundle.positions.iter().find(|place| place.id == setup.position_id);
        let label = |setup: &'a Setup| Some((setup.id, setup_label(place(setup)?, &setup.spec)));
        let mut samples: HashMap<RunId, Vec<Sample>> = HashMap::new();
        for sample in &bundle.samples {
            samples.entry(sample.run_id).or_default().push(sample.clone());
        }
        let mut tests: HashMap<RunId, Vec<&SpeedTest>> = HashMap::new();
        for test in &bundle.speed_tests {
            tests.entry(test.run_id).or_default().push(test);
        }
        let labels = bundle.setups.iter().filter_map(label).collect();
        Self { bundle, style: Style { units: bundle.settings.units }, labels, samples, tests }
    }

    fn label(&self, setup: SetupId) -> String {
        self.labels.get(&setup).cloned().unwrap_or_default()
    }

    /// In the time of the house.
    fn when(&self, at: DateTime<Utc>) -> String {
        at.with_timezone(&self.bundle.site.time_zone).format("%Y-%m-%d %H:%M").to_string()
    }

    fn in_use(&self) -> Vec<(&'a Position, &'a Setup)> {
        let place = |setup: &Setup| {
            let found = self.bundle.positions.iter().find(|place| place.id == setup.position_id);
            found.filter(|place| place.archived_at.is_none())
        };
        let setups = self.bundle.setups.iter().filter(|setup| setup.archived_at.is_none());
        setups.filter_map(|setup| Some((place(setup)?, setup))).collect()
    }
}

/// The site as a page, `made_at` on it.
pub fn site_to_html(bundle: &SiteBundle, made_at: DateTime<Utc>) -> Vec<u8> {
    let known = Known::of(bundle);
    let name = escaped(&bundle.site.name);
    let mut page = Page(format!(
        "<!DOCTYPE html>\n<html lang=\"en\" xmlns=\"http://www.w3.org/1999/xhtml\"><head><meta charset=\"utf-8\"/>\
         <meta name=\"viewport\" content=\"width=device-width\"/><title>{name}</title><style>{STYLE}</style></head><body>\n<h1>{name}</h1>\n"
    ));
    page.paragraph(&bundle.site.notes);
    page.paragraph(&format!(
        "Written by Open Beacon on {} (times are those of {}). Pictures, terrain, raw samples and where the house stands are not on this page; the exported zip has them.",
        known.when(made_at),
        bundle.site.time_zone
    ));
    verdict(&mut page, &known);
    setups(&mut page, &known);
    runs(&mut page, &known);
    others(&mut page, &known);
    page.0.push_str("</body></html>\n");
    page.0.into_bytes()
}

/// What the Verdict stage says of all setups that were tested.
fn verdict(page: &mut Page, known: &Known) {
    let named = |id: SetupId| {
        let mut found = evidence(known.bundle, id);
        found.label = known.label(id);
        found
    };
    let Some(baseline) = known.bundle.settings.baseline_setup_id else { return };
    let others: Vec<_> =
        known.in_use().into_iter().map(|(_, setup)| setup.id).filter(|id| *id != baseline).collect();
    let others: Vec<_> = others.into_iter().map(named).filter(|one| !one.tests.is_empty()).collect();
    let compared = compare(&named(baseline), &others, known.bundle.site.time_zone);
    let (title, detail) = words::advice(&verdict_advice(&compared), known.style);
    page.heading("Verdict");
    page.paragraph(&title);
    page.paragraph(&detail);
}

fn setups(page: &mut Page, known: &Known) {
    page.heading("Setups");
    let rows = known.in_use().into_iter().map(|(_, setup)| {
        let own = evidence(known.bundle, setup.id);
        let figure = |figure, words: fn(f64) -> String| {
            let mean = figure_row(&own, figure).geometric_mean;
            mean.map_or_else(|| "–".into(), words)
        };
        let down = figure_row(&own, SpeedFigure::Download);
        vec![
            known.label(setup.id),
            down.values.len().to_string(),
            down.sittings.to_string(),
            figure(SpeedFigure::Download, words::rate),
            figure(SpeedFigure::Upload, words::rate),
            figure(SpeedFigure::IdleLatency, words::milliseconds),
        ]
    });
    page.table(&["Setup", "#Tests", "#Sittings", "#Download", "#Upload", "#Idle latency"], rows);
}

fn runs(page: &mut Page, known: &Known) {
    let mut runs: Vec<&Run> = known
        .bundle
        .runs
        .iter()
        .filter(|run| !matches!(run.context, RunContext::SweepPoint { .. }))
        .collect();
    runs.sort_by_key(|run| std::cmp::Reverse((run.started_at, run.id)));
    page.heading("Runs, the newest first");
    let rows = runs.into_iter().map(|run| {
        let samples = known.samples.get(&run.id).map_or(&[][..], Vec::as_slice);
        let tests = known.tests.get(&run.id).map_or(&[][..], Vec::as_slice);
        let heard = words::timeline::heard(&summarise_samples(samples));
        let tested = tests.iter().map(|test| words::timeline::figures(&test.figures));
        let found: Vec<String> = heard.into_iter().chain(tested).collect();
        vec![known.when(run.started_at), known.label(run.setup_id), found.join("; "), noted(run)]
    });
    page.table(&["When", "Setup", "Found", "Noted"], rows);
}

/// Everything about a run that a later comparison must know.
fn noted(run: &Run) -> String {
    let conditions = &run.conditions;
    let mut said = Vec::new();
    let mut when = |true_of_it: bool, text: &str| {
        if true_of_it && !text.is_empty() {
            said.push(text.to_owned());
        }
    };
    when(run.archived_at.is_some(), "left out");
    when(run.source == Source::Typed, "typed in");
    when(conditions.instrument == Instrument::Phone, "read from a phone");
    when(conditions.instrument == Instrument::Modem, "read from a second modem");
    when(conditions.attach == Attach::RestartedToRescan, "gateway restarted");
    when(conditions.attach == Attach::KeptAttached, "gateway kept attached");
    when(true, &conditions.network);
    when(true, &conditions.weather);
    when(true, &conditions.notes);
    when(true, run.reason.as_deref().unwrap_or_default());
    said.join("; ")
}

fn others(page: &mut Page, known: &Known) {
    let bundle = known.bundle;
    let sweeps = bundle.sweeps.iter().map(|sweep| (sweep.started_at, words::timeline::sweep(sweep)));
    let rounds = bundle.band_rounds.iter().map(|round| (round.started_at, words::timeline::round(round)));
    let events = bundle.events.iter().filter(|event| event.archived_at.is_none());
    let events = events.map(|event| (event.happened_at, event.text.clone()));
    let corrections = bundle.amendments.iter().map(|one| {
        let by = if one.by.is_empty() { String::new() } else { format!(" by {}", one.by) };
        (one.amended_at, format!("A typed run was corrected{by}: {}", one.why))
    });
    let mut all: Vec<(DateTime<Utc>, String)> =
        sweeps.chain(rounds).chain(events).chain(corrections).collect();
    all.sort_by_key(|(at, _)| std::cmp::Reverse(*at));
    if !all.is_empty() {
        page.heading("What else was done or happened");
        page.table(&["When", "What"], all.into_iter().map(|(at, what)| vec![known.when(at), what]));
    }
    let date = |date: Option<chrono::NaiveDate>| date.map(|date| date.to_string()).unwrap_or_default();
    let kits = bundle.kits.iter().filter(|kit| kit.archived_at.is_none());
    let kits: Vec<Vec<String>> = kits
        .map(|kit| vec![kit.name.clone(), date(kit.bought_on), date(kit.return_by), kit.notes.clone()])
        .collect();
    if !kits.is_empty() {
        page.heading("Kits");
        page.table(&["Kit", "Bought", "Can be returned until", "Notes"], kits);
    }
}
