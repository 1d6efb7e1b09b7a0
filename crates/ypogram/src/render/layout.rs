//! Rows of cells aligned below one another, as wide as the page at most.

use unicode_width::{UnicodeWidthChar as _, UnicodeWidthStr as _};

use crate::render::style;

/// Characters of the widest line, where a summary is not told in full.
pub(crate) const WIDTH: usize = 100;

/// A cell of a row.
#[derive(Clone, Debug, Default)]
pub(crate) struct Cell {
    text: String,
    right: bool,
    dim: bool,
    /// It may be shortened.
    flexible: bool,
    /// It is left out where there is no room for all.
    spare: bool,
}

impl Cell {
    /// Text that stands as it is.
    pub(crate) fn text(text: impl Into<String>) -> Self {
        Cell { text: text.into(), ..Cell::default() }
    }

    /// A number.
    pub(crate) fn right(text: impl Into<String>) -> Self {
        Cell { right: true, ..Cell::text(text) }
    }

    /// What can be left out where there is no room for all.
    #[must_use]
    pub(crate) fn spare(mut self) -> Self {
        self.spare = true;
        self
    }

    /// Text of which the beginning is enough where there is no room.
    pub(crate) fn flexible(text: impl Into<String>) -> Self {
        Cell { flexible: true, ..Cell::text(text) }
    }

    /// What may be passed over.
    pub(crate) fn dim(text: impl Into<String>) -> Self {
        Cell { dim: true, ..Cell::text(text) }
    }
}

/// The rows as lines; no line is wider than `most` unless its inflexible cells are.
pub(crate) fn lines(rows: &[Vec<Cell>], most: usize) -> Vec<String> {
    let columns = rows.iter().map(Vec::len).max().unwrap_or(0);
    let of = |column: usize| rows.iter().filter_map(move |row| row.get(column));
    let mut widths: Vec<usize> =
        (0..columns).map(|column| of(column).map(|cell| cell.text.width()).max().unwrap_or(0)).collect();
    let flexible: Vec<bool> = (0..columns).map(|column| of(column).any(|cell| cell.flexible)).collect();
    // Two spaces stand in front and between.
    let taken =
        |widths: &[usize]| widths.iter().map(|width| if *width > 0 { width + 2 } else { 0 }).sum::<usize>();
    if taken(&widths) > most {
        (0..columns)
            .filter(|&column| of(column).any(|cell| cell.spare))
            .for_each(|column| widths[column] = 0);
    }
    while taken(&widths) > most {
        let widest = (0..columns).filter(|&column| flexible[column]).max_by_key(|&column| widths[column]);
        let Some(widest) = widest.filter(|&column| widths[column] > LEAST) else { break };
        widths[widest] = widths[widest].saturating_sub((taken(&widths) - most).min(4)).max(LEAST);
    }
    rows.iter().map(|row| line(row, &widths)).collect()
}

/// A flexible column keeps at least so many characters.
const LEAST: usize = 10;

fn line(row: &[Cell], widths: &[usize]) -> String {
    let mut out = String::new();
    for (cell, &width) in row.iter().zip(widths).filter(|(_, width)| **width > 0) {
        let text = if cell.flexible { cut(&cell.text, width) } else { cell.text.clone() };
        let padding = " ".repeat(width.saturating_sub(text.width()));
        let text = if cell.dim && !text.is_empty() { style::dim(&text) } else { text };
        out.push_str("  ");
        match cell.right {
            true => out.extend([padding, text]),
            false => out.extend([text, padding]),
        }
    }
    out.truncate(out.trim_end().len());
    out
}

/// The text, or its beginning where it is wider.
pub(crate) fn cut(text: &str, most: usize) -> String {
    if text.width() <= most {
        return text.to_owned();
    }
    let (mut out, mut width) = (String::new(), 0);
    for c in text.chars() {
        width += c.width().unwrap_or(0);
        if width >= most {
            break;
        }
        out.push(c);
    }
    out.push('…');
    out
}

/// Lines of at most `most` characters, broken at spaces, but not in a command that is to be copied; those behind the first are
/// indented by `indent`.
pub(crate) fn wrapped(text: &str, most: usize, indent: usize) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    let mut line = String::new();
    let (words, command) = match text.split_once(": ypogram ") {
        Some((words, command)) => (format!("{words}:"), Some(format!("ypogram {command}"))),
        None => (text.to_owned(), None),
    };
    for word in words.split(' ').chain(command.as_deref()) {
        if !line.trim().is_empty() && line.width() + 1 + word.width() > most {
            lines.push(std::mem::replace(&mut line, " ".repeat(indent)));
            line.push_str(word);
        } else {
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
    }
    lines.push(line);
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_flexible_gives_way() {
        let row = |word: &str, count: &str, remark: &str| {
            vec![Cell::text(word), Cell::right(count), Cell::flexible(remark), Cell::text("--show x")]
        };
        let rows = [row("a", "10", "short"), row("bcd", "2", &"längerer Text ".repeat(9)), row("é", "1", "")];
        let told = lines(&rows, 42);
        assert!(told[0].starts_with("  a    10  short  ") && told[0].ends_with("  --show x"), "{told:?}");
        assert!(
            told[1].starts_with("  bcd   2  längerer Text") && told[1].ends_with("…  --show x"),
            "{told:?}"
        );
        assert!(told.iter().all(|line| line.width() <= 42), "{told:?}");
        assert!(lines(&rows, usize::MAX)[1].contains(&"längerer Text ".repeat(9)));
    }

    #[test]
    fn long_lines_are_broken_at_spaces() {
        assert_eq!(wrapped("one two three four", 9, 2), ["one two", "  three", "  four"]);
        assert_eq!(wrapped("averyverylongword x", 5, 0), ["averyverylongword", "x"]);
        assert_eq!(wrapped("see: ypogram lists", 9, 2), ["see:", "  ypogram lists"]);
    }
}
