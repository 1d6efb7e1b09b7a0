//! What is to be known besides the figures: the same words in every command.

use crate::render::summary::Block;
use crate::render::words::counted;

/// What is to be known, below a title.
#[derive(Default)]
pub(crate) struct Notes {
    lines: Vec<String>,
}

impl Notes {
    /// Lines without anything in them, which are no records.
    pub(crate) fn blank_lines(&mut self, count: u64) {
        self.count(count, "blank line was passed over", "blank lines were passed over");
    }

    /// So many of something, unless there is none.
    pub(crate) fn count(&mut self, count: u64, one: &str, many: &str) {
        if count > 0 {
            self.lines.push(counted(count, one, many));
        }
    }

    /// Something else.
    pub(crate) fn say(&mut self, line: impl Into<String>) {
        self.lines.push(line.into());
    }

    /// Several of it.
    pub(crate) fn say_all(&mut self, lines: &[String]) {
        self.lines.extend_from_slice(lines);
    }

    /// The block; nothing in it where nothing was said.
    pub(crate) fn block(self) -> Block {
        let block = Block::of_rows("To know", "", Vec::new()).whole();
        self.lines.into_iter().fold(block, Block::note)
    }
}
