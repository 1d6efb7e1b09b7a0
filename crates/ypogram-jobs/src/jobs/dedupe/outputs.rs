//! The files of `dedupe`: what stays, what is dropped, what has no address.

use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Encode as _, Output, Result, Target};

use crate::engine::id_store::IdStore;
use crate::engine::numbers::write_number;
use crate::engine::reading::Reading;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::fates::End;
use crate::jobs::dedupe::merged_rows::Merged;
use crate::plan::columns::{Column, ColumnSet, Naming};
use crate::plan::fields::FieldPlan;
use crate::plan::layout::OutputLayout;

/// The files while they grow.
pub(crate) struct Outputs {
    kept: Stream,
    dropped: Option<Stream>,
    review: Option<Stream>,
    no_address: Option<Stream>,
    encoder: CsvEncoder,
    source_names: Option<Vec<String>>,
    names: Names,
}

/// What records are named by that others are the same as.
#[derive(Default)]
struct Names {
    /// Their number where there is none.
    ids: Option<IdStore>,
    cell: Vec<u8>,
}

struct Stream {
    output: Output,
    buffer: Vec<u8>,
}

/// What a file is handed over at once.
const BUFFER: usize = 1 << 14;

impl Outputs {
    /// # Errors
    /// Where a file exists and is not to be replaced, or cannot be made, or a column's name is taken.
    pub(crate) fn open(
        options: &DedupeOptions,
        reading: &Reading,
        layout: &OutputLayout,
        plan: &FieldPlan,
        lines: bool,
    ) -> Result<Self> {
        let source = if reading.len() > 1 { vec![Column::Source] } else { Vec::new() };
        let columns = |before: &[Column], behind: &[Column]| {
            ColumnSet::new([before, &source, behind].concat(), Naming::with(&options.prefix), &plan.fields)
        };
        let stream = |target: &Target, columns: ColumnSet| -> Result<Stream> {
            let mut output = target.open()?;
            if !lines {
                let within = options.arrangement.within(&layout.names(&columns));
                let arranged = layout.arranged(&columns, &within)?;
                output.write(&layout.header(&columns, arranged.as_ref()))?;
                output.arrange(arranged);
            }
            Ok(Stream { output, buffer: Vec::new() })
        };
        let kept = match options.mark {
            true => columns(&[Column::Key], &[Column::SameAs, Column::SameCount])?,
            false => columns(&[], &[])?,
        };
        let dropped = columns(&[], &[Column::Record, Column::SameAs])?;
        let no_address = columns(&[], &[Column::Record])?;
        // A column that is only in one of the files comes out there; one that is in none is a mistake.
        let known: Vec<String> =
            [&kept, &dropped, &no_address].iter().flat_map(|set| layout.names(set)).collect();
        let wanted = &options.arrangement;
        let strange = wanted.columns.iter().any(|(name, _)| !known.contains(name));
        if strange || !wanted.names_none() && wanted.within(&layout.names(&kept)).names_none() {
            layout.arranged(&kept, wanted)?;
        }
        Ok(Outputs {
            kept: stream(options.output.as_ref().expect("there is an output"), kept)?,
            review: options.review.as_ref().map(|target| stream(target, dropped.clone())).transpose()?,
            dropped: options.dropped.as_ref().map(|target| stream(target, dropped)).transpose()?,
            no_address: options.no_address.as_ref().map(|target| stream(target, no_address)).transpose()?,
            encoder: layout.encoders[0].clone().continuing(),
            source_names: (reading.len() > 1).then(|| reading.names()),
            names: Names::default(),
        })
    }

    /// Names records that others are the same as by what stands in `ids`.
    pub(crate) fn name_by_id(&mut self, ids: Option<IdStore>) {
        self.names.ids = ids;
    }

