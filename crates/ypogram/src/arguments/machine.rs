//! How much of the machine is used: the same everywhere.

use clap::Args;

/// How much of the machine is used.
#[derive(Debug, Args)]
#[command(next_help_heading = "Machine")]
pub(crate) struct MachineArguments {
    /// Worker threads [default: one for each core]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub(crate) threads: Option<u16>,

    /// Memory for what is held of all records, such as mailboxes, keys and rows to be sorted: 256M or 2G; past it a temporary folder
    /// is used, and the list read twice where that helps. The peak is at most this, 60 MB and 8 MB for each thread; `dedupe --near`
    /// and `--rule-differences`, and a document of JSON, mail or HTML that is read whole, take more
    #[arg(long, value_name = "SIZE", default_value = "1G", value_parser = bytes)]
    pub(crate) memory: usize,

    /// Bytes of a chunk, so that tests meet every border
    #[arg(long, value_name = "N", hide = true)]
    pub(crate) chunk_bytes: Option<usize>,
}

/// A size: bytes, or with K, M or G behind.
pub(super) fn bytes(text: &str) -> Result<usize, String> {
    let upper = text.to_ascii_uppercase();
    let bare = upper.trim_end_matches("IB").trim_end_matches('B');
    let (number, unit) = match bare.chars().last() {
        Some('K') => (&bare[..bare.len() - 1], 1 << 10),
        Some('M') => (&bare[..bare.len() - 1], 1 << 20),
        Some('G') => (&bare[..bare.len() - 1], 1 << 30),
        _ => (bare, 1),
    };
    let size = number.trim().parse::<usize>().ok().and_then(|number| number.checked_mul(unit));
    size.ok_or_else(|| "give a size such as 256M or 2G".into())
}
