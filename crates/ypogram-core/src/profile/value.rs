//! Dates and numbers in cells: enough to know them and to tell which comes first.

use std::sync::OnceLock;

use icu_collator::options::CollatorOptions;
use icu_collator::{Collator, CollatorBorrowed, CollatorPreferences};
use jiff::civil::Date;

/// What a cell says, where that can be put in order.
#[derive(Clone, Copy, Debug, PartialEq, PartialOrd)]
pub enum Value {
    /// A number.
    Number(f64),
    /// A day, with its time where there is one.
    Moment(Moment),
}

/// A day and a time, in order: the later is the greater. Offsets from UTC are taken off.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Moment {
    /// Seconds since the start of the year 1.
    seconds: i64,
    /// Day and month could be the other way round.
    pub either_way: bool,
}

/// Which comes first in dates such as `03/04/2024`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum DateOrder {
    /// The day.
    #[default]
    DayFirst,
    /// The month.
    MonthFirst,
}

impl Moment {
    /// The day, counted from the start of the year 1.
    ///
    /// ```
    /// use ypogram_core::value::{self, Value};
    /// let day = |cell: &str| match value::read(cell.as_bytes()) {
    ///     Some(Value::Moment(moment)) => moment.day(),
    ///     _ => unreachable!(),
    /// };
    /// assert_eq!(day("30.11.2026 23:59"), day("2026-11-30"));
    /// ```
    pub fn day(self) -> i64 {
        self.seconds.div_euclid(86_400)
    }
}

impl Value {
    /// A number that puts values of one kind in order; every date comes after every number.
    ///
    /// ```
    /// use ypogram_core::value::read;
    /// let order = |cell: &str| read(cell.as_bytes()).unwrap().order();
    /// assert!(order("-2") < order("-1.5") && order("3") < order("2001-01-01 10:00"));
    /// ```
    pub fn order(self) -> u64 {
        match self {
            Value::Number(number) => {
                let bits = number.to_bits();
                let in_order = if bits >> 63 == 1 { !bits } else { bits | 1 << 63 };
                in_order >> 2
            }
            Value::Moment(moment) => 1 << 62 | moment.seconds.max(0) as u64,
        }
    }
}

/// Appends bytes that put cells in order when compared byte by byte: dates and numbers by their value and before text, text by the
/// Unicode collation (UTS #10, its root table), and what is empty last.
///
/// ```
/// use ypogram_core::value::{DateOrder, write_sort_key};
/// let key = |cell: &str| {
///     let mut key = Vec::new();
///     write_sort_key(cell.as_bytes(), DateOrder::DayFirst, &mut key);
///     key
/// };
/// assert!(key("9") < key("10") && key("10") < key("ash"));
/// assert!(key("Arger") < key("Ärger") && key("Ärger") < key("Asche"));
/// assert!(key("zeno") < key(""));
/// ```
pub fn write_sort_key(cell: &[u8], dates: DateOrder, out: &mut Vec<u8>) {
    const VALUE: u8 = 0;
    const TEXT: u8 = 1;
    const EMPTY: u8 = 2;
    match read_in(cell, dates) {
        Some(value) => {
            out.push(VALUE);
            out.extend_from_slice(&value.order().to_be_bytes());
        }
        None if cell.trim_ascii().is_empty() => out.push(EMPTY),
        None => {
            out.push(TEXT);
            let Ok(()) = collator().write_sort_key_utf8_to(cell.trim_ascii(), out);
        }
    }
}

fn collator() -> &'static CollatorBorrowed<'static> {
    static COLLATOR: OnceLock<CollatorBorrowed<'static>> = OnceLock::new();
    let root = || Collator::try_new(CollatorPreferences::default(), CollatorOptions::default());
    COLLATOR.get_or_init(|| root().expect("the root table is compiled in"))
}

