//! The functions of SQL that keys are made of, in the words of each kind of database.

use ypogram_io::SqlDialect;

/// What expressions are made of.
pub(crate) trait SqlFunctions: Copy {
    /// What a text in quotes says that the database itself [quoted](Self::quoted).
    fn unquoted(self, literal: &str) -> String;
    /// What identifies a row, as it is shown: a number is one, though all values are in quotes there.
    fn id_shown(self, literal: &str) -> String;
    /// An expression as text in which every character but itself is another one.
    fn exactly(self, operand: &str) -> String;
    /// A text without white space around it.
    fn trimmed(self, text: &str) -> String;
    /// Where a text begins in another, from 1; 0 where it does not stand there.
    fn find(self, text: &str, in_text: &str) -> String;
    /// Texts one behind the other.
    fn joined(self, texts: &[&str]) -> String;
    /// The number of characters of a text.
    fn length(self, text: &str) -> String;
    /// The number of bytes of a text in UTF-8.
    fn byte_length(self, text: &str) -> String;
    /// What stands before the first @ of a text.
    fn before_at(self, text: &str) -> String;
    /// What stands behind the last dot of a text, or its @.
    fn behind_last_dot(self, text: &str) -> String;
    /// What stands behind the first dot of a text; nothing where it has none.
    fn behind_first_dot(self, text: &str) -> String;
    /// Whether a text is one of `words`, none of which has a space in it. They are looked for in one text: for a generated column the table of an
    /// IN would be built anew for each row, which takes six times as long.
    fn is_one_of<'w>(self, text: &str, words: impl Iterator<Item = &'w String>) -> String;
    /// An expression, as the database writes it in SQL.
    fn quoted(self, expression: &str) -> String;
    /// The character that stands between what the database [quoted](Self::quoted).
    fn separator(self) -> &'static str;
    /// Whether a column is what it was, be it NULL.
    fn is_still(self, column: &str, literal: &str) -> String;
}

impl SqlFunctions for SqlDialect {
    fn unquoted(self, literal: &str) -> String {
        let escapes = match self {
            SqlDialect::Sqlite => false,
            SqlDialect::Postgres => literal.trim_start().starts_with('E'),
            SqlDialect::MariaDb => true,
        };
        let bare = literal.trim_start().trim_start_matches('E');
        let Some(inside) = bare.strip_prefix('\'').and_then(|rest| rest.strip_suffix('\'')) else {
            return literal.to_owned();
        };
        let (mut text, mut chars) = (String::new(), inside.chars());
        while let Some(c) = chars.next() {
            match c {
                '\'' => text.extend(chars.next()),
                '\\' if escapes => match chars.next() {
                    Some('0') => text.push('\0'),
                    escaped => text.extend(escaped),
                },
                c => text.push(c),
            }
        }
        text
    }

    fn id_shown(self, literal: &str) -> String {
        if self == SqlDialect::Sqlite { literal.to_owned() } else { self.unquoted(literal) }
    }

    fn exactly(self, operand: &str) -> String {
        match self {
            SqlDialect::Sqlite => operand.to_owned(),
            SqlDialect::Postgres => format!("(({operand})::text COLLATE \"C\")"),
            SqlDialect::MariaDb => format!("(CONVERT({operand} USING utf8mb4) COLLATE utf8mb4_bin)"),
        }
    }

    fn trimmed(self, text: &str) -> String {
        match self {
            SqlDialect::Sqlite => format!("trim({text}, char(9, 10, 13, 32))"),
            SqlDialect::Postgres => format!("btrim({text}, E'\\t\\n\\r ')"),
            SqlDialect::MariaDb => {
                format!("REGEXP_REPLACE({text}, '^[ \\t\\r\\n]+|[ \\t\\r\\n]+$', '')")
            }
        }
    }

    fn find(self, text: &str, in_text: &str) -> String {
        let function = if self == SqlDialect::Postgres { "strpos" } else { "instr" };
        format!("{function}({in_text}, {text})")
    }

    fn joined(self, texts: &[&str]) -> String {
        match self {
            SqlDialect::MariaDb => format!("CONCAT({})", texts.join(", ")),
            SqlDialect::Sqlite | SqlDialect::Postgres => texts.join(" || "),
        }
    }

    fn length(self, text: &str) -> String {
        let function = if self == SqlDialect::MariaDb { "CHAR_LENGTH" } else { "length" };
        format!("{function}({text})")
    }

    fn byte_length(self, text: &str) -> String {
        match self {
            SqlDialect::Sqlite => format!("length(CAST({text} AS BLOB))"),
            SqlDialect::Postgres | SqlDialect::MariaDb => format!("octet_length({text})"),
        }
    }

    fn before_at(self, text: &str) -> String {
        match self {
            SqlDialect::Sqlite => format!("substr({text}, 1, {} - 1)", self.find("'@'", text)),
            SqlDialect::Postgres => format!("split_part({text}, '@', 1)"),
            SqlDialect::MariaDb => format!("SUBSTRING_INDEX({text}, '@', 1)"),
        }
    }

    fn behind_last_dot(self, text: &str) -> String {
        match self {
            SqlDialect::Sqlite => {
                let others = format!("replace(replace({text}, '.', ''), '@', '')");
                format!("substr({text}, length(rtrim({text}, {others})) + 1)")
            }
            SqlDialect::Postgres => format!("substring({text} from '[^.@]*$')"),
            SqlDialect::MariaDb => format!("SUBSTRING_INDEX(SUBSTRING_INDEX({text}, '.', -1), '@', -1)"),
        }
    }

