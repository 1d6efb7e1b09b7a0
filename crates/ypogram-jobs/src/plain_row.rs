//! The added cells of addresses of plain characters, as most are: all but a few are words that follow from the verdict, and
//! these are put together once.

use hashbrown::HashTable;
use smallvec::SmallVec;
use ypogram_core::{Class, Code, CodeSet, Form, Repairs, Verdict, may_be_mended, providers::Operator};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Encode, append_short};

use crate::columns::Column;
use crate::picking::Picked;

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
}

impl OwnCell {
    const COUNT: usize = OwnCell::More as usize + 1;

    fn of(column: Column) -> Option<Self> {
        Some(match column {
            Column::Address => OwnCell::Address,
            Column::LocalPart => OwnCell::LocalPart,
            Column::Domain => OwnCell::Domain,
            Column::Key => OwnCell::Key,
            Column::Suggestion => OwnCell::Suggestion,
            Column::More => OwnCell::More,
            _ => return None,
        })
    }

    fn is_among(self, own: OwnCells) -> bool {
        match self {
            OwnCell::Line => own.line,
            OwnCell::Suggestion => own.suggestion,
            OwnCell::More => own.more,
            OwnCell::Nothing => false,
            _ => own.letters,
        }
    }
}

/// What rows are made of that differ only in cells of their own.
#[derive(Clone, Debug, Default)]
pub(crate) struct Words {
    /// The words with the delimiters around them, one behind the other, and behind them as much as fills a step in which they are
    /// copied.
    octets: Vec<u8>,
    stretches: SmallVec<[Stretch; 6]>,
    /// The stretch in which these cells are, and where in it; they follow one another.
    placed: usize,
    places: Places,
}

/// Some words, and the cell behind them.
#[derive(Clone, Copy, Debug)]
struct Stretch {
    /// How many octets the words have.
    octets: u32,
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
    /// The record's own field, and what may stand behind it; how many octets the field has.
    pub(crate) line: (&'a [u8], usize),
}

/// Octets in which most words between two own cells fit.
const WORDS: usize = 32;
/// Octets in which most addresses, local parts and domains fit.
const NAMES: usize = 64;

/// Appends the added cells of a row to `out`, or all of it.
#[inline]
pub(crate) fn write_row(words: &Words, letters: &Letters<'_>, out: &mut Vec<u8>) {
    match letters.short() {
        Some(cells) => write_short(words, cells, out),
        None => write_long(words, letters, out),
    }
}

/// A cell as it is copied in one step, and how many octets it has.
type Short<'a> = (&'a [u8; NAMES], usize);

/// Where no cell is longer than [`NAMES`].
#[inline]
fn write_short(words: &Words, cells: [Short<'_>; OwnCell::COUNT], out: &mut Vec<u8>) {
    let mut rest = &words.octets[..];
    for stretch in &words.stretches {
        let octets = stretch.octets as usize;
        append_short::<WORDS>(rest, octets, out);
        rest = &rest[octets..];
        let (cell, octets) = cells[stretch.then as usize];
        append_short::<NAMES>(cell, octets, out);
    }
}

#[cold]
fn write_long(words: &Words, letters: &Letters<'_>, out: &mut Vec<u8>) {
    let mut rest = &words.octets[..];
    for stretch in &words.stretches {
        let (word, others) = rest.split_at(stretch.octets as usize);
        out.extend_from_slice(word);
        out.extend_from_slice(letters.cell(stretch.then));
        rest = others;
    }
}

impl<'a> Letters<'a> {
    fn cell(&self, cell: OwnCell) -> &'a [u8] {
        let Letters { address, len, at, .. } = *self;
        match cell {
            OwnCell::Nothing => b"",
            OwnCell::Line => &self.line.0[..self.line.1],
            OwnCell::Address => &address[..len],
            OwnCell::LocalPart => &address[..at],
            OwnCell::Domain => &address[at + 1..len],
            OwnCell::Key => self.key.map_or(&address[..len], |(key, octets)| &key[..octets]),
            OwnCell::Suggestion => self.suggestion,
            OwnCell::More => self.more,
        }
    }

    /// Each of them to be copied in one step; none where one is too long for that, or stands too near the end of a buffer.
    #[inline]
    fn short(&self) -> Option<[Short<'a>; OwnCell::COUNT]> {
        let Letters { address: from, len, at, key, line, .. } = *self;
        let address = from.first_chunk()?;
        let domain = from.get(at + 1..)?.first_chunk()?;
        let (key, key_len) = match key {
            Some((key, octets)) => (key.first_chunk()?, octets),
            None => (address, len),
        };
        let whole_line = if line.1 == 0 { address } else { line.0.first_chunk()? };
        let longest = len.max(key_len).max(line.1);
        if longest > NAMES || !self.suggestion.is_empty() || !self.more.is_empty() {
            return None;
        }
        let mut cells = [(address, 0); OwnCell::COUNT];
        cells[OwnCell::Line as usize] = (whole_line, line.1);
        cells[OwnCell::Address as usize].1 = len;
        cells[OwnCell::LocalPart as usize].1 = at;
        cells[OwnCell::Domain as usize] = (domain, len - at - 1);
        cells[OwnCell::Key as usize] = (key, key_len);
        Some(cells)
    }
}

/// Knows the words of rows.
#[derive(Debug)]
pub(crate) struct PlainRows {
    columns: Vec<Column>,
    encoder: CsvEncoder,
    fields: Vec<String>,
    sources: Vec<String>,
    /// There is a column for suggestions.
    suggests: bool,
    made: HashTable<(Cause, Words)>,
    /// What rows without an address are made of, for each source.
    without: Vec<Words>,
}

/// As many causes are remembered; a list of one's own may bring more.
const MOST: usize = 4096;

