//! The same reading in other layouts than the plain page: words and units of their own, XML, an HTML table.

use crate::serve::{Fault, StandIn};
use axum::extract::State;
use axum::http::header;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use axum::{Json, Router};
use open_beacon_core::model::{Carrier, Reading, Technology};
use serde_json::{Value, json};
use std::sync::Arc;

/// `/other.json`, `/status.xml`, `/status.html`, `/tables.html`.
pub(crate) fn routes() -> Router<Arc<StandIn>> {
    Router::new()
        .route("/other.json", get(other))
        .route("/status.xml", get(xml))
        .route("/status.html", get(html))
        .route("/tables.html", get(tables))
}

fn first(reading: &Reading, technology: Technology) -> Option<&Carrier> {
    reading.carriers.iter().find(|one| one.technology == technology)
}

fn unit(value: Option<f64>, unit: &str) -> String {
    value.map_or_else(|| "--".to_owned(), |value| format!("{value} {unit}"))
}

/// One object a technology; units behind the numbers, SINR in tenths, width in kHz, identity in hexadecimal.
pub fn other_page(reading: &Reading) -> Value {
    let part = |technology, letter: char| {
        let Some(one) = first(reading, technology) else { return Value::Null };
        json!({
            "band": one.band.map(|band| format!("{letter}{band}")),
            "rsrp": unit(one.rsrp_dbm, "dBm"),
            "rsrq": unit(one.rsrq_db, "dB"),
            "sinr": one.sinr_db.map(|sinr| (sinr * 10.0).round()),
            "bandwidth": one.bandwidth_mhz.map(|width| width * 1000.0),
            "pci": one.pci.map(|pci| pci.to_string()),
            "cell_id": one.cell_identity.map(|identity| format!("{identity:X}")),
        })
    };
    json!({ "wwan": { "lte": part(Technology::Lte, 'B'), "nr": part(Technology::Nr, 'n') } })
}

async fn other(State(stand_in): State<Arc<StandIn>>) -> Response {
    Json(other_page(&stand_in.reading())).into_response()
}

/// One element a carrier.
pub fn xml_page(reading: &Reading) -> String {
    let one = |one: &Carrier| {
        let rat = if one.technology == Technology::Lte { "LTE" } else { "NR" };
        format!(
            "<cell rat=\"{rat}\"><band>{}</band><rsrp>{}</rsrp><sinr>{}</sinr><pci>{}</pci></cell>",
            one.band.unwrap_or_default(),
            one.rsrp_dbm.unwrap_or_default(),
            one.sinr_db.unwrap_or_default(),
            one.pci.unwrap_or_default()
        )
    };
    let cells: String = reading.carriers.iter().map(one).collect();
    format!("<?xml version=\"1.0\"?><response><cells>{cells}</cells></response>")
}

async fn xml(State(stand_in): State<Arc<StandIn>>) -> Response {
    ([(header::CONTENT_TYPE, "application/xml")], xml_page(&stand_in.reading())).into_response()
}

/// A table of labels and values, of the LTE carrier.
pub fn html_page(reading: &Reading) -> String {
    let one = first(reading, Technology::Lte);
    let row = |label: &str, value: String| format!("<tr><td>{label}:</td><td>{value}</td></tr>");
    let rows = [
        row("RSRP", unit(one.and_then(|one| one.rsrp_dbm), "dBm")),
        row("SINR", unit(one.and_then(|one| one.sinr_db), "dB")),
        row("Band", one.and_then(|one| one.band).map_or_else(|| "--".into(), |band| format!("B{band}"))),
        row("PCI", one.and_then(|one| one.pci).map_or_else(|| "--".into(), |pci| pci.to_string())),
    ]
    .concat();
    format!(
        "<!doctype html><html><head><title>Signal</title></head><body><table>{rows}</table></body></html>"
    )
}

async fn html(State(stand_in): State<Arc<StandIn>>) -> Response {
    Html(html_page(&stand_in.reading())).into_response()
}

/// A table a technology under its heading; `shifted`, NR stands first, and LTE is gone where both are in use.
pub fn tables_page(reading: &Reading, shifted: bool) -> String {
    let row = |label: &str, value: String| format!("<tr><td>{label}</td><td>{value}</td></tr>");
    let table = |technology, heading: &str, letter: char, channel: &str| {
        first(reading, technology).map(|one| {
            let rows = [
                row("Band", one.band.map_or_else(|| "-".into(), |band| format!("{letter}{band}"))),
                row(channel, one.channel.map_or_else(|| "-".into(), |channel| channel.to_string())),
                row("RSRP", unit(one.rsrp_dbm, "dBm")),
                row("SINR", unit(one.sinr_db, "dB")),
            ];
            format!("<h3>{heading}</h3><table>{}</table>", rows.concat())
        })
    };
    let lte = table(Technology::Lte, "LTE", 'B', "EARFCN");
    let nr = table(Technology::Nr, "5G NR", 'n', "ARFCN");
    let none = lte.is_none() && nr.is_none();
    let body = match (shifted, none) {
        (_, true) => "<p>Searching for network</p>".to_owned(),
        (false, _) => [lte, nr].into_iter().flatten().collect::<String>(),
        (true, _) => nr.or(lte).unwrap_or_default(),
    };
    format!("<!doctype html><html><head><title>Radio</title></head><body>{body}</body></html>")
}

async fn tables(State(stand_in): State<Arc<StandIn>>) -> Response {
    let shifted = stand_in.fault() == Fault::Shifts;
    Html(tables_page(&stand_in.reading(), shifted)).into_response()
}
