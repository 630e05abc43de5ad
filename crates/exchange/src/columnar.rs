//! Tables in Apache Parquet, for programs that work on columns.

use crate::cells::{Column, Kind};
use chrono::DateTime;
use parquet::basic::{ConvertedType, LogicalType, Repetition, TimeUnit, Type as Physical};
use parquet::column::writer::ColumnWriter;
use parquet::data_type::ByteArray;
use parquet::errors::{ParquetError, Result};
use parquet::file::properties::WriterProperties;
use parquet::file::writer::SerializedFileWriter;
use parquet::schema::types::{Type, TypePtr};
use serde::Serialize;
use serde_json::Value;
use std::io::Write;
use std::sync::Arc;

/// Rows that are held before they are written.
const ROWS_HELD: usize = 20_000;

/// What a column of a Parquet file holds; nothing where a cell is empty.
enum Held {
    Numbers(Vec<Option<f64>>),
    /// Milliseconds since 1970, UTC.
    Instants(Vec<Option<i64>>),
    Texts(Vec<Option<String>>),
}

impl Held {
    fn of(column: &Column) -> Self {
        match column.kind {
            Kind::Number => Self::Numbers(Vec::new()),
            Kind::Text | Kind::MaybeText if column.name.ends_with("_at") => Self::Instants(Vec::new()),
            _ => Self::Texts(Vec::new()),
        }
    }

    fn take(&mut self, value: Option<&Value>) {
        let value = value.filter(|value| !value.is_null());
        match self {
            Self::Numbers(held) => held.push(value.and_then(Value::as_f64)),
            Self::Instants(held) => {
                let at =
                    value.and_then(Value::as_str).and_then(|text| DateTime::parse_from_rfc3339(text).ok());
                held.push(at.map(|at| at.timestamp_millis()));
            }
            // Texts as they are: nothing runs what stands in a Parquet file.
            Self::Texts(held) => held.push(value.map(|value| match value {
                Value::String(text) => text.clone(),
                other => other.to_string(),
            })),
        }
    }

    fn physical(&self) -> (Physical, ConvertedType, Option<LogicalType>) {
        match self {
            Self::Numbers(_) => (Physical::DOUBLE, ConvertedType::NONE, None),
            Self::Instants(_) => {
                let unit = LogicalType::timestamp(true, TimeUnit::MILLIS);
                (Physical::INT64, ConvertedType::TIMESTAMP_MILLIS, Some(unit))
            }
            Self::Texts(_) => (Physical::BYTE_ARRAY, ConvertedType::UTF8, Some(LogicalType::String)),
        }
    }

    fn write(&mut self, out: &mut ColumnWriter<'_>) -> Result<()> {
        match (self, out) {
            (Self::Numbers(held), ColumnWriter::DoubleColumnWriter(out)) => {
                let (values, present) = parted(held);
                out.write_batch(&values, Some(&present), None)?;
            }
            (Self::Instants(held), ColumnWriter::Int64ColumnWriter(out)) => {
                let (values, present) = parted(held);
                out.write_batch(&values, Some(&present), None)?;
            }
            (Self::Texts(held), ColumnWriter::ByteArrayColumnWriter(out)) => {
                let (values, present) = parted(held);
                let values: Vec<ByteArray> =
                    values.iter().map(|text| ByteArray::from(text.as_str())).collect();
                out.write_batch(&values, Some(&present), None)?;
            }
            _ => return Err(ParquetError::General("a column of another type".into())),
        }
        Ok(())
    }
}

/// The values there are, and for every row whether there is one.
fn parted<T>(held: &mut Vec<Option<T>>) -> (Vec<T>, Vec<i16>) {
    let present = held.iter().map(|value| i16::from(value.is_some())).collect();
    (std::mem::take(held).into_iter().flatten().collect(), present)
}

/// Writes rows as a Parquet file, some thousands at a time.
///
/// # Errors
/// Those of the target.
pub(crate) fn write_parquet<T: Serialize>(
    columns: &[Column],
    rows: impl Iterator<Item = T>,
    target: impl Write + Send,
) -> Result<()> {
    let mut held: Vec<Held> = columns.iter().map(Held::of).collect();
    let properties = Arc::new(WriterProperties::builder().build());
    let mut file = SerializedFileWriter::new(target, schema(columns, &held)?, properties)?;
    let mut count = 0;
    for row in rows {
        let value =
            serde_json::to_value(row).unwrap_or_else(|error| unreachable!("plain values serialise: {error}"));
        for (column, held) in columns.iter().zip(&mut held) {
            held.take(value.pointer(column.pointer));
        }
        count += 1;
        if count % ROWS_HELD == 0 {
            flush(&mut held, &mut file)?;
        }
    }
    if count % ROWS_HELD != 0 {
        flush(&mut held, &mut file)?;
    }
    file.close().map(|_| ())
}

fn schema(columns: &[Column], held: &[Held]) -> Result<TypePtr> {
    let fields = columns.iter().zip(held).map(|(column, held)| {
        let (physical, converted, logical) = held.physical();
        let field = Type::primitive_type_builder(column.name, physical)
            .with_repetition(Repetition::OPTIONAL)
            .with_converted_type(converted)
            .with_logical_type(logical);
        Ok(Arc::new(field.build()?))
    });
    let fields = fields.collect::<Result<Vec<_>>>()?;
    Ok(Arc::new(Type::group_type_builder("row").with_fields(fields).build()?))
}

fn flush<W: Write + Send>(held: &mut [Held], file: &mut SerializedFileWriter<W>) -> Result<()> {
    let mut group = file.next_row_group()?;
    let mut columns = held.iter_mut();
    while let (Some(held), Some(mut out)) = (columns.next(), group.next_column()?) {
        held.write(out.untyped())?;
        out.close()?;
    }
    group.close().map(|_| ())
}
