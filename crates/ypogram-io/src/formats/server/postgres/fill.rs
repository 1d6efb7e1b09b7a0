//! Columns of rows that are there, filled by the primary key: in batches, each of which counts by itself.
//!
//! A row whose columns say already what they should is not written, so that a run which broke off is gone on with by running it again.

use std::io::Write as _;

use postgres::Client;

use crate::formats::server::postgres::connect::connect;
use crate::formats::server::postgres::source::{primary_key, types_of};
use crate::formats::server::postgres::sql::{broke_off, failed, quoted, table};
use crate::formats::server::postgres::types::declared;
use crate::formats::server::postgres::write_cell::write_cell;
use crate::formats::server::table_writer::{
    Block, Blocks, FillColumns, ServerTable, TablePlace, WriteCell, fill_again,
};

use crate::records::column_type::ColumnType;
use crate::records::error::Result;
use crate::rows::Filled;

/// A batch of rows on the server, from which columns are filled.
pub(super) struct Filling {
    client: Client,
    name: String,
    /// Counts the rows of the batch that are there as they were, and fills those that say something else.
    count: String,
    update: String,
    filled: Filled,
}

impl ServerTable for Filling {
    const SERVER: &'static str = "PostgreSQL";
    const WRITE_CELL: WriteCell = write_cell;

    fn begin(place: &TablePlace, columns: &[String], _: &[ColumnType]) -> Result<(Self, Vec<ColumnType>)> {
        let name = place.name.clone();
        let failed = |error: postgres::Error| failed(&name, &error);
        let mut client = connect(&place.path)?;
        let of_table = table(&place.table);
        let batch: Vec<String> =
            columns.iter().enumerate().map(|(nth, column)| format!("{} AS c{nth}", quoted(column))).collect();
        let make = format!(
            "CREATE TEMPORARY TABLE batch AS SELECT {} FROM {of_table} WITH NO DATA",
            batch.join(", ")
        );
        client.batch_execute(&make).map_err(failed)?;
        let statement = client.prepare("SELECT * FROM batch").map_err(failed)?;
        let types = types_of(&statement);
        let key = primary_key(&mut client, &place.table).map_err(failed)?.len();
        let FillColumns { key, same, filled } = place.fill_columns(columns.len(), key);
        let pair = |nth: usize, how: &str, text: &str| {
            format!("t.{}{text} {how} b.c{nth}{text}", quoted(&columns[nth]))
        };
        let is_it = key.map(|nth| pair(nth, "=", ""));
        let is_it = is_it.chain(same.map(|nth| pair(nth, "IS NOT DISTINCT FROM", "::text")));
        let is_it = is_it.collect::<Vec<_>>().join(" AND ");
        let set: Vec<String> =
            filled.clone().map(|nth| format!("{} = b.c{nth}", quoted(&columns[nth]))).collect();
        let differs: Vec<String> = filled.map(|nth| pair(nth, "IS DISTINCT FROM", "::text")).collect();
        let count = format!("SELECT count(*) FROM {of_table} t JOIN batch b ON {is_it}");
        let update = format!(
            "UPDATE {of_table} t SET {} FROM batch b WHERE {is_it} AND ({})",
            set.join(", "),
            differs.join(" OR ")
        );
        Ok((Filling { client, name, count, update, filled: Filled::default() }, types))
    }

    fn send_all(mut self, blocks: Blocks) -> Result<Option<Filled>> {
        blocks.for_each(|block| self.fill(&block)).map_err(fill_again)?;
        Ok(Some(self.filled))
    }
}

impl Filling {
    /// Fills the columns of a batch, in a transaction of its own.
    fn fill(&mut self, block: &Block) -> Result<()> {
        let failed = |error: postgres::Error| failed(&self.name, &error);
        let mut batch = self.client.transaction().map_err(failed)?;
        batch.batch_execute("TRUNCATE batch").map_err(failed)?;
        let mut writer = batch.copy_in("COPY batch FROM STDIN").map_err(failed)?;
        writer.write_all(&block.bytes).map_err(|error| broke_off(&self.name, &error))?;
        writer.finish().map_err(failed)?;
        let there: i64 = batch.query_one(&self.count, &[]).map_err(failed)?.get(0);
        let changed = batch.execute(&self.update, &[]).map_err(failed)?;
        batch.commit().map_err(failed)?;
        self.filled.add(block.rows, u64::try_from(there).unwrap_or_default(), changed);
        Ok(())
    }
}

/// Adds columns to a table.
///
/// # Errors
/// Where that is not allowed.
pub(crate) fn add_columns(
    path: &std::path::Path,
    name: &str,
    of: &str,
    columns: &[(String, ColumnType)],
) -> Result<()> {
    let added: Vec<String> = columns
        .iter()
        .map(|(column, of)| format!("ADD COLUMN {} {}", quoted(column), declared(*of)))
        .collect();
    let alter = format!("ALTER TABLE {} {}", table(of), added.join(", "));
    connect(path)?.batch_execute(&alter).map_err(|error| failed(name, &error))
}
