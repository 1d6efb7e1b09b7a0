//! Outputs that are compressed on the way, as the extension of their name says.

use std::io::{self, Write as _};
use std::path::Path;

use flate2::write::GzEncoder;

/// Compresses what is written; nothing of it depends on the time.
pub(super) enum Packer {
    Gzip(GzEncoder<Vec<u8>>),
    Zstd(zstd::stream::write::Encoder<'static, Vec<u8>>),
}

impl Packer {
    /// That of a file, where its name says that it is compressed.
    ///
    /// # Errors
    /// Where there is not enough memory.
    pub(super) fn of(path: &Path) -> io::Result<Option<Self>> {
        let extension = path.extension().map(|extension| extension.to_ascii_lowercase());
        Ok(match extension.as_deref().and_then(|extension| extension.to_str()) {
            Some("gz") => Some(Packer::Gzip(GzEncoder::new(Vec::new(), flate2::Compression::default()))),
            Some("zst" | "zstd") => {
                let level = zstd::DEFAULT_COMPRESSION_LEVEL;
                Some(Packer::Zstd(zstd::stream::write::Encoder::new(Vec::new(), level)?))
            }
            _ => None,
        })
    }

    /// Takes bytes; gives those that came of them so far.
    pub(super) fn pack(&mut self, bytes: &[u8]) -> io::Result<Vec<u8>> {
        let packed = match self {
            Packer::Gzip(encoder) => {
                encoder.write_all(bytes)?;
                encoder.get_mut()
            }
            Packer::Zstd(encoder) => {
                encoder.write_all(bytes)?;
                encoder.get_mut()
            }
        };
        Ok(std::mem::take(packed))
    }

    /// Gives the last bytes.
    pub(super) fn end(self) -> io::Result<Vec<u8>> {
        match self {
            Packer::Gzip(encoder) => encoder.finish(),
            Packer::Zstd(encoder) => encoder.finish(),
        }
    }
}
