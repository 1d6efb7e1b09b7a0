//! The added cells of addresses of plain characters, as most are: all but a few are words that follow from the verdict, and
//! these are put together once.

use hashbrown::HashTable;
use smallvec::SmallVec;
use ypogram_core::{Class, Code, CodeSet, Form, Repairs, Verdict, providers::Operator};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Encode, append_short};

use crate::judge::picking::Picked;
use crate::plan::columns::Column;

/// What the words of a row follow from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Cause {
    codes: CodeSet,
    verdict: Verdict,
    class: Option<Class>,
    operator: Operator,
    repairs: Repairs,
    form: Form,
    field: usize,
    source: usize,
    well_formed: bool,
    own: OwnCells,
}

/// Which cells of its own a row has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct OwnCells {
    /// The address, what it is made of, and its key.
    pub(crate) letters: bool,
    /// What was probably meant.
    pub(crate) suggestion: bool,
    /// Further usable addresses.
    pub(crate) more: bool,
    /// The words beside the address.
    pub(crate) remark: bool,
    /// The only own field of its record.
    pub(crate) line: bool,
    /// The row is all there is of its record, with its line end.
    pub(crate) whole: bool,
}

impl Cause {
    #[inline]
    fn hash(&self) -> u64 {
        let codes = self.codes.bits();
        let of_domain = self.class.map_or(0, Class::index) << 16 | self.operator.index();
        let all = codes as u64 ^ (codes >> 64) as u64 ^ (of_domain as u64) << 40 ^ (self.form as u64) << 32;
        let hash = all.wrapping_mul(0x9E37_79B9_7F4A_7C15);
        // The table looks at the lowest bits as well.
        hash ^ hash >> 32
    }
}

/// A cell that each address has for itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum OwnCell {
    Nothing,
    /// The record's own field.
    Line,
    Address,
    LocalPart,
    Domain,
    Key,
    Suggestion,
    More,
    Remark,
}

impl OwnCell {
    fn of(column: Column) -> Option<Self> {
        Some(match column {
            Column::Address => OwnCell::Address,
            Column::LocalPart => OwnCell::LocalPart,
            Column::Domain => OwnCell::Domain,
            Column::Key => OwnCell::Key,
            Column::Suggestion => OwnCell::Suggestion,
            Column::More => OwnCell::More,
            Column::Remark => OwnCell::Remark,
            _ => return None,
        })
    }

    fn is_among(self, own: OwnCells) -> bool {
        match self {
            OwnCell::Line => own.line,
            OwnCell::Suggestion => own.suggestion,
            OwnCell::More => own.more,
            OwnCell::Remark => own.remark,
            OwnCell::Nothing => false,
            _ => own.letters,
        }
    }
}

/// What rows are made of that differ only in cells of their own.
#[derive(Clone, Debug, Default)]
pub(crate) struct Words {
    stretches: SmallVec<[Stretch; 4]>,
    /// The stretch from whose start on these cells stand; they follow one another.
    placed: usize,
    places: Places,
}

/// Some words with the delimiters around them, and the cell behind them.
#[derive(Clone, Copy, Debug)]
struct Stretch {
    words: [u8; WORDS],
    /// How many octets the words have.
    octets: u8,
    then: OwnCell,
}

/// Where cells stand that may have to be changed later: the start of the verdict's, start and end of the findings'.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Places {
    pub(crate) verdict: u32,
    pub(crate) findings: (u32, u32),
}

impl Places {
    fn behind(self, start: u32) -> Self {
        let Places { verdict, findings: (from, to) } = self;
        Places { verdict: start + verdict, findings: (start + from, start + to) }
    }
}

