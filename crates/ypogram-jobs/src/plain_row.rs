//! The added cells of addresses of plain characters, as most are: all but a few are words that follow from the verdict, and
//! these are put together once.

use hashbrown::HashMap;
use ypogram_core::{Class, Code, CodeSet, Form, Repairs, Verdict, providers::Operator};
use ypogram_tables::Encode;
use ypogram_tables::csv::CsvEncoder;

use crate::columns::Column;
use crate::picking::Picked;

/// What the words of a row follow from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
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
#[derive(Clone, Debug, Default)]
struct Stretch {
    words: Vec<u8>,
    then: Option<OwnCell>,
    /// Where in the words the cell of the verdict starts.
    verdict: Option<u32>,
    /// Where in the words the cell of the findings starts and ends.
    findings: Option<(u32, u32)>,
}

/// What an address puts into a row.
#[derive(Clone, Copy, Debug)]
pub(crate) struct OwnCells<'a> {
    pub(crate) address: &'a [u8],
    /// Where the @ stands in it.
    pub(crate) at: usize,
    pub(crate) key: &'a [u8],
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
    /// A row that is not accepted may have a suggestion.
    accepted_only: bool,
    made: HashMap<Cause, usize>,
    stretches: Vec<Vec<Stretch>>,
    /// Those met lately, by a few bits of the cause, so that most need no look-up.
    lately: [Option<(Cause, usize)>; LATELY],
}

/// As many causes are remembered; a list of one's own may bring more.
const MOST: usize = 4096;

const LATELY: usize = 64;

impl PlainRows {
    /// For rows with these columns behind others; none where one of them follows from more than the address.
    pub(crate) fn of(
        columns: &[Column],
        encoder: &CsvEncoder,
        fields: &[String],
        sources: &[String],
    ) -> Option<Self> {
        let follows = |column: &Column| {
            OwnCell::of(*column).is_some()
                || matches!(
                    column,
                    Column::WellFormed
                        | Column::Verdict
                        | Column::Findings
                        | Column::Repairs
                        | Column::Form
                        | Column::Field
                        | Column::Class
                        | Column::Operator
                        | Column::Source
                        | Column::Suggestion
                        | Column::More
                )
        };
        (encoder.takes_plain_words() && columns.iter().all(follows)).then(|| PlainRows {
            columns: columns.to_vec(),
            encoder: encoder.clone().continuing(),
            fields: fields.to_vec(),
            sources: sources.to_vec(),
            accepted_only: columns.contains(&Column::Suggestion),
            made: HashMap::new(),
            stretches: Vec::new(),
            lately: [None; LATELY],
        })
    }

    /// Whether a row with an address of this verdict can be written.
    #[inline]
    pub(crate) fn takes(&self, verdict: Verdict) -> bool {
        verdict == Verdict::Accept || !self.accepted_only
    }

    /// Appends the cells of a row to `out`. `own` needs no quotes, and the record has no further addresses.
    #[inline]
    pub(crate) fn write(
        &mut self,
        picked: &Picked,
        source: usize,
        own: OwnCells<'_>,
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
        let place = self.place_of(cause, picked);
        let mut places = Places::default();
        for stretch in &self.stretches[place] {
            let start = out.len() as u32;
            out.extend_from_slice(&stretch.words);
            match stretch.then {
                Some(OwnCell::Address) => out.extend_from_slice(own.address),
                Some(OwnCell::LocalPart) => out.extend_from_slice(&own.address[..own.at]),
                Some(OwnCell::Domain) => out.extend_from_slice(&own.address[own.at + 1..]),
                Some(OwnCell::Key) => out.extend_from_slice(own.key),
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
    fn place_of(&mut self, cause: Cause, picked: &Picked) -> usize {
        let of_domain = cause.class.map_or(0, Class::index) ^ (cause.operator.index() * 7);
        let mark = (cause.codes.mark() ^ of_domain) % LATELY;
        match self.lately[mark] {
            Some((met, place)) if met == cause => place,
            _ => {
                let place = self.made.get(&cause).copied();
                let place = place.unwrap_or_else(|| self.make(cause, picked));
                self.lately[mark] = Some((cause, place));
                place
            }
        }
    }

    #[cold]
    fn make(&mut self, cause: Cause, picked: &Picked) -> usize {
        if self.made.len() >= MOST {
            self.made.clear();
            self.stretches.clear();
            self.lately = [None; LATELY];
        }
        let mut stretches = vec![Stretch::default()];
        for column in &self.columns {
            let stretch = stretches.last_mut().expect("there is always one");
            let word = match column {
                Column::WellFormed => picked.judged.well_formed.to_string(),
                Column::Verdict => picked.verdict.word().to_owned(),
                Column::Findings => joined(picked.codes.iter().map(Code::name)),
                Column::Repairs => joined(picked.repairs.iter().map(|repair| repair.name())),
                Column::Form => picked.form.word().to_owned(),
                Column::Field => self.fields[picked.field].clone(),
                Column::Source => self.sources[cause.source].clone(),
                Column::Class => picked.judged.class.map_or("", Class::word).to_owned(),
                Column::Operator => picked.judged.operator.name().to_owned(),
                _ => String::new(),
            };
            self.encoder.cell(word.as_bytes(), &mut stretch.words);
            // These two are of our own words and never quoted.
            let end = stretch.words.len() as u32;
            let start = end.saturating_sub(word.len() as u32);
            match column {
                Column::Verdict => stretch.verdict = Some(start),
                Column::Findings => stretch.findings = Some((start, end)),
                _ => {}
            }
            if let Some(own) = OwnCell::of(*column) {
                stretch.then = Some(own);
                stretches.push(Stretch::default());
            }
        }
        self.stretches.push(stretches);
        let place = self.stretches.len() - 1;
        self.made.insert(cause, place);
        place
    }
}

fn joined<'w>(words: impl Iterator<Item = &'w str>) -> String {
    words.collect::<Vec<_>>().join(" ")
}
