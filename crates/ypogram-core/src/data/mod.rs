//! What is known of domains and words: tables made from the files under `data/`, and what a list teaches. No job asks for anything here.

pub(crate) mod edit_distance;
pub(crate) mod endings;
pub(crate) mod known_typos;
pub(crate) mod learned_typos;
pub mod local_words;
pub(crate) mod mail_hosts;
pub(crate) mod mark;
pub mod providers;
pub(crate) mod public_suffix;
pub mod reserved;

/// The day on which the reference data was changed last, as year, month and day.
///
/// ```
/// assert_eq!(ypogram_core::REFERENCE_DATE.len(), "2026-12-01".len());
/// ```
pub const REFERENCE_DATE: &str = "2026-12-01";

#[cfg(test)]
mod tests {
    /// Bytes of all files of reference data on that day.
    const BYTES: u64 = 269234;

    #[test]
    fn the_date_is_that_of_the_data() {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/data");
        let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().metadata().unwrap().len());
        let bytes: u64 = files.sum();
        assert_eq!(bytes, BYTES, "the data has changed: set REFERENCE_DATE to today, and BYTES to {bytes}");
    }
}
