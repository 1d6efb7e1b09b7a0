//! The SQL that makes a column of addresses unique by mailbox, with remarks for whoever reads it before running it.

use std::path::Path;

use ypogram_core::{SameMailbox, shown};
use ypogram_io::SqlDialect;

use crate::jobs::guard::gathered::{Gathered, Group};
use crate::jobs::guard::options::GuardOptions;
use crate::jobs::guard::report::GuardReport;
use crate::jobs::guard::table::GuardedTable;
use crate::plan::shared::Shared;
use crate::sql::functions::SqlFunctions as _;
use crate::sql::key;

/// The database, as the script is called with it: without what is meant for this program alone.
fn named(database: &Path, sql: SqlDialect) -> String {
    match sql {
        SqlDialect::Sqlite => database.file_name().unwrap_or_default().to_string_lossy().into_owned(),
        _ => database.to_string_lossy().split('?').next().unwrap_or_default().to_owned(),
    }
}

/// How the script is run, as remarks of it.
fn how_to_run(sql: SqlDialect, database: &str) -> String {
    match sql {
        SqlDialect::Sqlite => format!(
            "--   sqlite3 -bail {database} < FILE.sql\n\
             -- It needs SQLite 3.31 or later. Where something fails, -bail leaves the database as it was.\n"
        ),
        SqlDialect::Postgres => format!(
            "--   psql -v ON_ERROR_STOP=1 -f FILE.sql '{database}'\n\
             -- It needs PostgreSQL 12 or later. Where something fails, the database stays as it was.\n"
        ),
        SqlDialect::MariaDb => {
            let name = database.rsplit('/').next().unwrap_or_default();
            format!(
                "--   mariadb {name} < FILE.sql\n\
                 -- It needs MariaDB 10.3 or later, and not MySQL. Where something fails before the ALTER TABLE, the database stays as it was; a table\n\
                 -- cannot be altered in a transaction there, so that rows are deleted even where its index cannot be made.\n"
            )
        }
    }
}

/// The SQL while it grows.
pub(super) struct Script<'t> {
    table: &'t GuardedTable,
    sql: String,
    deletions: String,
    updates: String,
    rule: SameMailbox,
    key_column: String,
    /// Rows of other persons go as well.
    decides_alone: bool,
}

impl<'t> Script<'t> {
    pub(super) fn new(options: &GuardOptions, table: &'t GuardedTable, report: &GuardReport) -> Self {
        let file = named(&options.database, table.sql);
        let [file, of, column] =
            [&file, &table.table, &table.column].map(|text| shown(text.as_bytes()).to_string());
        let rule = options.policy.same;
        let mut sql = format!(
            "-- No two rows of {of} in {file} shall have one mailbox in {column}, by the rule ‘{}’.\n\
             -- Written by Ypogram {}. Nothing was changed yet: read this, keep a copy of the database, and run it with\n{}",
            rule.word(),
            options.version,
            how_to_run(table.sql, &file),
        );
        sql.push_str(&format!(
            "-- What {} does not see: an address with a name or brackets around it, one domain once in its own script and once as xn--,\n\
             -- and capital letters beyond A to Z. Bring addresses to one form before they are inserted.\n",
            shown(report.key_column.as_bytes())
        ));
        for referring in &table.referring {
            sql.push_str(&format!(
                "-- Careful: rows of {} refer to rows of {of}; let those that refer to a row that goes refer to the one that stays.\n",
                shown(referring.as_bytes())
            ));
        }
        let key_column = report.key_column.clone();
        let decides_alone = options.shared == Shared::Drop;
        if report.other_person > 0 && !decides_alone {
            sql.push_str(&format!(
                "-- {} of the rows below name another person than the row that stays. Give them another address, or take the -- away before\n\
                 -- their DELETE. Until then the index cannot be made, and nothing changes.\n",
                report.other_person
            ));
        }
        Script {
            table,
            sql,
            deletions: String::new(),
            updates: String::new(),
            rule,
            key_column,
            decides_alone,
        }
    }

