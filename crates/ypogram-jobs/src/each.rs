//! One address at a time over a pipe: a line in, a JSON line out, for as long as there are any.

use std::io::{BufRead, Read as _, Write};
use std::path::Path;

use ypogram_core::Policy;
use ypogram_tables::{Error, Result};

use crate::judged_address::JudgedAddress;
use crate::progress::Progress;

/// What a line holds.
#[derive(Clone, Debug)]
pub enum Line {
    /// An address.
    Address,
    /// A JSON object with the address in this field.
    Json(String),
}

/// A line longer than this is refused, so that memory stays flat.
const LONGEST: u64 = 1 << 20;

/// Answers every line of `input` with a JSON line to `output`, flushed at once. Several addresses in a line give several
/// answers in one array under `addresses`.
///
/// # Errors
/// Where a line cannot be read, is longer than a mebibyte, or holds no JSON object with the field.
pub fn run(
    mut input: impl BufRead,
    mut output: impl Write,
    line: &Line,
    policy: &Policy,
    progress: &Progress,
) -> Result<()> {
    let mut buffer = Vec::new();
    for number in 1_u64.. {
        progress.check()?;
        buffer.clear();
        let read = (&mut input)
            .take(LONGEST + 1)
            .read_until(b'\n', &mut buffer)
            .map_err(|error| Error::reading("standard input", &error))?;
        if read == 0 {
            return Ok(());
        }
        if read as u64 > LONGEST {
            return Err(Error::unusable(
                format!("standard input: line {number} is longer than 1 MiB"),
                "send one address a line",
            ));
        }
        let text = buffer.strip_suffix(b"\n").unwrap_or(&buffer);
        let text = text.strip_suffix(b"\r").unwrap_or(text);
        let value = match line {
            Line::Address => text.to_vec(),
            Line::Json(field) => field_of(text, field, number)?.into_bytes(),
        };
        let mut answers: Vec<JudgedAddress> =
            JudgedAddress::all_in(&value, policy).into_iter().map(|(judged, _)| judged).collect();
        let answer = match answers.len() {
            1 => serde_json::to_string(&answers.remove(0)),
            _ => serde_json::to_string(&serde_json::json!({ "addresses": answers })),
        };
        let written = writeln!(output, "{}", answer.expect("plain data")).and_then(|()| output.flush());
        written.map_err(|error| Error::writing(Path::new("standard output"), &error))?;
    }
    Ok(())
}

fn field_of(text: &[u8], field: &str, number: u64) -> Result<String> {
    let object: serde_json::Value = serde_json::from_slice(text).map_err(|error| {
        Error::unusable(
            format!("standard input: line {number} is no JSON: {error}"),
            "send one JSON object a line",
        )
    })?;
    match object.get(field) {
        Some(serde_json::Value::String(value)) => Ok(value.clone()),
        Some(serde_json::Value::Null) => Ok(String::new()),
        Some(_) => Err(Error::unusable(
            format!("standard input: line {number}: ‘{field}’ is no text"),
            "send the address as a string",
        )),
        None => Err(Error::unusable(
            format!("standard input: line {number} has no field ‘{field}’"),
            "name the field that holds the address with --field",
        )),
    }
}
