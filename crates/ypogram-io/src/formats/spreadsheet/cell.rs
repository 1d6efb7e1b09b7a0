//! Cells of a sheet: what they hold, and the text that a person sees.

use calamine::{CellErrorType, Data, DataRef, ExcelDateTime};
use jiff::civil::{DateTime, date};
use jiff::{Span, Unit};

use crate::records::packed::write_cell;
use crate::records::value::{DAY, Value};

/// A cell of a sheet.
#[derive(Clone, Debug)]
pub(super) enum SheetCell<'s> {
    Empty,
    Text(std::borrow::Cow<'s, str>),
    Bool(bool),
    Number(f64),
    Date(ExcelDateTime),
    /// In ISO 8601.
    IsoDate(String),
    IsoDuration(String),
    Error(CellErrorType),
}

impl<'s> From<DataRef<'s>> for SheetCell<'s> {
    fn from(data: DataRef<'s>) -> Self {
        match data {
            DataRef::Int(number) => SheetCell::Number(number as f64),
            DataRef::Float(number) => SheetCell::Number(number),
            DataRef::String(text) => SheetCell::Text(text.into()),
            DataRef::SharedString(text) => SheetCell::Text(text.into()),
            DataRef::Bool(yes) => SheetCell::Bool(yes),
            DataRef::DateTime(date) => SheetCell::Date(date),
            DataRef::DateTimeIso(text) => SheetCell::IsoDate(text),
            DataRef::DurationIso(text) => SheetCell::IsoDuration(text),
            DataRef::Error(error) => SheetCell::Error(error),
            DataRef::Empty => SheetCell::Empty,
        }
    }
}

impl From<&Data> for SheetCell<'static> {
    fn from(data: &Data) -> Self {
        match data {
            Data::Int(number) => SheetCell::Number(*number as f64),
            Data::Float(number) => SheetCell::Number(*number),
            Data::String(text) => SheetCell::Text(text.clone().into()),
            Data::Bool(yes) => SheetCell::Bool(*yes),
            Data::DateTime(date) => SheetCell::Date(*date),
            Data::DateTimeIso(text) => SheetCell::IsoDate(text.clone()),
            Data::DurationIso(text) => SheetCell::IsoDuration(text.clone()),
            Data::Error(error) => SheetCell::Error(error.clone()),
            Data::Empty => SheetCell::Empty,
        }
    }
}

impl SheetCell<'_> {
    /// Whether there is nothing in it to see.
    pub(super) fn is_empty(&self) -> bool {
        match self {
            SheetCell::Empty => true,
            SheetCell::Text(text) => text.is_empty(),
            _ => false,
        }
    }

    /// Appends it as a packed cell; `decimals` are those of a number that is shown as a percentage.
    pub(super) fn write(&self, decimals: Option<usize>, out: &mut Vec<u8>) {
        let (value, shown) = match self {
            SheetCell::Empty => (Value::Null, None),
            SheetCell::Text(text) => (Value::Text(text.as_bytes()), None),
            SheetCell::Bool(yes) => (Value::Bool(*yes), Some(if *yes { "TRUE" } else { "FALSE" }.to_owned())),
            SheetCell::Number(number) => {
                (number_value(*number), decimals.map(|decimals| format!("{:.decimals$}%", number * 100.0)))
            }
            SheetCell::Date(date) => (date_value(*date), None),
            SheetCell::IsoDate(text) => match iso_date(text) {
                Some(value) => (value, None),
                None => (Value::Text(text.as_bytes()), None),
            },
            SheetCell::IsoDuration(text) => match iso_duration(text) {
                Some(micros) => (Value::Time(micros), None),
                None => (Value::Text(text.as_bytes()), None),
            },
            SheetCell::Error(error) => (Value::Null, Some(error.to_string())),
        };
        let mut text = Vec::new();
        match (&shown, value) {
            (Some(shown), _) => text.extend_from_slice(shown.as_bytes()),
            (None, Value::Float(number)) => text.extend_from_slice(general(number).as_bytes()),
            (None, value) => value.write_text(&mut text),
        }
        let value = if matches!(self, SheetCell::Error(_)) { Value::Text(&text) } else { value };
        write_cell(value, &text, out);
    }
}

/// A number, whole where it is.
fn number_value(number: f64) -> Value<'static> {
    /// All whole numbers below are held exactly.
    const EXACT: f64 = 9_007_199_254_740_992.0;
    match number.fract() == 0.0 && number.abs() < EXACT && !(number == 0.0 && number.is_sign_negative()) {
        true => Value::Integer(number as i64),
        false => Value::Float(number),
    }
}

/// A number in the fifteen digits that a sheet shows at most.
fn general(number: f64) -> String {
    format!("{number:.14e}").parse().unwrap_or(number).to_string()
}

