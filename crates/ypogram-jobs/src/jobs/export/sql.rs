//! The rule as conditions on a column of a database, with the key of the mailbox beside it.

use ypogram_core::entry_rule::EntryRule;
use ypogram_core::{Policy, shown};
use ypogram_io::{Result, SqlDialect};

use crate::jobs::export::place::ColumnOfEntries;
use crate::sql::entry_checks::{self, EntryCheck};
use crate::sql::key;

/// Constraints have short names in every database.
const LONGEST_COLUMN: usize = 30;

/// The SQL, and the names of the conditions that it does not hold.
pub(super) fn write(
    rule: &EntryRule,
    place: &ColumnOfEntries,
    policy: &Policy,
) -> Result<(String, Vec<String>)> {
    let sql = place.sql;
    let is_trigger = place.table.is_some() && sql == SqlDialect::Sqlite;
    let value = format!("{}{}", if is_trigger { "NEW." } else { "" }, sql.name(&place.column));
    let (mut checks, without) = entry_checks::of_rule(sql, &value, rule);
    let mut without: Vec<String> = without.into_iter().map(|condition| condition.name.clone()).collect();
    if sql == SqlDialect::MariaDb {
        without.extend(leave_out_the_longest(&mut checks));
    }
    let text = match (&place.table, sql) {
        (None, _) => of_a_new_table(place, &checks, policy),
        (Some(table), SqlDialect::Sqlite) => as_triggers(place, table, &checks, policy),
        (Some(table), _) => of_a_table(place, table, &checks, policy),
    };
    Ok((text, without))
}

/// Takes the longest conditions out until MariaDB can keep the definition of the table; gives their names.
fn leave_out_the_longest(checks: &mut Vec<EntryCheck>) -> Vec<String> {
    let mut without = Vec::new();
    let bytes = |checks: &[EntryCheck]| checks.iter().map(|check| check.expression.len()).sum::<usize>();
    while bytes(checks) > MOST_OF_MARIADB {
        let longest =
            (0..checks.len()).max_by_key(|nth| checks[*nth].expression.len()).expect("some are left");
        without.push(checks.remove(longest).name);
    }
    without
}

/// Bytes of all conditions in MariaDB, whose definitions of tables have 64 KiB at most; the key takes its part of it.
const MOST_OF_MARIADB: usize = 40_000;

fn constraint(place: &ColumnOfEntries, check: &EntryCheck) -> String {
    let name = name_of(place, check);
    format!("CONSTRAINT {} CHECK ({})", place.sql.name(&name), check.expression)
}

/// The sentence of a check as a remark, which a line break would end.
fn remark(check: &EntryCheck) -> String {
    shown(check.sentence.as_bytes()).to_string()
}

fn name_of(place: &ColumnOfEntries, check: &EntryCheck) -> String {
    let column: String = place.column.chars().take(LONGEST_COLUMN).collect();
    format!("{column}_{}", check.name.replace('-', "_"))
}

/// The name of the unique index on the key of a table.
fn index_of(place: &ColumnOfEntries, table: &str) -> String {
    let table = table.rsplit('.').next().unwrap_or(table);
    let short = |name: &str| name.chars().take(LONGEST_COLUMN).collect::<String>();
    format!("{}_{}_once", short(table), short(&place.key_column))
}

/// What goes into a CREATE TABLE.
fn of_a_new_table(place: &ColumnOfEntries, checks: &[EntryCheck], policy: &Policy) -> String {
    let sql = place.sql;
    let key = key::expression(sql, &sql.name(&place.column), policy);
    let column = key::generated_column(sql, &sql.name(&place.key_column), &key);
    let mut parts = vec![
        format!(
            "-- The key of the mailbox, by the rule ‘{}’: nobody gets in twice.\n{column}",
            policy.same.word()
        ),
        format!("UNIQUE ({})", sql.name(&place.key_column)),
    ];
    parts.extend(checks.iter().map(|check| format!("-- {}\n{}", remark(check), constraint(place, check))));
    let (column, text) =
        (sql.name(&place.column), if sql == SqlDialect::MariaDb { "varchar(254)" } else { "text" });
    format!(
        "-- These lines go into CREATE TABLE, behind the column, as in CREATE TABLE members ({column} {text} NOT NULL, …);\n{}\n",
        parts.join(",\n")
    )
}

/// What is added to a table that is there.
fn of_a_table(place: &ColumnOfEntries, table: &str, checks: &[EntryCheck], policy: &Policy) -> String {
    let sql = place.sql;
    let of = sql.table(table);
    let checks = checks
        .iter()
        .map(|check| format!("-- {}\nALTER TABLE {of} ADD {};\n", remark(check), constraint(place, check)));
    checks.chain([with_key(place, table, policy)]).collect()
}

/// The key column and its index.
fn with_key(place: &ColumnOfEntries, table: &str, policy: &Policy) -> String {
    let sql = place.sql;
    let of = sql.table(table);
    let key = key::expression(sql, &sql.name(&place.column), policy);
    let column = key::generated_column(sql, &sql.name(&place.key_column), &key);
    format!(
        "-- The key of the mailbox, by the rule ‘{}’: nobody gets in twice. Where somebody is in it twice already,\n\
         -- ypogram register guard finds the rows.\n\
         ALTER TABLE {of} ADD COLUMN {column};\nCREATE UNIQUE INDEX {} ON {of} ({});\n",
        policy.same.word(),
        sql.name(&index_of(place, table)),
        sql.name(&place.key_column)
    )
}

/// What refuses rows in a table of SQLite, which adds no constraint to a table that is there.
fn as_triggers(place: &ColumnOfEntries, table: &str, checks: &[EntryCheck], policy: &Policy) -> String {
    let sql = place.sql;
    let (of, column) = (sql.table(table), sql.name(&place.column));
    let mut text = "-- SQLite adds no constraint to a table that is there: triggers refuse what is wrong, with the reason.\n".to_owned();
    for (when, name) in [("INSERT".to_owned(), "inserted"), (format!("UPDATE OF {column}"), "updated")] {
        let trigger = sql.name(&format!("{table}_{}_{name}", place.column));
        text.push_str(&format!(
            "CREATE TRIGGER {trigger} BEFORE {when} ON {of} WHEN NEW.{column} IS NOT NULL BEGIN\n"
        ));
        for check in checks {
            let said = sql.text(&format!("{}: {}", name_of(place, check), check.sentence));
            text.push_str(&format!("  SELECT RAISE(ABORT, {said}) WHERE NOT ({});\n", check.expression));
        }
        text.push_str("END;\n");
    }
    text + &with_key(place, table, policy)
}
