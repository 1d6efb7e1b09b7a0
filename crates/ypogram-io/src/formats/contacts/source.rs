//! An address book as a source, read through once for its fields and then for its records.

use std::collections::HashMap;
use std::fs::File;
use std::io::BufReader;
use std::path::Path;
use std::sync::Arc;

use crate::formats::contacts::lines::UnfoldedLines;
use crate::formats::contacts::{ldif, vcard};
use crate::input::encoding::{Decoding, Guess, Guessed};
use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::packed::{write_cell, write_original};
use crate::records::source::{Schema, SourceKind};
use crate::records::value::Value;

/// Opens the address book that `input` names.
///
/// # Errors
/// Where it is none, or a card in it never ends.
pub(crate) fn open(input: RowInput, format: Format) -> Result<RowThread> {
    let (path, name, longest) = (input.on_disk.path.clone(), input.name.clone(), input.sizes.1);
    RowThread::start(input, move |sink| Book { path: &path, name: &name, longest, format }.read(sink))
}

/// A card or an entry.
#[derive(Default)]
struct Entry {
    /// Where it begins, from 0.
    line: u64,
    /// As it is written.
    original: Vec<u8>,
    /// Names and values of what is text in it, in order.
    values: Vec<(String, String)>,
}

struct Book<'a> {
    path: &'a Path,
    name: &'a str,
    longest: usize,
    format: Format,
}

