//! What all databases have in common: names in SQL, and which of their tables is meant.

use std::collections::HashSet;

use crate::formats::sql_dialect::SqlDialect;
use crate::records::error::{Error, Result, some_of};
use crate::records::place::SourcePlace;

/// What is asked of a database.
pub(super) struct Asked {
    pub(super) query: String,
    /// What people call that.
    pub(super) described: String,
    /// The table as SQL has it; none where it is a query.
    table: Option<String>,
    /// The columns of the primary key; none where it is no table that has one.
    key: Vec<String>,
}

impl Asked {
    /// The query that a part is, of a database that is `called` so; none where it is the name of a table, or there is none.
    pub(super) fn of_query(part: Option<&str>, called: &str) -> Option<Self> {
        let query = part.filter(|part| SourcePlace::is_query(part))?;
        let query = query.trim_end().trim_end_matches(';').to_owned();
        Some(Asked { query, described: format!("a query of {called}"), table: None, key: Vec::new() })
    }

    /// All of the table that is called `name`, whose primary key has the columns `key`.
    pub(super) fn of_table(sql: SqlDialect, name: &str, called: &str, key: Vec<String>) -> Self {
        let table = sql.table(name);
        let (query, described) = (format!("SELECT * FROM {table}"), format!("table ‘{name}’ of {called}"));
        Asked { query, described, table: Some(table), key }
    }

    /// Nothing but these columns of the table, which stand there as SQL has them; a query stays as it is.
    pub(super) fn only(&mut self, columns: &[String]) {
        if let Some(table) = &self.table {
            self.query = format!("SELECT {} FROM {table}", columns.join(", "));
        }
    }

    /// The columns of the key as places among the fields.
    pub(super) fn key_among(&self, fields: &[String]) -> Vec<usize> {
        self.key.iter().filter_map(|column| fields.iter().position(|field| field == column)).collect()
    }
}

/// The error where a view is named, and a table has to be.
#[cfg(any(feature = "mysql", feature = "postgres"))]
pub(super) fn is_no_table(name: &str, table: &str) -> Error {
    Error::unusable(
        format!("{name}: ‘{table}’ is a view, and holds no rows of its own"),
        "name the table whose rows it shows",
    )
}

/// Refuses two columns of a new table whose names are one once `fold` is applied to them.
///
/// # Errors
/// Where there are such.
pub(super) fn refuse_same_names(columns: &[String], fold: impl Fn(&str) -> String) -> Result<()> {
    let mut seen = HashSet::new();
    match columns.iter().find(|column| !seen.insert(fold(column))) {
        Some(twin) => Err(Error::output(
            format!("two columns of the table would be called ‘{twin}’"),
            "give one of them another name, as in --columns name=Name",
        )),
        None => Ok(()),
    }
}

/// The table of a database called `name` that is meant: the one that is named, in whatever letter case, else the only one.
///
/// # Errors
/// Where there is no such table, or none is named and there are several or none.
pub(super) fn meant<'t>(name: &str, part: Option<&str>, tables: &'t [String]) -> Result<&'t String> {
    match (part, tables) {
        (Some(part), _) => {
            let exactly = tables.iter().find(|table| *table == part);
            let found = exactly.or_else(|| tables.iter().find(|table| table.eq_ignore_ascii_case(part)));
            found.ok_or_else(|| {
                Error::unusable(
                    format!("{name}: there is no table ‘{part}’"),
                    format!("its tables are: {}", some_of(tables)),
                )
            })
        }
        (None, [table]) => Ok(table),
        (None, []) => Err(Error::unusable(format!("{name}: the database has no tables"), "")),
        (None, tables) => Err(Error::unusable(
            format!("{name}: the database has {} tables: {}", tables.len(), some_of(tables)),
            format!("name one of them, as in {name}#{}", tables[0]),
        )),
    }
}

/// The error where what stands behind `#` is more or less than one SELECT.
pub(super) fn not_one_select(name: &str) -> Error {
    Error::unusable(
        format!("{name}: what stands behind ‘#’ is not one SELECT"),
        "give one SELECT, which only reads; anything else is not run",
    )
}

