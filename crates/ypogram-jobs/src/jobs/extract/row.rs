//! How a row looks: separated values, JSON lines, or the bare address.

use std::sync::Arc;

use ypogram_core::{Class, Code, CodeSet, Form, Summary, Verdict};
use ypogram_io::{
    ColumnType, EncodeRows, MakeEnclosure, OutRow, OwnFields, Projection, Result, RowSpec, RowWriter,
    Template, TemplateCell, json_array,
};

use crate::jobs::extract::group_columns::GroupColumns;
use crate::jobs::extract::options::ExtractOptions;
use crate::jobs::extract::row_format::RowFormat;
use crate::judge::added_cells::join_words;

/// The values that a row may have, by their numbers.
pub(super) mod value {
    /// What was passed over, where that is listed; the object without its end, where rows are JSON.
    pub(crate) const ADDRESS: usize = 0;
    pub(crate) const AS_FOUND: usize = 1;
    pub(crate) const NAME: usize = 2;
    pub(crate) const FIELD: usize = 3;
    pub(crate) const SOURCE: usize = 4;
    pub(crate) const RECORD: usize = 5;
    pub(crate) const LINE: usize = 6;
    pub(crate) const OFFSET: usize = 7;
    pub(crate) const CONTEXT: usize = 8;
    pub(crate) const ID: usize = 9;
    /// Of a match of a pattern which one it is in its cell or line.
    pub(crate) const COUNT: usize = 10;
    pub(crate) const VALUES: usize = 11;
    /// Of a match of a pattern what its groups take, from here on.
    pub(crate) const FIRST_GROUP: usize = VALUES;
}

/// What the shared cells of rows follow from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum RowKey {
    /// Of an address.
    Address { form: Form, verdict: Verdict, codes: CodeSet, class: Option<Class> },
    /// Of what was passed over, for that reason.
    SkipReason(&'static str),
    /// Of a match of the pattern at that place.
    Match(usize),
}

impl RowKey {
    pub(super) fn of(form: Form, judged: &Summary) -> Self {
        RowKey::Address { form, verdict: judged.verdict, codes: judged.codes, class: judged.class }
    }
}

/// A column of the table.
#[derive(Clone, Copy, Debug)]
enum Column {
    /// A value that each row has for itself, a text or a number.
    Text(usize),
    Number(usize),
    Form,
    Verdict,
    Findings,
    Class,
    Reason,
    Pattern,
}

/// The columns of the rows, and how they are written.
#[derive(Clone, Debug)]
pub(super) struct RowLayout {
    format: RowFormat,
    columns: Vec<(String, Column)>,
    projection: Arc<Projection>,
    with_count: bool,
    /// The names of the patterns whose matches are looked for.
    patterns: Vec<String>,
    groups: GroupColumns,
}

impl RowLayout {
    /// # Errors
    /// Where a column is named that there is not.
    pub(super) fn of(options: &ExtractOptions) -> Result<Self> {
        let place = [
            ("field", Column::Text(value::FIELD)),
            ("source", Column::Text(value::SOURCE)),
            ("record", Column::Number(value::RECORD)),
            ("line", Column::Number(value::LINE)),
            ("offset", Column::Number(value::OFFSET)),
        ];
        let groups = GroupColumns::of(&options.patterns);
        let mut columns: Vec<(&str, Column)> = match options.show_skipped {
            _ if !options.patterns.is_empty() => vec![
                ("pattern", Column::Pattern),
                ("match", Column::Text(value::ADDRESS)),
                ("occurrence", Column::Number(value::COUNT)),
            ],
            true => vec![("reason", Column::Reason), ("text", Column::Text(value::ADDRESS))],
            false => vec![
                ("address", Column::Text(value::ADDRESS)),
                ("as_found", Column::Text(value::AS_FOUND)),
                ("form", Column::Form),
                ("verdict", Column::Verdict),
                ("findings", Column::Findings),
                ("class", Column::Class),
                ("name", Column::Text(value::NAME)),
            ],
        };
        let of_groups = groups.names().enumerate();
        columns.extend(of_groups.map(|(nth, name)| (name, Column::Text(value::FIRST_GROUP + nth))));
        columns.extend(place);
        if !options.show_skipped {
            let context = (options.context > 0).then_some(("context", Column::Text(value::CONTEXT)));
            let id = options.pieces.id.is_some().then_some(("id", Column::Text(value::ID)));
            let count = options.unique.then_some(("count", Column::Number(value::COUNT)));
            columns.extend([context, id, count].into_iter().flatten());
        }
        let columns: Vec<(String, Column)> =
            columns.into_iter().map(|(name, column)| (name.to_owned(), column)).collect();
        let names: Vec<String> = columns.iter().map(|(name, _)| name.clone()).collect();
        let spec = match options.format {
            RowFormat::Table(_) => &options.rows,
            _ => &RowSpec::default(),
        };
        let column_type = |(_, column): &(String, Column)| match column {
            Column::Number(_) => ColumnType::Integer { bits: 64, signed: true },
            _ => ColumnType::Text,
        };
        let types: Vec<ColumnType> = columns.iter().map(column_type).collect();
        let projection = Arc::new(Projection::new(spec, &[], &names)?.with_types(&[], &types));
        let patterns = options.patterns.iter().map(|pattern| pattern.name.clone()).collect();
        let (format, with_count) = (options.format, options.unique);
        Ok(RowLayout { format, columns, projection, with_count, patterns, groups })
    }

