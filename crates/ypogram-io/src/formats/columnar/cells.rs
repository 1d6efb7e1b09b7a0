//! The cells of a column that is read, row by row.

use arrow_array::cast::AsArray as _;
use arrow_array::types::{
    Date32Type, Date64Type, Decimal128Type, Decimal256Type, Float16Type, Float32Type, Float64Type, Int8Type,
    Int16Type, Int32Type, Int64Type, Time32MillisecondType, Time32SecondType, Time64MicrosecondType,
    Time64NanosecondType, TimestampMicrosecondType, TimestampMillisecondType, TimestampNanosecondType,
    TimestampSecondType, UInt8Type, UInt16Type, UInt32Type, UInt64Type,
};
use arrow_array::{Array, ArrayRef, Int64Array, StringArray};
use arrow_schema::{DataType, TimeUnit};

use crate::records::packed::write_cell;
use crate::records::value::Value;

/// A column of which the type was looked at once for all its cells.
pub(super) enum Cells<'a> {
    Text(&'a StringArray),
    Integer(&'a Int64Array),
    Other(&'a dyn Array),
    NotRead,
}

impl<'a> Cells<'a> {
    pub(super) fn of(column: &'a dyn Array) -> Self {
        match column.data_type() {
            DataType::Utf8 => Cells::Text(column.as_string()),
            DataType::Int64 => Cells::Integer(column.as_primitive()),
            _ => Cells::Other(column),
        }
    }

    /// Appends the cell in a row.
    pub(super) fn write(&self, row: usize, out: &mut Vec<u8>) {
        match self {
            Cells::Text(column) if column.is_valid(row) => {
                let text = column.value(row).as_bytes();
                write_cell(Value::Text(text), text, out);
            }
            Cells::Integer(column) if column.is_valid(row) => {
                let number = column.value(row);
                write_cell(Value::Integer(number), itoa::Buffer::new().format(number).as_bytes(), out);
            }
            Cells::Text(_) | Cells::Integer(_) => write_cell(Value::Null, b"", out),
            Cells::NotRead => write_cell(Value::Missing, b"", out),
            Cells::Other(column) => write(*column, row, out),
        }
    }
}

/// Appends the cell of a column in a row.
fn write(column: &dyn Array, row: usize, out: &mut Vec<u8>) {
    if column.is_null(row) {
        return write_cell(Value::Null, b"", out);
    }
    if let Some(text) = text_of(column, row) {
        return write_cell(Value::Text(text.as_bytes()), text.as_bytes(), out);
    }
    if let Some((number, text)) = float_of(column, row) {
        return write_cell(Value::Float(number), text.as_bytes(), out);
    }
    if let Some(bytes) = bytes_of(column, row) {
        return write_bytes(bytes, out);
    }
    let mut written = |value: Value<'_>, suffix: &str| {
        let mut text = Vec::new();
        value.write_text(&mut text);
        text.extend_from_slice(suffix.as_bytes());
        write_cell(value, &text, out);
    };
    if let Some((value, suffix)) = moment_of(column, row) {
        return written(value, suffix);
    }
    match column.data_type() {
        DataType::Boolean => written(Value::Bool(column.as_boolean().value(row)), ""),
        DataType::Decimal128(..) => {
            let text = column.as_primitive::<Decimal128Type>().value_as_string(row);
            written(Value::Decimal(text.as_bytes()), "");
        }
        DataType::Decimal256(..) => {
            let text = column.as_primitive::<Decimal256Type>().value_as_string(row);
            written(Value::Decimal(text.as_bytes()), "");
        }
        DataType::UInt64 => {
            let number = column.as_primitive::<UInt64Type>().value(row);
            match i64::try_from(number) {
                Ok(number) => written(Value::Integer(number), ""),
                Err(_) => written(Value::Decimal(number.to_string().as_bytes()), ""),
            }
        }
        _ => match integer_of(column, row) {
            Some(number) => written(Value::Integer(number), ""),
            None => nested(column, row, out),
        },
    }
}

/// A day, a time or both, and what stands behind it as a person sees it.
fn moment_of(column: &dyn Array, row: usize) -> Option<(Value<'static>, &'static str)> {
    Some(match column.data_type() {
        DataType::Date32 => (Value::Date(column.as_primitive::<Date32Type>().value(row)), ""),
        DataType::Date64 => {
            let days = column.as_primitive::<Date64Type>().value(row).div_euclid(86_400_000);
            (Value::Date(days as i32), "")
        }
        DataType::Timestamp(unit, zone) => {
            let micros = match unit {
                TimeUnit::Second => {
                    column.as_primitive::<TimestampSecondType>().value(row).saturating_mul(1_000_000)
                }
                TimeUnit::Millisecond => {
                    column.as_primitive::<TimestampMillisecondType>().value(row).saturating_mul(1000)
                }
                TimeUnit::Microsecond => column.as_primitive::<TimestampMicrosecondType>().value(row),
                TimeUnit::Nanosecond => {
                    column.as_primitive::<TimestampNanosecondType>().value(row).div_euclid(1000)
                }
            };
            (Value::DateTime(micros), if zone.is_some() { "Z" } else { "" })
        }
        DataType::Time32(TimeUnit::Second) => {
            let seconds = column.as_primitive::<Time32SecondType>().value(row);
            (Value::Time(i64::from(seconds) * 1_000_000), "")
        }
        DataType::Time32(_) => {
            let millis = column.as_primitive::<Time32MillisecondType>().value(row);
            (Value::Time(i64::from(millis) * 1000), "")
        }
        DataType::Time64(TimeUnit::Nanosecond) => {
            (Value::Time(column.as_primitive::<Time64NanosecondType>().value(row) / 1000), "")
        }
        DataType::Time64(_) => (Value::Time(column.as_primitive::<Time64MicrosecondType>().value(row)), ""),
        _ => return None,
    })
}

/// A number in floating point, and the digits of its own precision.
fn float_of(column: &dyn Array, row: usize) -> Option<(f64, String)> {
    Some(match column.data_type() {
        DataType::Float16 => {
            let number = column.as_primitive::<Float16Type>().value(row);
            (f64::from(number), number.to_string())
        }
        DataType::Float32 => {
            let number = column.as_primitive::<Float32Type>().value(row);
            (f64::from(number), number.to_string())
        }
        DataType::Float64 => {
            let number = column.as_primitive::<Float64Type>().value(row);
            (number, number.to_string())
        }
        _ => return None,
    })
}

/// Appends bytes, as the text that they are, else in hexadecimal digits.
fn write_bytes(bytes: &[u8], out: &mut Vec<u8>) {
    let value = Value::Bytes(bytes);
    let mut text = Vec::new();
    match std::str::from_utf8(bytes) {
        Ok(_) => text.extend_from_slice(bytes),
        Err(_) => value.write_text(&mut text),
    }
    write_cell(value, &text, out);
}

fn text_of(column: &dyn Array, row: usize) -> Option<&str> {
    match column.data_type() {
        DataType::Utf8 => Some(column.as_string::<i32>().value(row)),
        DataType::LargeUtf8 => Some(column.as_string::<i64>().value(row)),
        DataType::Utf8View => Some(column.as_string_view().value(row)),
        _ => None,
    }
}

fn integer_of(column: &dyn Array, row: usize) -> Option<i64> {
    Some(match column.data_type() {
        DataType::Int8 => column.as_primitive::<Int8Type>().value(row).into(),
        DataType::Int16 => column.as_primitive::<Int16Type>().value(row).into(),
        DataType::Int32 => column.as_primitive::<Int32Type>().value(row).into(),
        DataType::Int64 => column.as_primitive::<Int64Type>().value(row),
        DataType::UInt8 => column.as_primitive::<UInt8Type>().value(row).into(),
        DataType::UInt16 => column.as_primitive::<UInt16Type>().value(row).into(),
        DataType::UInt32 => column.as_primitive::<UInt32Type>().value(row).into(),
        _ => return None,
    })
}

fn bytes_of(column: &dyn Array, row: usize) -> Option<&[u8]> {
    Some(match column.data_type() {
        DataType::Binary => column.as_binary::<i32>().value(row),
        DataType::LargeBinary => column.as_binary::<i64>().value(row),
        DataType::BinaryView => column.as_binary_view().value(row),
        DataType::FixedSizeBinary(_) => column.as_fixed_size_binary().value(row),
        _ => return None,
    })
}

/// Lists of plain values are these with commas between, as in JSON; a value of a dictionary is that, and anything else its JSON.
fn nested(column: &dyn Array, row: usize, out: &mut Vec<u8>) {
    if let Some(dictionary) = column.as_any_dictionary_opt() {
        let key = dictionary.normalized_keys()[row];
        return write(dictionary.values(), key, out);
    }
    let json = json_of(column, row);
    let text = match &json {
        serde_json::Value::Array(entries)
            if entries.iter().all(|entry| !entry.is_array() && !entry.is_object()) =>
        {
            let entry = |entry: &serde_json::Value| match entry {
                serde_json::Value::Null => String::new(),
                serde_json::Value::String(text) => text.clone(),
                other => other.to_string(),
            };
            entries.iter().map(entry).collect::<Vec<_>>().join(", ")
        }
        other => other.to_string(),
    };
    write_cell(Value::Text(text.as_bytes()), text.as_bytes(), out);
}

/// Levels of lists and structures that are shown.
const DEEPEST: usize = 64;

fn json_of(column: &dyn Array, row: usize) -> serde_json::Value {
    json_within(column, row, DEEPEST)
}

fn json_within(column: &dyn Array, row: usize, levels: usize) -> serde_json::Value {
    if column.is_null(row) || levels == 0 {
        return serde_json::Value::Null;
    }
    let list = |values: &ArrayRef| {
        (0..values.len()).map(|at| json_within(values, at, levels - 1)).collect::<Vec<_>>().into()
    };
    match column.data_type() {
        DataType::List(_) => list(&column.as_list::<i32>().value(row)),
        DataType::LargeList(_) => list(&column.as_list::<i64>().value(row)),
        DataType::FixedSizeList(..) => list(&column.as_fixed_size_list().value(row)),
        DataType::Map(..) => {
            let entries = column.as_map().value(row);
            let (keys, values) = (entries.column(0), entries.column(1));
            let text = |at| match json_within(keys, at, levels - 1) {
                serde_json::Value::String(text) => text,
                other => other.to_string(),
            };
            let entries = (0..keys.len()).map(|at| (text(at), json_within(values, at, levels - 1)));
            serde_json::Value::Object(entries.collect())
        }
        DataType::Struct(fields) => {
            let values = column.as_struct();
            let entry = |(at, field): (usize, &std::sync::Arc<arrow_schema::Field>)| {
                (field.name().clone(), json_within(values.column(at), row, levels - 1))
            };
            serde_json::Value::Object(fields.iter().enumerate().map(entry).collect())
        }
        _ => {
            let mut packed = Vec::new();
            let start = crate::records::packed::PackedRow::start(&mut packed, 0);
            if column.as_any_dictionary_opt().is_some() || is_plain(column.data_type()) {
                write(column, row, &mut packed);
            }
            start.end(&mut packed);
            let mut json = serde_json::Value::Null;
            crate::records::packed::PackedRows::of(&packed).next_cells(&mut |value, text| {
                json = match value {
                    Value::Null | Value::Missing => serde_json::Value::Null,
                    Value::Bool(yes) => yes.into(),
                    Value::Integer(number) => number.into(),
                    Value::Float(number) => number.into(),
                    _ => String::from_utf8_lossy(text).into_owned().into(),
                };
            });
            json
        }
    }
}

/// Whether a column of that type holds plain values, of which JSON has no further levels.
fn is_plain(data_type: &DataType) -> bool {
    !data_type.is_nested() && !matches!(data_type, DataType::Interval(_) | DataType::Duration(_))
}
