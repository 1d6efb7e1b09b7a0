//! The columns of rows that are written, gathered row by row.

use std::sync::Arc;

use arrow_array::builder::{
    ArrayBuilder, BinaryBuilder, BooleanBuilder, Date32Builder, Decimal128Builder, Float32Builder,
    Float64Builder, PrimitiveBuilder, StringBuilder, Time64MicrosecondBuilder, TimestampMicrosecondBuilder,
};
use arrow_array::types::{
    ArrowPrimitiveType, Int8Type, Int16Type, Int32Type, Int64Type, UInt8Type, UInt16Type, UInt32Type,
    UInt64Type,
};
use arrow_array::{ArrayRef, RecordBatch};
use arrow_schema::{Field, Schema, SchemaRef};

use crate::formats::columnar::types::data_type;
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::records::packed::PackedRows;
use crate::records::value::Value;

/// Columns while rows are added to them.
pub(super) struct Columns {
    pub(super) schema: SchemaRef,
    columns: Vec<Column>,
    /// Rows in them.
    pub(super) rows: usize,
    /// Rows that were handed over before.
    before: u64,
}

enum Column {
    Text(StringBuilder),
    Bool(BooleanBuilder),
    Int8(PrimitiveBuilder<Int8Type>),
    Int16(PrimitiveBuilder<Int16Type>),
    Int32(PrimitiveBuilder<Int32Type>),
    Int64(PrimitiveBuilder<Int64Type>),
    UInt8(PrimitiveBuilder<UInt8Type>),
    UInt16(PrimitiveBuilder<UInt16Type>),
    UInt32(PrimitiveBuilder<UInt32Type>),
    UInt64(PrimitiveBuilder<UInt64Type>),
    Float32(Float32Builder),
    Float64(Float64Builder),
    Decimal(Decimal128Builder, i8),
    Date(Date32Builder),
    DateTime(TimestampMicrosecondBuilder),
    Time(Time64MicrosecondBuilder),
    Bytes(BinaryBuilder),
}

impl Columns {
    /// Of those names and types, with no rows.
    pub(super) fn new(names: &[String], types: &[ColumnType]) -> Self {
        let types: Vec<ColumnType> =
            (0..names.len()).map(|place| types.get(place).copied().unwrap_or_default()).collect();
        let fields =
            names.iter().zip(&types).map(|(name, &column)| Field::new(name, data_type(column), true));
        Columns {
            schema: Arc::new(Schema::new(fields.collect::<Vec<_>>())),
            columns: types.into_iter().map(Column::new).collect(),
            rows: 0,
            before: 0,
        }
    }

    /// Adds packed rows.
    ///
    /// # Errors
    /// Where a cell does not fit into its column, or a record has more cells than there are columns.
    pub(super) fn add(&mut self, rows: &mut PackedRows<'_>, most: usize) -> Result<bool> {
        while self.rows < most {
            let (mut place, mut misfit) = (0, None);
            let columns = &mut self.columns;
            let more = rows.next_cells(&mut |value, text| {
                let fits = columns.get_mut(place).is_some_and(|column| column.push(value, text));
                if !fits {
                    misfit.get_or_insert((place, String::from_utf8_lossy(text).into_owned()));
                }
                place += 1;
            });
            if let Some((place, text)) = misfit {
                return Err(self.does_not_fit(place, &text));
            }
            if !more {
                return Ok(false);
            }
            self.rows += 1;
        }
        Ok(true)
    }

    /// The rows so far; none are left.
    pub(super) fn take(&mut self) -> RecordBatch {
        let arrays = self.columns.iter_mut().map(Column::finish).collect();
        self.before += self.rows as u64;
        self.rows = 0;
        RecordBatch::try_new(Arc::clone(&self.schema), arrays).expect("all columns have as many rows")
    }

    #[cold]
    fn does_not_fit(&self, place: usize, text: &str) -> Error {
        let row = self.before + self.rows as u64 + 1;
        let message = match self.schema.fields().get(place) {
            Some(field) => {
                format!("row {row}: ‘{text}’ is no {} of the column ‘{}’", field.data_type(), field.name())
            }
            None => format!(
                "row {row} has more cells than there are columns, which a file in columns cannot hold"
            ),
        };
        Error::output(message, "write CSV or JSON lines")
    }
}

