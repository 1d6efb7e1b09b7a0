//! What a cell holds, whatever its column is called: an address, a telephone number, a date, …

use serde::{Deserialize, Serialize};

use crate::names::stands_between_names;
use crate::value;

/// What a cell holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[repr(u8)]
pub enum CellKind {
    /// Nothing but white space.
    Empty,
    /// One address, alone or among other words.
    Address,
    /// More than one address.
    SeveralAddresses,
    /// A telephone number.
    Telephone,
    /// A web address.
    WebAddress,
    /// Words that look like a person's or a place's name.
    Name,
    /// A number.
    Number,
    /// A date, with or without a time.
    Date,
    /// Anything else.
    Text,
}

impl CellKind {
    /// Every kind.
    pub const ALL: [CellKind; 9] = [
        CellKind::Empty,
        CellKind::Address,
        CellKind::SeveralAddresses,
        CellKind::Telephone,
        CellKind::WebAddress,
        CellKind::Name,
        CellKind::Number,
        CellKind::Date,
        CellKind::Text,
    ];

    /// The word in outputs and conditions.
    pub const fn word(self) -> &'static str {
        match self {
            CellKind::Empty => "empty",
            CellKind::Address => "address",
            CellKind::SeveralAddresses => "several-addresses",
            CellKind::Telephone => "telephone",
            CellKind::WebAddress => "web-address",
            CellKind::Name => "name",
            CellKind::Number => "number",
            CellKind::Date => "date",
            CellKind::Text => "text",
        }
    }

    /// What `cell`, in which `addresses` addresses were found, holds.
    ///
    /// ```
    /// use ypogram_core::CellKind;
    /// assert_eq!(CellKind::of(b"01632 960413", 0), CellKind::Telephone);
    /// assert_eq!(CellKind::of(b"2015-01-11", 0), CellKind::Date);
    /// assert_eq!(CellKind::of(b"Gwen Dunmore", 0), CellKind::Name);
    /// ```
    pub fn of(cell: &[u8], addresses: usize) -> CellKind {
        match addresses {
            0 => {}
            1 => return CellKind::Address,
            _ => return CellKind::SeveralAddresses,
        }
        let cell = cell.trim_ascii();
        if cell.is_empty() {
            return CellKind::Empty;
        }
        // As notes are: too long for all but a web address, which has no spaces.
        let looked_at = &cell[..cell.len().min(LOOKED_AT)];
        if cell.len() > LONGEST_NAME && memchr::memchr(b' ', looked_at).is_some() {
            return CellKind::Text;
        }
        let seen = Seen::of(looked_at);
        if seen.digits > 0 && cell.len() <= 48 {
            let Ok(text) = std::str::from_utf8(cell) else { return CellKind::Text };
            if may_be_date(cell, &seen) && value::moment(text).is_some() {
                return CellKind::Date;
            }
            if is_telephone(cell, &seen) {
                return CellKind::Telephone;
            }
            if seen.letters <= 3 && value::number(text).is_some() {
                return CellKind::Number;
            }
        }
        if is_web_address(cell, &seen) {
            return CellKind::WebAddress;
        }
        if seen.digits == 0 && is_name(cell, &seen) { CellKind::Name } else { CellKind::Text }
    }
}

/// How many octets of which sort there are.
struct Seen {
    digits: usize,
    /// Letters, and the octets of those outside ASCII.
    letters: usize,
    spaces: usize,
    dots: usize,
    /// Signs that no name has.
    signs: usize,
}

/// Octets of a cell that are looked at: no date, number or name is longer.
const LOOKED_AT: usize = 4000;

/// Octets of the longest name, which is longer than any date or number.
const LONGEST_NAME: usize = 60;

/// Each sort is counted in twelve bits of one number.
static SORTS: [u64; 256] = {
    let mut table = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        let b = byte as u8;
        table[byte] = if b.is_ascii_digit() {
            1
        } else if b.is_ascii_alphabetic() || b >= 0x80 {
            1 << 12
        } else if b == b' ' {
            1 << 24
        } else if b == b'.' {
            1 << 36
        } else if matches!(b, b'-' | b'\'' | b',') {
            0
        } else {
            1 << 48
        };
        byte += 1;
    }
    table
};

impl Seen {
    fn of(cell: &[u8]) -> Self {
        let sum: u64 = cell.iter().map(|&b| SORTS[usize::from(b)]).sum();
        let sort = |place: u32| (sum >> (place * 12)) as usize & 0xFFF;
        Seen { digits: sort(0), letters: sort(1), spaces: sort(2), dots: sort(3), signs: sort(4) }
    }
}

/// Three parts with four to eight digits, more only before a time.
fn may_be_date(cell: &[u8], seen: &Seen) -> bool {
    (3..=20).contains(&seen.digits)
        && cell.len() >= 6
        && seen.letters <= 12
        && cell[0].is_ascii_alphanumeric()
        && (seen.digits <= 8 || cell.contains(&b':'))
        && cell.iter().any(|b| matches!(b, b'-' | b'/' | b'.' | b' '))
}

