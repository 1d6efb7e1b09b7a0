//! How the cells of a file are separated, recognised from its first records.

use crate::batch::Batch;
use crate::csv::decode::decode;

/// How cells are separated.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Dialect {
    /// The separator of cells.
    pub delimiter: u8,
}

const CANDIDATES: [u8; 4] = [b',', b';', b'\t', b'|'];

impl Dialect {
    /// The separator under which most of the first records have the same number of cells, and more than one.
    ///
    /// ```
    /// use ypogram_tables::csv::Dialect;
    /// assert_eq!(Dialect::recognise(b"name;email\n\"Lovell, Ada\";ada@h.example\n").delimiter, b';');
    /// ```
    pub fn recognise(sample: &[u8]) -> Self {
        let score = |delimiter: u8| {
            let mut batch = Batch::default();
            decode(sample, Dialect { delimiter }, &mut batch);
            let widths = batch.widths();
            let first = widths.first().copied().unwrap_or(1);
            let alike = widths.iter().filter(|&&width| width == first).count();
            if first < 2 { (0, 0) } else { (alike * 1000 / widths.len(), first) }
        };
        let best =
            CANDIDATES.into_iter().rev().max_by_key(|&delimiter| score(delimiter)).expect("candidates");
        Dialect { delimiter: if score(best) == (0, 0) { b',' } else { best } }
    }

    /// What people call it.
    pub fn described(self) -> &'static str {
        match self.delimiter {
            b',' => "comma-separated",
            b';' => "semicolon-separated",
            b'\t' => "tab-separated",
            b'|' => "bar-separated",
            _ => "separated values",
        }
    }
}
