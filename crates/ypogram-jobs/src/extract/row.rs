//! How a row is written: separated values, JSON lines, or the bare address.

use ypogram_core::{Code, CodeSet, Form, Verdict};
use ypogram_tables::Encode as _;
use ypogram_tables::csv::CsvEncoder;

use crate::judged_address::JudgedAddress;
use crate::numbers::write_number;

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
    pub(super) as_found: &'a [u8],
    pub(super) form: Form,
    pub(super) verdict: Verdict,
    pub(super) codes: CodeSet,
    pub(super) class: &'static str,
    pub(super) name: &'a [u8],
    pub(super) field: &'a str,
    /// As a cell, in quotes where it needs them.
    pub(super) source: &'a [u8],
    pub(super) offset: u64,
    pub(super) context: Option<&'a [u8]>,
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
pub(super) fn header(show_skipped: bool, context: bool, unique: bool) -> Vec<&'static str> {
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
    if unique && !show_skipped {
        names.push("count");
    }
    names
}

/// Appends the row up to where its record belongs; gives that place.
pub(super) fn write(row: &Row<'_>, format: RowFormat, scratch: &mut Vec<u8>, out: &mut Vec<u8>) -> usize {
    match format {
        RowFormat::Plain => {
            out.extend_from_slice(row.address);
            out.len()
        }
        RowFormat::Separated(delimiter) => {
            let mut encoder = CsvEncoder::copying(0, delimiter, b"\n");
            encoder.cell(row.address, out);
            let mut encoder = encoder.continuing();
            encoder.cell(row.as_found, out);
            // Our own words need no quotes.
            for plain in [row.form.word(), row.verdict.word()] {
                out.push(delimiter);
                out.extend_from_slice(plain.as_bytes());
            }
            out.push(delimiter);
            scratch.clear();
            words(row.codes.iter().map(Code::name), scratch);
            out.extend_from_slice(scratch);
            out.push(delimiter);
            out.extend_from_slice(row.class.as_bytes());
            for cell in [row.name, row.field.as_bytes()] {
                encoder.cell(cell, out);
            }
            out.push(delimiter);
            out.extend_from_slice(row.source);
            let split = out.len();
            out.push(delimiter);
            write_number(row.offset, out);
            if let Some(context) = row.context {
                encoder.cell(context, out);
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
    object.insert("form".into(), row.form.word().into());
    object.insert("name".into(), if row.name.is_empty() { serde_json::Value::Null } else { text(row.name) });
    object.insert("field".into(), row.field.into());
    object.insert("source".into(), text(row.source));
    object.insert("offset".into(), row.offset.into());
    if let Some(context) = row.context {
        object.insert("context".into(), text(context));
    }
    write_json(&value, out)
}

/// Appends the object without its closing brace, which comes behind record and line.
fn write_json(value: &serde_json::Value, out: &mut Vec<u8>) -> usize {
    serde_json::to_writer(&mut *out, value).expect("memory takes everything");
    out.pop();
    out.len()
}

fn words(words: impl Iterator<Item = &'static str>, out: &mut Vec<u8>) {
    for word in words {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word.as_bytes());
    }
}
