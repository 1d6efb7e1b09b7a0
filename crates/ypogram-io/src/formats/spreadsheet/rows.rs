//! Rows as the only sheet of a workbook.

use std::io::{self, BufReader, Read as _, Seek as _};
use std::sync::Arc;

use crate::formats::spreadsheet::book::{Book, SheetPlan};
use crate::records::error::{Error, Result};
use crate::rows::{Enclose, EncodeRows, MakeEnclosure, OwnFields, PackedRowEncoder, Projection, TakeBytes};

/// Takes packed rows, and gives the workbook at the end.
pub(crate) struct SheetFile {
    book: Book,
}

impl SheetFile {
    /// With one sheet.
    ///
    /// # Errors
    /// Where it has too many columns, or the temporary folder cannot be used.
    pub(crate) fn new(plan: SheetPlan) -> Result<Self> {
        let mut book = Book::new();
        book.add_sheet(plan)?;
        Ok(SheetFile { book })
    }
}

impl Enclose for SheetFile {
    fn rows(&mut self, rows: &[u8], _: &mut dyn TakeBytes) -> Result<()> {
        self.book.rows(0, rows)
    }

    fn end(&mut self, out: &mut dyn TakeBytes) -> Result<()> {
        hand_over(&mut self.book, out)
    }
}

/// Gives the whole workbook to `out`.
///
/// # Errors
/// Where it cannot be written, or the temporary folder cannot be used.
pub(crate) fn hand_over(book: &mut Book, out: &mut dyn TakeBytes) -> Result<()> {
    let failed = |error: io::Error| Error::temporary(&std::env::temp_dir(), &error);
    let mut file = tempfile::tempfile().map_err(failed)?;
    book.save(&mut file)?;
    file.rewind().map_err(failed)?;
    let (mut reader, mut block) = (BufReader::new(file), vec![0; 64 << 10]);
    loop {
        match reader.read(&mut block).map_err(failed)? {
            0 => return Ok(()),
            read => out.take(&block[..read])?,
        }
    }
}

/// Writes rows as the only sheet of a workbook.
pub(crate) fn encoder(own: Vec<OwnFields>, projection: Arc<Projection>) -> Box<dyn EncodeRows> {
    let plan = SheetPlan::of("rows", &projection);
    let make: MakeEnclosure = Arc::new(move |_| Ok(Box::new(SheetFile::new(plan.clone())?)));
    Box::new(PackedRowEncoder::new(own, projection, make))
}
