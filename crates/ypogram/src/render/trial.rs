//! The rows of a trial as a table that fits the terminal.

use comfy_table::{ContentArrangement, Table, presets};
use ypogram_core::shown;

use crate::render::style;
use crate::render::words::counted;
use crate::trial::Rows;

/// Characters of a cell that are shown.
const CELL: usize = 44;
/// Rows that are shown.
const ROWS: usize = 40;

/// The rows below their names.
pub(crate) fn rows(rows: &Rows) -> String {
    if rows.names.is_empty() {
        return String::new();
    }
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    table.add_row(rows.names.iter().map(|name| cell(name)));
    for row in rows.rows.iter().take(ROWS) {
        table.add_row(row.iter().map(|text| cell(text)));
    }
    let table = table.trim_fmt();
    let (head, rest) = table.split_once('\n').unwrap_or((&table, ""));
    let mut out = format!("{}\n{rest}\n", style::title(head));
    if rows.rows.len() > ROWS {
        let more = counted((rows.rows.len() - ROWS) as u64, "row", "rows");
        out.push_str(&style::dim(&format!("and {more} more\n")));
    }
    out.push('\n');
    out
}

fn cell(text: &str) -> String {
    let text = shown(text.as_bytes());
    let mut chars = text.chars();
    let mut out: String = chars.by_ref().take(CELL).collect();
    if chars.next().is_some() {
        out.push('…');
    }
    out
}

/// What stands below the summary of a trial.
pub(crate) fn note(first: u64) -> String {
    let records = counted(first, "record", "records");
    format!(
        "\n{}\n",
        style::dim(&format!(
            "a trial on the first {records}: nothing was written; leave out --first to do it"
        ))
    )
}