/// Which order a date needs to be one: none where it is no date, or one in either order or by a year in front, a month's name or full
/// stops.
///
/// ```
/// use ypogram_core::value::{DateOrder, needed_order};
/// assert_eq!(needed_order(b"12/31/2024"), Some(DateOrder::MonthFirst));
/// assert_eq!(needed_order(b"31/12/2024"), Some(DateOrder::DayFirst));
/// assert_eq!(needed_order(b"03/04/2024"), None);
/// ```
pub fn needed_order(cell: &[u8]) -> Option<DateOrder> {
    let text = std::str::from_utf8(cell).ok()?.trim();
    let numbers =
        text.split(['/', '-']).next().filter(|first| first.len() <= 2 && first.len() < text.len())?;
    if !numbers.bytes().all(|b| b.is_ascii_digit()) {
        return None;
    }
    let (day, month) = (read_in(cell, DateOrder::DayFirst)?, read_in(cell, DateOrder::MonthFirst)?);
    match (day, month) {
        (Value::Moment(day), Value::Moment(month)) if day == month && !day.either_way => {
            let first: u8 = numbers.parse().ok()?;
            let second: u8 = text.split(['/', '-']).nth(1)?.parse().ok()?;
            match (first > 12, second > 12) {
                (true, false) => Some(DateOrder::DayFirst),
                (false, true) => Some(DateOrder::MonthFirst),
                _ => None,
            }
        }
        _ => None,
    }
}

/// Reads the date or number in `cell`; none where it is neither. Days come before months unless that cannot be.
///
/// ```
/// use ypogram_core::value::{self, Value};
/// assert!(value::read(b"2024-03-01") > value::read(b"29 Feb 2024"));
/// assert_eq!(value::read("1.234,50 €".as_bytes()), Some(Value::Number(1234.5)));
/// assert_eq!(value::read(b"30/02/2024"), None);
/// ```
pub fn read(cell: &[u8]) -> Option<Value> {
    read_in(cell, DateOrder::DayFirst)
}

/// The same with that order of dates where either can be.
pub fn read_in(cell: &[u8], dates: DateOrder) -> Option<Value> {
    let text = std::str::from_utf8(cell).ok()?.trim();
    if text.len() > 48 || !text.bytes().any(|b| b.is_ascii_digit()) {
        return None;
    }
    moment_in(text, dates).map(Value::Moment).or_else(|| number(text).map(Value::Number))
}

/// Reads the date in `text`, with the time that may follow.
pub(crate) fn moment(text: &str) -> Option<Moment> {
    moment_in(text, DateOrder::DayFirst)
}

fn moment_in(text: &str, dates: DateOrder) -> Option<Moment> {
    let (date, time) = split_time(text);
    let (date, either_way) = date_of(date, dates)?;
    let second = time.map_or(Some(0), seconds)?;
    let years = i64::from(date.year()) - 1;
    let days = years * 365 + years / 4 - years / 100 + years / 400 + i64::from(date.day_of_year());
    Some(Moment { seconds: days * 86_400 + second, either_way })
}

/// The date and what stands behind it.
fn split_time(text: &str) -> (&str, Option<&str>) {
    let Some(colon) = memchr::memchr(b':', text.as_bytes()) else {
        // 2024-03-01T… without a time does not happen.
        return (text, None);
    };
    match text[..colon].rfind([' ', 'T', 't']) {
        Some(border) => (text[..border].trim_end_matches([',', ' ']), Some(&text[border + 1..])),
        None => (text, None),
    }
}

fn date_of(text: &str, dates: DateOrder) -> Option<(Date, bool)> {
    // The commonest, by ISO 8601.
    if let &[a, b, c, d, b'-', e, f, b'-', g, h] = text.as_bytes() {
        let digits = [a, b, c, d, e, f, g, h];
        if !digits.iter().all(u8::is_ascii_digit) {
            return None;
        }
        let [a, b, c, d, e, f, g, h] = digits.map(|digit| i16::from(digit - b'0'));
        let year = a * 1000 + b * 100 + c * 10 + d;
        return Some((date(year, (e * 10 + f) as i8, (g * 10 + h) as i8)?, false));
    }
    let mut parts = text.split(['-', '/', '.', ' ', ',']).filter(|part| !part.is_empty());
    let (a, b, c) = (parts.next()?, parts.next()?, parts.next()?);
    if parts.next().is_some() {
        return None;
    }
    if a.bytes().all(|b| b.is_ascii_digit()) {
        if let Some(month) = month_named(b).filter(|_| a.len() <= 2) {
            return Some((date(year(c)?, month, small(a)?)?, false));
        }
    } else if let Some(month) = month_named(a) {
        return Some((date(year(c)?, month, small(ordinal(b))?)?, false));
    }
    let mut separators = text.bytes().filter(|b| !b.is_ascii_digit());
    let separator = separators.next()?;
    if separators.next() != Some(separator) || separators.next().is_some() || separator == b',' {
        return None;
    }
    if a.len() == 4 {
        return Some((date(year(a)?, small(b)?, small(c)?)?, false));
    }
    let (first, second, year) = (small(a)?, small(b)?, year(c)?);
    // Full stops always have the day in front.
    let may_be_month_first = separator != b'.' && first <= 12;
    let month_first = date(year, first, second).filter(|_| may_be_month_first);
    match (date(year, second, first), month_first) {
        (Some(day_first), Some(month_first)) if day_first != month_first => match dates {
            DateOrder::DayFirst => Some((day_first, true)),
            DateOrder::MonthFirst => Some((month_first, true)),
        },
        (day_first, month_first) => Some((day_first.or(month_first)?, false)),
    }
}

