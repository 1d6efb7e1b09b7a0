//! The rows of a trial as a table that fits the terminal.

use ypogram_core::shown;

use crate::render::layout::{Cell, LEAST, cut, hanging, lines};
use crate::render::words::counted;
use crate::render::{style, width};
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
    let most = width::of_terminal().unwrap_or(usize::MAX);
    let columns = rows.names.len().min((most / (LEAST + 2)).max(1));
    let row = |cells: &[String]| -> Vec<Cell> {
        cells.iter().take(columns).map(|text| Cell::flexible(cut(&shown(text.as_bytes()), CELL))).collect()
    };
    let all: Vec<Vec<Cell>> =
        std::iter::once(&rows.names).chain(rows.rows.iter().take(ROWS)).map(|cells| row(cells)).collect();
    let lines = lines(&all, most);
    let mut out = format!("{}\n", style::title(&lines[0]));
    lines[1..].iter().for_each(|line| out.extend([line, "\n"]));
    if columns < rows.names.len() {
        let more = counted((rows.names.len() - columns) as u64, "column", "columns");
        out.push_str(&style::dim(&format!("and {more} more, for which the terminal has no room\n")));
    }
    if rows.rows.len() > ROWS {
        let more = counted((rows.rows.len() - ROWS) as u64, "row", "rows");
        out.push_str(&style::dim(&format!("and {more} more\n")));
    }
    out.push('\n');
    out
}

/// What stands below the summary of a trial.
pub(crate) fn note(first: u64) -> String {
    let records = counted(first, "record", "records");
    let note = format!("a trial on the first {records}: nothing was written; leave out --first to do it");
    format!("\n{}\n", style::dim(&hanging(&note, 0)))
}
