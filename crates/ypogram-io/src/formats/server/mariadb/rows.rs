//! Rows as a table of a database: filled under another name, and given its own when all rows are there.
//!
//! A table is made outside of transactions here. Its rows are in one, so that a run that is killed leaves an empty table of the other
//! name at most, which the next run removes.

use std::sync::Arc;

use mysql::Conn;
use mysql::prelude::Queryable as _;

use crate::formats::server::mariadb::connect::connect;
use crate::formats::server::mariadb::fill::Filling;
use crate::formats::server::mariadb::load::{Loader, write_cell};
use crate::formats::server::mariadb::source::types_of;
use crate::formats::server::mariadb::sql::{REPLACED, STRICTLY, UNFINISHED, failed, quoted, text};
use crate::formats::server::mariadb::types::declared;
use crate::formats::server::table_writer::{self, Blocks, ServerTable, TablePlace, WriteCell};
use crate::formats::sql::{columns_to_fill, table_is_not_there, table_is_there};
use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result};
use crate::rows::{EncodeRows, Filled, IfThere, OwnFields, Projection};

/// Writes rows as a table.
pub(crate) fn encoder(own: Vec<OwnFields>, projection: Arc<Projection>) -> Box<dyn EncodeRows> {
    // Names of columns that differ in letter case alone are one.
    table_writer::encoder::<NewRows, Filling>(own, projection, str::to_lowercase)
}

/// The name of a table with something behind it; names have 64 characters at most.
fn with(table: &str, behind: &str) -> String {
    table.chars().take(64 - behind.len()).chain(behind.chars()).collect()
}

/// A table that gets rows.
struct NewRows {
    loader: Loader,
    place: TablePlace,
    /// The name of the table until all rows are there.
    until_then: String,
    is_there: bool,
}

impl ServerTable for NewRows {
    const SERVER: &'static str = "the server";
    const WRITE_CELL: WriteCell = write_cell;

    fn begin(
        place: &TablePlace,
        columns: &[String],
        types: &[ColumnType],
    ) -> Result<(Self, Vec<ColumnType>)> {
        let mut conn = connect(&place.path)?;
        let not_written = |error: mysql::Error| failed(&place.name, &error);
        let is_there = prepare(&mut conn, place)?;
        let (until_then, columns, types) = match place.if_there {
            IfThere::Append => {
                let (columns, types) = columns_there(&mut conn, place, columns)?;
                (place.table.clone(), columns, types)
            }
            _ => {
                let unfinished = with(&place.table, UNFINISHED);
                create(&mut conn, &quoted(&unfinished), columns, types).map_err(not_written)?;
                (unfinished, columns.to_vec(), types.to_vec())
            }
        };
        let loader = Loader::new(conn, (&place.name, &until_then), columns, types.clone());
        Ok((NewRows { loader, place: place.clone(), until_then, is_there }, types))
    }

    fn send_all(mut self, blocks: Blocks) -> Result<Option<Filled>> {
        let sent = self.send(&blocks);
        if !matches!(sent, Ok(true)) {
            self.remove();
        }
        sent.map(|_| None)
    }
}

impl NewRows {
    /// Whether all rows were there.
    fn send(&mut self, blocks: &Blocks) -> Result<bool> {
        let all = blocks.for_each(|block| self.loader.send(block))?;
        if all {
            self.publish().map_err(|error| failed(&self.place.name, &error))?;
        }
        Ok(all)
    }

    /// Gives the table its name, in one step with taking that from another one.
    fn publish(&mut self) -> mysql::Result<()> {
        let conn = &mut self.loader.conn;
        conn.query_drop("COMMIT")?;
        if self.until_then == self.place.table {
            return Ok(());
        }
        let table = quoted(&self.place.table);
        let (unfinished, replaced) =
            (quoted(&with(&self.place.table, UNFINISHED)), quoted(&with(&self.place.table, REPLACED)));
        if !self.is_there {
            return conn.query_drop(format!("RENAME TABLE {unfinished} TO {table}"));
        }
        conn.query_drop(format!("RENAME TABLE {table} TO {replaced}, {unfinished} TO {table}"))?;
        let dropped = conn.query_drop(format!("DROP TABLE {replaced}"));
        if dropped.is_err() {
            // Other tables refer to it: it comes back.
            let back = format!("RENAME TABLE {table} TO {unfinished}, {replaced} TO {table}");
            let _ = conn.query_drop(back);
        }
        dropped
    }

