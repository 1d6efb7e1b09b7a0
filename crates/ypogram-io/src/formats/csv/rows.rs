//! Rows as separated values.

use std::sync::Arc;

use crate::formats::csv::border::end_of_cell;
use crate::formats::csv::encode::write_cell;
use crate::records::batch::Record;
use crate::records::dialect::TextLayout;
use crate::records::formula::is_formula_like;
use crate::rows::{ColumnSource, EncodeRows, OutRow, OwnFields, Projection, Template, TemplateCell};
use ypogram_bytes::{append_few, append_short};

/// Writes rows as separated values.
///
/// Where all columns come out as they stand, a record of a table with the same layout is copied as it stands there (3 % of
/// `clean`), and the cells of a template are joined once, with the delimiters around them.
pub(crate) struct CsvRows {
    layout: TextLayout,
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    /// The header of the source as it stands there, where that is the output's as well.
    header: Option<Vec<u8>>,
    templates: Vec<Template>,
    /// Of each template the added cells, joined; unused where columns are chosen.
    joined: Vec<Vec<Stretch>>,
    scratch: Vec<u8>,
}

/// Some bytes, and the value behind them.
#[derive(Clone, Copy, Debug)]
struct Stretch {
    bytes: [u8; STRETCH],
    len: u8,
    then: Then,
}

/// The value behind a stretch.
#[derive(Clone, Copy, Debug)]
enum Then {
    Text(u8),
    Number(u8),
    Nothing,
}

/// Bytes of a stretch at most; most between two values have no more.
const STRETCH: usize = 32;
/// Bytes in which most values fit.
const SHORT: usize = 64;

impl CsvRows {
    /// Rows of that layout; `own` for each source, and the header of the first as it stands there, where that may be copied.
    pub(crate) fn new(
        layout: TextLayout,
        own: Vec<OwnFields>,
        projection: Arc<Projection>,
        header: Option<Vec<u8>>,
    ) -> Self {
        let header = header.filter(|_| projection.is_everything);
        let (templates, joined, scratch) = (Vec::new(), Vec::new(), Vec::new());
        CsvRows { layout, own, projection, header, templates, joined, scratch }
    }

    /// The added cells of a template with the delimiters around them.
    fn joined(&self, template: &Template) -> Vec<Stretch> {
        let (mut stretches, mut open) = (Vec::new(), Vec::new());
        for (place, cell) in template.cells.iter().enumerate() {
            if place > 0 || self.projection.own_fields > 0 {
                open.push(self.layout.delimiter);
            }
            match cell {
                TemplateCell::Nothing => {}
                TemplateCell::Text(text) => write_cell(text, self.layout.delimiter, &mut open),
                TemplateCell::Bool(true) => open.extend_from_slice(b"true"),
                TemplateCell::Bool(false) => open.extend_from_slice(b"false"),
                TemplateCell::Value(value) => {
                    end_stretch(&mut stretches, &open, Then::Text(*value as u8));
                    open.clear();
                }
                TemplateCell::Number(value) => {
                    end_stretch(&mut stretches, &open, Then::Number(*value as u8));
                    open.clear();
                }
            }
        }
        end_stretch(&mut stretches, &open, Then::Nothing);
        stretches
    }

    /// Whether values of letters, digits and the signs of plain addresses need no quotes.
    fn takes_simple_values(&self) -> bool {
        matches!(self.layout.delimiter, b',' | b';' | b'\t')
    }

    #[inline]
    fn own_fields(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let own = &self.own[row.source()];
        match row.record {
            Some(record) if own.can_be_copied && row.replaced.is_empty() => {
                match record.len().checked_sub(own.width) {
                    Some(0) => record.append_raw(out),
                    Some(_) => out.extend_from_slice(cut(record, own.width, self.layout.delimiter).0),
                    None => {
                        record.append_raw(out);
                        out.extend(std::iter::repeat_n(self.layout.delimiter, own.width - record.len()));
                    }
                }
            }
            Some(record) if row.record_is_simple && own.places[..] == [Some(0)] => {
                let (from, len) = record.cell_and_behind(0).unwrap_or_default();
                append_short::<SHORT>(from, len, out);
            }
            _ => {
                for field in 0..own.places.len() {
                    if field > 0 {
                        out.push(self.layout.delimiter);
                    }
                    self.own_cell(row, field, own, out);
                }
            }
        }
    }

    fn own_cell(&self, row: &OutRow<'_>, field: usize, own: &OwnFields, out: &mut Vec<u8>) {
        let is_replaced = row.replaced.iter().any(|(replaced, _)| *replaced == field);
        match (own.places[field], row.record) {
            (Some(place), Some(record)) if own.can_be_copied && !is_replaced => {
                self.cell_as_found(record, place, out)
            }
            _ => write_cell(row.own_cell(field, own), self.layout.delimiter, out),
        }
    }

    /// A cell of a table with the same layout: with its quotes, even where it needs none.
    fn cell_as_found(&self, record: Record<'_>, place: usize, out: &mut Vec<u8>) {
        match record.cell_with_quotes(place) {
            Some(cell) => out.extend_from_slice(cell),
            None => write_cell(record.cell_as_written(place).unwrap_or_default(), self.layout.delimiter, out),
        }
    }