    pub(super) fn projection(&self) -> &Projection {
        &self.projection
    }

    /// How many values a row has.
    pub(super) fn values(&self) -> usize {
        value::VALUES + self.groups.names().count()
    }

    pub(super) fn groups(&self) -> &GroupColumns {
        &self.groups
    }

    /// Writes rows; one for each thread.
    pub(super) fn writer(&self) -> RowWriter {
        let own = vec![OwnFields::default()];
        let encoder: Box<dyn EncodeRows> = match self.format {
            RowFormat::Table(format) => format.encoder(&own, &self.projection, None),
            RowFormat::Objects { in_array } => {
                Box::new(JsonObjects { with_count: self.with_count, in_array })
            }
            RowFormat::Plain => Box::new(AddressLines),
        };
        RowWriter::new(encoder, own, Arc::clone(&self.projection))
    }

    /// What rows of that key have in common.
    pub(super) fn template(&self, key: &RowKey) -> Template {
        let cell = |(_, column): &(String, Column)| match (column, key) {
            (Column::Pattern, RowKey::Match(pattern)) => {
                TemplateCell::Text(self.patterns[*pattern].as_bytes().into())
            }
            (column, key) => cell(*column, key),
        };
        Template { cells: self.columns.iter().map(cell).collect() }
    }
}

fn cell(column: Column, key: &RowKey) -> TemplateCell {
    let mut text = Vec::new();
    match (column, key) {
        (Column::Text(value), _) => return TemplateCell::Value(value),
        (Column::Number(value), _) => return TemplateCell::Number(value),
        (Column::Form, RowKey::Address { form, .. }) => text.extend_from_slice(form.word().as_bytes()),
        (Column::Verdict, RowKey::Address { verdict, .. }) => {
            text.extend_from_slice(verdict.word().as_bytes())
        }
        (Column::Findings, RowKey::Address { codes, .. }) => {
            join_words(codes.iter().map(Code::name), &mut text)
        }
        (Column::Class, RowKey::Address { class, .. }) => {
            text.extend_from_slice(class.map_or("", Class::word).as_bytes())
        }
        (Column::Reason, RowKey::SkipReason(reason)) => text.extend_from_slice(reason.as_bytes()),
        _ => {}
    }
    if text.is_empty() { TemplateCell::Nothing } else { TemplateCell::Text(text.into()) }
}

/// The bare address, one a line.
struct AddressLines;

impl EncodeRows for AddressLines {
    fn start(&self, _: &mut Vec<u8>) {}

    fn add_template(&mut self, _: &Template) {}

    fn forget_templates(&mut self) {}

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(row.values.get(value::ADDRESS));
        out.push(b'\n');
    }
}

/// An object for each address, of which all but the end is a value of the row.
struct JsonObjects {
    with_count: bool,
    in_array: bool,
}

impl EncodeRows for JsonObjects {
    fn start(&self, _: &mut Vec<u8>) {}

    fn enclosure(&self) -> Option<MakeEnclosure> {
        self.in_array.then(json_array)
    }

    fn add_template(&mut self, _: &Template) {}

    fn forget_templates(&mut self) {}

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(row.values.get(value::ADDRESS));
        let count = row
            .values
            .number(value::COUNT)
            .filter(|_| self.with_count)
            .is_some()
            .then_some((",\"count\":", value::COUNT));
        let numbers = [(",\"record\":", value::RECORD), (",\"line\":", value::LINE)];
        for (key, value) in numbers.into_iter().chain(count) {
            out.extend_from_slice(key.as_bytes());
            match row.values.number(value) {
                Some(number) => out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes()),
                None => out.extend_from_slice(b"null"),
            }
        }
        out.extend_from_slice(b"}\n");
    }
}
