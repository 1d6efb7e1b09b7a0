//! Looks before anything is touched: what is in each field, how addresses stand, and where else there are some. One pass, in
//! memory that does not grow with the number of records or distinct values.

mod behind;
mod counts;
mod fields_checked;
mod gathered;
mod ladder;
mod mailboxes;
mod options;
mod report;
mod values;
mod worker;

use ypogram_io::Result;

use crate::engine::line_count::LineCount;
use crate::engine::pipeline;
use crate::engine::progress::Progress;
use crate::engine::reading::Task;
use crate::engine::same_as_before::same_as_before;
pub use behind::records_behind;
pub use counts::{SurveyCounts, UsableFigures};
use fields_checked::Opened;
use gathered::Gathered;
pub use ladder::{Ladder, Step};
pub use mailboxes::MailboxFigures;
use mailboxes::Mailboxes;
pub use options::SurveyOptions;
pub use report::{FieldFigures, Figure, FindingFigures, FormFigures, ShapeFigures, SurveyReport};
pub use values::TopValue;
use worker::{Part, Worker};

/// Surveys the sources.
///
/// # Errors
/// Where a source is unusable or breaks off, or a field does not exist.
pub fn run(options: &SurveyOptions, progress: &Progress) -> Result<SurveyReport> {
    let Opened { mut reading, plan, fields: checked, temporary: _kept } = Opened::open(options, progress)?;
    let (fields, patterns) = (plan.fields.len(), options.patterns.len());
    let mut gathered: Vec<Gathered> = (0..options.threads.max(1))
        .map(|_| Gathered::new(fields, patterns, checked.checks.checks.len()))
        .collect();
    let workers = gathered
        .iter_mut()
        .map(|gathered| {
            let mut worker = Worker::new(&reading, &plan, options, &checked, gathered)?;
            Ok(move |task: &mut Task, part: &mut Part| worker.work(task, part))
        })
        .collect::<Result<Vec<_>>>()?;
    let mut at = LineCount::new(&reading);
    let mut mailboxes = Mailboxes::new();
    let mut blank_lines = reading.blank_lines_before();
    pipeline::run_in_order(&mut reading, workers, progress, |task, part| {
        at.enter(task)?;
        at.lines += part.lines;
        blank_lines += part.blank_lines;
        part.keys.iter().for_each(|&key| mailboxes.add(key));
        Ok(())
    })?;
    let gathered = gathered
        .into_iter()
        .reduce(|mut sum, more| {
            sum.merge(more);
            sum
        })
        .expect("at least one worker");
    same_as_before(checked.read.as_deref().unwrap_or_default(), &reading.reports())?;
    let mailboxes = (mailboxes.distinct(), mailboxes.figures(options.policy.same.word()));
    let mut report = SurveyReport::of(&gathered, &plan, options, &checked.checks, mailboxes);
    (report.sources, report.counts.blank_lines) = (reading.reports(), blank_lines);
    report.only = options.only.as_ref().map(|only| only.text().to_owned());
    Ok(report)
}
