//! The rows of a table with the keys that they have, and which of them have one together.

use hashbrown::HashMap;
use rusqlite::Connection;
use ypogram_core::{Hasher, Policy};
use ypogram_io::{Chunk, Error, Result, SqlDialect};

use crate::jobs::guard::options::GuardOptions;
use crate::jobs::guard::table::{KEY, ROW_ID, VALUE};
use crate::judge::annotate::Part;
use crate::judge::judged_address::JudgedAddress;
use crate::plan::fields::FieldPlan;
use crate::plan::shared::are_different;
use crate::sql::key;

/// The rows so far.
pub(super) struct Gathered {
    policy: Policy,
    hasher: Hasher,
    /// Makes keys as the database does.
    engine: Connection,
    query: String,
    /// What tells each row apart, and its address, behind one another; where each ends.
    texts: (String, Vec<[usize; 2]>),
    rows: Vec<Seen>,
    /// The first row of each key.
    by_key: HashMap<u128, usize>,
    /// Rows whose address the database cannot compare as it stands, with its standard form where that helps and loses no other address.
    pub(super) not_comparable: Vec<(usize, Option<String>)>,
    places: [usize; 4],
}

/// A row.
struct Seen {
    /// An earlier row, or itself, with which it has a key together.
    above: usize,
    score: u64,
    person: u32,
    is_usable: bool,
}

/// Rows of one mailbox.
pub(super) struct Group {
    /// The row that stays.
    pub(super) stays: usize,
    /// Those that go, and whether they name another person.
    pub(super) others: Vec<(usize, bool)>,
}

impl Gathered {
    /// None yet.
    ///
    /// # Errors
    /// Where the columns that the query adds are not there.
    pub(super) fn new(plan: &FieldPlan, options: &GuardOptions, hasher: Hasher) -> Result<Self> {
        let place = |name: &str| plan.fields.iter().position(|field| field.eq_ignore_ascii_case(name));
        let places = [Some(ROW_ID), Some(VALUE), Some(KEY), None]
            .map(|column| column.map_or_else(|| plan.address.first().copied(), place));
        let missing =
            || Error::unusable("the table has too many columns of one name", "give them other names");
        let [Some(row), Some(value), Some(key), Some(address)] = places else { return Err(missing()) };
        let failed = |error: rusqlite::Error| Error::unusable(format!("SQLite: {error}"), "");
        Ok(Gathered {
            policy: options.policy.clone(),
            hasher,
            engine: Connection::open_in_memory().map_err(failed)?,
            query: format!("SELECT {}", key::expression(SqlDialect::Sqlite, "?1", &options.policy)),
            texts: (String::new(), Vec::new()),
            rows: Vec::new(),
            by_key: HashMap::new(),
            not_comparable: Vec::new(),
            places: [row, value, key, address],
        })
    }

    pub(super) fn len(&self) -> usize {
        self.rows.len()
    }

    /// The rows without a usable address.
    pub(super) fn unusable(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.rows.len()).filter(|row| !self.rows[*row].is_usable)
    }

    /// What tells the row apart, and its address, both as SQL has them.
    pub(super) fn row(&self, row: usize) -> (&str, &str) {
        let (text, ends) = &self.texts;
        let start = row.checked_sub(1).map_or(0, |before| ends[before][1]);
        let [middle, end] = ends[row];
        (&text[start..middle], &text[middle..end])
    }

    /// Adds the row at `nth` of `part`.
    ///
    /// # Errors
    /// Where SQLite fails.
    pub(super) fn add(&mut self, part: &Part, nth: usize, chunk: &Chunk, plan: &FieldPlan) -> Result<()> {
        let (row, record) = (part.rows[nth], part.record(nth, chunk));
        let [literals, value, key, address] =
            self.places.map(|place| String::from_utf8_lossy(plan.cell(record, place).unwrap_or_default()));
        let (text, ends) = &mut self.texts;
        text.push_str(&literals);
        let middle = text.len();
        text.push_str(&value);
        ends.push([middle, text.len()]);
        let number = self.rows.len();
        let score = part.scores.get(nth).map_or(0, |score| score.score);
        self.rows.push(Seen { above: number, score, person: row.person, is_usable: row.key != 0 });
        let by_database = if key.is_empty() { 0 } else { self.hasher.hash(key.as_bytes()) };
        let mut keys = vec![row.key, by_database];
        if row.key != 0 && row.key != by_database {
            let standard = self.standard_form(&address, row.key)?;
            keys.extend(standard.as_ref().map(|(_, key)| *key));
            let helps = standard.filter(|(_, key)| *key == row.key).map(|(standard, _)| standard);
            self.not_comparable.push((number, helps));
        }
        for key in keys.into_iter().filter(|key| *key != 0) {
            let first = *self.by_key.entry(key).or_insert(number);
            self.join(first, number);
        }
        Ok(())
    }

    /// The standard form of the only address of a cell, and the key that the database makes of it.
    fn standard_form(&self, cell: &str, own: u128) -> Result<Option<(String, u128)>> {
        let all = JudgedAddress::all_in(cell.as_bytes(), &self.policy);
        let [(only, _)] = &all[..] else { return Ok(None) };
        let Some(standard) = only.address.clone().filter(|_| own != 0) else { return Ok(None) };
        let made: rusqlite::Result<Option<String>> =
            self.engine.query_row(&self.query, [&standard], |row| row.get(0));
        let made = made.map_err(|error| Error::unusable(format!("SQLite: {error}"), ""))?;
        Ok(Some((standard, made.map_or(0, |key| self.hasher.hash(key.as_bytes())))))
    }

    fn top(&self, mut row: usize) -> usize {
        while self.rows[row].above != row {
            row = self.rows[row].above;
        }
        row
    }

    /// Both rows are of one mailbox.
    fn join(&mut self, one: usize, other: usize) {
        let (one, other) = (self.top(one), self.top(other));
        let (first, later) = (one.min(other), one.max(other));
        self.rows[later].above = first;
    }

    /// The groups of several rows, in the order of their first ones; where `last` the last row stays, else the one with the best score, and
    /// of equals the first.
    pub(super) fn groups(&self, last: bool) -> Vec<Group> {
        let mut members: HashMap<usize, Vec<usize>> = HashMap::new();
        for row in 0..self.rows.len() {
            let top = self.top(row);
            if top != row {
                members.entry(top).or_insert_with(|| vec![top]).push(row);
            }
        }
        let mut groups: Vec<Vec<usize>> = members.into_values().collect();
        groups.sort_unstable();
        groups.into_iter().map(|rows| self.group(&rows, last)).collect()
    }

    fn group(&self, rows: &[usize], last: bool) -> Group {
        let best = rows.iter().max_by_key(|row| (self.rows[**row].score, std::cmp::Reverse(**row)));
        let stays = if last { rows.last() } else { best };
        let stays = *stays.expect("a group has rows");
        let others = rows.iter().filter(|row| **row != stays);
        let other_person =
            |row: usize| are_different(self.rows[row].person.into(), self.rows[stays].person.into());
        Group { stays, others: others.map(|row| (*row, other_person(*row))).collect() }
    }
}
