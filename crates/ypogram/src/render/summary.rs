//! A summary: the answer in its first line, then blocks of figures, then the next steps that fit the result.

use unicode_width::UnicodeWidthStr as _;

use crate::call::CommandLine;
use crate::render::figures::Figure;
use crate::render::layout::{self, Cell, hanging, lines, wrapped};
use crate::render::style;
use crate::render::width;
use crate::render::words::{counted, number};

/// A summary while it is put together.
pub(crate) struct Summary {
    /// The first line.
    answer: String,
    /// What was read, and how.
    head: Vec<String>,
    blocks: Vec<Block>,
    steps: Vec<Step>,
}

/// Figures or other rows below a title.
pub(crate) struct Block {
    title: String,
    remark: String,
    /// Names above the columns.
    names: Option<Vec<Cell>>,
    rows: Vec<Vec<Cell>>,
    /// Lines below the rows.
    notes: Vec<String>,
    /// So many rows are left at least; all where none are cut.
    least: usize,
    /// The greater, the sooner it gives way to others.
    rank: u8,
}

/// What can be done next.
struct Step {
    count: u64,
    what: String,
    how: String,
}

/// Lines between the answer and the next steps, where a summary is not told in full.
const MOST_LINES: usize = 40;

/// Next steps at most.
const MOST_STEPS: usize = 3;

impl Summary {
    /// With the answer in its first line.
    pub(crate) fn new(answer: String) -> Self {
        Summary { answer, head: Vec::new(), blocks: Vec::new(), steps: Vec::new() }
    }

    /// Lines above the blocks.
    pub(crate) fn head(&mut self, lines: Vec<String>) {
        self.head = lines;
    }

    /// Adds a block, unless there is nothing in it.
    pub(crate) fn block(&mut self, block: Block) {
        if !block.rows.is_empty() || !block.notes.is_empty() {
            self.blocks.push(block);
        }
    }

    /// Adds a next step, unless there are enough or it is about nothing.
    pub(crate) fn step(&mut self, count: u64, what: &str, command: &CommandLine) {
        self.step_to(count, what, command.to_string());
    }

    /// Adds a next step that is no command.
    pub(crate) fn step_to(&mut self, count: u64, what: &str, how: String) {
        if count > 0 && self.steps.len() < MOST_STEPS {
            self.steps.push(Step { count, what: what.to_owned(), how });
        }
    }

    /// Without next steps: those of a trial would be about other records.
    #[must_use]
    pub(crate) fn without_steps(mut self) -> Self {
        self.steps.clear();
        self
    }

    /// What is printed; in full, or as much as fits a page.
    pub(crate) fn text(mut self, full: bool) -> String {
        let width = if full { usize::MAX } else { width::of_summary() };
        let left_out = if full { Vec::new() } else { self.fit() };
        let mut out = format!("{}\n\n", style::title(&hanging(&self.answer, 0)));
        for line in self.head.iter().flat_map(|line| wrapped(line, width, 2)) {
            out.push_str(&line);
            out.push('\n');
        }
        for block in &self.blocks {
            out.push('\n');
            for line in block.lines(width) {
                out.push_str(&line);
                out.push('\n');
            }
        }
        if !left_out.is_empty() {
            let text = also(&left_out);
            out.push('\n');
            for line in wrapped(&text, width, 2) {
                out.push_str(&style::dim(&line));
                out.push('\n');
            }
        }
        if !self.steps.is_empty() {
            out.push_str(&format!("\n{}\n", style::title("Next")));
            let row = |step: &Step| {
                vec![Cell::right(number(step.count)), Cell::text(&step.what), Cell::text(&step.how)]
            };
            let rows: Vec<Vec<Cell>> = self.steps.iter().map(row).collect();
            let in_one_line = lines(&rows, usize::MAX);
            let room = width::of_terminal().unwrap_or(usize::MAX);
            match in_one_line.iter().all(|line| line.width() <= room) {
                true => in_one_line.iter().for_each(|line| out.extend([line, "\n"])),
                // A command that stands in a line of its own can be copied as a whole.
                false => {
                    let above: Vec<Vec<Cell>> = rows.iter().map(|row| row[..2].to_vec()).collect();
                    let counts = self.steps.iter().map(|step| number(step.count).width());
                    let indent = " ".repeat(counts.max().unwrap_or_default() + 4);
                    for (above, step) in lines(&above, usize::MAX).iter().zip(&self.steps) {
                        out.push_str(&format!("{above}\n{indent}{}\n", step.how));
                    }
                }
            }
        }
        out
    }

