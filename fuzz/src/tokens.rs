//! Tokens in the place of addresses: nothing is left in the copy, and the map brings every byte back. A first line with a key is one.

use std::fs::File;

use ypogram_core::Grammar;
use ypogram_core::redact::RedactKey;
use ypogram_core::text::REACH;
use ypogram_io::OpenOptions;
use ypogram_io::pieces::{Limits, PieceOptions};
use ypogram_jobs::Progress;
use ypogram_jobs::redact::{RedactBy, RedactMap, RedactOptions, Replaced, prove, restore, run};

use super::file::file_of;
use super::judges::policy_by;

/// Tries that with `bytes`.
///
/// # Panics
/// Where that does not hold.
pub fn tokens(bytes: &[u8]) {
    if let Some(key) = std::str::from_utf8(bytes).ok().and_then(RedactKey::from_text) {
        assert!(RedactKey::from_text(&key.to_text()).is_some());
    }
    let source = file_of("source.txt", bytes);
    let options = RedactOptions {
        pieces: PieceOptions {
            open: OpenOptions { chunk_bytes: 4 << 10, ..OpenOptions::default() },
            overlap: REACH,
            id: None,
            limits: Limits::default(),
        },
        hide: Vec::new(),
        by: RedactBy::Token(RedactKey::new([7; 32])),
        policy: policy_by(Grammar::Smtp).clone(),
        threads: 1,
        hash_key: 1,
    };
    let copy = file_of("copy.txt", b"");
    let (mut replaced, mut map, progress) = (Replaced::default(), RedactMap::default(), Progress::default());
    let out = File::create(&copy).expect("a small file");
    if run(&options, &source, out, (&mut replaced, Some(&mut map)), &progress).is_err() {
        return;
    }
    let written = std::fs::read(&copy).expect("it was written");
    let left = prove(&options, copy, &replaced, &progress).expect("what was written can be read");
    assert_eq!(left, []);
    let mut back = Vec::new();
    restore(&written, &map, &mut back).expect("memory can be written");
    assert_eq!(back, bytes);
}