/// A day, a time of the day, or both; a duration as a time that may go past a day.
fn date_value(serial: ExcelDateTime) -> Value<'static> {
    let number = serial.as_f64();
    if !serial.is_datetime() || (0.0..1.0).contains(&number) {
        return Value::Time((number * DAY as f64 / 1000.0).round() as i64 * 1000);
    }
    let (year, month, day, hour, minute, second, milli) = serial.to_ymd_hms_milli();
    // The 29 February 1900 that sheets know is none.
    let day = jiff::civil::Date::new(year as i16, month as i8, day as i8).unwrap_or(date(1900, 2, 28));
    let days = days_since_1970(day);
    match number.fract() == 0.0 {
        true => Value::Date(days),
        false => {
            let seconds = i64::from(hour) * 3600 + i64::from(minute) * 60 + i64::from(second);
            let micros = (seconds * 1000 + i64::from(milli)) * 1000;
            Value::DateTime(i64::from(days) * DAY + micros)
        }
    }
}

fn days_since_1970(day: jiff::civil::Date) -> i32 {
    day.since((Unit::Day, date(1970, 1, 1))).map_or(0, |span| span.get_days())
}

fn iso_date(text: &str) -> Option<Value<'static>> {
    match text.contains('T') {
        false => Some(Value::Date(days_since_1970(text.parse().ok()?))),
        true => {
            let at: DateTime = text.parse().ok()?;
            let time = at.time().since(jiff::civil::Time::midnight()).ok()?;
            let micros = time.total(Unit::Microsecond).ok()? as i64;
            Some(Value::DateTime(i64::from(days_since_1970(at.date())) * DAY + micros))
        }
    }
}

fn iso_duration(text: &str) -> Option<i64> {
    let span: Span = text.parse().ok()?;
    span.total(Unit::Microsecond).ok().map(|micros| micros as i64)
}

#[cfg(test)]
mod tests {
    use calamine::ExcelDateTimeType;

    use super::*;
    use crate::records::packed::PackedRows;

    #[test]
    fn cells_read_as_a_person_sees_them() {
        let at = |number| SheetCell::Date(ExcelDateTime::new(number, ExcelDateTimeType::DateTime, false));
        let at_1904 = |number| SheetCell::Date(ExcelDateTime::new(number, ExcelDateTimeType::DateTime, true));
        let lasting = |n| SheetCell::Date(ExcelDateTime::new(n, ExcelDateTimeType::TimeDelta, false));
        // The cell, the decimals of a percentage, what is seen, what it holds.
        for (cell, decimals, text, value) in [
            (SheetCell::Empty, None, "", Value::Null),
            (SheetCell::Text("a\nb".into()), None, "a\nb", Value::Text(b"a\nb")),
            (SheetCell::Number(117.0), None, "117", Value::Integer(117)),
            (SheetCell::Number(0.1 + 0.2), None, "0.3", Value::Float(0.1 + 0.2)),
            (SheetCell::Number(0.125), Some(1), "12.5%", Value::Float(0.125)),
            (SheetCell::Number(1.0), Some(0), "100%", Value::Integer(1)),
            (SheetCell::Bool(true), None, "TRUE", Value::Bool(true)),
            (at(46356.0), None, "2026-11-30", Value::Date(20_787)),
            (at(46356.75), None, "2026-11-30 18:00:00", Value::DateTime(20_787 * DAY + DAY / 4 * 3)),
            (at(0.25), None, "06:00:00", Value::Time(DAY / 4)),
            (at(61.0), None, "1900-03-01", Value::Date(-25_508)),
            (at_1904(0.0), None, "00:00:00", Value::Time(0)),
            (at_1904(44_894.0), None, "2026-11-30", Value::Date(20_787)),
            (lasting(1.5), None, "36:00:00", Value::Time(DAY / 2 * 3)),
            (SheetCell::IsoDate("2026-11-30".into()), None, "2026-11-30", Value::Date(20_787)),
            (
                SheetCell::IsoDate("2026-11-30T06:00:00".into()),
                None,
                "2026-11-30 06:00:00",
                Value::DateTime(20_787 * DAY + DAY / 4),
            ),
            (SheetCell::IsoDuration("PT06H30M00S".into()), None, "06:30:00", Value::Time(23_400_000_000)),
            (SheetCell::Error(CellErrorType::NA), None, "#N/A", Value::Text(b"#N/A")),
        ] {
            let mut bytes = Vec::new();
            let row = crate::records::packed::PackedRow::start(&mut bytes, 0);
            cell.write(decimals, &mut bytes);
            row.end(&mut bytes);
            PackedRows::of(&bytes).next_cells(&mut |found, shown| {
                assert_eq!((std::str::from_utf8(shown).unwrap(), found), (text, value), "{cell:?}");
            });
        }
    }
}
