//! Between columns and values.

use chrono::{DateTime, Utc};
use open_beacon_core::geo::GeoPoint;
use rusqlite::types::Type;
use rusqlite::{Error, Row, RowIndex};
use serde::Serialize;
use serde::de::value::StrDeserializer;
use serde::de::{DeserializeOwned, IntoDeserializer};
use std::fmt::Display;
use std::str::FromStr;

/// A column by its name or, where many rows are read, by its place, which needs no search.
pub(crate) trait Column: RowIndex + Display + Copy {}
impl<T: RowIndex + Display + Copy> Column for T {}

/// Places of columns one after the other, for rows read in the order of their columns.
pub(crate) fn places() -> impl FnMut() -> usize {
    let mut places = 0..;
    move || places.next().unwrap_or_default()
}

pub(crate) type Result<T> = std::result::Result<T, Error>;

fn broken(column: impl Display, error: impl std::error::Error + Send + Sync + 'static) -> Error {
    Error::FromSqlConversionFailure(
        0,
        Type::Text,
        Box::new(std::io::Error::other(format!("{column}: {error}"))),
    )
}

pub(crate) fn millis(at: DateTime<Utc>) -> i64 {
    at.timestamp_millis()
}

pub(crate) fn time(row: &Row, column: impl Column) -> Result<DateTime<Utc>> {
    from_millis(row.get(column)?)
}

pub(crate) fn maybe_time(row: &Row, column: impl Column) -> Result<Option<DateTime<Utc>>> {
    row.get::<_, Option<i64>>(column)?.map(from_millis).transpose()
}

fn from_millis(millis: i64) -> Result<DateTime<Utc>> {
    DateTime::from_timestamp_millis(millis).ok_or(Error::IntegralValueOutOfRange(0, millis))
}

pub(crate) fn id<T: FromStr>(row: &Row, column: impl Column) -> Result<T>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    row.get_ref(column)?.as_str()?.parse().map_err(|error| broken(column, error))
}

pub(crate) fn maybe_id<T: FromStr>(row: &Row, column: impl Column) -> Result<Option<T>>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    let text = row.get_ref(column)?.as_str_or_null()?;
    text.map(|text| text.parse().map_err(|error| broken(column, error))).transpose()
}

/// A plain enum as the word serde gives it, without quotes.
pub(crate) fn word(value: &impl Serialize) -> String {
    match serde_json::to_value(value) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("a plain enum serialises to a string, not to {other:?}"),
    }
}

fn of_word<T: DeserializeOwned>(column: impl Display, text: &str) -> Result<T> {
    let word: StrDeserializer<serde::de::value::Error> = text.into_deserializer();
    T::deserialize(word).map_err(|error| broken(column, error))
}

pub(crate) fn from_word<T: DeserializeOwned>(row: &Row, column: impl Column) -> Result<T> {
    of_word(column, row.get_ref(column)?.as_str()?)
}

pub(crate) fn maybe_word<T: DeserializeOwned>(row: &Row, column: impl Column) -> Result<Option<T>> {
    row.get_ref(column)?.as_str_or_null()?.map(|text| of_word(column, text)).transpose()
}

pub(crate) fn json(value: &impl Serialize) -> String {
    serde_json::to_string(value).unwrap_or_else(|error| unreachable!("plain values serialise: {error}"))
}

pub(crate) fn from_json<T: DeserializeOwned>(row: &Row, column: impl Column) -> Result<T> {
    serde_json::from_str(row.get_ref(column)?.as_str()?).map_err(|error| broken(column, error))
}

pub(crate) fn maybe_json<T: DeserializeOwned>(row: &Row, column: impl Column) -> Result<Option<T>> {
    let text = row.get_ref(column)?.as_str_or_null()?;
    text.map(|text| serde_json::from_str(text).map_err(|error| broken(column, error))).transpose()
}

pub(crate) fn place(row: &Row) -> Result<Option<GeoPoint>> {
    let latitude: Option<f64> = row.get("latitude_deg")?;
    let longitude: Option<f64> = row.get("longitude_deg")?;
    Ok(latitude.zip(longitude).map(|(latitude_deg, longitude_deg)| GeoPoint { latitude_deg, longitude_deg }))
}
