//! The types of MariaDB and those of columns.

use mysql::Column;
use mysql::consts::{ColumnFlags, ColumnType as Sent};

use crate::records::column_type::ColumnType;

/// The character set of what is no text.
const BINARY: u16 = 63;

/// What a column holds.
pub(super) fn column_type(column: &Column) -> ColumnType {
    let flags = column.flags();
    let has = |flag| flags.contains(flag);
    let integer = |bits| ColumnType::Integer { bits, signed: !has(ColumnFlags::UNSIGNED_FLAG) };
    match column.column_type() {
        // Its leading zeros are part of it.
        Sent::MYSQL_TYPE_YEAR => ColumnType::Integer { bits: 16, signed: false },
        _ if has(ColumnFlags::ZEROFILL_FLAG) => ColumnType::Text,
        Sent::MYSQL_TYPE_TINY if column.column_length() == 1 => ColumnType::Bool,
        Sent::MYSQL_TYPE_BIT if column.column_length() == 1 => ColumnType::Bool,
        Sent::MYSQL_TYPE_BIT => ColumnType::Integer { bits: 64, signed: false },
        Sent::MYSQL_TYPE_TINY => integer(8),
        Sent::MYSQL_TYPE_SHORT => integer(16),
        Sent::MYSQL_TYPE_INT24 | Sent::MYSQL_TYPE_LONG => integer(32),
        Sent::MYSQL_TYPE_LONGLONG => integer(64),
        Sent::MYSQL_TYPE_FLOAT => ColumnType::Float { bits: 32 },
        Sent::MYSQL_TYPE_DOUBLE => ColumnType::Float { bits: 64 },
        Sent::MYSQL_TYPE_DECIMAL | Sent::MYSQL_TYPE_NEWDECIMAL => {
            decimal(column.column_length(), column.decimals(), has(ColumnFlags::UNSIGNED_FLAG))
        }
        Sent::MYSQL_TYPE_DATE | Sent::MYSQL_TYPE_NEWDATE => ColumnType::Date,
        Sent::MYSQL_TYPE_DATETIME | Sent::MYSQL_TYPE_DATETIME2 => ColumnType::DateTime { utc: false },
        Sent::MYSQL_TYPE_TIMESTAMP | Sent::MYSQL_TYPE_TIMESTAMP2 => ColumnType::DateTime { utc: true },
        Sent::MYSQL_TYPE_TIME | Sent::MYSQL_TYPE_TIME2 => ColumnType::Time,
        Sent::MYSQL_TYPE_JSON => ColumnType::Json,
        Sent::MYSQL_TYPE_GEOMETRY => ColumnType::Bytes,
        _ if column.character_set() == BINARY && column.column_type() != Sent::MYSQL_TYPE_NULL => {
            ColumnType::Bytes
        }
        _ => ColumnType::Text,
    }
}

/// A number of as many digits as are shown of it, with its sign and its point.
fn decimal(shown: u32, scale: u8, unsigned: bool) -> ColumnType {
    let digits = shown - u32::from(!unsigned) - u32::from(scale > 0);
    match (u8::try_from(digits), i8::try_from(scale)) {
        (Ok(precision @ 1..=38), Ok(scale)) => ColumnType::Decimal { precision, scale },
        _ => ColumnType::Number,
    }
}

