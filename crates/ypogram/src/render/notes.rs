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
        self.blank_lines_and_formulas(count, 0, false);
    }

    /// The same, and cells that a spreadsheet would take for formulas, `guarded` or not; in one line, since few lists have either.
    pub(crate) fn blank_lines_and_formulas(&mut self, blank: u64, formulas: u64, guarded: bool) {
        let blank = told(blank, "blank line was passed over", "blank lines were passed over");
        let formulas = match guarded {
            true => told(
                formulas,
                "cell begins like a formula and has an apostrophe in front",
                "cells begin like a formula and have an apostrophe in front",
            ),
            false => told(
                formulas,
                "cell may run as a formula in a spreadsheet: --guard-formulas",
                "cells may run as formulas in a spreadsheet: --guard-formulas",
            ),
        };
        let both: Vec<String> = blank.into_iter().chain(formulas).collect();
        if !both.is_empty() {
            self.say(both.join("; "));
        }
    }

    /// Cells by which a record should be preferred that say nothing, and those that say one of two things.
    pub(crate) fn unclear_preference(&mut self, unreadable: u64, either_way: u64) {
        self.count(
            unreadable,
            "cell is neither a date nor a number: such a record only stays where no other has either",
            "cells are neither a date nor a number: such a record only stays where no other has either",
        );
        self.count(
            either_way,
            "date could be read with day or month first: the day was taken to come first",
            "dates could be read with day or month first: the day was taken to come first",
        );
    }

    /// So many of something, unless there is none.
    pub(crate) fn count(&mut self, count: u64, one: &str, many: &str) {
        self.lines.extend(told(count, one, many));
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

/// So many of something; nothing where there is none.
fn told(count: u64, one: &str, many: &str) -> Option<String> {
    (count > 0).then(|| counted(count, one, many))
}
