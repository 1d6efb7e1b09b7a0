//! One workbook of several sheets and a summary, as a file that appears whole or not at all.

use std::path::Path;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crate::formats::book::{BookSummary, EntryRefusal};
use crate::formats::spreadsheet::book::{Book, SheetPlan};
use crate::formats::spreadsheet::rows::hand_over;
use crate::output::{Output, OutputFile, Target};
use crate::records::error::Result;
use crate::rows::{IfThere, Projection, TakeBytes};

/// A workbook while its sheets are written.
pub struct BookFile {
    book: Arc<Mutex<Book>>,
    file: OutputFile,
}

/// A sheet of it, which takes packed rows.
pub struct BookSheet {
    book: Arc<Mutex<Book>>,
    sheet: usize,
}

impl BookFile {
    /// Starts the workbook that shall stand at `path`; the first of its sheets is its summary.
    ///
    /// # Errors
    /// Where the file exists and is not to be replaced, or cannot be made.
    pub fn create(path: &Path, replace: bool) -> Result<Self> {
        let target = Target::File { path: path.to_path_buf(), if_there: IfThere::of_force(replace) };
        let file = match target.open()? {
            Output::File(file, _) => *file,
            _ => OutputFile::create(path)?,
        };
        let mut book = Book::new();
        book.add_summary()?;
        Ok(BookFile { book: Arc::new(Mutex::new(book)), file })
    }

    /// Adds a sheet for rows with those columns; `rule` stands on its address columns.
    ///
    /// # Errors
    /// Where it has too many columns, or the temporary folder cannot be used.
    pub fn add_sheet(
        &self,
        name: &str,
        projection: &Projection,
        rule: Option<&EntryRefusal>,
    ) -> Result<BookSheet> {
        let plan = SheetPlan { rule: rule.cloned(), ..SheetPlan::of(name, projection) };
        let sheet = locked(&self.book).add_sheet(plan)?;
        Ok(BookSheet { book: Arc::clone(&self.book), sheet })
    }

    /// Writes the summary, and gives the file, which is not published yet; its sheets come in the order of `names`.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn finish(self, summary: &BookSummary, names: &[&str]) -> Result<OutputFile> {
        let BookFile { book, mut file } = self;
        let mut book = locked(&book);
        book.write_summary(summary)?;
        book.put_in_order(names);
        hand_over(&mut book, &mut file)?;
        Ok(file)
    }
}

impl TakeBytes for BookSheet {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        locked(&self.book).rows(self.sheet, bytes)
    }
}

fn locked(book: &Mutex<Book>) -> MutexGuard<'_, Book> {
    book.lock().unwrap_or_else(PoisonError::into_inner)
}