    /// Cuts rows, and where that is not enough takes out blocks, until it fits a page; gives the titles of those.
    fn fit(&mut self) -> Vec<String> {
        let mut left_out: Vec<String> = Vec::new();
        let mut shown: Vec<usize> = self.blocks.iter().map(|block| block.rows.len()).collect();
        let head =
            self.head.iter().map(|line| wrapped(line, width::of_summary(), 2).len()).sum::<usize>() + 1;
        let is_too_long = |blocks: &[Block], shown: &[usize], left_out: &[String]| {
            let blocks = blocks.iter().zip(shown).map(|(block, &shown)| block.height(shown) + 1);
            let told =
                if left_out.is_empty() { 0 } else { wrapped(&also(left_out), width::of_summary(), 2).len() };
            head + blocks.sum::<usize>() + if told > 0 { told + 1 } else { 0 } > MOST_LINES
        };
        while is_too_long(&self.blocks, &shown, &left_out) {
            let can_be_cut = |&nth: &usize| shown[nth] > self.blocks[nth].least;
            let spare = |&nth: &usize| (self.blocks[nth].rank, shown[nth] - self.blocks[nth].least);
            if let Some(nth) = (0..shown.len()).filter(can_be_cut).max_by_key(spare) {
                shown[nth] -= 1;
                continue;
            }
            let last = (0..shown.len()).max_by_key(|&nth| self.blocks[nth].rank);
            let Some(nth) = last.filter(|&nth| self.blocks[nth].rank > 0) else { break };
            left_out.insert(0, self.blocks.remove(nth).title);
            shown.remove(nth);
        }
        // What became free is used again, the most important first.
        let mut order: Vec<usize> = (0..shown.len()).collect();
        order.sort_by_key(|&nth| self.blocks[nth].rank);
        for nth in order {
            while shown[nth] < self.blocks[nth].rows.len() {
                shown[nth] += 1;
                if is_too_long(&self.blocks, &shown, &left_out) {
                    shown[nth] -= 1;
                    break;
                }
            }
        }
        for (block, shown) in self.blocks.iter_mut().zip(shown) {
            block.cut(shown);
        }
        left_out
    }
}

impl Block {
    /// Figures below a title; cut where there is no room, down to three.
    pub(crate) fn of(title: &str, remark: &str, figures: &[Figure]) -> Self {
        let with_share = figures.iter().any(|figure| figure.of.is_some());
        let rows = figures.iter().map(|figure| figure.cells(with_share)).collect();
        Block::of_rows(title, remark, rows)
    }

    /// The same with other rows.
    pub(crate) fn of_rows(title: &str, remark: &str, rows: Vec<Vec<Cell>>) -> Self {
        Block {
            title: title.to_owned(),
            remark: remark.to_owned(),
            names: None,
            least: 3.min(rows.len()),
            rows,
            notes: Vec::new(),
            rank: 1,
        }
    }

    /// With names above the columns.
    #[must_use]
    pub(crate) fn named(mut self, names: Vec<Cell>) -> Self {
        self.names = Some(names);
        self
    }

    /// None of its rows may be cut.
    #[must_use]
    pub(crate) fn whole(mut self) -> Self {
        self.least = self.rows.len();
        self.rank = 0;
        self
    }

    /// It gives way before those of a lower rank.
    #[must_use]
    pub(crate) fn rank(mut self, rank: u8) -> Self {
        self.rank = rank;
        self
    }

