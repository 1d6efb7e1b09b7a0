//! Random tables: what their cells hold and what makes them messy.

use crate::Draw;

/// What cells are put together from.
pub const BITS: [&str; 42] = [
    "ada@h-works.org",
    "Ada.Lovell@GMail.com",
    "night.owl+moon@googlemail.com",
    "bea@bücher.de",
    "<cleo@gmx.de>",
    "mailto:dara@h-works.org",
    "@",
    "@@",
    ".",
    "..",
    " ",
    ",",
    ";",
    "\"",
    "\"\"",
    "'",
    "\n",
    "\t",
    "<",
    ">",
    "(",
    ")",
    "[192.0.2.1]",
    "mailto:",
    "=?utf-8?q?",
    "=1+1",
    "+44 1632 960413",
    "-",
    "&#64;",
    "%40",
    "xn--",
    "\u{200b}",
    "\u{202e}",
    "é",
    "e\u{301}",
    "漢",
    "\u{1F989}",
    "a",
    "gmail.com",
    "unknown",
    "n/a",
    "\r\n",
];

/// Bits that are a whole address.
const ADDRESSES: usize = 6;

/// A table as somebody else keeps it: names, and records with a number of their own in front.
#[derive(Debug, Default)]
pub(super) struct Table {
    /// The names of the fields.
    pub(super) names: Vec<String>,
    /// The records; some have fewer cells than names, or more, where the format allows that.
    pub(super) records: Vec<Vec<String>>,
}

impl Table {
    /// A random one; with ragged records and line breaks of both kinds where `is_text`.
    pub(super) fn random(draw: &mut Draw, is_text: bool) -> Self {
        let fields = 3 + draw.below(3);
        let names = (0..fields).map(|nth| match nth {
            0 => "nr".into(),
            1 => "email".into(),
            nth => format!("field{nth}"),
        });
        let record = |nr: usize, draw: &mut Draw| {
            let width = if is_text && draw.below(9) == 0 { 2 + draw.below(5) } else { fields };
            let mut cells = vec![format!("N{nr}")];
            cells.extend((1..width).map(|_| cell(draw, is_text)));
            cells
        };
        let count = draw.below(90);
        Table { names: names.collect(), records: (0..count).map(|nr| record(nr, draw)).collect() }
    }

    /// A record as it comes out again: filled up to all fields, what is beyond behind them.
    pub(super) fn whole(&self, record: &[String]) -> Vec<String> {
        let mut cells = record.to_vec();
        cells.resize(record.len().max(self.names.len()), String::new());
        cells
    }
}

fn cell(draw: &mut Draw, is_text: bool) -> String {
    // A carriage return is not kept as it is by XML.
    let bits = if is_text { &BITS[..] } else { &BITS[..BITS.len() - 1] };
    match draw.below(3) {
        0 => (*draw.of(&BITS[..ADDRESSES])).to_owned(),
        1 => String::new(),
        _ => (0..draw.below(6)).map(|_| *draw.of(bits)).collect(),
    }
}
