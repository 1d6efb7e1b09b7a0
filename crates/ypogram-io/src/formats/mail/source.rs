//! Messages as records: their addresses, date and subject.

use std::fs::File;
use std::io::{self, BufRead, BufReader, Read as _};
use std::path::Path;

use mailparse::{MailHeader, MailHeaderMap as _};

use crate::input::row_thread::{Ended, RowInput, RowSink, RowThread};
use crate::records::error::{Error, Result};
use crate::records::format::Format;
use crate::records::packed::write_cell;
use crate::records::source::{Schema, SourceKind};
use crate::records::value::Value;

/// The headers that are fields, in lower case.
const FIELDS: &[&str] = &["from", "to", "cc", "reply-to", "date", "subject", "message-id"];

/// Opens a message, or a mailbox of them.
///
/// # Errors
/// Where there is no message in it.
pub(crate) fn open(input: RowInput, format: Format) -> Result<RowThread> {
    let (path, name, longest) = (input.on_disk.path.clone(), input.name.clone(), input.sizes.1);
    RowThread::start(input, move |sink| read(&path, &name, (format, longest), sink))
}

fn read(
    path: &Path,
    name: &str,
    (format, longest): (Format, usize),
    sink: &mut RowSink,
) -> std::result::Result<(), Ended> {
    let reading = |error: io::Error| Ended::Failed(Error::reading(name, &error));
    let mut lines = BufReader::new(File::open(path).map_err(reading)?);
    sink.begin(Schema {
        fields: FIELDS.iter().map(|field| (*field).to_owned()).collect(),
        described: match format {
            Format::Mailbox => "a mailbox, one record a message".into(),
            _ => "a mail message, one record".into(),
        },
        kind: SourceKind::Typed(format),
        ..Schema::default()
    })?;
    let mut messages = Messages { is_mailbox: format == Format::Mailbox, longest, line: 0, pending: None };
    while let Some((line, headers)) = messages.next(&mut lines).map_err(reading)? {
        let (headers, _) = mailparse::parse_headers(&headers).unwrap_or_default();
        sink.row(line, |out| FIELDS.iter().for_each(|field| write_header(&headers, field, out)))?;
    }
    Ok(())
}

/// The text of a header, its encoded words decoded; that of several, with commas between.
fn write_header(headers: &[MailHeader<'_>], field: &str, out: &mut Vec<u8>) {
    let values = headers.get_all_values(field);
    match values.is_empty() {
        true => write_cell(Value::Missing, b"", out),
        false => {
            let text = values.join(", ");
            let text = text.trim().as_bytes();
            write_cell(Value::Text(text), text, out);
        }
    }
}

/// Reads the headers of one message after the other.
struct Messages {
    is_mailbox: bool,
    /// Bytes that the headers of one may have.
    longest: usize,
    /// Lines read.
    line: u64,
    /// Where a message begins whose separator was read.
    pending: Option<u64>,
}

impl Messages {
    /// The line that the next message begins in, from 0, and its headers.
    fn next(&mut self, lines: &mut impl BufRead) -> io::Result<Option<(u64, Vec<u8>)>> {
        let (mut headers, mut line) = (Vec::new(), Vec::new());
        let (mut is_in_body, mut begun) = (false, self.pending.take());
        loop {
            line.clear();
            // A line without end is taken in parts, so that it is never held whole.
            let read = lines.by_ref().take(64 << 10).read_until(b'\n', &mut line)?;
            if read == 0 {
                return Ok(begun.map(|line| (line, headers)));
            }
            let here = self.line;
            self.line += u64::from(line.ends_with(b"\n"));
            let separates = self.is_mailbox && line.starts_with(b"From ");
            if separates && begun.is_some() && is_in_body {
                // It is that of the next message, whose headers follow.
                self.pending = Some(here);
                return Ok(begun.map(|line| (line, headers)));
            }
            begun.get_or_insert(here);
            if separates {
                continue;
            }
            is_in_body |= line.trim_ascii().is_empty();
            if !is_in_body {
                headers.extend_from_slice(&line);
                if headers.len() > self.longest {
                    return Err(io::Error::other(format!("the headers in line {} are too long", here + 1)));
                }
            }
        }
    }
}