    /// The rows of `group` that go.
    pub(super) fn delete(&mut self, group: &Group, gathered: &Gathered) {
        let (stays, value) = gathered.row(group.stays);
        let row = |literals: &str| shown(literals.replace('\u{1F}', ", ").as_bytes()).to_string();
        let stays = format!("row {} stays, {}", row(stays), shown(value.as_bytes()));
        let table = self.table.sql.table(&self.table.table);
        for (other, other_person) in &group.others {
            let (literals, value) = gathered.row(*other);
            let statement = self.of_row(&format!("DELETE FROM {table}"), literals, value);
            let remark = match (other_person, self.decides_alone) {
                (false, _) => "goes",
                (true, true) => "goes, and names another person",
                (true, false) => "names another person; decide",
            };
            // A line break in the address would end the remark.
            let is_remark = *other_person && !self.decides_alone;
            let statement =
                if is_remark { format!("-- {}", statement.replace(['\n', '\r'], " ")) } else { statement };
            self.deletions.push_str(&format!("-- row {} {remark}: {stays}\n{statement};\n", row(literals)));
        }
    }

    /// The address of a row in its standard form.
    pub(super) fn update(&mut self, row: usize, standard: &str, gathered: &Gathered) {
        let (literals, value) = gathered.row(row);
        let set = format!(
            "UPDATE {} SET {} = {}",
            self.table.sql.table(&self.table.table),
            self.table.sql.name(&self.table.column),
            self.table.sql.text(standard)
        );
        self.updates.push_str(&format!("{};\n", self.of_row(&set, literals, value)));
    }

    /// A statement for one row, and only as long as its address is what it was.
    fn of_row(&self, statement: &str, literals: &str, value: &str) -> String {
        let (is_row, column) = (self.table.is_row(literals), self.table.sql.name(&self.table.column));
        format!("{statement} WHERE {is_row} AND {}", self.table.sql.is_still(&column, value))
    }

    /// The whole text; `key` is the expression of the key column.
    pub(super) fn finish(self, key: &str, report: &GuardReport) -> String {
        let Script { table, mut sql, deletions, updates, rule, key_column, .. } = self;
        let (begin, commit) = match table.sql {
            SqlDialect::Sqlite => ("BEGIN IMMEDIATE", "\nCOMMIT;\n"),
            SqlDialect::Postgres => ("BEGIN", "\nCOMMIT;\n"),
            // What makes a column ends the transaction here.
            SqlDialect::MariaDb => ("START TRANSACTION", ""),
        };
        sql.push_str(&format!("\n{begin};\n"));
        if !deletions.is_empty() {
            sql.push_str(&format!(
                "\n-- Rows that go, since another row has their mailbox: {} of {}.\n{deletions}",
                report.going, report.rows
            ));
        }
        if !updates.is_empty() {
            sql.push_str(&format!(
                "\n-- Addresses in the form by which the database can compare them; what stands beside one in its cell is lost.\n{updates}"
            ));
        }
        let (of, index) = (table.sql.table(&table.table), table.sql.name(&table.index_name(&key_column)));
        let key_column = table.sql.name(&key_column);
        let column = key::generated_column(table.sql, &key_column, key);
        let made = match table.sql {
            SqlDialect::Sqlite | SqlDialect::Postgres => format!(
                "ALTER TABLE {of} ADD COLUMN {column};\nCREATE UNIQUE INDEX {index} ON {of} ({key_column});\n"
            ),
            SqlDialect::MariaDb => format!(
                "COMMIT;\nALTER TABLE {of}\n  ADD COLUMN {column},\n  ADD UNIQUE INDEX {index} ({key_column});\n"
            ),
        };
        sql.push_str(&format!(
            "\n-- The key of each row’s mailbox, by the rule ‘{}’. The database keeps it filled; nobody can write to it, and INSERT does not\n\
             -- know of it.\n{made}{commit}",
            rule.word()
        ));
        sql
    }
}
