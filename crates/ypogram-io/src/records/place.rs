//! Where a source is: a file, and the part of it that is meant, such as a sheet or a table.

use std::path::{Path, PathBuf};

use crate::records::format::on_server;

/// A file and the part of it that is meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SourcePlace {
    /// The file; `-` is standard input.
    pub file: PathBuf,
    /// What stands behind `#` in what was given: a sheet, a table, a query.
    pub part: Option<String>,
}

impl SourcePlace {
    /// Whether a part of a database is a query and not the name of a table.
    ///
    /// ```
    /// use ypogram_io::SourcePlace;
    /// assert!(SourcePlace::is_query("select mail from people") && !SourcePlace::is_query("selected people"));
    /// ```
    pub fn is_query(part: &str) -> bool {
        let word = part.split_whitespace().next().unwrap_or_default();
        ["select", "with", "values"].iter().any(|keyword| word.eq_ignore_ascii_case(keyword))
    }

    /// Whether it is in a database on a server, and no file.
    pub fn is_on_server(&self) -> bool {
        on_server(&self.file).is_some()
    }

    /// Of what was given: behind the first `#` is the part, unless a file is called so.
    ///
    /// ```
    /// use ypogram_io::SourcePlace;
    /// let place = SourcePlace::of("members.sqlite#loans".as_ref());
    /// assert_eq!((place.file.to_str(), place.part.as_deref()), (Some("members.sqlite"), Some("loans")));
    /// assert_eq!(SourcePlace::of("members.csv".as_ref()).part, None);
    /// ```
    pub fn of(given: &Path) -> Self {
        let whole = || SourcePlace { file: given.to_path_buf(), part: None };
        match given.to_str().and_then(|text| text.split_once('#')) {
            Some((file, part)) if !file.is_empty() && !part.is_empty() && !given.exists() => {
                SourcePlace { file: file.into(), part: Some(part.to_owned()) }
            }
            _ => whole(),
        }
    }
}