    /// With a line below.
    #[must_use]
    pub(crate) fn note(mut self, note: impl Into<String>) -> Self {
        self.notes.push(note.into());
        self
    }

    /// Its lines where so many rows are shown.
    fn height(&self, shown: usize) -> usize {
        let notes: usize =
            self.notes.iter().map(|note| wrapped(note, width::of_summary() - 2, 2).len()).sum();
        1 + usize::from(self.names.is_some()) + shown + usize::from(shown < self.rows.len()) + notes
    }

    fn cut(&mut self, shown: usize) {
        let more = self.rows.len() - shown;
        if more > 0 {
            self.rows.truncate(shown);
            self.notes.insert(0, style::dim(&format!("and {} more: --full", number(more as u64))));
        }
    }

    fn lines(&self, width: usize) -> Vec<String> {
        let remark = match self.remark.is_empty() {
            true => String::new(),
            false => {
                let room = width.saturating_sub(self.title.chars().count() + 1);
                format!(" {}", style::dim(&layout::cut(&format!("({})", self.remark), room)))
            }
        };
        let mut out = vec![format!("{}{remark}", style::title(&self.title))];
        let rows: Vec<Vec<Cell>> = self.names.iter().chain(&self.rows).cloned().collect();
        out.extend(lines(&rows, width));
        let notes = self.notes.iter().flat_map(|note| wrapped(note, width.saturating_sub(2), 2));
        out.extend(notes.map(|line| format!("  {line}")));
        out
    }
}

/// What is reported about the blocks that were left out.
fn also(left_out: &[String]) -> String {
    format!("with --full also: {}", left_out.join(", "))
}

/// Where records end, as the first line of a summary tells it: those that are there, and what they add up to.
pub(crate) fn outcomes(counts: &[(&str, u64)], records: u64) -> String {
    let counts: Vec<String> =
        counts.iter().map(|(word, count)| format!("{} {word}", number(*count))).collect();
    format!("{} — {}", counts.join(" · "), counted(records, "record", "records"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fits_a_page_and_says_what_it_left_out() {
        let figures = |many: u64| -> Vec<Figure> {
            (0..many).map(|nth| Figure::new(format!("figure{nth}"), nth, None, "x".repeat(200))).collect()
        };
        let summary = || {
            let mut summary = Summary::new("3 kept".into());
            summary.head(vec!["list.csv".into(), "word ".repeat(30)]);
            summary.block(Block::of("First", "all of them", &figures(6)).whole());
            for (title, rank) in [("Second", 1), ("Third", 2), ("Fourth", 3), ("Fifth", 4), ("Sixth", 5)] {
                summary
                    .block(Block::of(title, &"long ".repeat(40), &figures(9)).rank(rank).note("said below"));
            }
            (0..5).for_each(|nth| summary.step_to(nth, "steps", "x".repeat(120)));
            summary
        };
        let (short, full) = (summary().text(false), summary().text(true));
        let between = short.split("\u{1b}[1mNext").next().unwrap().trim_end().lines().count() - 1;
        assert!(between <= MOST_LINES, "{between}: {short}");
        assert!(
            short.lines().take(between).all(|line| plain(line).chars().count() <= width::of_summary()),
            "{short}"
        );
        assert!(short.starts_with(&style::title("3 kept")), "{short}");
        assert!(
            short.contains("figure5") && short.contains("with --full also: ") && short.contains("Sixth"),
            "{short}"
        );
        assert_eq!(short.matches("steps").count(), MOST_STEPS, "the one about nothing is no step");
        for title in ["First", "Second", "Third", "Fourth", "Fifth", "Sixth"] {
            assert!(full.contains(title));
        }
        assert_eq!(full.matches("figure8").count(), 5, "nothing is cut in full");
    }

    /// Without what makes it bold or dim.
    fn plain(line: &str) -> String {
        line.split('\u{1b}')
            .enumerate()
            .map(
                |(nth, part)| if nth == 0 { part } else { part.split_once('m').map_or("", |(_, rest)| rest) },
            )
            .collect()
    }
}