    /// What a record has beyond the fields of its source.
    #[inline]
    fn surplus(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let own = &self.own[row.source()];
        if let Some(record) = row.record
            && record.len() > own.width
            && self.projection.own_fields > 0
        {
            self.append_surplus(record, own, out);
        }
    }

    #[cold]
    fn append_surplus(&self, record: Record<'_>, own: &OwnFields, out: &mut Vec<u8>) {
        if own.can_be_copied && self.projection.is_everything {
            let (_, surplus) = cut(record, own.width, self.layout.delimiter);
            out.push(self.layout.delimiter);
            return out.extend_from_slice(surplus);
        }
        for place in own.width..record.len() {
            out.push(self.layout.delimiter);
            match own.can_be_copied {
                true => self.cell_as_found(record, place, out),
                false => write_cell(record.cell(place).unwrap_or_default(), self.layout.delimiter, out),
            }
        }
    }

    fn chosen_columns(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let mut scratch = std::mem::take(&mut self.scratch);
        let (own, guards) = (&self.own[row.source()], self.projection.guard_formulas);
        for (nth, column) in self.projection.columns.iter().enumerate() {
            if nth > 0 {
                out.push(self.layout.delimiter);
            }
            scratch.clear();
            match column.source {
                ColumnSource::Own(field) => {
                    let text = row.own_cell(field, own);
                    if column.change.is_none() && !(guards && is_formula_like(text)) {
                        self.own_cell(row, field, own, out);
                        continue;
                    }
                    scratch.extend_from_slice(text);
                }
                ColumnSource::Added(added) => {
                    self.templates[row.template].write_text(added, row.values, &mut scratch)
                }
            }
            if let Some(change) = column.change {
                scratch = change(&scratch);
            }
            self.guarded(guards, &scratch, out);
        }
        self.scratch = scratch;
    }

    fn guarded(&self, guards: bool, text: &[u8], out: &mut Vec<u8>) {
        match guards && is_formula_like(text) {
            true => write_cell(&[b"'", text].concat(), self.layout.delimiter, out),
            false => write_cell(text, self.layout.delimiter, out),
        }
    }
}

impl EncodeRows for CsvRows {
    fn start(&self, out: &mut Vec<u8>) {
        if self.layout.byte_order_mark {
            out.extend_from_slice(b"\xEF\xBB\xBF");
        }
        let mut columns = &self.projection.columns[..];
        if let Some(header) = &self.header {
            out.extend_from_slice(header);
            columns = &columns[self.projection.own_fields..];
        }
        for (nth, column) in columns.iter().enumerate() {
            if nth > 0 || self.header.is_some() {
                out.push(self.layout.delimiter);
            }
            self.guarded(self.projection.guard_formulas, column.name.as_bytes(), out);
        }
        out.extend_from_slice(self.layout.line_end);
    }

    fn add_template(&mut self, template: &Template) {
        if self.projection.is_everything {
            self.joined.push(self.joined(template));
        }
        self.templates.push(template.clone());
    }

    fn forget_templates(&mut self) {
        self.joined.clear();
        self.templates.clear();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        if self.projection.is_everything {
            self.own_fields(row, out);
            let simple = row.values_are_simple && self.takes_simple_values();
            for stretch in &self.joined[row.template] {
                append_short::<STRETCH>(&stretch.bytes, usize::from(stretch.len), out);
                match stretch.then {
                    Then::Text(value) => {
                        let (from, len) = row.values.with_what_follows(usize::from(value));
                        match simple {
                            true => append_short::<SHORT>(from, len, out),
                            false => write_cell(&from[..len], self.layout.delimiter, out),
                        }
                    }
                    Then::Number(value) => {
                        if let Some(number) = row.values.number(usize::from(value)) {
                            append_few(itoa::Buffer::new().format(number).as_bytes(), out);
                        }
                    }
                    Then::Nothing => {}
                }
            }
        } else {
            self.chosen_columns(row, out);
        }
        if self.projection.with_surplus {
            self.surplus(row, out);
        }
        match self.layout.line_end {
            [byte] => out.push(*byte),
            bytes => out.extend_from_slice(bytes),
        }
    }
}

/// The first `cells` cells of a record that has more, as they stand there, and the rest behind the next delimiter.
#[cold]
fn cut(record: Record<'_>, cells: usize, delimiter: u8) -> (&[u8], &[u8]) {
    let raw = record.raw();
    match cells {
        0 => (&[], raw),
        cells => {
            let border = end_of_cell(raw, cells - 1, delimiter);
            (&raw[..border], &raw[border + 1..])
        }
    }
}

/// Adds the bytes that are open, in as many stretches as they need, and the value behind them.
fn end_stretch(stretches: &mut Vec<Stretch>, open: &[u8], then: Then) {
    let mut rest = open;
    loop {
        let (now, more) = rest.split_at(rest.len().min(STRETCH));
        let mut stretch = Stretch { bytes: [0; STRETCH], len: now.len() as u8, then: Then::Nothing };
        stretch.bytes[..now.len()].copy_from_slice(now);
        if more.is_empty() {
            return stretches.push(Stretch { then, ..stretch });
        }
        stretches.push(stretch);
        rest = more;
    }
}
