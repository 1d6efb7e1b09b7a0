//! Rows of a table on a server that were kept in a file, read in its place.

use crate::records::chunk::Chunk;
use crate::records::error::Result;
use crate::records::fingerprint::Fingerprint;
use crate::records::format::Format;
use crate::records::source::{Decode, Schema, Source, SourceKind};

/// The rows of a table, read from a file and called by the table's name.
pub(super) struct KeptTable {
    rows: Box<dyn Source>,
    name: String,
    schema: Schema,
}

impl KeptTable {
    pub(super) fn of(rows: Box<dyn Source>, name: String, server: Format) -> Self {
        let described = format!("kept rows of {}", server.entry().called);
        let schema = Schema { described, kind: SourceKind::Typed(server), ..rows.schema().clone() };
        KeptTable { rows, name, schema }
    }
}

impl Source for KeptTable {
    fn schema(&self) -> &Schema {
        &self.schema
    }

    fn name(&self) -> &str {
        &self.name
    }

    fn next_chunk(&mut self, into: &mut Chunk) -> Result<bool> {
        self.rows.next_chunk(into)
    }

    fn decoder(&self) -> Box<dyn Decode> {
        self.rows.decoder()
    }

    fn broken_off(&self) -> Option<String> {
        self.rows.broken_off()
    }

    fn fingerprint(&self) -> Fingerprint {
        Fingerprint::default()
    }
}