    fn behind_first_dot(self, text: &str) -> String {
        let with_dot = self.joined(&[text, "'.'"]);
        match self {
            SqlDialect::Postgres => format!("substring({text} from '[.](.*)$')"),
            SqlDialect::MariaDb => format!("REGEXP_REPLACE({text}, '^[^.]*[.]?', '')"),
            SqlDialect::Sqlite => format!("substr({text}, {} + 1)", self.find("'.'", &with_dot)),
        }
    }

    fn is_one_of<'w>(self, text: &str, words: impl Iterator<Item = &'w String>) -> String {
        let (plain, others): (Vec<&str>, Vec<&str>) =
            words.map(String::as_str).partition(|word| word.is_ascii() || self != SqlDialect::MariaDb);
        let is_among = |words: &[&str], literal: &dyn Fn(&str) -> String| {
            let all = literal(&format!(" {} ", words.join(" ")));
            format!("{} > 0", self.find(&self.joined(&["' '", text, "' '"]), &all))
        };
        let among_plain = is_among(&plain, &|all| self.text(all));
        if others.is_empty() {
            return among_plain;
        }
        // The text of a condition is kept in the character set of the server, which may not have these letters.
        let hexadecimal = |all: &str| {
            format!("CONVERT(unhex('{}') USING utf8mb4)", data_encoding::HEXLOWER.encode(all.as_bytes()))
        };
        format!("({among_plain} OR {})", is_among(&others, &hexadecimal))
    }

    fn quoted(self, expression: &str) -> String {
        match self {
            SqlDialect::Postgres => format!("quote_nullable(({expression})::text)"),
            SqlDialect::Sqlite | SqlDialect::MariaDb => format!("quote({expression})"),
        }
    }

    fn separator(self) -> &'static str {
        if self == SqlDialect::Postgres { "chr(31)" } else { "char(31)" }
    }

    fn is_still(self, column: &str, literal: &str) -> String {
        match self {
            SqlDialect::Sqlite => format!("{column} IS {literal}"),
            SqlDialect::Postgres => format!("{column}::text IS NOT DISTINCT FROM {literal}"),
            SqlDialect::MariaDb => format!("BINARY {column} <=> {literal}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_database_quoted_is_read_again() {
        for (sql, literal, text) in [
            (SqlDialect::Sqlite, "'O''Neil\\'", "O'Neil\\"),
            (SqlDialect::Sqlite, "7", "7"),
            (SqlDialect::Sqlite, "NULL", "NULL"),
            (SqlDialect::Postgres, "'O''Neil'", "O'Neil"),
            (SqlDialect::Postgres, "E'a\\\\0''b'", "a\\0'b"),
            (SqlDialect::Postgres, " E'\\\\'", "\\"),
            (SqlDialect::MariaDb, "'O\\'Neil'", "O'Neil"),
            (SqlDialect::MariaDb, "'a\\\\0\\0'", "a\\0\0"),
            (SqlDialect::MariaDb, "NULL", "NULL"),
        ] {
            assert_eq!(sql.unquoted(literal), text, "{sql:?} {literal}");
        }
        // A number is shown as one, though a server quotes all values.
        assert_eq!(SqlDialect::Postgres.id_shown("'7'"), "7");
        assert_eq!(SqlDialect::Sqlite.id_shown("'7'"), "'7'");
    }

    #[test]
    fn functions_give_the_same_in_sqlite() {
        let engine = rusqlite::Connection::open_in_memory().unwrap();
        let sql = SqlDialect::Sqlite;
        let ask = |expression: String, value: &str| -> String {
            let query = format!("SELECT CAST({expression} AS TEXT)");
            engine.query_row(&query, [value], |row| row.get(0)).unwrap()
        };
        for (value, before_at, ending, above, bytes) in [
            ("ada@mail.mill.org", "ada", "org", "mill.org", "17"),
            ("ada@mill", "ada", "mill", "", "8"),
            ("jörg@mill.рф", "jörg", "рф", "рф", "15"),
            ("ada.b@mill.", "ada.b", "", "b@mill.", "11"),
            ("", "", "", "", "0"),
        ] {
            assert_eq!(ask(sql.before_at("?1"), value), before_at, "{value}");
            assert_eq!(ask(sql.behind_last_dot("?1"), value), ending, "{value}");
            let rest = ask(
                sql.behind_first_dot("?1"),
                value.rsplit_once("@mail.").map_or(value, |_| "mail.mill.org"),
            );
            assert_eq!(rest, above, "{value}");
            assert_eq!(ask(sql.byte_length("?1"), value), bytes, "{value}");
        }
        let words = ["ada".to_owned(), "o'neil".to_owned(), "рф".to_owned()];
        for (value, is_one) in
            [("ada", "1"), ("o'neil", "1"), ("рф", "1"), ("ad", "0"), ("a", "0"), ("ADA", "0")]
        {
            assert_eq!(ask(sql.is_one_of("?1", words.iter()), value), is_one, "{value}");
        }
        // What a server may not have in its own character set stands in hexadecimal.
        let for_mariadb = SqlDialect::MariaDb.is_one_of("x", words.iter());
        assert!(for_mariadb.is_ascii() && for_mariadb.contains("unhex('20d180d18420')"), "{for_mariadb}");
    }
}