impl Column {
    fn new(column: ColumnType) -> Self {
        match column {
            ColumnType::Text
            | ColumnType::Number
            | ColumnType::Uuid
            | ColumnType::Json
            | ColumnType::TextArray => Column::Text(StringBuilder::new()),
            ColumnType::Bool => Column::Bool(BooleanBuilder::new()),
            ColumnType::Integer { bits: 8, signed: true } => Column::Int8(PrimitiveBuilder::new()),
            ColumnType::Integer { bits: 16, signed: true } => Column::Int16(PrimitiveBuilder::new()),
            ColumnType::Integer { bits: 32, signed: true } => Column::Int32(PrimitiveBuilder::new()),
            ColumnType::Integer { signed: true, .. } => Column::Int64(PrimitiveBuilder::new()),
            ColumnType::Integer { bits: 8, signed: false } => Column::UInt8(PrimitiveBuilder::new()),
            ColumnType::Integer { bits: 16, signed: false } => Column::UInt16(PrimitiveBuilder::new()),
            ColumnType::Integer { bits: 32, signed: false } => Column::UInt32(PrimitiveBuilder::new()),
            ColumnType::Integer { signed: false, .. } => Column::UInt64(PrimitiveBuilder::new()),
            ColumnType::Float { bits: 32 } => Column::Float32(Float32Builder::new()),
            ColumnType::Float { .. } => Column::Float64(Float64Builder::new()),
            ColumnType::Decimal { scale, .. } => {
                Column::Decimal(Decimal128Builder::new().with_data_type(data_type(column)), scale)
            }
            ColumnType::Date => Column::Date(Date32Builder::new()),
            ColumnType::DateTime { .. } => {
                Column::DateTime(TimestampMicrosecondBuilder::new().with_data_type(data_type(column)))
            }
            ColumnType::Time => Column::Time(Time64MicrosecondBuilder::new()),
            ColumnType::Bytes => Column::Bytes(BinaryBuilder::new()),
        }
    }

    /// Adds a cell; false where it does not fit.
    fn push(&mut self, value: Value<'_>, text: &[u8]) -> bool {
        let is_nothing = matches!(value, Value::Missing | Value::Null) && text.is_empty();
        match self {
            Column::Text(column) => match (is_nothing, std::str::from_utf8(text)) {
                (true, _) => column.append_null(),
                (false, Ok(text)) => column.append_value(text),
                (false, Err(_)) => column.append_value(String::from_utf8_lossy(text)),
            },
            Column::Bool(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Bool(yes) => column.append_value(yes),
                _ => return false,
            },
            Column::Int8(column) => return push_integer(column, value, text),
            Column::Int16(column) => return push_integer(column, value, text),
            Column::Int32(column) => return push_integer(column, value, text),
            Column::Int64(column) => return push_integer(column, value, text),
            Column::UInt8(column) => return push_integer(column, value, text),
            Column::UInt16(column) => return push_integer(column, value, text),
            Column::UInt32(column) => return push_integer(column, value, text),
            Column::UInt64(column) => return push_integer(column, value, text),
            Column::Float32(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Float(number) => column.append_value(number as f32),
                _ => return false,
            },
            Column::Float64(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Float(number) => column.append_value(number),
                _ => return false,
            },
            Column::Decimal(column, scale) => match (value, unscaled(text, *scale)) {
                _ if is_nothing => column.append_null(),
                (Value::Decimal(_), Some(number)) => column.append_value(number),
                _ => return false,
            },
            Column::Date(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Date(days) => column.append_value(days),
                _ => return false,
            },
            Column::DateTime(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::DateTime(micros) => column.append_value(micros),
                _ => return false,
            },
            Column::Time(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Time(micros) => column.append_value(micros),
                _ => return false,
            },
            Column::Bytes(column) => match value {
                _ if is_nothing => column.append_null(),
                Value::Bytes(bytes) => column.append_value(bytes),
                _ => return false,
            },
        }
        true
    }

    fn finish(&mut self) -> ArrayRef {
        if let Column::Text(column) = self {
            // The next rows will be about as long.
            let (rows, bytes) = (column.len(), column.values_slice().len());
            let next = StringBuilder::with_capacity(rows, bytes + bytes / 8);
            return Arc::new(std::mem::replace(column, next).finish());
        }
        let builder: &mut dyn ArrayBuilder = match self {
            Column::Text(column) => column,
            Column::Bool(column) => column,
            Column::Int8(column) => column,
            Column::Int16(column) => column,
            Column::Int32(column) => column,
            Column::Int64(column) => column,
            Column::UInt8(column) => column,
            Column::UInt16(column) => column,
            Column::UInt32(column) => column,
            Column::UInt64(column) => column,
            Column::Float32(column) => column,
            Column::Float64(column) => column,
            Column::Decimal(column, _) => column,
            Column::Date(column) => column,
            Column::DateTime(column) => column,
            Column::Time(column) => column,
            Column::Bytes(column) => column,
        };
        builder.finish()
    }
}

/// Adds a whole number; false where the cell is none, or too large.
fn push_integer<T: ArrowPrimitiveType>(
    column: &mut PrimitiveBuilder<T>,
    value: Value<'_>,
    text: &[u8],
) -> bool
where
    T::Native: TryFrom<i128>,
{
    let number = match value {
        Value::Missing | Value::Null if text.is_empty() => {
            column.append_null();
            return true;
        }
        Value::Integer(number) => Some(i128::from(number)),
        // Past 63 bits.
        Value::Decimal(digits) => std::str::from_utf8(digits).ok().and_then(|digits| digits.parse().ok()),
        _ => None,
    };
    match number.and_then(|number| T::Native::try_from(number).ok()) {
        Some(number) => {
            column.append_value(number);
            true
        }
        None => false,
    }
}

/// A number in decimal digits as a whole number of its last place.
fn unscaled(text: &[u8], scale: i8) -> Option<i128> {
    let text = std::str::from_utf8(text).ok()?;
    let (whole, behind) = text.split_once('.').unwrap_or((text, ""));
    let places = usize::try_from(scale).ok()?;
    if behind.len() > places {
        return None;
    }
    format!("{whole}{behind:0<places$}").parse().ok()
}