/// How a column of a new table is declared; `has_uuid` where the server has a type for such.
pub(super) fn declared(of: ColumnType, has_uuid: bool) -> String {
    match of {
        ColumnType::Text => "longtext".to_owned(),
        ColumnType::Bool => "boolean".to_owned(),
        ColumnType::Integer { bits, signed } => {
            let name = match bits {
                0..=8 => "tinyint",
                9..=16 => "smallint",
                17..=32 => "int",
                _ => "bigint",
            };
            format!("{name}{}", if signed { "" } else { " unsigned" })
        }
        ColumnType::Float { bits: 32 } => "float".to_owned(),
        ColumnType::Float { .. } => "double".to_owned(),
        ColumnType::Decimal { precision, scale: scale @ 0.. } => format!("decimal({precision}, {scale})"),
        ColumnType::Decimal { precision, scale } => {
            format!("decimal({}, 0)", i16::from(precision) - i16::from(scale))
        }
        ColumnType::Number => "decimal(65, 30)".to_owned(),
        ColumnType::Date => "date".to_owned(),
        ColumnType::DateTime { utc: false } => "datetime(6)".to_owned(),
        // Without the word it would be filled in by the server.
        ColumnType::DateTime { utc: true } => "timestamp(6) NULL DEFAULT NULL".to_owned(),
        ColumnType::Time => "time(6)".to_owned(),
        ColumnType::Bytes => "longblob".to_owned(),
        ColumnType::Uuid => if has_uuid { "uuid" } else { "char(36)" }.to_owned(),
        ColumnType::Json | ColumnType::TextArray => "json".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What each type of a server is here, and as what it is made again.
    #[test]
    fn types_go_there_and_back() {
        let unsigned = ColumnFlags::UNSIGNED_FLAG;
        let (none, zeros) = (ColumnFlags::empty(), ColumnFlags::ZEROFILL_FLAG);
        const TEXT: u16 = 45;
        for (sent, length, decimals, flags, charset, declaration) in [
            (Sent::MYSQL_TYPE_TINY, 1, 0, none, BINARY, "boolean"),
            (Sent::MYSQL_TYPE_BIT, 1, 0, unsigned, BINARY, "boolean"),
            (Sent::MYSQL_TYPE_BIT, 9, 0, unsigned, BINARY, "bigint unsigned"),
            (Sent::MYSQL_TYPE_TINY, 4, 0, none, BINARY, "tinyint"),
            (Sent::MYSQL_TYPE_SHORT, 5, 0, unsigned, BINARY, "smallint unsigned"),
            (Sent::MYSQL_TYPE_INT24, 9, 0, none, BINARY, "int"),
            (Sent::MYSQL_TYPE_LONGLONG, 20, 0, unsigned, BINARY, "bigint unsigned"),
            (Sent::MYSQL_TYPE_LONG, 10, 0, unsigned.union(zeros), BINARY, "longtext"),
            (Sent::MYSQL_TYPE_YEAR, 4, 0, unsigned.union(zeros), BINARY, "smallint unsigned"),
            (Sent::MYSQL_TYPE_FLOAT, 12, 31, none, BINARY, "float"),
            (Sent::MYSQL_TYPE_DOUBLE, 22, 31, none, BINARY, "double"),
            (Sent::MYSQL_TYPE_NEWDECIMAL, 12, 2, none, BINARY, "decimal(10, 2)"),
            (Sent::MYSQL_TYPE_NEWDECIMAL, 10, 0, unsigned, BINARY, "decimal(10, 0)"),
            (Sent::MYSQL_TYPE_NEWDECIMAL, 67, 10, none, BINARY, "decimal(65, 30)"),
            (Sent::MYSQL_TYPE_DATE, 10, 0, none, BINARY, "date"),
            (Sent::MYSQL_TYPE_DATETIME, 26, 6, none, BINARY, "datetime(6)"),
            (Sent::MYSQL_TYPE_TIMESTAMP, 19, 0, unsigned, BINARY, "timestamp(6) NULL DEFAULT NULL"),
            (Sent::MYSQL_TYPE_TIME, 10, 0, none, BINARY, "time(6)"),
            (Sent::MYSQL_TYPE_JSON, 0, 0, none, TEXT, "json"),
            (Sent::MYSQL_TYPE_GEOMETRY, 0, 0, none, BINARY, "longblob"),
            (Sent::MYSQL_TYPE_BLOB, 65535, 0, none, BINARY, "longblob"),
            (Sent::MYSQL_TYPE_BLOB, 65535, 0, none, TEXT, "longtext"),
            (Sent::MYSQL_TYPE_VAR_STRING, 60, 0, none, TEXT, "longtext"),
            (Sent::MYSQL_TYPE_STRING, 3, 0, ColumnFlags::ENUM_FLAG, TEXT, "longtext"),
            (Sent::MYSQL_TYPE_NULL, 0, 0, none, BINARY, "longtext"),
        ] {
            let column = Column::new(sent).with_flags(flags).with_character_set(charset);
            let column = column.with_column_length(length).with_decimals(decimals);
            assert_eq!(declared(column_type(&column), true), declaration, "{sent:?}({length}, {decimals})");
        }
        assert_eq!(declared(ColumnType::Uuid, true), "uuid");
        assert_eq!(declared(ColumnType::Uuid, false), "char(36)");
        assert_eq!(declared(ColumnType::Decimal { precision: 5, scale: -2 }, true), "decimal(7, 0)");
    }
}
