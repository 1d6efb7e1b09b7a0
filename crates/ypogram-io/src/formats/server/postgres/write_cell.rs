//! Cells as COPY reads them.

use crate::formats::server::copy_text::{NULL, write_text};
use crate::records::column_type::ColumnType;
use crate::records::value::Value;

/// Appends a cell as COPY reads it. A cell without text is NULL where the column is none of texts.
pub(super) fn write_cell(
    value: Value<'_>,
    text: &[u8],
    of: ColumnType,
    out: &mut Vec<u8>,
) -> std::result::Result<(), String> {
    match (value, of) {
        (Value::Missing | Value::Null, _) => out.extend_from_slice(NULL),
        (Value::Bytes(bytes), ColumnType::Bytes) => {
            out.extend_from_slice(b"\\\\x");
            out.extend_from_slice(data_encoding::HEXLOWER.encode(bytes).as_bytes());
        }
        (_, ColumnType::TextArray) => write_text(array(text)?.as_bytes(), out),
        (_, of) if text.is_empty() && of != ColumnType::Text => out.extend_from_slice(NULL),
        _ if text.contains(&0) => return Err("there is a character U+0000 in it".to_owned()),
        _ => write_text(text, out),
    }
    Ok(())
}

/// A JSON array of texts as PostgreSQL writes lists.
fn array(text: &[u8]) -> std::result::Result<String, String> {
    let cells: Vec<Option<String>> =
        serde_json::from_slice(text).map_err(|_| "it is no list of texts".to_owned())?;
    let cell = |cell: &Option<String>| match cell {
        Some(text) => format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\"")),
        None => "NULL".to_owned(),
    };
    Ok(format!("{{{}}}", cells.iter().map(cell).collect::<Vec<_>>().join(",")))
}
