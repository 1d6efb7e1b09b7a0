//! What a cell holds, whatever its column is called: an address, a telephone number, a date, …

use serde::{Deserialize, Serialize};

use crate::characters::bytes::{self, ATEXT, DOT, HIGH};
use crate::data::public_suffix;
use crate::names::stands_between_names;
use crate::profile::value;

/// What a cell holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[repr(u8)]
pub enum CellKind {
    /// Nothing but white space.
    Empty,
    /// One address, alone or among other words, or a word that lacks a part of one.
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
        if seen.signs > 0 && lacks_a_part(cell) {
            return CellKind::Address;
        }
        if seen.digits > 0 && cell.len() <= LONGEST_NAME {
            let Ok(text) = std::str::from_utf8(cell) else { return CellKind::Text };
            if may_be_date(cell, &seen) && value::moment(text).is_some() {
                return CellKind::Date;
            }
            if is_telephone(cell, &seen) || seen.digits >= 7 && are_telephones(cell) {
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

/// How many bytes of which sort there are.
struct Seen {
    digits: usize,
    /// Letters, and the bytes of those outside ASCII.
    letters: usize,
    spaces: usize,
    dots: usize,
    /// CandidateScanner that no name has.
    signs: usize,
}

/// Bytes of a cell that are looked at: no date, number or name is longer.
const LOOKED_AT: usize = 4000;

/// Bytes of the longest name, which is longer than any date or number.
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

/// `ada@host`, `mara@`: one word that starts as an address does.
fn lacks_a_part(cell: &[u8]) -> bool {
    let Some(at) = memchr::memchr(b'@', cell).filter(|&at| at > 0) else { return false };
    let is_word = |part: &[u8]| part.iter().all(|&b| bytes::is(b, ATEXT | DOT | HIGH));
    is_word(&cell[..at]) && is_word(&cell[at + 1..]) && cell[..at].iter().any(u8::is_ascii_alphabetic)
}

/// Telephone numbers with notes in brackets, or one behind the other.
fn are_telephones(cell: &[u8]) -> bool {
    let bare = without_notes(cell);
    let is_one = |part: &[u8]| {
        let part = part.trim_ascii();
        !part.is_empty() && is_telephone(part, &Seen::of(part))
    };
    let in_a_row: Vec<u8> = bare.iter().map(|&b| if b == b'\n' { b' ' } else { b }).collect();
    if is_one(&in_a_row) {
        return true;
    }
    let joined = std::str::from_utf8(&bare).map(|text| {
        ["/", ",", ";", "|", "\n", "&", " or ", " and ", " oder ", " und ", " ou ", " et ", " o ", " y "]
            .iter()
            .any(|between| text.contains(between) && text.split(between).all(|part| is_one(part.as_bytes())))
    });
    joined.unwrap_or(false)
}

/// The cell with a line break for what stands in brackets, unless that is a number's own part, as in `(0441) 960413`.
fn without_notes(cell: &[u8]) -> Vec<u8> {
    let mut bare = Vec::with_capacity(cell.len());
    let mut rest = cell;
    while let Some(open) = rest.iter().position(|b| matches!(b, b'(' | b'[')) {
        let close = if rest[open] == b'(' { b')' } else { b']' };
        let Some(inside) = memchr::memchr(close, &rest[open..]) else { break };
        let note = &rest[open..=open + inside];
        let is_note = note.iter().any(u8::is_ascii_alphabetic) || !note.is_ascii();
        bare.extend_from_slice(&rest[..open]);
        bare.extend_from_slice(if is_note { b"\n" } else { note });
        rest = &rest[open + inside + 1..];
    }
    bare.extend_from_slice(rest);
    bare.trim_ascii().to_vec()
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
    let network_address = dots == 3 && signs == 0 && !has_long_last_group(number);
    // 555.010.9999: a number with dots between its thousands has three digits behind the last.
    let grouped = dots > 1 && has_long_last_group(number);
    signs > 0 || grouped || number[0] == b'0' && !network_address
}

/// Whether four digits or more stand behind the last dot.
fn has_long_last_group(number: &[u8]) -> bool {
    let last = number.rsplit(|&b| b == b'.').next().unwrap_or_default();
    last.len() > 3 && last.iter().all(u8::is_ascii_digit)
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

/// `https://…`, `www.…`, or a name with a TLD and perhaps a path.
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
        && public_suffix::is_below_one(&host.to_ascii_lowercase())
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
        let first = bytes::first_char(word).map(|(c, _)| c);
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
            ("01632.960.413", Telephone),
            ("555.010.9999", Telephone),
            ("+44.1632.960413", Telephone),
            ("01632 960413 (mobile)", Telephone),
            ("(home) 01632 960413", Telephone),
            ("01632 960413 [work, before 5]", Telephone),
            ("01632 960413 / 01632 960414", Telephone),
            ("01632960413 or 01632960414", Telephone),
            ("07700 900123(m) 01632 960413(h)", Telephone),
            ("01632 960413 (home), +44 7700 900123 (mobile)", Telephone),
            ("12.345.678", Number),
            ("mara@", Address),
            ("x@host", Address),
            ("@mara", Text),
            ("3 pcs @ 4", Text),
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
