//! The added cells of addresses of plain characters, as most are: all but a few are words that follow from the verdict, and
//! these are put together once.

use hashbrown::HashTable;
use ypogram_core::{Class, Code, CodeSet, Form, Judge, Repairs, Verdict, providers::Operator};
use ypogram_tables::Encode;
use ypogram_tables::csv::CsvEncoder;

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
}

impl OwnCell {
    fn of(column: Column) -> Option<Self> {
        Some(match column {
            Column::Address => OwnCell::Address,
            Column::LocalPart => OwnCell::LocalPart,
            Column::Domain => OwnCell::Domain,
            Column::Key => OwnCell::Key,
            _ => return None,
        })
    }
}

/// Words with the delimiters around them, and the cell behind them.
#[derive(Debug, Default)]
struct Stretch {
    words: Vec<u8>,
    then: Option<OwnCell>,
    /// Where in the words the cell of the verdict starts.
    verdict: Option<u32>,
    /// Where in the words the cell of the findings starts and ends.
    findings: Option<(u32, u32)>,
}

/// Where cells stand that may have to be changed later.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Places {
    pub(crate) verdict: u32,
    pub(crate) findings: (u32, u32),
}

/// Writes the added cells of rows.
#[derive(Debug)]
pub(crate) struct PlainRows {
    columns: Vec<Column>,
    encoder: CsvEncoder,
    fields: Vec<String>,
    sources: Vec<String>,
    made: HashTable<(Cause, Vec<Stretch>)>,
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
                || matches!(column, Column::Source | Column::Suggestion | Column::More)
        };
        (encoder.takes_plain_words() && columns.iter().all(follows)).then(|| PlainRows {
            columns: columns.to_vec(),
            encoder: encoder.clone().continuing(),
            fields: fields.to_vec(),
            sources: sources.to_vec(),
            made: HashTable::new(),
        })
    }

    /// Whether a row with an address of this verdict can be written: one that is not accepted may have a suggestion.
    #[inline]
    pub(crate) fn takes(&self, verdict: Verdict) -> bool {
        verdict == Verdict::Accept || !self.columns.contains(&Column::Suggestion)
    }

    /// Appends the cells of a row to `out`. The address that `judge` holds and `key` need no quotes, and the record has no
    /// further addresses.
    #[inline]
    pub(crate) fn write(
        &mut self,
        picked: &Picked,
        source: usize,
        judge: &Judge<'_>,
        key: &[u8],
        out: &mut Vec<u8>,
    ) -> Places {
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
        };
        let mut places = Places::default();
        for stretch in self.stretches(cause, picked) {
            let start = out.len() as u32;
            out.extend_from_slice(&stretch.words);
            match stretch.then {
                Some(OwnCell::Address) => out.extend_from_slice(judge.address()),
                Some(OwnCell::LocalPart) => out.extend_from_slice(judge.local_part()),
                Some(OwnCell::Domain) => out.extend_from_slice(judge.domain()),
                Some(OwnCell::Key) => out.extend_from_slice(key),
                None => {}
            }
            if let Some(verdict) = stretch.verdict {
                places.verdict = start + verdict;
            }
            if let Some((from, to)) = stretch.findings {
                places.findings = (start + from, start + to);
            }
        }
        places
    }

    #[inline]
    fn stretches(&mut self, cause: Cause, picked: &Picked) -> &[Stretch] {
        let hash = cause.hash();
        let is_it = |(made, _): &(Cause, Vec<Stretch>)| *made == cause;
        if self.made.find(hash, is_it).is_none() {
            self.make(cause, picked);
        }
        &self.made.find(hash, is_it).expect("it was made").1
    }

    #[cold]
    fn make(&mut self, cause: Cause, picked: &Picked) {
        let mut stretches = vec![Stretch::default()];
        let mut word = Vec::new();
        for &column in &self.columns {
            let stretch = stretches.last_mut().expect("there is always one");
            word.clear();
            match column {
                Column::Source => word.extend_from_slice(self.sources[cause.source].as_bytes()),
                column => write_word(column, picked, &self.fields, &mut word),
            }
            self.encoder.cell(&word, &mut stretch.words);
            // These two are of our own words and never quoted.
            let end = stretch.words.len() as u32;
            let start = end.saturating_sub(word.len() as u32);
            match column {
                Column::Verdict => stretch.verdict = Some(start),
                Column::Findings => stretch.findings = Some((start, end)),
                _ => {}
            }
            if let Some(own) = OwnCell::of(column) {
                stretch.then = Some(own);
                stretches.push(Stretch::default());
            }
        }
        if self.made.len() >= MOST {
            self.made.clear();
        }
        self.made.insert_unique(cause.hash(), (cause, stretches), |(cause, _)| cause.hash());
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
