//! JSON lines as a source.

use std::collections::HashMap;
use std::sync::Arc;

use tempfile::TempDir;

use crate::formats::json::decode::JsonDecoder;
use crate::input::borders::Chunks;
use crate::input::chunked::ChunkedSource;
use crate::input::encoding::Guessed;
use crate::records::batch::Batch;
use crate::records::fingerprint::Fingerprint;
use crate::records::source::{Schema, SourceKind};

/// Records with these fields over `chunks`, which may read a copy in `kept`; then `fingerprint` is that of the source.
pub(crate) fn open(
    chunks: Chunks,
    fields: Vec<String>,
    (kept, fingerprint): (Option<TempDir>, Option<Fingerprint>),
    in_array: bool,
) -> ChunkedSource {
    let places: HashMap<String, usize> =
        fields.iter().enumerate().map(|(place, field)| (field.clone(), place)).collect();
    let (places, name) = (Arc::new(places), chunks.name().to_owned());
    let schema = Schema {
        fields,
        described: match in_array {
            true => "a JSON array, one record an object".into(),
            false => "JSON lines, one record a line".into(),
        },
        kind: SourceKind::Json { in_array },
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
    ChunkedSource {
        chunks,
        schema,
        make_decoder: Box::new(make_decoder),
        fingerprint,
        guessed: Guessed::default(),
        _kept: kept,
    }
}