    /// Removes the table that was not filled, over another connection where this one is cut.
    fn remove(&mut self) {
        if self.until_then == self.place.table {
            // What was added is taken back where the connection ends before COMMIT.
            return;
        }
        let drop = format!("DROP TABLE IF EXISTS {}", quoted(&self.until_then));
        if self.loader.conn.query_drop(&drop).is_err()
            && let Ok(mut conn) = connect(&self.place.path)
        {
            let _ = conn.query_drop(&drop);
        }
    }
}

/// Makes sure that nobody else fills the table, and removes what a killed run left; says whether there is a table of the name.
fn prepare(conn: &mut Conn, place: &TablePlace) -> Result<bool> {
    let failed = |error: mysql::Error| failed(&place.name, &error);
    conn.query_drop(STRICTLY).map_err(failed)?;
    let table = text(&place.table);
    let lock = format!("SELECT GET_LOCK(CONCAT('ypogram ', MD5(CONCAT(DATABASE(), '.', {table}))), 5)");
    let held: Option<Option<u8>> = conn.query_first(lock).map_err(failed)?;
    if held != Some(Some(1)) {
        return Err(Error::output(
            format!("{}: another run is writing the table ‘{}’", place.name, place.table),
            "wait until it is done, or choose another name behind ‘#’",
        ));
    }
    let there = format!(
        "SELECT table_type, COALESCE(engine, '') FROM information_schema.tables \
         WHERE table_schema = DATABASE() AND table_name = {table}"
    );
    let there: Option<(String, String)> = conn.query_first(there).map_err(failed)?;
    let refused = |what: &str| {
        let hint = "choose another name behind ‘#’";
        Err(Error::output(format!("{}: ‘{}’ {what}", place.name, place.table), hint))
    };
    match (&there, place.if_there) {
        (None, IfThere::Append) => return Err(table_is_not_there(&place.name, &place.table)),
        (Some(_), IfThere::Refuse) => return Err(table_is_there(&place.name, &place.table)),
        (Some((kind, _)), _) if matches!(kind.as_str(), "VIEW" | "SEQUENCE") => {
            return refused("is no table that could be written");
        }
        (Some((_, engine)), IfThere::Append) if engine != "InnoDB" => {
            return refused("is of an engine that cannot take back what was added, should the run fail");
        }
        _ => {}
    }
    for left in [UNFINISHED, REPLACED] {
        let left = quoted(&with(&place.table, left));
        conn.query_drop(format!("DROP TABLE IF EXISTS {left}")).map_err(failed)?;
    }
    Ok(there.is_some())
}

/// Names and types of the columns that are filled of the table that is there.
fn columns_there(
    conn: &mut Conn,
    place: &TablePlace,
    columns: &[String],
) -> Result<(Vec<String>, Vec<ColumnType>)> {
    let failed = |error: mysql::Error| failed(&place.name, &error);
    let statement = conn.prep(format!("SELECT * FROM {}", quoted(&place.table))).map_err(failed)?;
    let names: Vec<String> =
        statement.columns().iter().map(|column| column.name_str().into_owned()).collect();
    let types = types_of(conn, &statement.columns()).map_err(failed)?;
    let places = columns_to_fill(&place.name, &place.table, columns, &names)?;
    Ok(places.iter().map(|place| (names[*place].clone(), types[*place])).unzip())
}

fn create(conn: &mut Conn, table: &str, columns: &[String], types: &[ColumnType]) -> mysql::Result<()> {
    let version: Option<String> = conn.query_first("SELECT VERSION()")?;
    let has_uuid = version.is_some_and(|version| has_uuid(&version));
    let of = columns
        .iter()
        .zip(types)
        .map(|(column, of)| format!("{} {}", quoted(column), declared(*of, has_uuid)));
    let of = of.collect::<Vec<_>>().join(", ");
    conn.query_drop(format!("CREATE TABLE {table} ({of}) ENGINE = InnoDB DEFAULT CHARACTER SET utf8mb4"))
}

/// Whether a server of this version has a type for UUIDs: MariaDB since 10.7.
fn has_uuid(version: &str) -> bool {
    let mut numbers = version.split(['.', '-']).map_while(|number| number.parse::<u32>().ok());
    let (major, minor) = (numbers.next().unwrap_or(0), numbers.next().unwrap_or(0));
    version.contains("MariaDB") && (major, minor) >= (10, 7)
}
