//! Ready-made patterns for what stands beside addresses: telephone numbers, postal codes, dates, IP and web addresses, from
//! `data/patterns.tsv`.
//!
//! ```
//! let date = ypogram_core::ready_patterns::named("date").unwrap();
//! let pattern = date.pattern();
//! assert!(pattern.fits(b"2026-11-30") && !pattern.fits(b"30.11.2026"));
//! assert_eq!(date.source, "RFC 3339 full-date (ISO 8601)");
//! ```

use crate::policy::pattern::Pattern;

/// A ready-made pattern.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ReadyPattern {
    /// Its name.
    pub name: &'static str,
    /// The regular expression; it fits a whole value.
    pub written: &'static str,
    /// What it is, as in ‘a postal code of Austria’.
    pub what: &'static str,
    /// The standard or body that it follows.
    pub source: &'static str,
    /// A value that fits.
    pub example: &'static str,
}

static FILE: &str = include_str!("../../data/patterns.tsv");

/// All of them, in the order of the file.
pub fn all() -> impl Iterator<Item = ReadyPattern> {
    FILE.lines().filter(|line| !line.starts_with('#')).filter_map(|line| {
        let mut cells = line.split('\t');
        let mut cell = || cells.next();
        Some(ReadyPattern {
            name: cell()?,
            written: cell()?,
            what: cell()?,
            source: cell()?,
            example: cell()?,
        })
    })
}

/// The one of that name.
pub fn named(name: &str) -> Option<ReadyPattern> {
    all().find(|ready| ready.name == name)
}

impl ReadyPattern {
    /// The pattern itself.
    pub fn pattern(&self) -> Pattern {
        Pattern::new(self.name, self.written, true, false)
            .expect("every ready-made pattern is tried in a test")
    }
}
