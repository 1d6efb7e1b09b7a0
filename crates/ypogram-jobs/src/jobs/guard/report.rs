//! What was found in the way of a unique rule.

use serde::Serialize;

/// What was found.
#[derive(Clone, Debug, Serialize)]
pub struct GuardReport {
    /// The table, as the database has it.
    pub table: String,
    /// The column.
    pub column: String,
    /// The key column that the SQL makes.
    pub key_column: String,
    /// Rows read.
    pub rows: u64,
    /// Rows without a usable address that are in nobody's way.
    pub unusable: u64,
    /// Mailboxes that several rows have.
    pub groups: u64,
    /// Rows that go.
    pub going: u64,
    /// Of them, rows that name another person than the one that stays.
    pub other_person: u64,
    /// Rows whose address the database cannot compare as it stands, such as one with a name beside it.
    pub not_comparable: u64,
    /// Of them, rows that are brought to their standard form.
    pub to_standard_form: u64,
    /// Tables with rows that refer to this one's.
    pub referring: Vec<String>,
    /// The first groups.
    #[serde(skip)]
    pub first: Vec<Vec<GuardRow>>,
    /// The SQL, where it goes nowhere else.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub sql: String,
}

/// A row in the way of a unique rule, or the one that stays.
#[derive(Clone, Debug)]
pub struct GuardRow {
    /// What tells it from all others: its number, or its primary key.
    pub row: String,
    /// Its address, as it stands there.
    pub value: String,
    /// It stays.
    pub stays: bool,
    /// It names another person than the one that stays.
    pub other_person: bool,
}
