//! The fields of JSON lines, gathered in a pass of their own: any line may have one that no other has.

use std::collections::HashSet;

use crate::formats::json::walk::{DEEPEST, walk};
use crate::formats::text_lines;
use crate::input::borders::Chunks;
use crate::records::batch::Batch;
use crate::records::chunk::Chunk;
use crate::records::error::{Error, Result};

/// As many fields may there be.
const MOST_FIELDS: usize = 100_000;

/// The paths of all values, in the order in which they are first seen.
///
/// # Errors
/// Where the input cannot be read, a line is not a JSON object, or there are too many fields; `called` is what a line is in the source.
pub(crate) fn gather(chunks: &mut Chunks, called: &str) -> Result<Vec<String>> {
    let (mut fields, mut known) = (Vec::new(), HashSet::new());
    let (mut chunk, mut batch) = (Chunk::default(), Batch::default());
    let mut lines = 0;
    while chunks.next(&mut chunk)? {
        batch.clear();
        text_lines::decode(&chunk.bytes, &mut batch);
        for record in batch.records(&chunk) {
            let mut add = |path: &str, _: &str| {
                if !known.contains(path) {
                    known.insert(path.to_owned());
                    fields.push(path.to_owned());
                }
            };
            let text = object_text(record.raw()).map_err(|why| why.to_string());
            let walked = text.and_then(|text| walk(text, &mut add).map_err(|error| cause(&error, text)));
            walked.map_err(|why| {
                let place = format!("{}, {called} {}", chunks.name(), lines + record.line_in_chunk() + 1);
                not_an_object(&place, &why)
            })?;
            if fields.len() > MOST_FIELDS {
                return Err(Error::unusable(
                    format!("{}: there are more than {MOST_FIELDS} fields", chunks.name()),
                    "see whether keys hold values, such as an address in place of a name",
                ));
            }
        }
        lines += batch.lines;
    }
    Ok(fields)
}

/// The text of a line.
///
/// # Errors
/// Where it is not UTF-8.
fn object_text(line: &[u8]) -> std::result::Result<&str, &'static str> {
    std::str::from_utf8(line).map_err(|_| "it is not UTF-8")
}

/// Where a text is no object.
fn cause(error: &serde_json::Error, text: &str) -> String {
    match levels_of(text) > DEEPEST {
        true => format!("it has more than {DEEPEST} levels of objects"),
        false => format!("see byte {} of it", error.column().max(1)),
    }
}

/// How many levels of braces there are at most, those within strings among them.
fn levels_of(text: &str) -> usize {
    let (mut open, mut most) = (0_usize, 0);
    for byte in text.bytes() {
        match byte {
            b'{' => open += 1,
            b'}' => open = open.saturating_sub(1),
            _ => continue,
        }
        most = most.max(open);
    }
    most
}

/// The error of what is not a JSON object at that place.
fn not_an_object(place: &str, why: &str) -> Error {
    Error::unusable(
        format!("{place}: this is not a JSON object; {why}"),
        "correct it, or read the file as text with --from text",
    )
}