/// Seven to fifteen digits (ITU-T E.164), with the signs people put between them.
fn is_telephone(cell: &[u8], seen: &Seen) -> bool {
    if seen.digits < 7 || seen.letters > 8 {
        return false;
    }
    let number = if seen.letters > 0 { without_words(cell) } else { cell };
    let (mut digits, mut signs, mut dots) = (0, 0, 0);
    for &b in number {
        match b {
            b'0'..=b'9' => digits += 1,
            b'.' => dots += 1,
            b' ' | b'+' | b'-' | b'(' | b')' | b'/' => signs += 1,
            _ => return false,
        }
    }
    if !(7..=15).contains(&digits) || number[0] == b'-' {
        return false;
    }
    // 192.168.10.11
    let network_address = dots == 3 && signs == 0;
    signs > 0 || number[0] == b'0' && !network_address
}

/// A telephone number without what it is called in front and its extension behind.
fn without_words(cell: &[u8]) -> &[u8] {
    let start = cell.iter().position(|b| b.is_ascii_digit() || matches!(b, b'+' | b'(')).unwrap_or(0);
    let before = &cell[..start];
    let called = before.len() <= 8
        && before.iter().all(|b| b.is_ascii_alphabetic() || matches!(b, b'.' | b':' | b' '));
    let number = if called { &cell[start..] } else { cell };
    let extension = number.iter().position(|b| matches!(b, b'x' | b'X' | b'e'));
    number[..extension.unwrap_or(number.len())].trim_ascii_end()
}

/// `https://…`, `www.…`, or a name with an ending of the root zone and perhaps a path.
fn is_web_address(cell: &[u8], seen: &Seen) -> bool {
    if seen.spaces > 0 || seen.dots == 0 && !cell.contains(&b':') {
        return false;
    }
    let starts = |start: &[u8]| cell.len() > start.len() && cell[..start.len()].eq_ignore_ascii_case(start);
    if starts(b"http://") || starts(b"https://") || starts(b"ftp://") || starts(b"www.") {
        return true;
    }
    let host = cell.split(|&b| matches!(b, b'/' | b'?' | b'#' | b':')).next().unwrap_or_default();
    let is_name = host.iter().all(|&b| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-'));
    is_name
        && host.contains(&b'.')
        && !host.starts_with(b".")
        && psl::suffix(&host.to_ascii_lowercase())
            .is_some_and(|suffix| suffix.is_known() && suffix.as_bytes().len() < host.len())
}

/// One to five words with a capital, small particles between them.
fn is_name(cell: &[u8], seen: &Seen) -> bool {
    if cell.len() > LONGEST_NAME || seen.letters < 2 || seen.spaces > 5 || seen.signs > 0 {
        return false;
    }
    let starts_large = |word: &[u8]| {
        if word[0] < 0x80 {
            return word[0].is_ascii_uppercase();
        }
        let first = crate::bytes::first_char(word).map(|(c, _)| c);
        first.is_some_and(|c| c.is_uppercase() || c.is_alphabetic() && !c.is_lowercase())
    };
    let mut words = cell.split(|&b| matches!(b, b' ' | b',')).filter(|word| !word.is_empty());
    starts_large(cell)
        && words.all(|word| starts_large(word) || std::str::from_utf8(word).is_ok_and(stands_between_names))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn kinds() {
        use CellKind::*;
        for (cell, kind) in [
            ("", Empty),
            ("  \t", Empty),
            ("+44 1632 960413", Telephone),
            ("(0441) 960-413", Telephone),
            ("01632960413", Telephone),
            ("960 4131", Telephone),
            ("Tel. 01632 960413 ext. 12", Telephone),
            ("192.168.10.11", Text),
            ("9604131", Number),
            ("1234567.50", Number),
            ("FH-1001", Text),
            ("12", Number),
            ("12 %", Number),
            ("-1234567", Number),
            ("€ 1.234,50", Number),
            ("2015-01-11", Date),
            ("11.1.2015", Date),
            ("3 March 2021, 10:15", Date),
            ("https://fernhollow.example/join?a=1", WebAddress),
            ("fernhollow.org/join", WebAddress),
            ("www.fernhollow", WebAddress),
            ("notes.txt", Text),
            ("Gwen Dunmore", Name),
            ("O'Neil, Bea", Name),
            ("Ludwig van der Berg", Name),
            ("Žofie Černá", Name),
            ("student", Text),
            ("pays in cash", Text),
            ("Paid. Came late!", Text),
        ] {
            assert_eq!(CellKind::of(cell.as_bytes(), 0), kind, "{cell}");
        }
        assert_eq!(CellKind::of(b"a@b.org", 1), Address);
        assert_eq!(CellKind::of(b"a@b.org c@d.org", 2), SeveralAddresses);
    }
}
