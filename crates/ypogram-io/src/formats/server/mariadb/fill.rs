//! Columns of rows that are there, filled by the primary key: in batches, each of which counts by itself.
//!
//! A row whose columns say already what they should is not written, so that a run which broke off is gone on with by running it again.

use std::path::Path;

use mysql::Conn;
use mysql::prelude::Queryable as _;

use crate::formats::server::mariadb::connect::connect;
use crate::formats::server::mariadb::load::{Loader, write_cell};
use crate::formats::server::mariadb::source::{primary_key, types_of};
use crate::formats::server::mariadb::sql::{STRICTLY, failed, quoted, text};
use crate::formats::server::mariadb::types::declared;
use crate::formats::server::table_writer::{
    Block, Blocks, FillColumns, ServerTable, TablePlace, WriteCell, fill_again,
};
use crate::records::column_type::ColumnType;
use crate::records::error::Result;
use crate::rows::Filled;

/// A batch of rows on the server, from which columns are filled.
pub(super) struct Filling {
    loader: Loader,
    name: String,
    /// Counts the rows of the batch that are there as they were, and fills those that say something else.
    count: String,
    update: String,
    filled: Filled,
}

/// The table of a batch, which only its connection sees.
const BATCH: &str = "ypogram_batch";

impl ServerTable for Filling {
    const SERVER: &'static str = "the server";
    const WRITE_CELL: WriteCell = write_cell;

    fn begin(place: &TablePlace, columns: &[String], _: &[ColumnType]) -> Result<(Self, Vec<ColumnType>)> {
        let name = place.name.clone();
        let failed = |error: mysql::Error| failed(&name, &error);
        let mut conn = connect(&place.path)?;
        conn.query_drop(STRICTLY).map_err(failed)?;
        let of_table = quoted(&place.table);
        let names: Vec<String> = (0..columns.len()).map(|nth| format!("c{nth}")).collect();
        let batch: Vec<String> = columns
            .iter()
            .zip(&names)
            .map(|(column, name)| format!("{} AS {name}", quoted(column)))
            .collect();
        let batch = format!("SELECT {} FROM {of_table}", batch.join(", "));
        conn.query_drop(format!("CREATE TEMPORARY TABLE {BATCH} {batch} LIMIT 0")).map_err(failed)?;
        let statement = conn.prep(&batch).map_err(failed)?;
        let types = types_of(&mut conn, &statement.columns()).map_err(failed)?;
        let key = primary_key(&mut conn, &place.table).map_err(failed)?.len();
        let FillColumns { key, same, filled } = place.fill_columns(columns.len(), key);
        // Letter case counts in what is not the key.
        let same_bytes = |nth: usize| format!("BINARY t.{} <=> BINARY b.c{nth}", quoted(&columns[nth]));
        let is_it = key.map(|nth| format!("t.{} = b.c{nth}", quoted(&columns[nth])));
        let is_it = is_it.chain(same.map(same_bytes)).collect::<Vec<_>>().join(" AND ");
        let as_it_is: Vec<String> = filled.clone().map(same_bytes).collect();
        let set = filled.map(|nth| format!("t.{} = b.c{nth}", quoted(&columns[nth])));
        let kept = filled_by_themselves(&mut conn, &place.table).map_err(failed)?;
        let kept = kept.iter().filter(|column| !columns.contains(column)).map(|column| {
            let column = quoted(column);
            format!("t.{column} = t.{column}")
        });
        let set: Vec<String> = set.chain(kept).collect();
        let joined = format!("{of_table} t JOIN {BATCH} b ON {is_it}");
        let count = format!("SELECT COUNT(*) FROM {joined}");
        let update = format!("UPDATE {joined} SET {} WHERE NOT ({})", set.join(", "), as_it_is.join(" AND "));
        let loader = Loader::new(conn, (&name, BATCH), names, types.clone());
        Ok((Filling { loader, name, count, update, filled: Filled::default() }, types))
    }

    fn send_all(mut self, blocks: Blocks) -> Result<Option<Filled>> {
        blocks.for_each(|block| self.fill(block)).map_err(fill_again)?;
        Ok(Some(self.filled))
    }
}

impl Filling {
    /// Fills the columns of a batch, in a transaction of its own.
    fn fill(&mut self, block: Block) -> Result<()> {
        let rows = block.rows;
        let failed = |error: mysql::Error| failed(&self.name, &error);
        self.loader.conn.query_drop(format!("DELETE FROM {BATCH}")).map_err(failed)?;
        self.loader.send(block)?;
        let conn = &mut self.loader.conn;
        let there: Option<u64> = conn.query_first(&self.count).map_err(failed)?;
        conn.query_drop(&self.update).map_err(failed)?;
        let changed = conn.affected_rows();
        conn.query_drop("COMMIT").map_err(failed)?;
        self.filled.add(rows, there.unwrap_or_default(), changed);
        Ok(())
    }
}

/// The columns that the server fills in itself where a row is changed, such as the time of the last change.
fn filled_by_themselves(conn: &mut Conn, table: &str) -> mysql::Result<Vec<String>> {
    let of_table = "SELECT column_name FROM information_schema.columns WHERE table_schema = DATABASE() \
                    AND extra LIKE '%on update%' AND table_name = ";
    conn.query(format!("{of_table}{}", text(table)))
}

/// Adds columns to a table.
///
/// # Errors
/// Where that is not allowed.
pub(crate) fn add_columns(path: &Path, name: &str, of: &str, columns: &[(String, ColumnType)]) -> Result<()> {
    let added: Vec<String> = columns
        .iter()
        .map(|(column, of)| format!("ADD COLUMN {} {}", quoted(column), declared(*of, false)))
        .collect();
    let alter = format!("ALTER TABLE {} {}", quoted(of), added.join(", "));
    connect(path)?.query_drop(alter).map_err(|error| failed(name, &error))
}
