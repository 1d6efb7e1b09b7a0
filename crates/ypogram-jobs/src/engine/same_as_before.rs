//! Sources that are read several times have to be the same each time.

use ypogram_io::{Error, Result};

use crate::engine::reading::SourceReport;

/// # Errors
/// Where a source is not what it was in the pass before.
pub(crate) fn same_as_before(before: &[SourceReport], now: &[SourceReport]) -> Result<()> {
    let changed = before.iter().zip(now).find(|(before, now)| before.blake3 != now.blake3);
    match changed {
        Some((source, _)) => Err(Error::unusable(
            format!("{}: the file has changed while it was read", source.name),
            "run it again once nobody writes to the file",
        )),
        None => Ok(()),
    }
}
