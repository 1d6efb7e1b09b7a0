//! Rows of cells aligned below one another, as wide as the page at most.

use unicode_width::{UnicodeWidthChar as _, UnicodeWidthStr as _};

use crate::render::{style, width};

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
    /// It is left out where there is too little room even for what is left of the others.
    ornament: bool,
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

    /// What is nice to have, such as a bar beside its figure.
    pub(crate) fn ornament(text: impl Into<String>) -> Self {
        Cell { ornament: true, ..Cell::text(text) }
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
    let mut natural: Vec<usize> =
        (0..columns).map(|column| of(column).map(|cell| cell.text.width()).max().unwrap_or(0)).collect();
    let flexible: Vec<bool> = (0..columns).map(|column| of(column).any(|cell| cell.flexible)).collect();
    let leave_out = |is_less: fn(&Cell) -> bool, natural: &mut [usize]| {
        (0..columns).filter(|&column| of(column).any(is_less)).for_each(|column| natural[column] = 0);
    };
    if taken(&natural) > most {
        leave_out(|cell| cell.spare, &mut natural);
    }
    let mut widths = narrowed(&natural, most, &flexible);
    // Then ornaments go, and commands that a longer line has room for.
    for is_less in [|cell: &Cell| cell.ornament, |cell: &Cell| cell.dim] {
        if taken(&widths) > most {
            leave_out(is_less, &mut natural);
            widths = narrowed(&natural, most, &flexible);
        }
    }
    rows.iter().map(|row| line(row, &widths)).collect()
}

/// Characters that columns take; two spaces stand in front and between.
fn taken(widths: &[usize]) -> usize {
    widths.iter().map(|width| if *width > 0 { width + 2 } else { 0 }).sum()
}

/// The widths with flexible columns made narrower, the widest first, until all fit or nothing is left to give.
fn narrowed(natural: &[usize], most: usize, flexible: &[bool]) -> Vec<usize> {
    let mut widths = natural.to_vec();
    while taken(&widths) > most {
        let widest =
            (0..widths.len()).filter(|&column| flexible[column]).max_by_key(|&column| widths[column]);
        let Some(widest) = widest.filter(|&column| widths[column] > LEAST) else { break };
        widths[widest] = widths[widest].saturating_sub((taken(&widths) - most).min(4)).max(LEAST);
    }
    widths
}

/// A flexible column keeps at least so many characters.
pub(crate) const LEAST: usize = 10;

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

/// Text that begins in column `indent` of a line of the terminal, broken at spaces where the line ends; as it is where there is no terminal.
pub(crate) fn hanging(text: &str, indent: usize) -> String {
    match width::of_terminal() {
        Some(columns) => {
            let room = columns.saturating_sub(indent).max(LEAST);
            wrapped(text, room, 0).join(&format!("\n{}", " ".repeat(indent)))
        }
        None => text.to_owned(),
    }
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

    /// What gives way first, in lines of every width: spare cells, flexible text, bars, and commands last.
    #[test]
    fn what_matters_most_stays_longest() {
        let row = |word: &str, count: &str| {
            vec![
                Cell::flexible(word),
                Cell::right(count),
                Cell::ornament("████████"),
                Cell::flexible("a remark that can be cut"),
                Cell::text("9–19").spare(),
                Cell::dim("--show usable=after-repair"),
            ]
        };
        let rows = [row("usable after repair", "160"), row("in all", "413")];
        for (most, has, lacks) in [
            (96, &["usable after repair", "████", "that can be cut", "9–19", "--show"][..], &[][..]),
            (92, &["usable after repair", "████", "that can be cut", "--show"], &["9–19"]),
            (80, &["usable after", "████", "a remark", "--show"], &["9–19", "be cut"]),
            (70, &["usable", "160", "████", "a remark", "--show"], &["9–19", "after repair"]),
            (62, &["usable", "160", "a remark", "--show"], &["9–19", "████"]),
            (50, &["usable after repair", "160", "a remark that"], &["--show", "████"]),
            (30, &["usable", "160", "a remark"], &["--show", "████", "after repair "]),
        ] {
            let plain = |line: &String| anstream::adapter::strip_str(line).to_string();
            let shown: Vec<String> = lines(&rows, most).iter().map(plain).collect();
            assert!(shown.iter().all(|line| line.width() <= most), "{most}: {shown:?}");
            has.iter().for_each(|text| assert!(shown[0].contains(text), "{most}: {text} in {shown:?}"));
            lacks.iter().for_each(|text| assert!(!shown[0].contains(text), "{most}: {text} in {shown:?}"));
            let right = |line: &str, count: &str| line.find(count).map(|at| line[..at].width() + count.len());
            assert_eq!(
                right(&shown[0], "160"),
                right(&shown[1], "413"),
                "{most}: figures stand below one another"
            );
        }
    }

    #[test]
    fn long_lines_are_broken_at_spaces() {
        assert_eq!(wrapped("one two three four", 9, 2), ["one two", "  three", "  four"]);
        assert_eq!(wrapped("averyverylongword x", 5, 0), ["averyverylongword", "x"]);
        assert_eq!(wrapped("see: ypogram lists", 9, 2), ["see:", "  ypogram lists"]);
    }
}
