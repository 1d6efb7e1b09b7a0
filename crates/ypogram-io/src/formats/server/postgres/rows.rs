//! Rows as a new table of a database: in one transaction, which ends when all are there.

use std::io::Write as _;
use std::sync::Arc;

use postgres::Client;

use crate::formats::server::postgres::connect::connect;
use crate::formats::server::postgres::fill::Filling;
use crate::formats::server::postgres::source::{names_of, types_of};
use crate::formats::server::postgres::sql::{broke_off, failed, quoted, table};
use crate::formats::server::postgres::types::declared;
use crate::formats::server::postgres::write_cell::write_cell;
use crate::formats::server::table_writer::{self, Blocks, ServerTable, TablePlace, WriteCell};
use crate::formats::sql::{columns_to_fill, table_is_not_there, table_is_there};
use crate::records::column_type::ColumnType;
use crate::records::error::Result;
use crate::rows::{EncodeRows, Filled, IfThere, OwnFields, Projection};

/// Writes rows as a table.
pub(crate) fn encoder(own: Vec<OwnFields>, projection: Arc<Projection>) -> Box<dyn EncodeRows> {
    table_writer::encoder::<CopyIn, Filling>(own, projection, str::to_owned)
}

/// A table that COPY fills.
struct CopyIn {
    client: Client,
    name: String,
    copy: String,
}

impl ServerTable for CopyIn {
    const SERVER: &'static str = "PostgreSQL";
    const WRITE_CELL: WriteCell = write_cell;

    fn begin(
        place: &TablePlace,
        columns: &[String],
        types: &[ColumnType],
    ) -> Result<(Self, Vec<ColumnType>)> {
        let mut client = connect(&place.path)?;
        let (columns, types) = make_ready(&mut client, place, (columns, types))?;
        let columns: Vec<String> = columns.iter().map(|column| quoted(column)).collect();
        let copy = format!("COPY {} ({}) FROM STDIN", table(&place.table), columns.join(", "));
        Ok((CopyIn { client, name: place.name.clone(), copy }, types))
    }

    fn send_all(mut self, blocks: Blocks) -> Result<Option<Filled>> {
        let not_written = |error: postgres::Error| failed(&self.name, &error);
        let mut writer = self.client.copy_in(&self.copy).map_err(not_written)?;
        let all = blocks.for_each(|block| {
            writer.write_all(&block.bytes).map_err(|error| broke_off(&self.name, &error))
        })?;
        if !all {
            return Ok(None);
        }
        writer.finish().map_err(not_written)?;
        self.client.batch_execute("COMMIT").map_err(not_written)?;
        Ok(None)
    }
}

/// Makes the table, or finds the columns of the one that is there; gives names and types of those that are filled.
fn make_ready(
    client: &mut Client,
    place: &TablePlace,
    (columns, types): (&[String], &[ColumnType]),
) -> Result<(Vec<String>, Vec<ColumnType>)> {
    let not_written = |error: postgres::Error| failed(&place.name, &error);
    let table = table(&place.table);
    client.batch_execute("BEGIN").map_err(not_written)?;
    let there: bool =
        client.query_one("SELECT to_regclass($1) IS NOT NULL", &[&table]).map_err(not_written)?.get(0);
    match (there, place.if_there) {
        (true, IfThere::Refuse) => return Err(table_is_there(&place.name, &place.table)),
        (false, IfThere::Append) => return Err(table_is_not_there(&place.name, &place.table)),
        (true, IfThere::Append) => {
            let statement = client.prepare(&format!("SELECT * FROM {table}")).map_err(not_written)?;
            let (names, types) = (names_of(&statement), types_of(&statement));
            let places = columns_to_fill(&place.name, &place.table, columns, &names)?;
            return Ok(places.iter().map(|place| (names[*place].clone(), types[*place])).unzip());
        }
        _ => {}
    }
    let drop = if there { format!("DROP TABLE {table}; ") } else { String::new() };
    let of = columns.iter().zip(types).map(|(column, of)| format!("{} {}", quoted(column), declared(*of)));
    let create = format!("{drop}CREATE TABLE {table} ({})", of.collect::<Vec<_>>().join(", "));
    client.batch_execute(&create).map_err(not_written)?;
    Ok((columns.to_vec(), types.to_vec()))
}
