//! Rows as entries of a directory.

use std::sync::Arc;

use data_encoding::BASE64;

use crate::rows::{CellTexts, EncodeRows, OutRow, OwnFields, Projection, Template};

/// Writes rows as entries: an entry of a source is kept as it is written, with the added columns as attributes; any other row becomes an
/// entry of its columns.
pub(crate) struct LdifRows {
    texts: CellTexts,
}

/// Bytes of a line at most; what is longer goes on in the next one.
const LINE: usize = 76;

impl LdifRows {
    /// With `own` for each source.
    pub(crate) fn new(own: Vec<OwnFields>, projection: Arc<Projection>) -> Self {
        LdifRows { texts: CellTexts::new(own, projection) }
    }

    fn kept(&self, original: &[u8], row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(original);
        if !original.ends_with(b"\n") {
            out.push(b'\n');
        }
        for (name, column) in self.texts.beside_original(row) {
            write_attribute(name, &self.texts.of(column, row), out);
        }
    }

    fn made(&self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        let names: Vec<String> = self.texts.projection.names().map(str::to_ascii_lowercase).collect();
        let filled = |name: &str| {
            let column = names.iter().position(|column| column == name)?;
            Some(self.texts.of(column, row)).filter(|text| !text.trim_ascii().is_empty())
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
            let text = self.texts.of(column, row);
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
        self.texts.add_template(template);
    }

    fn forget_templates(&mut self) {
        self.texts.forget_templates();
    }

    fn row(&mut self, row: &OutRow<'_>, out: &mut Vec<u8>) {
        out.push(b'\n');
        let original = self.texts.original(row);
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
