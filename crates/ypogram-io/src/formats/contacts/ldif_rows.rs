//! Rows as entries of a directory.

use std::sync::Arc;

use data_encoding::BASE64;

use crate::rows::{ColumnSource, EncodeRows, OutRow, OwnFields, Projection, Template};

/// Writes rows as entries: an entry of a source is kept as it is written, with the added columns as attributes; any other row becomes an
/// entry of its columns.
pub(crate) struct LdifRows {
    own: Vec<OwnFields>,
    projection: Arc<Projection>,
    templates: Vec<Template>,
}

/// Bytes of a line at most; what is longer goes on in the next one.
const LINE: usize = 76;

impl LdifRows {
    /// With `own` for each source.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>) -> Self {
        LdifRows { own, projection, templates: Vec::new() }
    }

    fn text(&self, column: usize, row: &OutRow<'_>) -> Vec<u8> {
        let column = &self.projection.columns[column];
        let mut text = Vec::new();
        match column.source {
            ColumnSource::Own(field) => text.extend_from_slice(row.own_cell(field, &self.own[row.source()])),
            ColumnSource::Added(added) => {
                self.templates[row.template].write_text(added, row.values, &mut text);
            }
        }
        column.change.map_or_else(|| text.clone(), |change| change(&text))
    }

    fn kept(&self, original: &[u8], row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(original);
        if !original.ends_with(b"\n") {
            out.push(b'\n');
        }
        for (column, shown) in self.projection.columns.iter().enumerate() {
            let is_changed = |field: usize| row.replaced.iter().any(|(replaced, _)| *replaced == field);
            if !matches!(shown.source, ColumnSource::Own(field) if !is_changed(field)) {
                write_attribute(&shown.name, &self.text(column, row), out);
            }
        }
    }

    fn made(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let names: Vec<String> = self.projection.names().map(str::to_ascii_lowercase).collect();
        let filled = |name: &str| {
            let column = names.iter().position(|column| column == name)?;
            Some(self.text(column, row)).filter(|text| !text.trim_ascii().is_empty())
        };
        // An entry has to have a distinguished name.
        let dn = filled("dn").unwrap_or_else(|| {
            let named = [("cn", "cn"), ("name", "cn"), ("mail", "mail"), ("email", "mail")];
            let named = named.iter().find_map(|(column, attribute)| Some((*attribute, filled(column)?)));
            let (attribute, value) = named.unwrap_or(("cn", b"unnamed".to_vec()));
            [attribute.as_bytes(), b"=", &escaped(&value)].concat()
        });
        write_attribute("dn", &dn, out);
        for (column, name) in names.iter().enumerate().filter(|(_, name)| *name != "dn") {
            let text = self.text(column, row);
            let shown = String::from_utf8_lossy(&text);
            match shown.split(", ").all(|part| part.contains('@')) {
                // Each address is a value of its own.
                true => shown.split(", ").for_each(|part| write_attribute(name, part.as_bytes(), out)),
                false => write_attribute(name, &text, out),
            }
        }
    }
}

impl EncodeRows for LdifRows {
    fn start(&self, out: &mut Vec<u8>) {
        out.extend_from_slice(b"version: 1\n");
    }

    fn add_template(&mut self, template: &Template) {
        self.templates.push(template.clone());
    }

    fn forget_templates(&mut self) {
        self.templates.clear();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.push(b'\n');
        let keeps_entries = self.projection.is_everything && self.projection.own_fields > 0;
        let original = row.record.filter(|_| keeps_entries).and_then(|record| record.original());
        let is_entry = |original: &&[u8]| original.get(..3).is_some_and(|s| s.eq_ignore_ascii_case(b"dn:"));
        match original.filter(is_entry) {
            Some(original) => self.kept(original, row, out),
            None => self.made(row, out),
        }
    }
}

/// Appends an attribute; nothing where it is empty.
fn write_attribute(name: &str, value: &[u8], out: &mut Vec<u8>) {
    if value.is_empty() {
        return;
    }
    let safe = |c: char| if c.is_ascii_alphanumeric() || "-;.".contains(c) { c } else { '-' };
    let name: String = name.chars().map(safe).collect();
    let is_safe = !matches!(value[0], b' ' | b':' | b'<')
        && !value.ends_with(b" ")
        && value.iter().all(|&byte| byte.is_ascii() && !matches!(byte, 0 | b'\r' | b'\n'));
    let line = match is_safe {
        true => format!("{name}: {}", String::from_utf8_lossy(value)),
        false => format!("{name}:: {}", BASE64.encode(value)),
    };
    let mut rest = line.as_bytes();
    let mut room = LINE;
    while rest.len() > room {
        out.extend_from_slice(&rest[..room]);
        out.extend_from_slice(b"\n ");
        (rest, room) = (&rest[room..], LINE - 1);
    }
    out.extend_from_slice(rest);
    out.push(b'\n');
}

/// A value of a distinguished name (RFC 4514, section 2.4).
fn escaped(value: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    for (nth, &byte) in value.iter().enumerate() {
        let at_end = nth == 0 || nth + 1 == value.len();
        match byte {
            b'"' | b'+' | b',' | b';' | b'<' | b'>' | b'\\' | b'=' => out.extend([b'\\', byte]),
            b' ' if at_end => out.extend([b'\\', byte]),
            b'#' if nth == 0 => out.extend([b'\\', byte]),
            0..32 => out.extend_from_slice(format!("\\{byte:02x}").as_bytes()),
            _ => out.push(byte),
        }
    }
    out
}