impl Book<'_> {
    fn read(&self, sink: &mut RowSink) -> std::result::Result<(), Ended> {
        let (mut fields, mut places) = (Vec::new(), HashMap::new());
        let mut entries = 0;
        let guessed = self.each_entry(&mut |entry| {
            entries += 1;
            for (name, _) in entry.values {
                if !places.contains_key(&name) {
                    places.insert(name.clone(), fields.len());
                    fields.push(name);
                }
            }
            Ok(())
        })?;
        if entries == 0 {
            return Err(Ended::Failed(Error::unusable(
                format!(
                    "{}: there is nothing in it that {} consists of",
                    self.name,
                    self.format.entry().called
                ),
                "see whether it is the right file; --from text reads it as lines",
            )));
        }
        let described = match self.format {
            Format::Vcard => "an address book of cards, one record a card",
            _ => "a directory in LDIF, one record an entry",
        };
        let width = fields.len();
        let kind = SourceKind::Typed(self.format);
        sink.begin(Schema { fields, described: described.into(), kind, ..Schema::default() })?;
        self.each_entry(&mut |entry| {
            let mut cells: Vec<Option<String>> = vec![None; width];
            for (name, value) in entry.values {
                match places.get(&name).map(|&place| &mut cells[place]) {
                    Some(Some(cell)) => {
                        cell.push_str(", ");
                        cell.push_str(&value);
                    }
                    Some(none) => *none = Some(value),
                    None => return Err(Ended::Failed(self.changed())),
                }
            }
            sink.row(entry.line, |out| {
                for cell in &cells {
                    match cell {
                        Some(text) => write_cell(Value::Text(text.as_bytes()), text.as_bytes(), out),
                        None => write_cell(Value::Missing, b"", out),
                    }
                }
                write_original(&entry.original, out);
            })
        })?;
        if let Some(remark) = guessed.get().and_then(Guess::remark) {
            sink.remark(remark)?;
        }
        Ok(())
    }

    /// Calls `see` with each entry; gives what was guessed of the encoding.
    fn each_entry(
        &self,
        see: &mut dyn FnMut(Entry) -> std::result::Result<(), Ended>,
    ) -> std::result::Result<Guessed, Ended> {
        let file = File::open(self.path).map_err(|error| Error::reading(self.name, &error))?;
        let guessed = Guessed::default();
        let text = BufReader::new(Decoding::guessing(file, 0, Arc::clone(&guessed)));
        let mut lines = UnfoldedLines::new(text, self.longest);
        match self.format {
            Format::Vcard => self.each_card(&mut lines, see)?,
            _ => self.each_directory_entry(&mut lines, see)?,
        }
        Ok(guessed)
    }

    fn each_card(
        &self,
        lines: &mut UnfoldedLines<impl std::io::BufRead>,
        see: &mut dyn FnMut(Entry) -> std::result::Result<(), Ended>,
    ) -> std::result::Result<(), Ended> {
        let mut open: Option<(Entry, u32)> = None;
        while let Some(line) =
            lines.next(vcard::goes_on).map_err(|error| Error::reading(self.name, &error))?
        {
            let is = |words: &str| line.text.trim_ascii().eq_ignore_ascii_case(words.as_bytes());
            let (begins, ends) = (is("BEGIN:VCARD"), is("END:VCARD"));
            let Some((entry, depth)) = &mut open else {
                if begins {
                    let entry = Entry { line: line.line, original: line.original, values: Vec::new() };
                    open = Some((entry, 1));
                }
                continue;
            };
            entry.original.extend_from_slice(&line.original);
            self.refuse_too_long(entry)?;
            // A card may hold that of somebody who acts for the person.
            *depth = (*depth + u32::from(begins)) - u32::from(ends);
            if *depth == 0 {
                see(open.take().expect("it is open").0)?;
            } else if *depth == 1
                && !ends
                && let Some(vcard::Property { name, value }) = vcard::property(&line.text)
                && name != "version"
            {
                entry.values.push((name, value));
            }
        }
        match open {
            Some((entry, _)) => Err(Ended::Failed(Error::unusable(
                format!("{}, line {}: the card that begins here never ends", self.name, entry.line + 1),
                "see whether the file is whole",
            ))),
            None => Ok(()),
        }
    }

    fn each_directory_entry(
        &self,
        lines: &mut UnfoldedLines<impl std::io::BufRead>,
        see: &mut dyn FnMut(Entry) -> std::result::Result<(), Ended>,
    ) -> std::result::Result<(), Ended> {
        let mut open: Option<Entry> = None;
        while let Some(line) = lines.next(|_| false).map_err(|error| Error::reading(self.name, &error))? {
            if line.text.trim_ascii().is_empty() {
                if let Some(entry) = open.take() {
                    see(entry)?;
                }
                continue;
            }
            let attribute = ldif::attribute(&line.text);
            let named = attribute.as_ref().map(|attribute| &*attribute.name);
            if open.is_none() && (line.text.starts_with(b"#") || named == Some("version")) {
                continue;
            }
            if open.is_none() && named != Some("dn") {
                return Err(Ended::Failed(Error::unusable(
                    format!("{}, line {}: an entry begins with its dn", self.name, line.line + 1),
                    "see whether this is LDIF; --from text reads it as lines",
                )));
            }
            let entry = open.get_or_insert_with(|| Entry { line: line.line, ..Entry::default() });
            entry.original.extend_from_slice(&line.original);
            self.refuse_too_long(entry)?;
            let Some(ldif::Attribute { name, value: Some(value) }) = attribute else { continue };
            if name == "changetype" && !value.eq_ignore_ascii_case("add") {
                return Err(Ended::Failed(Error::unusable(
                    format!(
                        "{}, line {}: this is a change ({value}), and no entry",
                        self.name,
                        line.line + 1
                    ),
                    "export the entries themselves",
                )));
            }
            entry.values.push((name, value));
        }
        open.map_or(Ok(()), see)
    }

    fn refuse_too_long(&self, entry: &Entry) -> Result<()> {
        match entry.original.len() > self.longest {
            true => Err(Error::unusable(
                format!("{}, line {}: the record that begins here is too long", self.name, entry.line + 1),
                "see whether the file is whole, or raise --longest-record",
            )),
            false => Ok(()),
        }
    }

    fn changed(&self) -> Error {
        Error::unusable(
            format!("{}: the file changed while it was read", self.name),
            "see whether another program writes to it, and try again",
        )
    }
}
