//! What patterns fit in a text, rather than addresses: each match is a row.

use ypogram_core::{PatternMatch, Span};
use ypogram_io::csv::is_formula_like;
use ypogram_io::pieces::Segment;

use crate::jobs::extract::group_columns::GroupColumns;
use crate::jobs::extract::row::{RowKey, value};
use crate::jobs::extract::rows::Rows;

impl Rows<'_> {
    /// Takes what the patterns fit in the segment, in the order in which it stands there; a match ends with its line at the latest. Matches are
    /// numbered by pattern within a cell or value, in a plain text within the line.
    pub(super) fn take_matches(&mut self, segment: &Segment<'_>, groups: &GroupColumns) {
        let body = segment.body.clone();
        let numbered_by_line = segment.record.is_none();
        let mut numbers = vec![0; self.options.patterns.len()];
        let mut start = line_start(segment.text, body.start);
        while start < body.end {
            let end =
                memchr::memchr(b'\n', &segment.text[start..]).map_or(segment.text.len(), |at| start + at);
            let line = segment.text[start..end].strip_suffix(b"\r").unwrap_or(&segment.text[start..end]);
            if numbered_by_line {
                numbers.fill(0);
            }
            self.take_matches_of_line(segment, (start, line), groups, &mut numbers);
            start = end + 1;
        }
    }

    fn take_matches_of_line(
        &mut self,
        segment: &Segment<'_>,
        (start, line): (usize, &[u8]),
        groups: &GroupColumns,
        numbers: &mut [u64],
    ) {
        let mut all: Vec<(usize, PatternMatch)> = Vec::new();
        for (place, pattern) in self.options.patterns.iter().enumerate() {
            // A match of nothing is none.
            let matches = pattern.find_all(line).filter(|found| !found.span.is_empty());
            all.extend(matches.map(|found| (place, found)));
        }
        all.sort_by_key(|(place, found)| (found.span.start, *place));
        for (pattern, found) in all {
            numbers[pattern] += 1;
            if segment.body.contains(&(start + found.span.start)) {
                let row = self.put_match(segment, found.span.shifted(start), pattern, numbers[pattern]);
                self.set_groups(row, line, &found, groups.of_pattern(pattern));
            }
        }
    }

    /// Adds the row of a match, which is the one of that number; gives the number of the row.
    fn put_match(&mut self, segment: &Segment<'_>, span: Span, pattern: usize, number: u64) -> usize {
        let offset = self.offset_of(segment, span.start);
        let matches = &mut self.part.counts.matches;
        matches.resize(self.options.patterns.len(), 0);
        matches[pattern] += 1;
        let template = self.part.keys.len() as u32;
        self.part.keys.push(RowKey::Match(pattern));
        let row = self.part.values.add_row();
        self.set_text(row, value::ADDRESS, span.of(segment.text));
        self.part.values.set_number(row, value::COUNT, number);
        self.set_common_values(row, segment, offset);
        self.set_context_and_id(row, segment, span);
        self.add_row(segment, span.start, template, false, (0, 0));
        row
    }

    fn set_groups(&mut self, row: usize, line: &[u8], found: &PatternMatch, columns: &[usize]) {
        for (column, group) in columns.iter().zip(&found.groups) {
            if let Some(group) = group {
                self.set_text(row, value::FIRST_GROUP + column, group.of(line));
            }
        }
    }

    fn set_text(&mut self, row: usize, column: usize, text: &[u8]) {
        self.part.counts.formulas += u64::from(is_formula_like(text));
        let place = self.part.values.append(text);
        self.part.values.set(row, column, place);
    }
}

/// Where the line begins in which `at` stands.
fn line_start(text: &[u8], at: usize) -> usize {
    memchr::memrchr(b'\n', &text[..at]).map_or(0, |before| before + 1)
}
