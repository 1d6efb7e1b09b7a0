//! The judgement inside an engine: batches of Arrow in, the same rows with Ypogram's columns out.

mod ranks;

use std::io::{Read, Write};
use std::sync::Arc;

use ypogram_io::{
    ArrowAnswerer, ArrowAnswers, ArrowBatches, ColumnType, EncodedRows, Error, Format, Opening, Projection,
    Result, Source as _, Target, nearest, some_of, temporary_folder,
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

impl WorkerOptions {
    /// The columns of an answer with their types, as far as these are known before anything is read.
    ///
    /// # Errors
    /// Where something is asked for that cannot be told batch by batch.
    pub fn answered(&self) -> Result<Vec<(String, String, Option<ColumnType>)>> {
        self.refuse_what_needs_all()?;
        let added = match &self.ranks {
            Some(_) => ranks::columns(&self.check.prefix),
            None => self.check.appended_columns(),
        };
        if self.columns.is_empty() {
            return Ok(added.into_iter().map(|(name, of)| (name.clone(), name, Some(of))).collect());
        }
        let chosen = |(name, shown): &(String, String)| {
            let full = format!("{}{name}", self.check.prefix);
            // A column of the user's own may be called so.
            let found = added
                .iter()
                .find(|(added, _)| added == name)
                .or_else(|| added.iter().find(|(added, _)| *added == full));
            match found {
                Some((added, of)) if name == shown => (added.clone(), added.clone(), Some(*of)),
                Some((added, of)) => (added.clone(), shown.clone(), Some(*of)),
                None => (name.clone(), shown.clone(), None),
            }
        };
        Ok(self.columns.iter().map(chosen).collect())
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
    let columns: Vec<(String, String)> =
        answered.iter().map(|(name, shown, _)| (name.clone(), shown.clone())).collect();
    if let Some(ranks) = options.ranks.take() {
        return ranks::run(ranks, options.check, batches, output, progress);
    }
    let own = &batches.schema().fields;
    let is_unknown =
        |(name, _, of): &&(String, String, Option<ColumnType>)| of.is_none() && !own.contains(name);
    if let Some((name, ..)) = answered.iter().find(is_unknown) {
        let added = options.check.appended_columns();
        let known: Vec<String> = own.iter().cloned().chain(added.into_iter().map(|(name, _)| name)).collect();
        return Err(Error::unusable(
            format!("there is no column ‘{name}’ in the output"),
            match nearest(name, known.iter().map(String::as_str)) {
                Some(nearest) => format!("did you mean ‘{nearest}’?"),
                None => format!("its columns are: {}", some_of(&known)),
            },
        ));
    }
    // Of the user's own columns nothing is encoded: they are handed over as they are.
    let added = answered.iter().filter(|(.., of)| of.is_some());
    let pairs: Vec<(String, String)> = added.map(|(name, ..)| (name.clone(), name.clone())).collect();
    if pairs.is_empty() {
        return Err(Error::unusable(
            "none of Ypogram's columns is asked for",
            "name one with --columns, such as address, or leave --columns out",
        ));
    }
    options.check.rows.columns = pairs;
    options.check.rows.format = Some(Format::ArrowStream);
    options.check.target = Target::Standard;
    let temporary = Arc::new(temporary_folder()?);
    let to = Answering { pipe: Some((batches.answerer(), output)), columns, answers: None };
    let reading = Reading::of(Box::new(batches));
    let (report, to) = check::judge(options.check, (reading, &temporary), to, progress)?;
    if let Some(answers) = to.answers {
        answers.finish()?;
    }
    Ok(report.records)
}

/// Rows on their way into answers.
struct Answering<W: Write> {
    pipe: Option<(ArrowAnswerer, W)>,
    columns: Vec<(String, String)>,
    answers: Option<ArrowAnswers<W>>,
}

impl<W: Write + Send> TakeRows for Answering<W> {
    fn begin(&mut self, _: &Target, _: &Opening, projection: &Projection) -> Result<()> {
        let (answerer, to) = self.pipe.take().expect("it is begun once");
        self.answers = Some(answerer.answers(to, &self.columns, projection)?);
        Ok(())
    }

    fn rows(&mut self, rows: &EncodedRows) -> Result<()> {
        self.answers.as_mut().expect("it was begun").answer(rows)
    }
}
