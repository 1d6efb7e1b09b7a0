//! What a cell holds beyond the text that a person sees: a number, a date, nothing at all.

use jiff::Span;
use jiff::civil::{Date, date};

/// What a cell holds.
///
/// Each cell has a text as a person sees it, by which it is judged; formats with types keep what stands behind that text, so that a
/// number is a number again in the output.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Value<'a> {
    /// The record lacks the field.
    Missing,
    /// The field is there, with nothing in it.
    Null,
    /// A text.
    Text(&'a [u8]),
    /// Yes or no.
    Bool(bool),
    /// A whole number.
    Integer(i64),
    /// A number in floating point.
    Float(f64),
    /// A number that neither of them holds exactly, in decimal digits.
    Decimal(&'a [u8]),
    /// A day, in days since 1 January 1970.
    Date(i32),
    /// A day and a time of no time zone, in microseconds since 1 January 1970.
    DateTime(i64),
    /// A time of the day, in microseconds.
    Time(i64),
    /// Bytes that are no text.
    Bytes(&'a [u8]),
    /// A JSON object or array.
    Json(&'a [u8]),
}

/// Microseconds of a day.
pub(crate) const DAY: i64 = 86_400_000_000;

impl Value<'_> {
    /// Appends it as a person would write it; dates as in ISO 8601, with a space before the time, and bytes in hexadecimal digits.
    ///
    /// ```
    /// use ypogram_io::Value;
    /// let shown = |value: Value| {
    ///     let mut out = Vec::new();
    ///     value.write_text(&mut out);
    ///     String::from_utf8(out).unwrap()
    /// };
    /// assert_eq!(shown(Value::Float(2.5)), "2.5");
    /// assert_eq!(shown(Value::Date(20_787)), "2026-11-30");
    /// assert_eq!(shown(Value::DateTime(60_000_000)), "1970-01-01 00:01:00");
    /// assert_eq!(shown(Value::Null), "");
    /// ```
    pub fn write_text(&self, out: &mut Vec<u8>) {
        match *self {
            Value::Missing | Value::Null => {}
            Value::Text(text) | Value::Decimal(text) | Value::Json(text) => out.extend_from_slice(text),
            Value::Bool(yes) => out.extend_from_slice(if yes { b"true" } else { b"false" }),
            Value::Integer(number) => out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes()),
            Value::Float(number) => out.extend_from_slice(number.to_string().as_bytes()),
            Value::Date(days) => write_date(i64::from(days), out),
            Value::DateTime(micros) => {
                write_date(micros.div_euclid(DAY), out);
                out.push(b' ');
                write_time(micros.rem_euclid(DAY), out);
            }
            Value::Time(micros) => write_time(micros, out),
            Value::Bytes(bytes) => bytes.iter().for_each(|byte| {
                out.extend([byte >> 4, byte & 15].map(|digit| b"0123456789abcdef"[usize::from(digit)]));
            }),
        }
    }
}

/// What a JSON value holds, whose cell has this text.
pub(crate) fn json_value<'a>(json: &'a [u8], text: &'a [u8]) -> Value<'a> {
    match json.first() {
        Some(b'"') => Value::Text(text),
        Some(b'n') => Value::Null,
        Some(b't') => Value::Bool(true),
        Some(b'f') => Value::Bool(false),
        Some(b'{' | b'[') | None => Value::Json(json),
        Some(_) => number(json),
    }
}

/// The number that decimal digits are, in the first kind that gives these digits back.
pub(crate) fn number(digits: &[u8]) -> Value<'_> {
    let text = std::str::from_utf8(digits).unwrap_or_default();
    match (text.parse::<i64>(), text.parse::<f64>()) {
        (Ok(number), _) if number.to_string() == text => Value::Integer(number),
        (_, Ok(number)) if number.is_finite() && number.to_string() == text => Value::Float(number),
        _ => Value::Decimal(digits),
    }
}

/// The day that so many days since 1 January 1970 are; past the years -9999 to 9999 their number.
fn write_date(days: i64, out: &mut Vec<u8>) {
    match civil(days) {
        Some(date) if date.year() >= 0 => {
            let (century, year) = (date.year() / 100, date.year() % 100);
            out.extend(two_digits(century.into()));
            out.extend(two_digits(year.into()));
            out.push(b'-');
            out.extend(two_digits(date.month().into()));
            out.push(b'-');
            out.extend(two_digits(date.day().into()));
        }
        Some(date) => out.extend_from_slice(date.to_string().as_bytes()),
        None => out.extend_from_slice(days.to_string().as_bytes()),
    }
}

/// A number below 100 in two digits.
fn two_digits(number: i64) -> [u8; 2] {
    [b'0' + (number / 10) as u8, b'0' + (number % 10) as u8]
}

/// The day that so many days since 1 January 1970 are; none past the years -9999 to 9999.
pub(crate) fn civil(days: i64) -> Option<Date> {
    date(1970, 1, 1).checked_add(Span::new().try_days(days).ok()?).ok()
}

fn write_time(micros: i64, out: &mut Vec<u8>) {
    let (seconds, fraction) = (micros.div_euclid(1_000_000), micros.rem_euclid(1_000_000));
    match seconds / 3600 {
        hours @ 0..100 => out.extend(two_digits(hours)),
        hours => out.extend_from_slice(hours.to_string().as_bytes()),
    }
    for part in [seconds / 60 % 60, seconds % 60] {
        out.push(b':');
        out.extend(two_digits(part.abs()));
    }
    if fraction > 0 {
        let digits = format!(".{fraction:06}");
        out.extend_from_slice(digits.trim_end_matches('0').as_bytes());
    }
}
