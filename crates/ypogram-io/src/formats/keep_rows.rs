//! Rows of a table on a server, put into a file of JSON lines.

use std::collections::HashSet;
use std::io::{BufWriter, Write as _};
use std::path::Path;

use crate::formats::open::open;
use crate::formats::options::OpenOptions;
use crate::output::private_file;
use crate::records::batch::{Batch, Record};
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};
use crate::records::value::Value;

/// Puts the rows of the source at `path` into a new file at `to`, one a line. Says whether it could: not where two fields have one name.
///
/// # Errors
/// Where it cannot be read, or the file not be written.
pub fn keep_rows(path: &Path, options: &OpenOptions, to: &Path) -> Result<bool> {
    let mut source = open(path, &OpenOptions { fingerprint: false, ..options.clone() })?;
    let fields = source.schema().fields.clone();
    if fields.iter().collect::<HashSet<_>>().len() < fields.len() {
        return Ok(false);
    }
    let failed = |error: std::io::Error| Error::writing(to, &error);
    let mut file = BufWriter::new(private_file(to).map_err(failed)?);
    let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
    while source.next_chunk(&mut chunk)? {
        batch.clear();
        decoder.decode(&chunk, &mut batch)?;
        for record in batch.records(&chunk) {
            write_line(&fields, record, &mut file).map_err(failed)?;
        }
    }
    file.flush().map_err(failed)?;
    Ok(true)
}

/// A cell is what it is where JSON knows such, else its text, so that nothing is taken apart that was one cell.
fn write_line(fields: &[String], record: Record<'_>, out: &mut impl std::io::Write) -> std::io::Result<()> {
    for (nth, field) in fields.iter().enumerate() {
        out.write_all(if nth == 0 { b"{" } else { b"," })?;
        serde_json::to_writer(&mut *out, field)?;
        out.write_all(b":")?;
        let text = record.cell(nth).unwrap_or_default();
        match record.value(nth) {
            Value::Missing | Value::Null => out.write_all(b"null")?,
            Value::Bool(_) | Value::Integer(_) => out.write_all(text)?,
            _ => serde_json::to_writer(&mut *out, &String::from_utf8_lossy(text))?,
        }
    }
    out.write_all(b"}\n")
}
