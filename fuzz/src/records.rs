//! The records of a file, which do not depend on where it is cut.

use std::path::Path;
use std::sync::LazyLock;

use ypogram_io::{Batch, Chunk, Format, OpenOptions, ROW_THREAD, Result, open};

/// The cells of each record.
type Records = Vec<Vec<Vec<u8>>>;

/// What a library panics over in the thread that reads is an error of the source, and no fault of its own.
static PANICS_OF_READERS: LazyLock<()> = LazyLock::new(|| {
    let usual = std::panic::take_hook();
    std::panic::set_hook(Box::new(move |panicked| {
        if std::thread::current().name() != Some(ROW_THREAD) {
            usual(panicked);
        }
    }));
});

/// Reads `path` as a file of that format, in large chunks and in small ones.
///
/// # Panics
/// Where the two differ.
pub fn read_records(path: &Path, format: Format) {
    LazyLock::force(&PANICS_OF_READERS);
    let read = |chunk_bytes| {
        let open = OpenOptions {
            format: Some(format),
            chunk_bytes,
            fingerprint: false,
            most_unpacked: 1 << 20,
            ..OpenOptions::default()
        };
        records(path, &open)
    };
    match (read(128 << 10), read(64)) {
        (Ok(large), Ok(small)) => assert!(large == small, "{large:?}\n{small:?}"),
        (Err(_), Err(_)) => {}
        (large, small) => panic!("{large:?}\n{small:?}"),
    }
}

fn records(path: &Path, options: &OpenOptions) -> Result<Records> {
    let mut source = open(path, options)?;
    let (mut decoder, mut chunk, mut batch) = (source.decoder(), Chunk::default(), Batch::default());
    let mut records = Records::new();
    while source.next_chunk(&mut chunk)? {
        batch.clear();
        decoder.decode(&chunk, &mut batch)?;
        records.extend(batch.records(&chunk).map(|record| record.cells().map(<[u8]>::to_vec).collect()));
    }
    Ok(records)
}
