//! Blocks of figures: a word, a count, a share as a small bar, and what there is to say.

use comfy_table::{CellAlignment, ContentArrangement, Table, presets};

use crate::render::{style, words};

/// One line of a block.
pub(crate) struct Figure {
    pub(crate) word: String,
    pub(crate) count: u64,
    /// What the share is of; none for no share.
    pub(crate) of: Option<u64>,
    pub(crate) remark: String,
    /// The option that opens the records behind it.
    pub(crate) show: String,
}

impl Figure {
    pub(crate) fn new(
        word: impl Into<String>,
        count: u64,
        of: Option<u64>,
        remark: impl Into<String>,
    ) -> Self {
        Figure { word: word.into(), count, of, remark: remark.into(), show: String::new() }
    }

    /// With the condition that picks the records behind it.
    pub(crate) fn shown_by(mut self, condition: &str) -> Self {
        self.show = format!("--show {}", words::for_shell(condition));
        self
    }
}

/// Columns that a full bar takes.
const BAR: u64 = 16;

/// A share as a bar of blocks, in eighths.
fn bar(part: u64, whole: u64) -> String {
    let eighths = if whole == 0 { 0 } else { (part * BAR * 8).div_ceil(whole) };
    let mut out = "█".repeat((eighths / 8) as usize);
    if eighths % 8 > 0 {
        out.push(['▏', '▎', '▍', '▌', '▋', '▊', '▉'][(eighths % 8 - 1) as usize]);
    }
    out
}

/// The figures aligned below one another.
pub(crate) fn block(figures: &[Figure]) -> String {
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    let with_share = figures.iter().any(|figure| figure.of.is_some());
    for figure in figures {
        let mut row = vec![format!(" {}", figure.word), words::number(figure.count)];
        if with_share {
            row.push(figure.of.map_or_else(String::new, |of| words::share(figure.count, of)));
            row.push(figure.of.map_or_else(String::new, |of| bar(figure.count, of)));
        }
        row.push(figure.remark.clone());
        if !figure.show.is_empty() {
            row.push(style::dim(&figure.show));
        }
        table.add_row(row);
    }
    for index in 1..=if with_share { 2 } else { 1 } {
        if let Some(column) = table.column_mut(index) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    table.trim_fmt() + "\n"
}
