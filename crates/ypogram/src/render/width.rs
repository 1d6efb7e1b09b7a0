//! How wide what is printed may be.

use std::io::IsTerminal as _;
use std::sync::OnceLock;

/// Characters of the widest line of a summary in a file or a pipe, where no terminal says how wide it is.
const WIDTH: usize = 100;

/// A narrower terminal breaks lines by itself.
const LEAST: usize = 60;

/// Beyond, a row is hard to follow from its name to its figure.
const MOST: usize = 160;

/// Characters of a line of the terminal; none where standard output is no terminal.
pub(crate) fn of_terminal() -> Option<usize> {
    static COLUMNS: OnceLock<Option<usize>> = OnceLock::new();
    *COLUMNS.get_or_init(|| {
        let output = std::io::stdout();
        let size = output.is_terminal().then(|| terminal_size::terminal_size_of(&output)).flatten();
        size.map(|(columns, _)| usize::from(columns.0).max(LEAST))
    })
}

/// Characters of the widest line of a summary, where it is not printed in full.
pub(crate) fn of_summary() -> usize {
    of_terminal().map_or(WIDTH, |columns| columns.min(MOST))
}
