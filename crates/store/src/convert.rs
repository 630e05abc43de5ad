//! Between columns and values.

use chrono::{DateTime, Utc};
use open_beacon_core::geo::GeoPoint;
use rusqlite::types::Type;
use rusqlite::{Error, Row};
use serde::Serialize;
use serde::de::DeserializeOwned;
use std::str::FromStr;

pub(crate) type Result<T> = std::result::Result<T, Error>;

fn broken(column: &str, error: impl std::error::Error + Send + Sync + 'static) -> Error {
    Error::FromSqlConversionFailure(
        0,
        Type::Text,
        Box::new(std::io::Error::other(format!("{column}: {error}"))),
    )
}

pub(crate) fn millis(at: DateTime<Utc>) -> i64 {
    at.timestamp_millis()
}

pub(crate) fn time(row: &Row, column: &str) -> Result<DateTime<Utc>> {
    from_millis(row.get(column)?)
}

pub(crate) fn maybe_time(row: &Row, column: &str) -> Result<Option<DateTime<Utc>>> {
    row.get::<_, Option<i64>>(column)?.map(from_millis).transpose()
}

fn from_millis(millis: i64) -> Result<DateTime<Utc>> {
    DateTime::from_timestamp_millis(millis).ok_or(Error::IntegralValueOutOfRange(0, millis))
}

pub(crate) fn id<T: FromStr>(row: &Row, column: &str) -> Result<T>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    row.get::<_, String>(column)?.parse().map_err(|error| broken(column, error))
}

pub(crate) fn maybe_id<T: FromStr>(row: &Row, column: &str) -> Result<Option<T>>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    row.get::<_, Option<String>>(column)?
        .map(|text| text.parse().map_err(|error| broken(column, error)))
        .transpose()
}

/// A plain enum as the word serde gives it, without quotes.
pub(crate) fn word(value: &impl Serialize) -> String {
    match serde_json::to_value(value) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("a plain enum serialises to a string, not to {other:?}"),
    }
}

pub(crate) fn from_word<T: DeserializeOwned>(row: &Row, column: &str) -> Result<T> {
    let text: String = row.get(column)?;
    serde_json::from_value(serde_json::Value::String(text)).map_err(|error| broken(column, error))
}

pub(crate) fn maybe_word<T: DeserializeOwned>(row: &Row, column: &str) -> Result<Option<T>> {
    let text: Option<String> = row.get(column)?;
    text.map(|text| {
        serde_json::from_value(serde_json::Value::String(text)).map_err(|error| broken(column, error))
    })
    .transpose()
}

pub(crate) fn json(value: &impl Serialize) -> String {
    serde_json::to_string(value).unwrap_or_else(|error| unreachable!("plain values serialise: {error}"))
}

pub(crate) fn from_json<T: DeserializeOwned>(row: &Row, column: &str) -> Result<T> {
    let text: String = row.get(column)?;
    serde_json::from_str(&text).map_err(|error| broken(column, error))
}

pub(crate) fn place(row: &Row) -> Result<Option<GeoPoint>> {
    let latitude: Option<f64> = row.get("latitude_deg")?;
    let longitude: Option<f64> = row.get("longitude_deg")?;
    Ok(latitude.zip(longitude).map(|(latitude_deg, longitude_deg)| GeoPoint { latitude_deg, longitude_deg }))
}
