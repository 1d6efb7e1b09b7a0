//! How a row is written: separated values, JSON lines, or the bare address.

use ypogram_core::{Class, Code, CodeSet, Form, Judged, Verdict};
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Encode as _, append_few, append_short};

use crate::engine::numbers::Decimal;
use crate::judge::judged_address::JudgedAddress;

/// How rows are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowFormat {
    /// Separated values with this delimiter.
    Separated(u8),
    /// One JSON object a line.
    JsonLines,
    /// The bare address in standard form.
    Plain,
}

impl RowFormat {
    /// `text` as a cell of this format.
    pub(super) fn cell(self, text: &str) -> Vec<u8> {
        let mut out = Vec::new();
        match self {
            RowFormat::Separated(delimiter) => {
                CsvEncoder::copying(0, delimiter, b"").cell(text.as_bytes(), &mut out)
            }
            _ => out.extend_from_slice(text.as_bytes()),
        }
        out
    }
}

/// What is known of a found address before its line and record are.
pub(super) struct Row<'a> {
    pub(super) address: &'a [u8],
    /// The address as found is plain ASCII without anything that would need quotes.
    pub(super) plain: bool,
    pub(super) as_found: &'a [u8],
    /// What was found and what stands behind it in the text.
    pub(super) from_found: &'a [u8],
    pub(super) words: &'a Words,
    pub(super) name: &'a [u8],
    pub(super) field: &'a str,
    /// As a cell, in quotes where it needs them, and what fills a step; how many octets the cell has.
    pub(super) source: (&'a [u8], usize),
    pub(super) offset: u64,
    pub(super) context: Option<&'a [u8]>,
    /// What its record says in the field that tells records apart, where one was named.
    pub(super) id: Option<&'a [u8]>,
}

impl<'a> Row<'a> {
    /// Whether there is nothing that may need quotes around the address as found: no name, no query, no line break.
    fn is_simply_wrapped(&self) -> bool {
        let wrapping = match self.words.form {
            Form::Mailto => "mailto:",
            Form::Angle => "<>",
            _ => "",
        };
        self.as_found.len() == self.address.len() + wrapping.len()
    }

    /// The address with what stands behind it in the text, where it stands there as it is.
    fn address_and_room(&self) -> &'a [u8] {
        if std::ptr::eq(self.address, self.as_found) { self.from_found } else { self.address }
    }
}

/// Octets of an empty name, an empty field and the delimiter of the next cell.
const NO_NAME_NO_FIELD: usize = 3;

/// Octets in which most of what a row is made of fits.
pub(super) const SHORT: usize = 64;

/// What is said of an address in words.
#[derive(Clone, Debug)]
pub(super) struct Words {
    pub(super) form: Form,
    /// The cells of form, verdict, findings and class, each behind a delimiter, and what fills a step: behind them stand an
    /// empty name, an empty field and a delimiter.
    cells: Vec<u8>,
    octets: usize,
}

impl Words {
    pub(super) fn of(form: Form, judged: &Judged, format: RowFormat) -> Self {
        let mut cells = Vec::new();
        if let RowFormat::Separated(delimiter) = format {
            // Our own words need no quotes.
            for word in [form.word(), judged.verdict.word(), ""] {
                cells.push(delimiter);
                cells.extend_from_slice(word.as_bytes());
            }
            spaced(judged.codes.iter().map(Code::name), &mut cells);
            cells.push(delimiter);
            cells.extend_from_slice(judged.class.map_or("", Class::word).as_bytes());
        }
        let octets = cells.len();
        if let RowFormat::Separated(delimiter) = format {
            cells.extend([delimiter; NO_NAME_NO_FIELD]);
        }
        cells.resize(cells.len().next_multiple_of(SHORT), 0);
        Words { form, cells, octets }
    }
}

/// The words for addresses that are not judged on the way: few combinations make up most rows.
#[derive(Default)]
pub(super) struct RecentWords {
    known: [Option<(Combination, Words)>; 16],
}

type Combination = (Form, Verdict, CodeSet, Option<Class>);

impl RecentWords {
    pub(super) fn of(&mut self, form: Form, judged: &Judged, format: RowFormat) -> &Words {
        let combination = (form, judged.verdict, judged.codes, judged.class);
        let place =
            form as usize + judged.class.map_or(0, |class| class.word().len()) * 3 + judged.codes.len() * 5;
        let known = &mut self.known[place % 16];
        if known.as_ref().is_none_or(|(of, _)| *of != combination) {
            *known = Some((combination, Words::of(form, judged, format)));
        }
        &known.as_ref().expect("it was put there").1
    }
}

/// Something that was passed over.
pub(super) struct PassedRow<'a> {
    pub(super) reason: &'static str,
    pub(super) text: &'a [u8],
    pub(super) field: &'a str,
    pub(super) source: &'a str,
    pub(super) offset: u64,
}

