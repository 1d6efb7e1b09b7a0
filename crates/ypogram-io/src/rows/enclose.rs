//! What surrounds rows in formats whose rows cannot just stand one behind the other.

use std::path::PathBuf;
use std::sync::Arc;

use crate::records::error::Result;

/// Takes bytes one behind the other.
pub trait TakeBytes {
    /// Appends `bytes`.
    ///
    /// # Errors
    /// Where they cannot be written.
    fn take(&mut self, bytes: &[u8]) -> Result<()>;

    /// Where they go.
    fn place(&self) -> OutputPlace {
        OutputPlace::default()
    }
}

/// Where an output goes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct OutputPlace {
    /// The file; none for standard output.
    pub path: Option<PathBuf>,
    /// The part of it, such as a table.
    pub part: Option<String>,
    /// The file is there, and the part goes into it.
    pub is_in_place: bool,
    /// What is there is replaced.
    pub replace: bool,
}

/// Turns rows as the [encoder](crate::EncodeRows) wrote them into the bytes of a file. One for each output.
pub trait Enclose: Send {
    /// Takes whole rows, and gives what is known of the file so far to `out`.
    ///
    /// # Errors
    /// Where they do not fit into the format, or cannot be written.
    fn rows(&mut self, rows: &[u8], out: &mut dyn TakeBytes) -> Result<()>;

    /// Gives the rest of the file to `out`.
    ///
    /// # Errors
    /// As above.
    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()>;
}

/// How an output begins, and what surrounds its rows.
#[derive(Clone, Default)]
pub struct Opening {
    /// What stands before the first row.
    pub bytes: Vec<u8>,
    /// Makes what surrounds the rows, where something does.
    pub(crate) enclosure: Option<MakeEnclosure>,
}

/// Makes an enclosure for an output that goes there.
pub type MakeEnclosure = Arc<dyn Fn(&OutputPlace) -> Result<Box<dyn Enclose>> + Send + Sync>;