fn date(year: i16, month: i8, day: i8) -> Option<Date> {
    Date::new(year, month, day).ok().filter(|date| date.year() >= 1000)
}

/// A year of four digits, or of two: up to 69 of this century.
fn year(text: &str) -> Option<i16> {
    let digits = text.bytes().all(|b| b.is_ascii_digit());
    match text.len() {
        4 if digits => text.parse().ok(),
        2 if digits => text.parse::<i16>().ok().map(|year| if year < 70 { 2000 + year } else { 1900 + year }),
        _ => None,
    }
}

fn small(text: &str) -> Option<i8> {
    (text.len() <= 2 && text.bytes().all(|b| b.is_ascii_digit())).then(|| text.parse().ok()).flatten()
}

/// `1st` and the like without the letters.
fn ordinal(text: &str) -> &str {
    text.trim_end_matches(|c: char| c.is_ascii_alphabetic())
}

/// The month of that name or abbreviation in one of a few languages.
fn month_named(text: &str) -> Option<i8> {
    const STARTS: [(&str, i8); 24] = [
        ("jan", 1),
        ("ene", 1),
        ("feb", 2),
        ("fév", 2),
        ("mar", 3),
        ("mär", 3),
        ("apr", 4),
        ("avr", 4),
        ("abr", 4),
        ("may", 5),
        ("mai", 5),
        ("jun", 6),
        ("juin", 6),
        ("jul", 7),
        ("juil", 7),
        ("aug", 8),
        ("aoû", 8),
        ("sep", 9),
        ("oct", 10),
        ("okt", 10),
        ("nov", 11),
        ("dec", 12),
        ("dez", 12),
        ("déc", 12),
    ];
    let first = text.chars().next()?;
    if !first.is_alphabetic() || text.chars().count() > 10 {
        return None;
    }
    let lower = text.to_lowercase();
    STARTS.iter().find(|(start, _)| lower.starts_with(start)).map(|(_, month)| *month)
}

/// Seconds of the day in `15:04`, `3:04:05 pm`, `15:04:05.6+02:00`, the offset taken off.
fn seconds(text: &str) -> Option<i64> {
    let lower = text.trim().to_ascii_lowercase();
    let (time, offset) = split_offset(&lower)?;
    let afternoon = time.ends_with("pm");
    let half = afternoon || time.ends_with("am");
    let time = time.trim_end_matches("am").trim_end_matches("pm").trim();
    let mut parts = time.split(':');
    let whole =
        |text: &str| text.parse::<i64>().ok().filter(|_| text.len() <= 2 && !text.starts_with(['+', '-']));
    let hour = whole(parts.next()?)?;
    let minute = whole(parts.next()?)?;
    let second = parts.next().map_or(Some(0), |part| whole(part.split(['.', ',']).next()?))?;
    let hour = match (half, afternoon) {
        (true, _) if !(1..=12).contains(&hour) => return None,
        (true, true) => hour % 12 + 12,
        (true, false) => hour % 12,
        _ => hour,
    };
    let fits = hour <= 24 && minute < 60 && second <= 60 && parts.next().is_none();
    fits.then_some(hour * 3600 + minute * 60 + second - offset)
}

/// The time and the seconds that it is ahead of UTC.
fn split_offset(time: &str) -> Option<(&str, i64)> {
    let time = time.trim_end_matches(" utc");
    if let Some(time) = time.strip_suffix('z') {
        return Some((time, 0));
    }
    let Some(at) = time.rfind(['+', '-']) else { return Some((time, 0)) };
    let digits: String = time[at + 1..].chars().filter(|c| *c != ':').collect();
    let number: i64 = digits.parse().ok()?;
    let (hours, minutes) = if digits.len() > 2 { (number / 100, number % 100) } else { (number, 0) };
    let offset = hours * 3600 + minutes * 60;
    Some((time[..at].trim_end(), if time.as_bytes()[at] == b'-' { -offset } else { offset }))
}

