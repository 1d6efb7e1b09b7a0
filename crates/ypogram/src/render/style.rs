//! The few styles there are. They vanish where the output is no terminal.

use anstyle::{AnsiColor, Style};

const TITLE: Style = Style::new().bold();
const DIM: Style = Style::new().dimmed();
const GOOD: Style = AnsiColor::Green.on_default();
const BAD: Style = AnsiColor::Red.on_default();
const DOUBTFUL: Style = AnsiColor::Yellow.on_default();

fn in_style(style: Style, text: &str) -> String {
    format!("{style}{text}{style:#}")
}

/// The head of a block.
pub(crate) fn title(text: &str) -> String {
    in_style(TITLE, text)
}

/// What may be passed over.
pub(crate) fn dim(text: &str) -> String {
    in_style(DIM, text)
}

/// Usable, in order.
pub(crate) fn good(text: &str) -> String {
    in_style(GOOD, text)
}

/// Unusable.
pub(crate) fn bad(text: &str) -> String {
    in_style(BAD, text)
}

/// To be decided.
pub(crate) fn doubtful(text: &str) -> String {
    in_style(DOUBTFUL, text)
}