/// The names of the columns.
pub(super) fn header(show_skipped: bool, context: bool, id: bool, unique: bool) -> Vec<&'static str> {
    let mut names = match show_skipped {
        true => vec!["reason", "text", "field", "source", "record", "line", "offset"],
        false => {
            vec![
                "address", "as_found", "form", "verdict", "findings", "class", "name", "field", "source",
                "record", "line", "offset",
            ]
        }
    };
    if context && !show_skipped {
        names.push("context");
    }
    if id && !show_skipped {
        names.push("id");
    }
    if unique && !show_skipped {
        names.push("count");
    }
    names
}

/// Appends the row up to where its record belongs; gives that place.
#[inline]
pub(super) fn write(row: &Row<'_>, format: RowFormat, out: &mut Vec<u8>) -> usize {
    match format {
        RowFormat::Plain => {
            out.extend_from_slice(row.address);
            out.len()
        }
        RowFormat::Separated(delimiter) => {
            let mut offset = Decimal::new();
            let offset = offset.of(row.offset);
            let mut encoder = CsvEncoder::copying(0, delimiter, b"\n");
            let unquoted = row.plain && matches!(delimiter, b',' | b';' | b'\t');
            if unquoted {
                append_short::<SHORT>(row.address_and_room(), row.address.len(), out);
            } else {
                encoder.cell(row.address, out);
            }
            let mut encoder = encoder.continuing();
            if unquoted && row.is_simply_wrapped() {
                out.push(delimiter);
                append_short::<SHORT>(row.from_found, row.as_found.len(), out);
            } else {
                encoder.cell(row.as_found, out);
            }
            let Words { cells, octets, .. } = row.words;
            if row.name.is_empty() && row.field.is_empty() {
                append_short::<SHORT>(cells, octets + NO_NAME_NO_FIELD, out);
            } else {
                out.extend_from_slice(&cells[..*octets]);
                encoder.cell(row.name, out);
                encoder.cell(row.field.as_bytes(), out);
                out.push(delimiter);
            }
            let (source, octets) = row.source;
            append_short::<SHORT>(source, octets, out);
            let split = out.len();
            out.push(delimiter);
            append_few(offset, out);
            if let Some(context) = row.context {
                encoder.cell(context, out);
            }
            if let Some(id) = row.id {
                encoder.cell(id, out);
            }
            split
        }
        RowFormat::JsonLines => unreachable!("JSON rows are written from judged addresses"),
    }
}

/// Like [`write`] for something passed over.
pub(super) fn write_passed(row: &PassedRow<'_>, format: RowFormat, out: &mut Vec<u8>) -> usize {
    let RowFormat::Separated(delimiter) = format else {
        let json = serde_json::json!({ "reason": row.reason, "text": String::from_utf8_lossy(row.text), "field": row.field,
            "source": row.source, "offset": row.offset });
        return write_json(&json, out);
    };
    let mut encoder = CsvEncoder::copying(0, delimiter, b"\n").continuing();
    out.extend_from_slice(row.reason.as_bytes());
    for cell in [row.text, row.field.as_bytes(), row.source.as_bytes()] {
        encoder.cell(cell, out);
    }
    let split = out.len();
    encoder.cell(row.offset.to_string().as_bytes(), out);
    split
}

/// A judged address with where it stood, as a JSON object that its record and line go into.
pub(super) fn write_json_row(judged: &JudgedAddress, row: &Row<'_>, out: &mut Vec<u8>) -> usize {
    let mut value = serde_json::to_value(judged).expect("plain data");
    let object = value.as_object_mut().expect("a struct");
    let text = |bytes: &[u8]| serde_json::Value::String(String::from_utf8_lossy(bytes).into_owned());
    object.insert("form".into(), row.words.form.word().into());
    object.insert("name".into(), if row.name.is_empty() { serde_json::Value::Null } else { text(row.name) });
    object.insert("field".into(), row.field.into());
    object.insert("source".into(), text(&row.source.0[..row.source.1]));
    object.insert("offset".into(), row.offset.into());
    if let Some(context) = row.context {
        object.insert("context".into(), text(context));
    }
    if let Some(id) = row.id {
        object.insert("id".into(), text(id));
    }
    write_json(&value, out)
}

/// Appends the object without its closing brace, which comes behind record and line.
fn write_json(value: &serde_json::Value, out: &mut Vec<u8>) -> usize {
    serde_json::to_writer(&mut *out, value).expect("memory takes everything");
    out.pop();
    out.len()
}

fn spaced(words: impl Iterator<Item = &'static str>, out: &mut Vec<u8>) {
    for (index, word) in words.enumerate() {
        if index > 0 {
            out.push(b' ');
        }
        out.extend_from_slice(word.as_bytes());
    }
}