/// The columns of a table to which rows are added, as places among those that it has: by their names, in whatever letter case.
///
/// # Errors
/// Where it lacks one.
pub(super) fn columns_to_fill(
    name: &str,
    table: &str,
    columns: &[String],
    of_table: &[String],
) -> Result<Vec<usize>> {
    let place = |column: &String| {
        let exactly = of_table.iter().position(|own| own == column);
        exactly.or_else(|| of_table.iter().position(|own| own.to_lowercase() == column.to_lowercase()))
    };
    let lacking: Vec<String> = columns.iter().filter(|column| place(column).is_none()).cloned().collect();
    if lacking.is_empty() {
        return Ok(columns.iter().filter_map(place).collect());
    }
    Err(Error::output(
        format!("{name}: the table ‘{table}’ has no column {}", some_of(&lacking)),
        format!(
            "choose with --columns what is written, as NAME=COLUMN; its columns are: {}",
            some_of(of_table)
        ),
    ))
}

/// The error where rows are to be added to a table that is not there.
pub(super) fn table_is_not_there(name: &str, table: &str) -> Error {
    Error::output(
        format!("{name}: there is no table ‘{table}’ that rows could be added to"),
        "see its name, or leave --append out, and it is made",
    )
}

/// The error where a table is to be made, and one of its name is there.
pub(super) fn table_is_there(name: &str, table: &str) -> Error {
    Error::output(
        format!("{name}: there is a table ‘{table}’"),
        "choose another name behind ‘#’, or replace it with --force",
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(names: &[&str]) -> Vec<String> {
        names.iter().map(|name| (*name).to_owned()).collect()
    }

    #[test]
    fn the_table_that_is_meant() {
        let tables = names(&["people", "People", "loans"]);
        for (part, expected) in [("people", "people"), ("People", "People"), ("LOANS", "loans")] {
            assert_eq!(meant("db", Some(part), &tables).unwrap(), expected);
        }
        for (part, tables, told) in [
            (Some("member"), &tables[..], "no table ‘member’"),
            (None, &tables[..], "3 tables: people, People, loans"),
            (None, &[], "no tables"),
        ] {
            assert!(meant("db", part, tables).unwrap_err().message.contains(told), "{part:?}");
        }
        assert_eq!(meant("db", None, &tables[2..]).unwrap(), "loans");
    }

    #[test]
    fn columns_are_found_by_their_names() {
        let of_table = names(&["id", "Mail", "mail", "note"]);
        let places = |wanted: &[&str]| columns_to_fill("db", "t", &names(wanted), &of_table);
        assert_eq!(places(&["note", "mail", "ID"]).unwrap(), [3, 2, 0]);
        assert_eq!(places(&["MAIL"]).unwrap(), [1]);
        let error = places(&["mail", "yp_key", "more"]).unwrap_err();
        assert!(
            error.message.ends_with("has no column yp_key, more")
                && error.hint.contains("id, Mail, mail, note")
        );
    }

    #[test]
    fn what_is_asked() {
        let called = "a database";
        let query = Asked::of_query(Some("select count(*) from a; "), called).unwrap();
        assert_eq!((&*query.query, &*query.described), ("select count(*) from a", "a query of a database"));
        assert!(
            Asked::of_query(Some("selected"), called).is_none() && Asked::of_query(None, called).is_none()
        );
        let key = names(&["no", "gone", "grp"]);
        let mut table = Asked::of_table(SqlDialect::Postgres, "sales.people", called, key);
        assert_eq!(table.query, "SELECT * FROM \"sales\".\"people\"");
        assert_eq!(table.key_among(&names(&["grp", "mail", "no"])), [2, 0]);
        table.only(&names(&["\"mail\"", "\"no\""]));
        assert_eq!(table.query, "SELECT \"mail\", \"no\" FROM \"sales\".\"people\"");
        // Nothing of a query is left out.
        let mut query = query;
        query.only(&names(&["a"]));
        assert_eq!(query.query, "select count(*) from a");
    }

    #[test]
    fn two_columns_of_one_name() {
        assert!(refuse_same_names(&names(&["a", "A"]), str::to_owned).is_ok());
        let error = refuse_same_names(&names(&["a", "b", "A"]), str::to_lowercase).unwrap_err();
        assert!(error.message.contains("‘A’"));
    }
}
