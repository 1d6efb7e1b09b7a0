//! The SQL of each kind of database: names, texts, and the functions that keys are made of.

use ypogram_io::{Format, SourcePlace};

/// A kind of database.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Dialect {
    Sqlite,
    Postgres,
    MariaDb,
}

impl Dialect {
    /// That of the database in which a source is.
    pub(crate) fn of(place: &SourcePlace) -> Self {
        match Format::named_by(&place.file) {
            Some(Format::Postgres) => Dialect::Postgres,
            Some(Format::MariaDb) => Dialect::MariaDb,
            _ => Dialect::Sqlite,
        }
    }

    /// A name, in quotes.
    pub(crate) fn name(self, name: &str) -> String {
        match self {
            Dialect::MariaDb => format!("`{}`", name.replace('`', "``")),
            Dialect::Sqlite | Dialect::Postgres => format!("\"{}\"", name.replace('"', "\"\"")),
        }
    }

    /// The name of a table, which may stand behind that of its schema.
    pub(crate) fn table(self, name: &str) -> String {
        match name.split_once('.') {
            Some((schema, table)) if self == Dialect::Postgres && !schema.is_empty() && !table.is_empty() => {
                format!("{}.{}", self.name(schema), self.name(table))
            }
            _ => self.name(name),
        }
    }

    /// A text, in quotes.
    pub(crate) fn text(self, text: &str) -> String {
        let text = if self == Dialect::MariaDb { text.replace('\\', "\\\\") } else { text.to_owned() };
        format!("'{}'", text.replace('\'', "''"))
    }

    /// What a text in quotes says that the database itself [quoted](Self::quoted).
    pub(crate) fn unquoted(self, literal: &str) -> String {
        let escaped = match self {
            Dialect::Sqlite => None,
            Dialect::Postgres => literal.strip_prefix(" E'").or_else(|| literal.strip_prefix("E'")),
            Dialect::MariaDb => literal.strip_prefix('\''),
        };
        let inside = |rest: &str| rest.strip_suffix('\'').map(str::to_owned);
        match (escaped.and_then(inside), literal.strip_prefix('\'').and_then(inside)) {
            (Some(text), _) => {
                text.replace("''", "'").replace("\\'", "'").replace("\\0", "\0").replace("\\\\", "\\")
            }
            (None, Some(text)) => text.replace("''", "'"),
            (None, None) => literal.to_owned(),
        }
    }

    /// What tells a row apart, as it is shown: a number is one, though all values are in quotes there.
    pub(crate) fn id_shown(self, literal: &str) -> String {
        if self == Dialect::Sqlite { literal.to_owned() } else { self.unquoted(literal) }
    }

    /// An expression as text in which every character but itself is another one.
    pub(crate) fn exactly(self, operand: &str) -> String {
        match self {
            Dialect::Sqlite => operand.to_owned(),
            Dialect::Postgres => format!("(({operand})::text COLLATE \"C\")"),
            Dialect::MariaDb => format!("(CONVERT({operand} USING utf8mb4) COLLATE utf8mb4_bin)"),
        }
    }

    /// A text without white space around it.
    pub(crate) fn trimmed(self, text: &str) -> String {
        match self {
            Dialect::Sqlite => format!("trim({text}, char(9, 10, 13, 32))"),
            Dialect::Postgres => format!("btrim({text}, E'\\t\\n\\r ')"),
            Dialect::MariaDb => {
                format!("REGEXP_REPLACE({text}, '^[ \\t\\r\\n]+|[ \\t\\r\\n]+$', '')")
            }
        }
    }

    /// Where a text begins in another, from 1; 0 where it does not stand there.
    pub(crate) fn find(self, text: &str, in_text: &str) -> String {
        let function = if self == Dialect::Postgres { "strpos" } else { "instr" };
        format!("{function}({in_text}, {text})")
    }

    /// Texts one behind the other.
    pub(crate) fn joined(self, texts: &[&str]) -> String {
        match self {
            Dialect::MariaDb => format!("CONCAT({})", texts.join(", ")),
            Dialect::Sqlite | Dialect::Postgres => texts.join(" || "),
        }
    }

    /// The number of characters of a text.
    pub(crate) fn length(self, text: &str) -> String {
        let function = if self == Dialect::MariaDb { "CHAR_LENGTH" } else { "length" };
        format!("{function}({text})")
    }

    /// An expression, as the database writes it in SQL.
    pub(crate) fn quoted(self, expression: &str) -> String {
        match self {
            Dialect::Postgres => format!("quote_nullable(({expression})::text)"),
            Dialect::Sqlite | Dialect::MariaDb => format!("quote({expression})"),
        }
    }

    /// The character that stands between what the database [quoted](Self::quoted).
    pub(crate) fn separator(self) -> &'static str {
        if self == Dialect::Postgres { "chr(31)" } else { "char(31)" }
    }

    /// Whether a column is what it was, be it NULL.
    pub(crate) fn is_still(self, column: &str, literal: &str) -> String {
        match self {
            Dialect::Sqlite => format!("{column} IS {literal}"),
            Dialect::Postgres => format!("{column}::text IS NOT DISTINCT FROM {literal}"),
            Dialect::MariaDb => format!("BINARY {column} <=> {literal}"),
        }
    }
}
