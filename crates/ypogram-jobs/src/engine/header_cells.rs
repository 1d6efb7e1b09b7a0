//! What cells tell of whether their row is a header.

use std::sync::LazyLock;

use ypogram_core::{CellKind, Form, Policy, cell, examine};
use ypogram_io::csv::{CellSort, NUMBER};

use crate::engine::faults::caught;

/// Tells cells that may name a field from values, by what they hold.
///
/// ```
/// use ypogram_jobs::sort_of_cell;
/// use ypogram_io::csv::CellSort;
/// assert_eq!(sort_of_cell(b"E-mail"), CellSort::Words);
/// assert_eq!(sort_of_cell(b"night.owl@gmail.com"), CellSort::RecordOnly("an address"));
/// assert_eq!(sort_of_cell(b"n/a"), CellSort::Empty);
/// ```
pub fn sort_of_cell(cell: &[u8]) -> CellSort {
    static POLICY: LazyLock<Policy> = LazyLock::new(Policy::default);
    let cell = cell.trim_ascii();
    let policy = &*POLICY;
    // `E-M@il` names a field.
    let has_dot = memchr::memrchr(b'@', cell).is_some_and(|sign| cell[sign..].contains(&b'.'));
    if has_dot && (is_word(cell) || holds_whole_cell_address(cell, policy)) {
        return CellSort::RecordOnly("an address");
    }
    // Words for “nothing there” are read as no address at all.
    let mut found = Vec::new();
    if caught(|| cell::read(cell, policy, &mut found)).is_some() && found.is_empty() {
        return CellSort::Empty;
    }
    match CellKind::of(cell, 0) {
        CellKind::Empty => CellSort::Empty,
        CellKind::Telephone => CellSort::Value("a telephone number"),
        CellKind::WebAddress => CellSort::Value("a web address"),
        CellKind::Number => CellSort::Value(NUMBER),
        CellKind::Date => CellSort::Value("a date"),
        _ => CellSort::Words,
    }
}

/// Whether the cell is one address, in whatever form.
pub(crate) fn holds_whole_cell_address(cell: &[u8], policy: &Policy) -> bool {
    if !cell.contains(&b'@') {
        return false;
    }
    let mut found = Vec::new();
    let is_one = caught(|| {
        cell::read(cell, policy, &mut found);
        found.iter().any(|found| {
            !matches!(found.form, Form::WithinText | Form::None)
                && examine(&found.text, policy).has_standard_form()
        })
    });
    is_one.unwrap_or_default()
}

/// Whether it is one word: with an @ and a dot behind that, it is an address, maybe with a fault, and no name of a field.
fn is_word(cell: &[u8]) -> bool {
    !cell.starts_with(b"@") && !cell.iter().any(u8::is_ascii_whitespace)
}
