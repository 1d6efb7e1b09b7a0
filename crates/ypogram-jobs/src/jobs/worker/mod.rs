//! The judgement inside an engine: batches of Arrow in, the same rows with Ypogram's columns out.

mod ranks;

use std::io::{Read, Write};
use std::sync::Arc;

use ypogram_io::{
    AnswerColumn, ArrowAnswerer, ArrowAnswers, ArrowBatches, ColumnType, EncodedRows, Error, Format, Opening,
    Projection, Result, Source as _, Target, nearest, some_of, temporary_folder,
};

use crate::engine::progress::Progress;
use crate::engine::reading::Reading;
use crate::jobs::check::{self, CheckOptions, TakeRows};
use crate::jobs::checked_fields::reads_beforehand;

pub use ranks::RankOptions;

/// What a worker is asked to do.
#[derive(Debug)]
pub struct WorkerOptions {
    /// How the records are judged; sources and target are the two pipes.
    pub check: CheckOptions,
    /// The columns of an answer, each with its name there; those that Ypogram adds where there is none.
    pub columns: Vec<(String, String)>,
    /// Tell what makes records duplicates, and which of them stays, in place of how they are judged.
    pub ranks: Option<RankOptions>,
}

/// A column of an answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Answered {
    /// Its name in the stream, or as Ypogram calls it.
    pub name: String,
    /// Its name in the answer.
    pub shown: String,
    /// Its type; none where it is one of the stream's own, or of neither.
    pub of: Option<ColumnType>,
}

impl WorkerOptions {
    /// The columns of an answer.
    ///
    /// # Errors
    /// Where something is asked for that cannot be told batch by batch.
    pub fn answered(&self) -> Result<Vec<Answered>> {
        self.refuse_what_needs_all()?;
        let added = match &self.ranks {
            Some(_) => ranks::columns(&self.check.prefix),
            None => self.check.appended_columns(),
        };
        let prefix = &self.check.prefix;
        let find = |name: &str| added.iter().find(|(added, _)| added == name);
        let chosen = |(name, shown): &(String, String)| {
            let Some((full, of)) = find(name).or_else(|| find(&format!("{prefix}{name}"))) else {
                return Answered { name: name.clone(), shown: shown.clone(), of: None };
            };
            let shown = if name == shown { full } else { shown };
            Answered { name: full.clone(), shown: shown.clone(), of: Some(*of) }
        };
        Ok(match self.columns.is_empty() {
            true => added.iter().map(|(name, _)| chosen(&(name.clone(), name.clone()))).collect(),
            false => self.columns.iter().map(chosen).collect(),
        })
    }

    fn refuse_what_needs_all(&self) -> Result<()> {
        if self.check.fields.address.is_empty() {
            return Err(Error::unusable(
                "the field with the addresses is not named",
                "name it with --field: each worker sees a part of the rows only, and could choose another one",
            ));
        }
        if reads_beforehand(&self.check.field_rules) {
            return Err(Error::unusable(
                "the rulebook asks for values that are unique, and a worker sees a part of the rows only",
                "leave unique out of it, or give another rulebook with --rules",
            ));
        }
        Ok(())
    }
}

/// Answers each batch of `input` on `output`, in order; gives the number of records.
///
/// # Errors
/// Where the input is no Arrow stream or breaks off, a column does not exist, or nothing can be written.
pub fn run<W: Write + Send>(
    mut options: WorkerOptions,
    input: impl Read + Send + 'static,
    output: W,
    progress: &Progress,
) -> Result<u64> {
    let answered = options.answered()?;
    let batches = ArrowBatches::of(input)?;
    if let Some(ranks) = options.ranks.take() {
        return ranks::run(ranks, options.check, batches, output, progress);
    }
    let added: Vec<String> =
        answered.iter().filter(|column| column.of.is_some()).map(|column| column.name.clone()).collect();
    let own = &batches.schema().fields;
    let place = |Answered { name, shown, of }: Answered| {
        let place = if of.is_some() { &added } else { own }.iter().position(|known| *known == name);
        let column = if of.is_some() { AnswerColumn::Added } else { AnswerColumn::Own };
        place.map(|place| (column(place), shown)).ok_or_else(|| no_such_column(&name, own, &options.check))
    };
    let columns: Vec<(AnswerColumn, String)> = answered.into_iter().map(place).collect::<Result<_>>()?;
    if added.is_empty() {
        return Err(Error::unusable(
            "none of Ypogram's columns is asked for",
            "name one with --columns, such as address, or leave --columns out",
        ));
    }
    // Of the stream's own columns nothing is encoded: they are handed over as they are.
    options.check.rows.columns = added.into_iter().map(|name| (name.clone(), name)).collect();
    options.check.rows.format = Some(Format::ArrowStream);
    options.check.target = Target::Standard;
    let temporary = Arc::new(temporary_folder()?);
    let to = Answering { pipe: Some(Pipe { answerer: batches.answerer(), output, columns }), answers: None };
    let reading = Reading::of(Box::new(batches));
    let (report, to) = check::judge(options.check, (reading, &temporary), to, progress)?;
    if let Some(answers) = to.answers {
        answers.finish()?;
    }
    Ok(report.records)
}

fn no_such_column(name: &str, own: &[String], check: &CheckOptions) -> Error {
    let added = check.appended_columns().into_iter().map(|(name, _)| name);
    let known: Vec<String> = own.iter().cloned().chain(added).collect();
    Error::unusable(
        format!("there is no column ‘{name}’ in the output"),
        match nearest(name, known.iter().map(String::as_str)) {
            Some(nearest) => format!("did you mean ‘{nearest}’?"),
            None => format!("its columns are: {}", some_of(&known)),
        },
    )
}

/// What answers are made of.
struct Pipe<W: Write> {
    answerer: ArrowAnswerer,
    output: W,
    columns: Vec<(AnswerColumn, String)>,
}

/// Rows on their way into answers.
struct Answering<W: Write> {
    /// Until they are begun.
    pipe: Option<Pipe<W>>,
    answers: Option<ArrowAnswers<W>>,
}

impl<W: Write + Send> TakeRows for Answering<W> {
    fn begin(&mut self, _: &Target, _: &Opening, projection: &Projection) -> Result<()> {
        let Pipe { answerer, output, columns } = self.pipe.take().expect("it is begun once");
        self.answers = Some(answerer.answers(output, columns, projection)?);
        Ok(())
    }

    fn rows(&mut self, rows: &EncodedRows) -> Result<()> {
        self.answers.as_mut().expect("it was begun").answer(rows)
    }
}