impl PlainRows {
    /// For rows with these columns behind others; none where one of them follows from more than the address.
    pub(crate) fn of(
        columns: &[Column],
        encoder: &CsvEncoder,
        fields: &[String],
        sources: &[String],
    ) -> Option<Self> {
        let follows = |column: &Column| {
            is_word(*column)
                || OwnCell::of(*column).is_some()
                || matches!(column, Column::Source | Column::SetAside)
        };
        if !encoder.takes_plain_words() || !columns.iter().all(follows) {
            return None;
        }
        let mut rows = PlainRows {
            columns: columns.to_vec(),
            encoder: encoder.clone().behind_own(),
            fields: fields.to_vec(),
            sources: sources.to_vec(),
            suggests: columns.contains(&Column::Suggestion),
            made: HashTable::new(),
            without: Vec::new(),
        };
        let none = OwnCells::default();
        rows.without = (0..sources.len()).map(|source| rows.put_together(None, source, none)).collect();
        Some(rows)
    }

    /// Whether there is a place for a suggestion, and something may be suggested instead of an address of these findings.
    #[inline]
    pub(crate) fn suggests(&self, picked: &Picked) -> bool {
        let may_be_another = may_be_mended(picked.codes) || picked.codes.contains(Code::WordBeside);
        self.suggests && picked.verdict != Verdict::Accept && may_be_another
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
            well_formed: picked.judged.well_formed,
            own,
        };
        let hash = cause.hash();
        let is_it = |(made, _): &(Cause, Words)| *made == cause;
        if self.made.find(hash, is_it).is_none() {
            if self.made.len() >= MOST {
                self.made.clear();
            }
            let words = self.put_together(Some(picked), source, own);
            self.made.insert_unique(hash, (cause, words), |(cause, _)| cause.hash());
        }
        &self.made.find(hash, is_it).expect("it was made").1
    }

    #[cold]
    fn put_together(&mut self, picked: Option<&Picked>, source: usize, own: OwnCells) -> Words {
        let mut encoder = self.encoder.clone();
        let mut words = Words { placed: usize::MAX, ..Words::default() };
        if own.line {
            words.end_stretch(OwnCell::Line);
        }
        let (mut word, mut places) = (Vec::new(), Places::default());
        for &column in &self.columns {
            word.clear();
            match (column, picked) {
                (Column::Source, _) => word.extend_from_slice(self.sources[source].as_bytes()),
                (column, Some(picked)) => write_word(column, picked, &self.fields, &mut word),
                (_, None) => {}
            }
            encoder.cell(&word, &mut words.octets);
            // These two are of our own words and never quoted.
            let end = words.open_octets();
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
                words.end_stretch(cell);
            }
        }
        if own.whole {
            encoder.end_row(&mut words.octets);
        }
        words.end_stretch(OwnCell::Nothing);
        words.octets.extend_from_slice(&[0; WORDS]);
        words
    }
}

impl Words {
    /// Where some cells stand of a row that starts at `start`.
    #[inline]
    pub(crate) fn places(&self, letters: &Letters<'_>, start: usize) -> Places {
        let (before, in_it) = self.stretches.split_at(self.placed.min(self.stretches.len()));
        if in_it.is_empty() {
            return Places::default();
        }
        let octets = |stretch: &Stretch| stretch.octets as usize + letters.cell(stretch.then).len();
        self.places.behind((start + before.iter().map(octets).sum::<usize>()) as u32)
    }

    /// How many octets stand behind the last cell of its own.
    fn open_octets(&self) -> u32 {
        self.octets.len() as u32 - self.stretches.iter().map(|stretch| stretch.octets).sum::<u32>()
    }

    fn end_stretch(&mut self, then: OwnCell) {
        let octets = self.open_octets();
        if octets > 0 || then != OwnCell::Nothing {
            self.stretches.push(Stretch { octets, then });
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
        Column::WellFormed if picked.judged.well_formed => "true",
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

    const CELLS: [OwnCell; OwnCell::COUNT] = [
        OwnCell::Nothing,
        OwnCell::Line,
        OwnCell::Address,
        OwnCell::LocalPart,
        OwnCell::Domain,
        OwnCell::Key,
        OwnCell::Suggestion,
        OwnCell::More,
    ];

    proptest! {
        /// Whatever the lengths, and however near the end of a buffer the cells stand.
        #[test]
        fn rows_copied_in_steps_are_rows_copied_cell_by_cell(
            stretches in prop::collection::vec(("[a-z,]{0,40}", 0..CELLS.len()), 0..6),
            (local, domain, key) in ("[a-z]{1,40}", "[a-z]{1,40}", "[a-z]{0,70}"),
            (suggestion, more) in ("[a-z]{0,2}", "[a-z]{0,2}"),
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
                line: (&line_and_room, line.len()),
            };
            let mut words = Words { placed, ..Words::default() };
            let mut expected = b"before".to_vec();
            let mut start = 0;
            for (nth, (word, cell)) in stretches.iter().enumerate() {
                if nth == placed {
                    start = expected.len() as u32;
                }
                words.octets.extend_from_slice(word.as_bytes());
                words.end_stretch(CELLS[*cell]);
                expected.extend_from_slice(word.as_bytes());
                expected.extend_from_slice(letters.cell(CELLS[*cell]));
            }
            // A stretch of nothing is none; then there is another at its place.
            let all_there = words.stretches.len() == stretches.len();
            words.octets.extend_from_slice(&[0; WORDS]);
            let mut out = b"before".to_vec();
            write_row(&words, &letters, &mut out);
            prop_assert_eq!(&out, &expected);
            if all_there {
                prop_assert_eq!(words.places(&letters, 6).verdict, start);
            }
        }
    }
}