/// An address that needs no quotes, and its key.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Letters<'a> {
    /// The address, and what may stand behind it.
    pub(crate) address: &'a [u8],
    /// How many octets it has.
    pub(crate) len: usize,
    /// Where the @ stands in it.
    pub(crate) at: usize,
    /// Its key, where that is not the address, and what may stand behind it; how many octets the key has.
    pub(crate) key: Option<(&'a [u8], usize)>,
    /// What was probably meant, as it stands in a cell.
    pub(crate) suggestion: &'a [u8],
    /// Further usable addresses, as they stand in a cell.
    pub(crate) more: &'a [u8],
    /// The words beside the address, as they stand in a cell.
    pub(crate) remark: &'a [u8],
    /// The record's own field, and what may stand behind it; how many octets the field has.
    pub(crate) line: (&'a [u8], usize),
}

/// Octets of the words of a stretch at most; most between two own cells have no more.
const WORDS: usize = 32;
/// Octets in which most addresses, local parts and domains fit.
const NAMES: usize = 64;

/// Appends the added cells of a row to `out`, or all of it; tells where some of them stand there.
#[inline(always)]
pub(crate) fn write_row(words: &Words, letters: &Letters<'_>, out: &mut Vec<u8>) -> Places {
    let mut places = Places::default();
    for (nth, stretch) in words.stretches.iter().enumerate() {
        if nth == words.placed {
            places = words.places.behind(out.len() as u32);
        }
        append_short::<WORDS>(&stretch.words, usize::from(stretch.octets), out);
        if stretch.then != OwnCell::Nothing {
            let (cell, octets) = letters.cell(stretch.then);
            append_short::<NAMES>(cell, octets, out);
        }
    }
    places
}

impl<'a> Letters<'a> {
    /// The cell, what may stand behind it, and how many octets the cell has.
    #[inline]
    fn cell(&self, cell: OwnCell) -> (&'a [u8], usize) {
        match cell {
            OwnCell::Address => (self.address, self.len),
            OwnCell::Key => self.key.unwrap_or((self.address, self.len)),
            OwnCell::Line => self.line,
            other => self.rare_cell(other),
        }
    }

    /// The same for what few rows have, apart, so that it costs the others nothing.
    #[inline(never)]
    fn rare_cell(&self, cell: OwnCell) -> (&'a [u8], usize) {
        let Letters { address, len, at, .. } = *self;
        match cell {
            OwnCell::LocalPart => (address, at),
            OwnCell::Domain => (&address[at + 1..], len - at - 1),
            OwnCell::Suggestion => (self.suggestion, self.suggestion.len()),
            OwnCell::More => (self.more, self.more.len()),
            OwnCell::Remark => (self.remark, self.remark.len()),
            _ => (address, 0),
        }
    }
}

/// Knows the words of rows.
#[derive(Debug)]
pub(crate) struct PlainRows {
    cells: AddedCells,
    /// The findings for which there may be a suggestion; none where there is no column for it.
    mendable: CodeSet,
    made: HashTable<(Cause, Words)>,
    /// What rows without an address are made of, for each source.
    without: Vec<Words>,
}

/// The added cells of all rows.
#[derive(Debug)]
struct AddedCells {
    columns: Vec<Column>,
    encoder: CsvEncoder,
    fields: Vec<String>,
    sources: Vec<String>,
}

/// As many causes are remembered; a list of one's own may bring more.
const MOST: usize = 4096;

impl PlainRows {
    /// For rows with these columns behind others, where findings of `mendable` may have a suggestion; none where a column follows
    /// from more than the address.
    pub(crate) fn of(
        columns: &[Column],
        encoder: &CsvEncoder,
        fields: &[String],
        sources: &[String],
        mendable: CodeSet,
    ) -> Option<Self> {
        let follows = |column: &Column| {
            is_word(*column)
                || OwnCell::of(*column).is_some()
                || matches!(column, Column::Source | Column::SetAside)
        };
        if !encoder.takes_plain_words() || !columns.iter().all(follows) {
            return None;
        }
        let cells = AddedCells {
            columns: columns.to_vec(),
            encoder: encoder.clone().behind_own(),
            fields: fields.to_vec(),
            sources: sources.to_vec(),
        };
        let without = |source| cells.put_together(None, source, OwnCells::default());
        Some(PlainRows {
            without: (0..sources.len()).map(without).collect(),
            mendable: if columns.contains(&Column::Suggestion) { mendable } else { CodeSet::default() },
            made: HashTable::new(),
            cells,
        })
    }

    /// Whether there is a place for a suggestion, and something may be suggested instead of an address of these findings.
    #[inline]
    pub(crate) fn suggests(&self, picked: &Picked) -> bool {
        picked.verdict != Verdict::Accept && picked.codes.meets(self.mendable)
    }

    /// What the added cells of a row without an address are made of.
    #[inline]
    pub(crate) fn without_address(&self, source: usize) -> &Words {
        &self.without[source]
    }

    /// What the added cells of a row are made of.
    #[inline]
    pub(crate) fn words(&mut self, picked: &Picked, source: usize, own: OwnCells) -> &Words {
        let cause = Cause {
            codes: picked.codes,
            verdict: picked.verdict,
            class: picked.judged.class,
            operator: picked.judged.operator,
            repairs: picked.repairs,
            form: picked.form,
            field: picked.field,
            source,
            well_formed: picked.well_formed,
            own,
        };
        if self.made.len() >= MOST {
            self.made.clear();
        }
        let made = self.made.entry(cause.hash(), |(made, _)| *made == cause, |(cause, _)| cause.hash());
        let make = || (cause, self.cells.put_together(Some(picked), source, own));
        &made.or_insert_with(make).into_mut().1
    }
}

impl AddedCells {
    #[cold]
    fn put_together(&self, picked: Option<&Picked>, source: usize, own: OwnCells) -> Words {
        let mut encoder = self.encoder.clone();
        let mut words = Words { placed: usize::MAX, ..Words::default() };
        // The words that no cell of its own stands behind yet.
        let mut open = Vec::new();
        if own.line {
            words.end_stretch(&mut open, OwnCell::Line);
        }
        let (mut word, mut places) = (Vec::new(), Places::default());
        for &column in &self.columns {
            word.clear();
            match (column, picked) {
                (Column::Source, _) => word.extend_from_slice(self.sources[source].as_bytes()),
                (column, Some(picked)) => write_word(column, picked, &self.fields, &mut word),
                (column, None) => write_word_without_address(column, &mut word),
            }
            encoder.cell(&word, &mut open);
            // These two are of our own words and never quoted.
            let end = open.len() as u32;
            let start = end.saturating_sub(word.len() as u32);
            match column {
                Column::Verdict => places.verdict = start,
                Column::Findings => places.findings = (start, end),
                _ => {}
            }
            if matches!(column, Column::Verdict | Column::Findings) {
                (words.placed, words.places) = (words.stretches.len(), places);
            }
            if let Some(cell) = OwnCell::of(column).filter(|cell| cell.is_among(own)) {
                words.end_stretch(&mut open, cell);
            }
        }
        if own.whole {
            encoder.end_row(&mut open);
        }
        words.end_stretch(&mut open, OwnCell::Nothing);
        words
    }
}

impl Words {
    /// Adds the words that are open, of which none are then, and the cell behind them.
    fn end_stretch(&mut self, open: &mut Vec<u8>, then: OwnCell) {
        let mut rest = &open[..];
        loop {
            let (words, more) = rest.split_at(rest.len().min(WORDS));
            let mut stretch = Stretch { words: [0; WORDS], octets: words.len() as u8, then };
            stretch.words[..words.len()].copy_from_slice(words);
            if more.is_empty() {
                self.stretches.push(stretch);
                return open.clear();
            }
            self.stretches.push(Stretch { then: OwnCell::Nothing, ..stretch });
            rest = more;
        }
    }
}

/// Whether the cell of `column` is a word that [`write_word`] knows.
fn is_word(column: Column) -> bool {
    matches!(
        column,
        Column::WellFormed
            | Column::Verdict
            | Column::Findings
            | Column::Repairs
            | Column::Form
            | Column::Field
            | Column::Class
            | Column::Operator
    )
}

/// Appends what `column` says of an address in words of our own, which follow from its verdict; nothing for other columns.
pub(crate) fn write_word(column: Column, picked: &Picked, fields: &[String], out: &mut Vec<u8>) {
    let word = match column {
        Column::WellFormed if picked.well_formed => "true",
        Column::WellFormed => "false",
        Column::Verdict => picked.verdict.word(),
        Column::Findings => return words(picked.codes.iter().map(Code::name), out),
        Column::Repairs => return words(picked.repairs.iter().map(|repair| repair.name()), out),
        Column::Form => picked.form.word(),
        Column::Field => &fields[picked.field],
        Column::Class => picked.judged.class.map_or("", Class::word),
        Column::Operator => picked.judged.operator.name(),
        _ => "",
    };
    out.extend_from_slice(word.as_bytes());
}

/// What `column` says of a record without an address.
pub(crate) fn write_word_without_address(column: Column, out: &mut Vec<u8>) {
    let word = match column {
        Column::WellFormed => "false",
        Column::Form => Form::None.word(),
        _ => "",
    };
    out.extend_from_slice(word.as_bytes());
}

/// Appends `words`, a space between them and before the first where something stands there.
pub(crate) fn words<'w>(words: impl Iterator<Item = &'w str>, out: &mut Vec<u8>) {
    for word in words {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word.as_bytes());
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const CELLS: [OwnCell; 9] = [
        OwnCell::Nothing,
        OwnCell::Line,
        OwnCell::Address,
        OwnCell::LocalPart,
        OwnCell::Domain,
        OwnCell::Key,
        OwnCell::Suggestion,
        OwnCell::More,
        OwnCell::Remark,
    ];

    proptest! {
        /// Whatever the lengths, and however near the end of a buffer the cells stand.
        #[test]
        fn rows_copied_in_steps_are_rows_copied_cell_by_cell(
            stretches in prop::collection::vec(("[a-z,]{0,40}", 0..CELLS.len()), 0..6),
            (local, domain, key) in ("[a-z]{1,40}", "[a-z]{1,40}", "[a-z]{0,70}"),
            (suggestion, more, remark) in ("[a-z]{0,2}", "[a-z]{0,2}", "[a-z]{0,2}"),
            line in "[a-z]{0,70}",
            (room, own_key, placed) in (0..70_usize, any::<bool>(), 0..7_usize),
        ) {
            let with_room = |text: &str| [text.as_bytes(), &vec![b'#'; room][..]].concat();
            let address = format!("{local}@{domain}");
            let (address_and_room, key_and_room, line_and_room) = (with_room(&address), with_room(&key), with_room(&line));
            let letters = Letters {
                address: &address_and_room,
                len: address.len(),
                at: local.len(),
                key: own_key.then_some((&key_and_room[..], key.len())),
                suggestion: suggestion.as_bytes(),
                more: more.as_bytes(),
                remark: remark.as_bytes(),
                line: (&line_and_room, line.len()),
            };
            let mut words = Words { placed: usize::MAX, ..Words::default() };
            let mut expected = b"before".to_vec();
            let mut start = 0;
            for (nth, (word, cell)) in stretches.iter().enumerate() {
                if nth == placed {
                    (words.placed, start) = (words.stretches.len(), expected.len() as u32);
                }
                words.end_stretch(&mut word.clone().into_bytes(), CELLS[*cell]);
                expected.extend_from_slice(word.as_bytes());
                let cell = match CELLS[*cell] {
                    OwnCell::Nothing => "",
                    OwnCell::Line => &line,
                    OwnCell::Address => &address,
                    OwnCell::LocalPart => &local,
                    OwnCell::Domain => &domain,
                    OwnCell::Key if own_key => &key,
                    OwnCell::Key => &address,
                    OwnCell::Suggestion => &suggestion,
                    OwnCell::More => &more,
                    OwnCell::Remark => &remark,
                };
                expected.extend_from_slice(cell.as_bytes());
            }
            let mut out = b"before".to_vec();
            let places = write_row(&words, &letters, &mut out);
            prop_assert_eq!(String::from_utf8_lossy(&out), String::from_utf8_lossy(&expected));
            prop_assert_eq!(places.verdict, start);
        }
    }
}
