//! What came of one chunk.

use ypogram_io::{Batch, EncodedRows, Values};

use crate::duplicates::merged_rows::Cells;
use crate::jobs::dedupe::near::Traits;

/// What came of one chunk: first judged, then settled, then encoded.
#[derive(Default)]
pub(crate) struct Part {
    pub(crate) rows: Vec<Row>,
    /// The weight of each, where any has one.
    pub(crate) weights: Vec<Weight>,
    pub(crate) lines: u64,
    pub(crate) blank_lines: u64,
    /// Cells that a spreadsheet would take for formulas.
    pub(crate) formulas: u64,
    pub(crate) rejected: u64,
    pub(crate) review: u64,
    pub(crate) from_text: u64,
    pub(crate) unreadable: u64,
    pub(crate) either_way: u64,
    /// Records without a usable address for which a field has one that was not looked at, by field.
    pub(crate) reachable: Vec<u64>,
    /// Hashes of the keys under each rule, of usable addresses, where these are wanted.
    pub(crate) rules: Vec<[u64; 4]>,
    /// What usable addresses are compared by, where probable twins are wanted.
    pub(crate) traits: Vec<Traits>,
    /// What tells each record apart; empty where no field was named for it.
    pub(crate) ids: Texts,
    /// What was noted of each record.
    pub(crate) notes: Texts,
    /// Where each row goes, once that is settled; empty where nothing is written.
    pub(crate) goes: Vec<Goes>,
    /// Survivors with cells of others: the row, and the cells by field.
    pub(crate) merged: Vec<(usize, Cells)>,
    /// Each output's rows, once they are encoded.
    pub(crate) encoded: [EncodedRows; OUTPUTS],
    pub(super) batch: Batch,
    pub(crate) values: Values,
    /// Each row has its key among its values.
    pub(super) with_keys: bool,
}

/// Texts of the records of a chunk, behind one another.
#[derive(Default)]
pub(crate) struct Texts {
    bytes: Vec<u8>,
    ends: Vec<usize>,
}

impl Texts {
    pub(super) fn clear(&mut self) {
        self.bytes.clear();
        self.ends.clear();
    }

    /// Adds what `write` appends.
    pub(super) fn add(&mut self, write: impl FnOnce(&mut Vec<u8>)) {
        write(&mut self.bytes);
        self.ends.push(self.bytes.len());
    }

    /// The texts, in order.
    pub(crate) fn iter(&self) -> impl Iterator<Item = &[u8]> {
        std::iter::once(&0).chain(&self.ends).zip(&self.ends).map(|(&start, &end)| &self.bytes[start..end])
    }
}

/// One record.
#[derive(Clone, Copy)]
pub(crate) struct Row {
    /// Hash of the key; 0 where there is no address, even where it is usable, odd where it is not.
    pub(crate) hash: u128,
    /// Line breaks before it in the chunk.
    pub(crate) line: u32,
    /// The first cell of the record needs no quotes.
    pub(super) is_simple: bool,
}

/// One thread writes rows, and another may read them: the less there is of them, the less it waits.
const _: () = assert!(size_of::<Row>() == 32);

impl Row {
    /// Whether its address is usable.
    pub(crate) fn is_usable(&self) -> bool {
        self.hash != 0 && self.hash & 1 == 0
    }
}

/// What counts among records of one mailbox.
#[derive(Clone, Copy, Default)]
pub(crate) struct Weight {
    pub(crate) score: u64,
    /// The hash of the person; 0 where none is known.
    pub(crate) person: u64,
}

/// Where a row goes, and the place of its values where it has some.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Goes {
    pub(super) to: To,
    pub(super) values: Option<u32>,
}

/// An output.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum To {
    Kept,
    Dropped,
    Review,
    NoAddress,
}

/// How many outputs there may be.
pub(crate) const OUTPUTS: usize = 4;

/// The values that a row may have, by their numbers.
pub(crate) mod value {
    pub(crate) const KEY: usize = 0;
    pub(crate) const RECORD: usize = 1;
    pub(crate) const SAME_AS: usize = 2;
    pub(crate) const SAME_COUNT: usize = 3;
    pub(crate) const VALUES: usize = 4;
}

impl Part {
    /// The weight of the record at `index`.
    #[inline]
    pub(crate) fn weight(&self, index: usize) -> Weight {
        self.weights.get(index).copied().unwrap_or_default()
    }

    /// The next row stays, as it is.
    #[inline]
    pub(crate) fn stays(&mut self) {
        self.goes.push(Goes { to: To::Kept, values: None });
    }

    /// The next row goes there; gives the row of its values, for which there is a place now.
    pub(crate) fn goes_with_values(&mut self, to: To) -> usize {
        // The key is there already where rows are marked.
        let row = if self.with_keys { self.goes.len() } else { self.values.add_row() };
        self.goes.push(Goes { to, values: Some(row as u32) });
        row
    }

    pub(super) fn clear(&mut self, fields: usize) {
        self.rows.clear();
        self.weights.clear();
        self.rules.clear();
        self.traits.clear();
        self.ids.clear();
        self.notes.clear();
        self.goes.clear();
        self.merged.clear();
        self.batch.clear();
        self.values.clear(value::VALUES);
        self.encoded.iter_mut().for_each(EncodedRows::clear);
        self.reachable.clear();
        self.reachable.resize(fields, 0);
        (self.rejected, self.review, self.from_text) = (0, 0, 0);
        (self.unreadable, self.either_way) = (0, 0);
    }
}
