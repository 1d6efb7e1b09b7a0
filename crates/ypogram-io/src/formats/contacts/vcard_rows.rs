//! Rows as cards.

use std::sync::Arc;

use crate::formats::contacts::lines::write_folded;
use crate::rows::{CellTexts, EncodeRows, OutRow, OwnFields, Projection, Template};

/// Writes rows as cards: a card of a source is kept as it is written, with the added columns as properties of its own; any other row
/// becomes a card of its columns.
pub(crate) struct VcardRows {
    texts: CellTexts,
}

/// Properties that a card of other rows has under their own names (RFC 6350, section 6).
const PROPERTIES: &[&str] = &[
    "adr",
    "anniversary",
    "bday",
    "caladruri",
    "caluri",
    "categories",
    "email",
    "fburl",
    "fn",
    "gender",
    "geo",
    "impp",
    "kind",
    "lang",
    "member",
    "n",
    "nickname",
    "note",
    "org",
    "related",
    "rev",
    "role",
    "source",
    "tel",
    "title",
    "tz",
    "uid",
    "url",
];

/// Properties of parts with semicolons between.
const STRUCTURED: &[&str] = &["adr", "gender", "n", "org"];

/// Columns that name the person of a card, the best first.
const NAMES: &[&str] = &["fn", "name", "full name", "full_name", "nickname", "email"];

const LINE_END: &str = "\r\n";

impl VcardRows {
    /// With `own` for each source.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>) -> Self {
        VcardRows { texts: CellTexts::new(own, projection) }
    }

    /// A card as it is written, with what was added before its end.
    fn kept(&self, original: &[u8], row: &OutRow<'_>, out: &mut Vec<u8>) {
        let bare = original.trim_ascii_end();
        let end = memchr::memrchr(b'\n', bare).map_or(0, |at| at + 1);
        let line_end = if bare[..end].ends_with(b"\r\n") { LINE_END } else { "\n" };
        out.extend_from_slice(&original[..end]);
        for (name, column) in self.texts.beside_original(row) {
            write_property(name, &self.texts.of(column, row), line_end, out);
        }
        out.extend_from_slice(&original[end..]);
        if !original.ends_with(b"\n") {
            out.extend_from_slice(line_end.as_bytes());
        }
    }

    /// A card of the columns of a row.
    fn made(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let names: Vec<String> = self.texts.projection.names().map(str::to_ascii_lowercase).collect();
        out.extend_from_slice(b"BEGIN:VCARD\r\nVERSION:4.0\r\n");
        // A card has to have a name.
        let named = NAMES.iter().filter_map(|name| names.iter().position(|column| column == name));
        let mut named = named.map(|column| (column, self.texts.of(column, row)));
        let named = named.find(|(_, text)| !text.trim_ascii().is_empty());
        let (used, name) = named.map_or((None, b"?".to_vec()), |(column, text)| (Some(column), text));
        write_property("fn", &name, LINE_END, out);
        for (column, name) in names.iter().enumerate() {
            // An address or a nickname in place of a name is what it is as well.
            let is_written = Some(column) == used && !PROPERTIES[..].contains(&&**name);
            if !is_written && !matches!(&**name, "fn" | "version") {
                write_property(name, &self.texts.of(column, row), LINE_END, out);
            }
        }
        out.extend_from_slice(b"END:VCARD\r\n");
    }
}

impl EncodeRows for VcardRows {
    fn start(&self, _: &mut Vec<u8>) {}

    fn add_template(&mut self, template: &Template) {
        self.texts.add_template(template);
    }

    fn forget_templates(&mut self) {
        self.texts.forget_templates();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let original = self.texts.original(row);
        match original.filter(|original| is_card(original)) {
            Some(original) => self.kept(original, row, out),
            None => self.made(row, out),
        }
    }
}

fn is_card(original: &[u8]) -> bool {
    original.get(..11).is_some_and(|start| start.eq_ignore_ascii_case(b"BEGIN:VCARD"))
}

/// Appends a property, or several where there are several addresses in it; nothing where it is empty.
fn write_property(name: &str, text: &[u8], line_end: &str, out: &mut Vec<u8>) {
    let text = String::from_utf8_lossy(text);
    if text.trim().is_empty() {
        return;
    }
    let name = name.to_ascii_lowercase();
    let parts: Vec<&str> = match &*name {
        "email" if text.split(", ").all(|part| part.contains('@')) => text.split(", ").collect(),
        _ => vec![&text],
    };
    let is_known = PROPERTIES.contains(&&*name);
    let shown = if is_known { name.to_ascii_uppercase() } else { own_name(&name) };
    for part in parts {
        let escaped = escaped(part, STRUCTURED.contains(&&*name));
        write_folded(&format!("{shown}:{escaped}"), line_end, out);
    }
}

/// The name of a property that the standard does not know.
fn own_name(name: &str) -> String {
    let safe = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_uppercase() } else { '-' };
    let name: String = name.trim_start_matches("x-").chars().map(safe).collect();
    format!("X-{name}")
}

fn escaped(text: &str, is_structured: bool) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\\' => out.push_str("\\\\"),
            '\r' => {}
            '\n' => out.push_str("\\n"),
            ',' => out.push_str("\\,"),
            ';' if !is_structured => out.push_str("\\;"),
            c => out.push(c),
        }
    }
    out
}
