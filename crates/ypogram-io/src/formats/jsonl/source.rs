//! JSON lines as a source.

use std::collections::HashMap;
use std::sync::Arc;

use tempfile::TempDir;

use crate::formats::jsonl::decode::JsonDecoder;
use crate::input::borders::Chunks;
use crate::input::chunked::ChunkedSource;
use crate::records::batch::Batch;
use crate::records::source::{Schema, SourceKind};

/// Records with these fields over `chunks`, which may read a copy in `kept`.
pub(crate) fn open(chunks: Chunks, fields: Vec<String>, kept: Option<TempDir>) -> ChunkedSource {
    let places: HashMap<String, usize> =
        fields.iter().enumerate().map(|(place, field)| (field.clone(), place)).collect();
    let (places, name) = (Arc::new(places), chunks.name().to_owned());
    let schema = Schema {
        fields,
        described: "JSON lines, one record a line".into(),
        kind: SourceKind::JsonLines,
        ..Schema::default()
    };
    let make_decoder = move || -> Box<dyn crate::records::source::Decode> {
        Box::new(JsonDecoder {
            name: name.clone(),
            places: Arc::clone(&places),
            lines: Batch::default(),
            values: Vec::new(),
        })
    };
    ChunkedSource { chunks, schema, make_decoder: Box::new(make_decoder), _kept: kept }
}
