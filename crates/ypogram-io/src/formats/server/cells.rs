//! What the text that a server sends of a cell says, by the type of its column.

use jiff::civil::{Date, DateTime, Time};

use crate::records::column_type::ColumnType;
use crate::records::packed::write_cell;
use crate::records::value::Value;

/// Packs a cell; none is NULL. Bytes are bytes, yes and no `t` and `f` or 1 and 0, times in UTC. `text` is scratch.
pub(super) fn pack(cell: Option<&[u8]>, of: ColumnType, text: &mut Vec<u8>, out: &mut Vec<u8>) {
    let Some(cell) = cell else { return write_cell(Value::Null, b"", out) };
    match value(cell, of) {
        value @ Value::Bytes(bytes) if std::str::from_utf8(bytes).is_ok() => write_cell(value, bytes, out),
        value @ (Value::Text(_)
        | Value::Decimal(_)
        | Value::Json(_)
        | Value::Integer(_)
        | Value::Float(_)) => write_cell(value, cell, out),
        value => {
            text.clear();
            value.write_text(text);
            write_cell(value, text, out);
        }
    }
}

/// What a cell holds; a text where it is nothing of its type, such as a day before Christ.
fn value(cell: &[u8], of: ColumnType) -> Value<'_> {
    if of == ColumnType::Text {
        return Value::Text(cell);
    }
    let text = std::str::from_utf8(cell).unwrap_or_default();
    let epoch = Date::constant(1970, 1, 1);
    let read = match of {
        ColumnType::Bool => match cell {
            b"t" | b"1" => Some(Value::Bool(true)),
            b"f" | b"0" => Some(Value::Bool(false)),
            _ => text.parse().ok().map(Value::Integer),
        },
        ColumnType::Integer { .. } => text.parse().ok().map(Value::Integer),
        ColumnType::Float { .. } => text.parse().ok().map(Value::Float),
        ColumnType::Decimal { .. } | ColumnType::Number => {
            text.starts_with(|c: char| c == '-' || c.is_ascii_digit()).then_some(Value::Decimal(cell))
        }
        ColumnType::Date => text
            .parse::<Date>()
            .ok()
            .map(|date| Value::Date(date.duration_since(epoch).as_secs().div_euclid(86_400) as i32)),
        ColumnType::DateTime { .. } => {
            let time = text.strip_suffix("+00").unwrap_or(text).parse::<DateTime>().ok();
            time.map(|time| Value::DateTime(time.duration_since(epoch.into()).as_micros() as i64))
        }
        ColumnType::Time => {
            let time = text.parse::<Time>().ok();
            time.map(|time| Value::Time(time.duration_since(Time::midnight()).as_micros() as i64))
        }
        ColumnType::Json | ColumnType::TextArray => Some(Value::Json(cell)),
        ColumnType::Bytes => Some(Value::Bytes(cell)),
        ColumnType::Text | ColumnType::Uuid => None,
    };
    read.unwrap_or(Value::Text(cell))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::records::packed::{PackedRow, PackedRows};

    /// What comes of a cell: its value, and the text that a person sees.
    fn packed(cell: Option<&str>, of: ColumnType, see: impl FnOnce(Value<'_>, &str)) {
        let (mut bytes, mut see) = (Vec::new(), Some(see));
        let row = PackedRow::start(&mut bytes, 0);
        pack(cell.map(str::as_bytes), of, &mut Vec::new(), &mut bytes);
        row.end(&mut bytes);
        PackedRows::of(&bytes).next_cells(&mut |value, text| {
            see.take().expect("one cell")(value, std::str::from_utf8(text).unwrap());
        });
    }

    #[test]
    fn cells_are_what_their_columns_hold() {
        let (integer, float) =
            (ColumnType::Integer { bits: 64, signed: true }, ColumnType::Float { bits: 64 });
        let (decimal, utc) =
            (ColumnType::Decimal { precision: 9, scale: 2 }, ColumnType::DateTime { utc: true });
        for (cell, of, value, text) in [
            ("t", ColumnType::Bool, Value::Bool(true), "true"),
            ("0", ColumnType::Bool, Value::Bool(false), "false"),
            ("7", ColumnType::Bool, Value::Integer(7), "7"),
            ("-12", integer, Value::Integer(-12), "-12"),
            ("18446744073709551615", integer, Value::Text(b"18446744073709551615"), "18446744073709551615"),
            ("1e300", float, Value::Float(1e300), "1e300"),
            ("12.50", decimal, Value::Decimal(b"12.50"), "12.50"),
            ("NaN", ColumnType::Number, Value::Text(b"NaN"), "NaN"),
            ("1970-01-02", ColumnType::Date, Value::Date(1), "1970-01-02"),
            ("1969-12-31", ColumnType::Date, Value::Date(-1), "1969-12-31"),
            ("0000-00-00", ColumnType::Date, Value::Text(b"0000-00-00"), "0000-00-00"),
            ("infinity", ColumnType::Date, Value::Text(b"infinity"), "infinity"),
            ("1970-01-01 00:00:01+00", utc, Value::DateTime(1_000_000), "1970-01-01 00:00:01"),
            ("1970-01-01 00:00:00.5", utc, Value::DateTime(500_000), "1970-01-01 00:00:00.5"),
            ("00:00:02", ColumnType::Time, Value::Time(2_000_000), "00:00:02"),
            ("-838:59:59", ColumnType::Time, Value::Text(b"-838:59:59"), "-838:59:59"),
            ("[1]", ColumnType::Json, Value::Json(b"[1]"), "[1]"),
            ("t", ColumnType::Text, Value::Text(b"t"), "t"),
            ("", ColumnType::Text, Value::Text(b""), ""),
            ("ab", ColumnType::Bytes, Value::Bytes(b"ab"), "ab"),
        ] {
            packed(Some(cell), of, |found, shown| {
                assert_eq!((found, shown), (value, text), "{cell} in {of:?}");
            });
        }
        for of in [ColumnType::Text, ColumnType::Bool, integer, ColumnType::Bytes] {
            packed(None, of, |found, shown| assert_eq!((found, shown), (Value::Null, ""), "{of:?}"));
        }
    }
}
