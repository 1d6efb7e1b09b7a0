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

    /// Is told what filling columns of rows that are there came to.
    fn filled(&mut self, _: Filled) {}
}

/// What filling columns of a table's rows came to, in rows.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Filled {
    /// Their columns say something else now.
    pub changed: u64,
    /// Their columns said the same before.
    pub same: u64,
    /// They were changed by others since they were read, or are gone; they stay as they are.
    pub moved: u64,
}

impl Filled {
    /// Adds a batch of `rows`, of which so many were there as they had been, and of these so many were changed.
    #[cfg_attr(not(any(feature = "mysql", feature = "postgres")), allow(dead_code))]
    pub(crate) fn add(&mut self, rows: u64, there: u64, changed: u64) {
        self.changed += changed;
        self.same += there.saturating_sub(changed);
        self.moved += rows.saturating_sub(there);
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
    /// What happens to what is there.
    pub if_there: IfThere,
    /// What filling its columns came to, once that is done.
    pub filled: Option<Filled>,
}

/// What happens to an output of that name which is there.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum IfThere {
    /// It stays, and the output is refused.
    #[default]
    Refuse,
    /// It is replaced.
    Replace,
    /// Rows are added to it; it has to be the table of a database.
    Append,
    /// Its rows are found by their first columns, which are its primary key, and the last so many are filled; those between have to be
    /// as they were.
    Fill(usize),
}

impl IfThere {
    /// Replaced where that is forced, else refused.
    pub fn of_force(force: bool) -> Self {
        if force { IfThere::Replace } else { IfThere::Refuse }
    }
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
