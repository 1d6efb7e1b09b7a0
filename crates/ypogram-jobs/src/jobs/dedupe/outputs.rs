//! The files of `dedupe`: what stays, what is dropped, what has no address.

use std::sync::Arc;

use ypogram_io::{Output, Projection, Result, RowOutput, RowWriter, Target, Template, TemplateCell};

use crate::engine::reading::Reading;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::output_writers::OutputWriters;
use crate::jobs::dedupe::part::{OUTPUTS, Part, To, value};
use crate::jobs::dedupe::worker::Asked;
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::layout::OutputLayout;

/// What comes out, and in which columns.
pub(crate) struct OutputPlan<'o> {
    /// The records of a text come out as lines rather than as cells.
    lines: bool,
    source_names: Vec<String>,
    named_by_id: bool,
    /// By output; none where there is no such output.
    outputs: [Option<Planned<'o>>; OUTPUTS],
}

/// An output that is wanted.
struct Planned<'o> {
    target: &'o Target,
    columns: ColumnSet,
    layout: OutputLayout,
    projection: Arc<Projection>,
}

impl<'o> OutputPlan<'o> {
    /// # Errors
    /// Where a column is named that there is not, or a column's name is taken.
    pub(crate) fn settle(
        options: &'o DedupeOptions,
        reading: &Reading,
        layout: &OutputLayout,
        asked: &Asked<'_>,
    ) -> Result<Self> {
        let Asked { plan, lines, .. } = *asked;
        let source = if reading.len() > 1 { vec![Column::Source] } else { Vec::new() };
        let columns = |before: &[Column], behind: &[Column]| {
            ColumnSet::new([before, &source, behind].concat(), Naming::with(&options.prefix), &plan.fields)
        };
        let kept = match options.mark {
            true => columns(&[Column::Key], &[Column::SameAs, Column::SameCount])?,
            false => columns(&[], &[])?,
        };
        let dropped = columns(&[], &[Column::Record, Column::SameAs])?;
        let no_address = columns(&[], &[Column::Record])?;
        refuse_strange_columns(options, layout, [&kept, &dropped, &no_address])?;
        let output = |target: &'o Option<Target>, columns: ColumnSet| -> Result<_> {
            let Some(target) = target else { return Ok(None) };
            let within = options.rows.within(&layout.names(&columns));
            let (layout, projection) = (layout.for_target(target)?, layout.projection(&columns, &within)?);
            Ok(Some(Planned { target, columns, layout, projection }))
        };
        Ok(OutputPlan {
            lines,
            source_names: reading.names(),
            named_by_id: plan.has_id(),
            outputs: [
                output(&options.output, kept)?,
                output(&options.dropped, dropped.clone())?,
                output(&options.review, dropped)?,
                output(&options.no_address, no_address)?,
            ],
        })
    }

    /// The writers of a worker.
    pub(crate) fn writers(&self) -> OutputWriters {
        let writers = self.outputs.each_ref().map(|output| {
            let output = output.as_ref()?;
            let mut writer = self.writer(output);
            for source in 0..self.source_names.len() {
                writer.add_template(self.template(&output.columns, source));
            }
            Some(writer)
        });
        OutputWriters { writers }
    }

    fn writer(&self, output: &Planned<'_>) -> RowWriter {
        if self.lines { output.layout.line_writer() } else { output.layout.writer(&output.projection) }
    }

    fn template(&self, columns: &ColumnSet, source: usize) -> Template {
        let cell = |column: Column| match column {
            Column::Source => TemplateCell::Text(self.source_names[source].as_bytes().into()),
            Column::Key => TemplateCell::Value(value::KEY),
            Column::Record => TemplateCell::Number(value::RECORD),
            Column::SameAs if self.named_by_id => TemplateCell::Value(value::SAME_AS),
            Column::SameAs => TemplateCell::Number(value::SAME_AS),
            Column::SameCount => TemplateCell::Number(value::SAME_COUNT),
            _ => TemplateCell::Nothing,
        };
        Template { cells: columns.iter().map(cell).collect() }
    }

    /// Opens the files.
    ///
    /// # Errors
    /// Where a file exists and is not to be replaced, or cannot be made.
    pub(crate) fn open(&self) -> Result<Outputs> {
        let mut files = [const { None }; OUTPUTS];
        for (file, planned) in files.iter_mut().zip(&self.outputs) {
            if let Some(planned) = planned {
                let opening = self.writer(planned).opening();
                *file = Some(RowOutput::begin(planned.target.open()?, &opening, &planned.projection)?);
            }
        }
        Ok(Outputs { files })
    }

    /// Whether records without an address go apart.
    pub(crate) fn sets_apart(&self) -> bool {
        self.outputs[To::NoAddress as usize].is_some()
    }
}

/// A column that is only in one of the files comes out there; one that is in none is a mistake.
fn refuse_strange_columns(
    options: &DedupeOptions,
    layout: &OutputLayout,
    sets: [&ColumnSet; 3],
) -> Result<()> {
    let known: Vec<String> = sets.iter().flat_map(|set| layout.names(set)).collect();
    let wanted = &options.rows.with_whole_names(&known);
    let strange = wanted.columns.iter().any(|(name, _)| !known.contains(name));
    if strange || !wanted.names_none() && wanted.within(&layout.names(sets[0])).names_none() {
        layout.projection(sets[0], wanted)?;
    }
    Ok(())
}

/// The files while they grow.
pub(crate) struct Outputs {
    files: [Option<RowOutput<Output>>; OUTPUTS],
}

impl Outputs {
    /// Appends the rows of a part that was encoded.
    ///
    /// # Errors
    /// Where a file cannot be written.
    pub(crate) fn write(&mut self, part: &Part) -> Result<()> {
        let files = self.files.iter_mut().zip(&part.encoded);
        files
            .filter_map(|(file, rows)| Some((file.as_mut()?, rows)))
            .try_for_each(|(file, rows)| file.write(rows))
    }

    /// The files, whole but not published yet, that with what stays last.
    ///
    /// # Errors
    /// Where one cannot be written.
    pub(crate) fn finish(self) -> Result<Vec<Output>> {
        let mut files = self.files;
        files.rotate_left(1);
        files.into_iter().flatten().map(RowOutput::finish).collect()
    }
}
