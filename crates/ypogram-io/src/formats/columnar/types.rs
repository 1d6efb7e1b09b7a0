//! The types of columns, there and here.

use arrow_schema::{DataType, TimeUnit};

use crate::records::column_type::ColumnType;

/// The type of a column that is read; lists and objects are text.
pub(super) fn column_type(data_type: &DataType) -> ColumnType {
    let integer = |bits, signed| ColumnType::Integer { bits, signed };
    match data_type {
        DataType::Boolean => ColumnType::Bool,
        DataType::Int8 => integer(8, true),
        DataType::Int16 => integer(16, true),
        DataType::Int32 => integer(32, true),
        DataType::Int64 => integer(64, true),
        DataType::UInt8 => integer(8, false),
        DataType::UInt16 => integer(16, false),
        DataType::UInt32 => integer(32, false),
        DataType::UInt64 => integer(64, false),
        DataType::Float16 | DataType::Float32 => ColumnType::Float { bits: 32 },
        DataType::Float64 => ColumnType::Float { bits: 64 },
        DataType::Decimal128(precision, scale) => {
            ColumnType::Decimal { precision: *precision, scale: *scale }
        }
        DataType::Date32 | DataType::Date64 => ColumnType::Date,
        DataType::Timestamp(_, zone) => ColumnType::DateTime { utc: zone.is_some() },
        DataType::Time32(_) | DataType::Time64(_) => ColumnType::Time,
        DataType::Binary | DataType::LargeBinary | DataType::BinaryView | DataType::FixedSizeBinary(_) => {
            ColumnType::Bytes
        }
        _ => ColumnType::Text,
    }
}

/// The type of a column that is written.
pub(super) fn data_type(column: ColumnType) -> DataType {
    match column {
        ColumnType::Text
        | ColumnType::Number
        | ColumnType::Uuid
        | ColumnType::Json
        | ColumnType::TextArray => DataType::Utf8,
        ColumnType::Bool => DataType::Boolean,
        ColumnType::Integer { bits: 8, signed: true } => DataType::Int8,
        ColumnType::Integer { bits: 16, signed: true } => DataType::Int16,
        ColumnType::Integer { bits: 32, signed: true } => DataType::Int32,
        ColumnType::Integer { signed: true, .. } => DataType::Int64,
        ColumnType::Integer { bits: 8, signed: false } => DataType::UInt8,
        ColumnType::Integer { bits: 16, signed: false } => DataType::UInt16,
        ColumnType::Integer { bits: 32, signed: false } => DataType::UInt32,
        ColumnType::Integer { signed: false, .. } => DataType::UInt64,
        ColumnType::Float { bits: 32 } => DataType::Float32,
        ColumnType::Float { .. } => DataType::Float64,
        ColumnType::Decimal { precision, scale } => DataType::Decimal128(precision, scale),
        ColumnType::Date => DataType::Date32,
        ColumnType::DateTime { utc: true } => DataType::Timestamp(TimeUnit::Microsecond, Some("UTC".into())),
        ColumnType::DateTime { utc: false } => DataType::Timestamp(TimeUnit::Microsecond, None),
        ColumnType::Time => DataType::Time64(TimeUnit::Microsecond),
        ColumnType::Bytes => DataType::Binary,
    }
}