    /// Adds what tells the next records apart.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn add_ids<'i>(&mut self, mut ids: impl Iterator<Item = &'i [u8]>) -> Result<()> {
        match &mut self.names.ids {
            Some(store) => ids.try_for_each(|id| store.add(id)),
            None => Ok(()),
        }
    }

    #[inline]
    pub(crate) fn keep(&mut self, row: &[u8]) -> Result<()> {
        self.kept.buffer.extend_from_slice(row);
        self.kept.hand_over(BUFFER)
    }

    /// A record of `source` into which others were merged.
    pub(crate) fn keep_merged(&mut self, merged: &Merged, source: usize) -> Result<()> {
        let mut encoder = self.encoder.clone().starting();
        let name = self.source_names.as_ref().map(|names| names[source].as_bytes());
        let own = merged.cells.iter().map(Vec::as_slice);
        for cell in own.chain(name).chain(merged.surplus.iter().map(Vec::as_slice)) {
            encoder.cell(cell, &mut self.kept.buffer);
        }
        encoder.end_row(&mut self.kept.buffer);
        self.kept.hand_over(BUFFER)
    }

    /// A record that does not stay with the others.
    pub(crate) fn put_aside(&mut self, row: &[u8], split: usize, record: u64, end: End) -> Result<()> {
        let (stream, same_as) = match end {
            End::Dropped(same_as) => (&mut self.dropped, same_as),
            End::Review(same_as) => (&mut self.review, same_as),
            End::Stays => return self.keep(row),
        };
        let Some(stream) = stream else { return Ok(()) };
        stream.add(
            row,
            split,
            &[Cell::Number(record), Cell::Record(same_as)],
            &mut self.encoder,
            &mut self.names,
        )
    }

    /// Whether records without an address go apart.
    pub(crate) fn sets_apart(&self) -> bool {
        self.no_address.is_some()
    }

    pub(crate) fn without_address(&mut self, row: &[u8], split: usize, record: u64) -> Result<()> {
        match &mut self.no_address {
            Some(apart) => apart.add(row, split, &[Cell::Number(record)], &mut self.encoder, &mut self.names),
            None => self.keep(row),
        }
    }

    /// A record with what it is the same as, and how many are; none of both where it has no address.
    pub(crate) fn mark(&mut self, row: &[u8], split: usize, marks: Option<(Option<u64>, u64)>) -> Result<()> {
        let (same_as, count) = marks.map_or((None, None), |(same_as, count)| (same_as, Some(count)));
        let cells = [same_as.map_or(Cell::Empty, Cell::Record), count.map_or(Cell::Empty, Cell::Number)];
        self.kept.add(row, split, &cells, &mut self.encoder, &mut self.names)
    }

    /// The files, whole but not published yet, that with what stays last.
    ///
    /// # Errors
    /// Where one cannot be written.
    pub(crate) fn finish(self) -> Result<Vec<Output>> {
        let mut streams: Vec<Stream> =
            [self.dropped, self.review, self.no_address].into_iter().flatten().collect();
        streams.push(self.kept);
        for stream in &mut streams {
            stream.hand_over(0)?;
        }
        Ok(streams.into_iter().map(|stream| stream.output).collect())
    }
}

/// What stands in an added cell.
#[derive(Clone, Copy)]
enum Cell {
    Empty,
    Number(u64),
    /// The record of that number, by its name.
    Record(u64),
}

impl Names {
    fn cell(&mut self, cell: Cell) -> Result<&[u8]> {
        self.cell.clear();
        match (cell, &mut self.ids) {
            (Cell::Empty, _) => {}
            (Cell::Record(record), Some(ids)) => ids.write(record, &mut self.cell)?,
            (Cell::Record(number) | Cell::Number(number), _) => write_number(number, &mut self.cell),
        }
        Ok(&self.cell)
    }
}

impl Stream {
    fn add(
        &mut self,
        row: &[u8],
        split: usize,
        cells: &[Cell],
        encoder: &mut CsvEncoder,
        names: &mut Names,
    ) -> Result<()> {
        self.buffer.extend_from_slice(&row[..split]);
        for cell in cells {
            encoder.cell(names.cell(*cell)?, &mut self.buffer);
        }
        self.buffer.extend_from_slice(&row[split..]);
        self.hand_over(BUFFER)
    }

    #[inline]
    fn hand_over(&mut self, least: usize) -> Result<()> {
        if self.buffer.len() > least {
            self.output.write(&self.buffer)?;
            self.buffer.clear();
        }
        Ok(())
    }
}
