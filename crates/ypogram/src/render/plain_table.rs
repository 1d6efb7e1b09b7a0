//! Tables without lines.

use comfy_table::{ContentArrangement, Table, presets};

use crate::render::width;

/// A table without lines. On a terminal its cells are broken into several lines where it would be too wide.
pub(crate) fn plain_table() -> Table {
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    if let Some(columns) = width::of_terminal() {
        table.set_content_arrangement(ContentArrangement::Dynamic).set_width(columns as u16);
    }
    table
}
