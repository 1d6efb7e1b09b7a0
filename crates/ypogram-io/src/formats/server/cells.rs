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
