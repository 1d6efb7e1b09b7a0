//! What `extract` reads of a file.

use std::path::Path;

use ypogram_core::text::REACH;
use ypogram_core::{Grammar, text};
use ypogram_io::pieces::{Limits, Opened, Piece, PieceOptions};
use ypogram_io::{OpenOptions, Result};

use super::judges::policy_by;

/// Cuts `path` into pieces, and looks for addresses in what is text of them. What cannot be read is no fault.
///
/// # Panics
/// Where a place is not within its text.
pub fn cut_into_pieces(path: &Path) {
    let options = PieceOptions {
        open: OpenOptions { chunk_bytes: 4 << 10, fingerprint: false, ..OpenOptions::default() },
        overlap: REACH,
        id: None,
        limits: Limits::default(),
    };
    let _ = look_at_all(path, &options);
}

fn look_at_all(path: &Path, options: &PieceOptions) -> Result<()> {
    let policy = policy_by(Grammar::Smtp);
    let mut opened = Opened::open(path, options)?;
    loop {
        let mut piece = Piece::default();
        if !opened.next(&mut piece)? {
            return Ok(());
        }
        piece.load("a file")?;
        piece.segments("a file", &mut |segment| {
            segment.places.of(segment.text.len());
            text::find(segment.text, policy, |hit| assert!(hit.as_found.end <= segment.text.len()));
        })?;
    }
}
