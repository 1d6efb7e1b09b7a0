//! The columns for what the groups of patterns take.

use ypogram_core::Pattern;

/// Names of columns that rows have anyway.
const TAKEN: [&str; 10] =
    ["pattern", "match", "occurrence", "field", "source", "record", "line", "offset", "context", "id"];

/// A column for each name of a group; patterns with groups of one name share it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct GroupColumns {
    names: Vec<String>,
    /// For each pattern the columns of its groups, in their order.
    of_patterns: Vec<Vec<usize>>,
}

impl GroupColumns {
    pub(super) fn of(patterns: &[Pattern]) -> Self {
        let mut columns = GroupColumns::default();
        for pattern in patterns {
            let mut of_pattern = Vec::new();
            for group in pattern.groups() {
                let is_number = group.starts_with(|first: char| first.is_ascii_digit());
                let name = match is_number || TAKEN.contains(&&*group) {
                    true => format!("group_{group}"),
                    false => group,
                };
                let known = columns.names.iter().position(|known| *known == name);
                of_pattern.push(known.unwrap_or(columns.names.len()));
                if known.is_none() {
                    columns.names.push(name);
                }
            }
            columns.of_patterns.push(of_pattern);
        }
        columns
    }

    pub(super) fn names(&self) -> impl Iterator<Item = &str> {
        self.names.iter().map(String::as_str)
    }

    /// The columns of the groups of the pattern at that place.
    pub(super) fn of_pattern(&self, pattern: usize) -> &[usize] {
        &self.of_patterns[pattern]
    }
}
