//! The SQL of each kind of database: how it writes names and texts.

use crate::records::format::Format;
use crate::records::place::SourcePlace;

/// The SQL of a kind of database.
///
/// ```
/// use ypogram_io::{SourcePlace, SqlDialect};
/// let sql = SqlDialect::of(&SourcePlace::of("postgres://ada@db/club#people".as_ref()));
/// assert_eq!(sql.table("sales.people"), "\"sales\".\"people\"");
/// assert_eq!(SqlDialect::MariaDb.name("the mail"), "`the mail`");
/// assert_eq!(SqlDialect::MariaDb.text(r"O'Neil\"), r"'O''Neil\\'");
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SqlDialect {
    /// SQLite.
    Sqlite,
    /// PostgreSQL.
    Postgres,
    /// MariaDB, and MySQL where that has the same.
    MariaDb,
}

impl SqlDialect {
    /// That of the database in which a source is; SQLite's where it is in none.
    pub fn of(place: &SourcePlace) -> Self {
        match Format::named_by(&place.file) {
            Some(Format::Postgres) => SqlDialect::Postgres,
            Some(Format::MariaDb) => SqlDialect::MariaDb,
            _ => SqlDialect::Sqlite,
        }
    }

    /// A name, in quotes.
    pub fn name(self, name: &str) -> String {
        match self {
            SqlDialect::MariaDb => format!("`{}`", name.replace('`', "``")),
            SqlDialect::Sqlite | SqlDialect::Postgres => format!("\"{}\"", name.replace('"', "\"\"")),
        }
    }

    /// The name of a table, which may stand behind that of its schema.
    pub fn table(self, name: &str) -> String {
        match name.split_once('.') {
            Some((schema, table))
                if self == SqlDialect::Postgres && !schema.is_empty() && !table.is_empty() =>
            {
                format!("{}.{}", self.name(schema), self.name(table))
            }
            _ => self.name(name),
        }
    }

    /// A text, in quotes.
    pub fn text(self, text: &str) -> String {
        // A backslash takes the meaning from the character behind it.
        let text = if self == SqlDialect::MariaDb { text.replace('\\', "\\\\") } else { text.to_owned() };
        format!("'{}'", text.replace('\'', "''"))
    }
}
