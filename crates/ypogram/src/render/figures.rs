//! Figures: a word, a count, a share as a small bar, and what there is to say.

use crate::render::layout::Cell;
use crate::render::words;

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

    /// Its cells, with those of a share where `with_share`.
    pub(crate) fn cells(&self, with_share: bool) -> Vec<Cell> {
        let mut row = vec![Cell::flexible(&self.word), Cell::right(words::number(self.count))];
        if with_share {
            let share = self.of.map_or_else(String::new, |of| words::share(self.count, of));
            row.push(Cell::right(share));
            row.push(Cell::ornament(self.of.map_or_else(String::new, |of| bar(self.count, of))));
        }
        row.push(Cell::flexible(&self.remark));
        row.push(Cell::dim(&self.show));
        row
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
