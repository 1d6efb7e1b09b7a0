//! The types of PostgreSQL and those of columns.

use postgres::types::Type;

use crate::records::column_type::ColumnType;

/// What a column holds; `modifier` limits its length or digits.
pub(super) fn column_type(of: &Type, modifier: i32) -> ColumnType {
    let integer = |bits| ColumnType::Integer { bits, signed: true };
    match *of {
        Type::BOOL => ColumnType::Bool,
        Type::INT2 => integer(16),
        Type::INT4 => integer(32),
        Type::INT8 => integer(64),
        Type::FLOAT4 => ColumnType::Float { bits: 32 },
        Type::FLOAT8 => ColumnType::Float { bits: 64 },
        Type::NUMERIC => numeric(modifier),
        Type::DATE => ColumnType::Date,
        Type::TIMESTAMP => ColumnType::DateTime { utc: false },
        Type::TIMESTAMPTZ => ColumnType::DateTime { utc: true },
        Type::TIME => ColumnType::Time,
        Type::BYTEA => ColumnType::Bytes,
        Type::UUID => ColumnType::Uuid,
        Type::JSON | Type::JSONB => ColumnType::Json,
        Type::TEXT_ARRAY | Type::VARCHAR_ARRAY => ColumnType::TextArray,
        _ => ColumnType::Text,
    }
}

/// The digits of a number; any number of them where nothing is said.
fn numeric(modifier: i32) -> ColumnType {
    let digits = modifier - 4;
    let (precision, scale) = (digits >> 16, digits & 0x7ff);
    match (u8::try_from(precision), i8::try_from(scale)) {
        (Ok(precision @ 1..=38), Ok(scale)) if modifier >= 4 => ColumnType::Decimal { precision, scale },
        _ => ColumnType::Number,
    }
}

/// How a column of a new table is declared.
pub(super) fn declared(of: ColumnType) -> String {
    match of {
        ColumnType::Text => "text".to_owned(),
        ColumnType::Bool => "boolean".to_owned(),
        ColumnType::Integer { bits: 8 | 16, signed: true }
        | ColumnType::Integer { bits: 8, signed: false } => "smallint".to_owned(),
        ColumnType::Integer { bits: 32, signed: true } | ColumnType::Integer { bits: 16, signed: false } => {
            "integer".to_owned()
        }
        ColumnType::Integer { bits: 64, signed: false } => "numeric(20)".to_owned(),
        ColumnType::Integer { .. } => "bigint".to_owned(),
        ColumnType::Float { bits: 32 } => "real".to_owned(),
        ColumnType::Float { .. } => "double precision".to_owned(),
        ColumnType::Decimal { precision, scale } => format!("numeric({precision}, {scale})"),
        ColumnType::Number => "numeric".to_owned(),
        ColumnType::Date => "date".to_owned(),
        ColumnType::DateTime { utc: false } => "timestamp".to_owned(),
        ColumnType::DateTime { utc: true } => "timestamptz".to_owned(),
        ColumnType::Time => "time".to_owned(),
        ColumnType::Bytes => "bytea".to_owned(),
        ColumnType::Uuid => "uuid".to_owned(),
        ColumnType::Json => "json".to_owned(),
        ColumnType::TextArray => "text[]".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What each type of a server is here, and as what it is made again.
    #[test]
    fn types_go_there_and_back() {
        let numeric = |precision: i32, scale: i32| (precision << 16 | scale) + 4;
        for (of, modifier, declaration) in [
            (Type::BOOL, -1, "boolean"),
            (Type::INT2, -1, "smallint"),
            (Type::INT4, -1, "integer"),
            (Type::INT8, -1, "bigint"),
            (Type::FLOAT4, -1, "real"),
            (Type::FLOAT8, -1, "double precision"),
            (Type::NUMERIC, numeric(10, 2), "numeric(10, 2)"),
            (Type::NUMERIC, numeric(38, 0), "numeric(38, 0)"),
            (Type::NUMERIC, numeric(39, 2), "numeric"),
            (Type::NUMERIC, -1, "numeric"),
            (Type::DATE, -1, "date"),
            (Type::TIMESTAMP, -1, "timestamp"),
            (Type::TIMESTAMPTZ, -1, "timestamptz"),
            (Type::TIME, -1, "time"),
            (Type::BYTEA, -1, "bytea"),
            (Type::UUID, -1, "uuid"),
            (Type::JSONB, -1, "json"),
            (Type::VARCHAR_ARRAY, -1, "text[]"),
            (Type::VARCHAR, 24, "text"),
            (Type::INTERVAL, -1, "text"),
            (Type::INT4_ARRAY, -1, "text"),
        ] {
            assert_eq!(declared(column_type(&of, modifier)), declaration, "{of}");
        }
        // What other sources have and PostgreSQL has not.
        for (bits, signed, declaration) in [
            (8, true, "smallint"),
            (8, false, "smallint"),
            (16, false, "integer"),
            (32, false, "bigint"),
            (64, false, "numeric(20)"),
        ] {
            assert_eq!(declared(ColumnType::Integer { bits, signed }), declaration);
        }
    }
}
