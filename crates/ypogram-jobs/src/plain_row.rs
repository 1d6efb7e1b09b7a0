//! The added cells of addresses of plain characters, as most are: all but a few are words that follow from the verdict, and
//! these are put together once.

use hashbrown::HashTable;
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
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct OwnCells {
    /// The address, what it is made of, and its key.
    pub(crate) letters: bool,
    /// What was probably meant.
    pub(crate) suggestion: bool,
}

impl Cause {
    #[inline]
    fn hash(&self) -> u64 {
        let codes = self.codes.bits();
        let of_domain = self.class.map_or(0, Class::index) << 16 | self.operator.index();
        let all = codes as u64 ^ (codes >> 64) as u64 ^ (of_domain as u64) << 40 ^ (self.form as u64) << 32;
        all.wrapping_mul(0x9E37_79B9_7F4A_7C15)
    }
}

/// A cell that each address has for itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum OwnCell {
    Address,
    LocalPart,
    Domain,
    Key,
    Suggestion,
}

impl OwnCell {
    fn of(column: Column) -> Option<Self> {
        Some(match column {
            Column::Address => OwnCell::Address,
            Column::LocalPart => OwnCell::LocalPart,
            Column::Domain => OwnCell::Domain,
            Column::Key => OwnCell::Key,
            Column::Suggestion => OwnCell::Suggestion,
            _ => return None,
        })
    }

    fn is_among(self, own: OwnCells) -> bool {
        if self == OwnCell::Suggestion { own.suggestion } else { own.letters }
    }
}

/// Words with the delimiters around them, and the cell behind them.
#[derive(Clone, Debug, Default)]
pub(crate) struct Stretch {
    /// The words, and behind them as much as fills a step in which they are copied.
    words: Vec<u8>,
    /// How many octets of these are meant.
    len: usize,
    then: Option<OwnCell>,
    /// Where in the words these cells are, where they are among them; they follow one another.
    places: Option<Places>,
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
}

/// Octets in which most words between two own cells fit.
const WORDS: usize = 96;
/// Octets in which most addresses, local parts and domains fit.
const NAMES: usize = 64;

/// Appends the added cells of a row to `out`.
#[inline]
pub(crate) fn write_row(words: &[Stretch], letters: Letters<'_>, out: &mut Vec<u8>) -> Places {
    let Letters { address, len, at, key, suggestion } = letters;
    let mut places = Places::default();
    for stretch in words {
        if let Some(within) = stretch.places {
            places = within.behind(out.len() as u32);
        }
        append_short::<WORDS>(&stretch.words, stretch.len, out);
        match (stretch.then, key) {
            (Some(OwnCell::Key), Some((key, len))) => append_short::<NAMES>(key, len, out),
            (Some(OwnCell::Address | OwnCell::Key), _) => append_short::<NAMES>(address, len, out),
            (Some(OwnCell::LocalPart), _) => append_short::<NAMES>(address, at, out),
            (Some(OwnCell::Domain), _) => append_short::<NAMES>(&address[at + 1..], len - at - 1, out),
            (Some(OwnCell::Suggestion), _) => out.extend_from_slice(suggestion),
            (None, _) => {}
        }
    }
    places
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
    made: HashTable<(Cause, Vec<Stretch>)>,
    /// What rows without an address are made of, for each source.
    without: Vec<Vec<Stretch>>,
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
                || matches!(column, Column::Source | Column::Suggestion | Column::More | Column::SetAside)
        };
        if !encoder.takes_plain_words() || !columns.iter().all(follows) {
            return None;
        }
        let mut rows = PlainRows {
            columns: columns.to_vec(),
            encoder: encoder.clone().continuing(),
            fields: fields.to_vec(),
            sources: sources.to_vec(),
            suggests: columns.contains(&Column::Suggestion),
            made: HashTable::new(),
            without: Vec::new(),
        };
        let none = OwnCells { letters: false, suggestion: false };
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
    pub(crate) fn without_address(&self, source: usize) -> &[Stretch] {
        &self.without[source]
    }

    /// What the added cells of a row are made of. The record has no further addresses.
    #[inline]
    pub(crate) fn words(&mut self, picked: &Picked, source: usize, own: OwnCells) -> &[Stretch] {
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
        let is_it = |(made, _): &(Cause, Vec<Stretch>)| *made == cause;
        if self.made.find(hash, is_it).is_none() {
            if self.made.len() >= MOST {
                self.made.clear();
            }
            let stretches = self.put_together(Some(picked), source, own);
            self.made.insert_unique(hash, (cause, stretches), |(cause, _)| cause.hash());
        }
        &self.made.find(hash, is_it).expect("it was made").1
    }

    #[cold]
    fn put_together(&mut self, picked: Option<&Picked>, source: usize, own: OwnCells) -> Vec<Stretch> {
        let mut stretches = vec![Stretch::default()];
        let mut word = Vec::new();
        for &column in &self.columns {
            let stretch = stretches.last_mut().expect("there is always one");
            word.clear();
            match (column, picked) {
                (Column::Source, _) => word.extend_from_slice(self.sources[source].as_bytes()),
                (column, Some(picked)) => write_word(column, picked, &self.fields, &mut word),
                (_, None) => {}
            }
            self.encoder.cell(&word, &mut stretch.words);
            // These two are of our own words and never quoted.
            let end = stretch.words.len() as u32;
            let start = end.saturating_sub(word.len() as u32);
            match column {
                Column::Verdict => stretch.places.get_or_insert_default().verdict = start,
                Column::Findings => stretch.places.get_or_insert_default().findings = (start, end),
                _ => {}
            }
            if let Some(cell) = OwnCell::of(column).filter(|cell| cell.is_among(own)) {
                stretch.then = Some(cell);
                stretches.push(Stretch::default());
            }
        }
        for stretch in &mut stretches {
            stretch.len = stretch.words.len();
            stretch.words.resize(stretch.len.next_multiple_of(WORDS), 0);
        }
        stretches
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