/// Reads the number in `text`: with a sign, a currency, per cent, separators of thousands, a decimal point or comma.
pub(crate) fn number(text: &str) -> Option<f64> {
    if text.len() <= 15 && text.bytes().all(|b| b.is_ascii_digit()) {
        return text.parse().ok();
    }
    let bare = text
        .trim_matches(|c: char| c.is_whitespace() || matches!(c, '€' | '$' | '£' | '¥' | '%'))
        .trim_end_matches("EUR")
        .trim_end();
    let digits: String =
        bare.chars().filter(|c| !matches!(c, ' ' | '\u{A0}' | '\u{202F}' | '\'' | '’')).collect();
    let unsigned = digits.strip_prefix(['-', '+', '−']).unwrap_or(&digits);
    if !unsigned.starts_with(|c: char| c.is_ascii_digit())
        || !unsigned.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'.' | b','))
    {
        return None;
    }
    let (dots, commas) = (count(unsigned, '.'), count(unsigned, ','));
    let decimal = match (dots, commas) {
        (0, 0) => None,
        (0, 1) if is_grouped(unsigned, ',') => None,
        (1, 0) | (0, 1) => unsigned.find(['.', ',']),
        (0, _) if is_grouped(unsigned, ',') => None,
        (_, 0) if is_grouped(unsigned, '.') => None,
        (1, _) if unsigned.rfind('.') > unsigned.rfind(',') => unsigned.find('.'),
        (_, 1) if unsigned.rfind(',') > unsigned.rfind('.') => unsigned.find(','),
        _ => return None,
    };
    let whole: String =
        unsigned[..decimal.unwrap_or(unsigned.len())].chars().filter(char::is_ascii_digit).collect();
    let rest = decimal.map_or("0", |at| &unsigned[at + 1..]);
    let value: f64 = format!("{whole}.{rest}").parse().ok()?;
    Some(if digits.starts_with(['-', '−']) { -value } else { value })
}

fn count(text: &str, sign: char) -> usize {
    text.chars().filter(|c| *c == sign).count()
}

fn is_grouped(text: &str, separator: char) -> bool {
    let mut groups = text.split(separator);
    groups.next().is_some_and(|first| (1..=3).contains(&first.len())) && groups.all(|group| group.len() == 3)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn in_order() {
        // Each is later than the one before.
        let dates = [
            "31.12.1999",
            "2000-01-01T00:30+02:00",
            "31 Dec 1999 23:00",
            "2000-01-01",
            "2000-01-01 00:30",
            "1/13/2000",
            "14 January 2000",
            "Feb 1st, 2000",
            "29/02/00",
            "1. März 2000",
            "2000-03-02T10:00:00+02:00",
            "2000-03-02T09:00:00Z",
            "2000-03-02 3:00 PM",
            "3.3.2000, 07:15",
            "2024/03/01",
        ];
        let read: Vec<_> =
            dates.iter().map(|date| moment(date).unwrap_or_else(|| panic!("{date}"))).collect();
        for (pair, names) in read.windows(2).zip(dates.windows(2)) {
            assert!(pair[0] < pair[1], "{names:?}");
        }
        assert!(moment("03/04/2024").unwrap().either_way && !moment("03.04.2024").unwrap().either_way);
        for no in [
            "2024-13-01",
            "30.02.2024",
            "1.2.3",
            "01632 960413",
            "2024",
            "12:30",
            "a-b-c",
            "2024-01-01 25:00",
        ] {
            assert_eq!(moment(no), None, "{no}");
        }
    }

    #[test]
    fn numbers() {
        for (text, value) in [
            ("12", Some(12.0)),
            ("-3.5", Some(-3.5)),
            ("1,234", Some(1234.0)),
            ("1,234.50", Some(1234.5)),
            ("1.234,50 €", Some(1234.5)),
            ("1.234.567", Some(1_234_567.0)),
            ("12,5 %", Some(12.5)),
            ("£ 1 000", Some(1000.0)),
            ("1,2,3", None),
            ("12a", None),
            ("", None),
        ] {
            assert_eq!(number(text), value, "{text}");
        }
    }
}
