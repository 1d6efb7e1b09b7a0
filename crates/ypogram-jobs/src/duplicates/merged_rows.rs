//! The rows that were filled from others, in a temporary file, in the order in which they are read.

use std::fs::File;
use std::io::{self, BufReader, BufWriter, Read as _, Seek as _, SeekFrom, Write as _};
use std::path::PathBuf;

use tempfile::TempDir;
use ypogram_io::{Error, Result, private_file};

use crate::engine::packed_cells::{pack, unpack};

/// Cells of a row, by field.
pub(crate) type Cells = Vec<(usize, Vec<u8>)>;

/// What a row takes from others.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct MergedRow {
    /// The cells that are not what they were.
    pub(crate) cells: Cells,
    /// Where each value comes from.
    pub(crate) filled: Vec<Filled>,
}

/// A value that was taken from another record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Filled {
    pub(crate) field: usize,
    pub(crate) value: Vec<u8>,
    /// The number of the other record.
    pub(crate) from: u64,
}

/// Rows, first written and then read.
pub(crate) struct MergedRows {
    path: PathBuf,
    write: BufWriter<File>,
    read: Option<BufReader<File>>,
    /// The one that is read next.
    next: Option<(u64, MergedRow)>,
}

impl MergedRows {
    /// None yet.
    ///
    /// # Errors
    /// Where the file cannot be made.
    pub(crate) fn within(folder: &TempDir) -> Result<Self> {
        let path = folder.path().join("merged");
        let file = private_file(&path).map_err(|error| Error::temporary(&path, &error))?;
        Ok(MergedRows { path, write: BufWriter::new(file), read: None, next: None })
    }

    /// Adds the row of that number, which is greater than those before.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub(crate) fn add(&mut self, row: u64, merged: &MergedRow) -> Result<()> {
        let mut bytes = row.to_le_bytes().to_vec();
        pack(&merged.to_bytes(), &mut bytes);
        self.write.write_all(&bytes).map_err(|error| Error::temporary(&self.path, &error))
    }

    /// All are written, and can be read from the first.
    ///
    /// # Errors
    /// Where the file cannot be written or read.
    pub(crate) fn written(mut self) -> Result<Self> {
        let started = self.write.flush().and_then(|()| {
            let mut file = self.write.get_ref().try_clone()?;
            file.seek(SeekFrom::Start(0))?;
            Ok(BufReader::new(file))
        });
        self.read = Some(started.map_err(|error| Error::temporary(&self.path, &error))?);
        self.read_next()?;
        Ok(self)
    }

    /// What the row of that number takes, where it takes something. To be asked in the order of the rows.
    ///
    /// # Errors
    /// Where the file cannot be read.
    pub(crate) fn of(&mut self, row: u64) -> Result<Option<MergedRow>> {
        let Some((_, merged)) = self.next.take_if(|(next, _)| *next == row) else { return Ok(None) };
        self.read_next()?;
        Ok(Some(merged))
    }

    fn read_next(&mut self) -> Result<()> {
        let Some(read) = &mut self.read else { return Ok(()) };
        self.next = read_one(read).map_err(|error| Error::temporary(&self.path, &error))?;
        Ok(())
    }
}

fn read_one(read: &mut BufReader<File>) -> io::Result<Option<(u64, MergedRow)>> {
    let mut row = [0; 8];
    match read.read_exact(&mut row) {
        Ok(()) => {}
        Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => return Ok(None),
        Err(error) => return Err(error),
    }
    let mut length = [0; 4];
    read.read_exact(&mut length)?;
    let mut packed = vec![0; u32::from_le_bytes(length) as usize];
    read.read_exact(&mut packed)?;
    Ok(Some((u64::from_le_bytes(row), MergedRow::from_bytes(&packed))))
}

impl MergedRow {
    fn to_bytes(&self) -> Vec<u8> {
        let (mut cells, mut all) = (Vec::new(), Vec::new());
        for (field, cell) in &self.cells {
            pack(&(*field as u64).to_le_bytes(), &mut cells);
            pack(cell, &mut cells);
        }
        pack(&cells, &mut all);
        for Filled { field, value, from } in &self.filled {
            pack(&(*field as u64).to_le_bytes(), &mut all);
            pack(value, &mut all);
            pack(&from.to_le_bytes(), &mut all);
        }
        all
    }

    fn from_bytes(packed: &[u8]) -> Self {
        let number = |bytes: &[u8]| u64::from_le_bytes(bytes.try_into().expect("eight bytes"));
        let mut all = unpack(packed);
        let mut cells = unpack(all.next().unwrap_or_default());
        let cell = || Some((number(cells.next()?) as usize, cells.next()?.to_vec()));
        let cells = std::iter::from_fn(cell).collect();
        let filled = std::iter::from_fn(|| {
            let (field, value, from) = (all.next()?, all.next()?, all.next()?);
            Some(Filled { field: number(field) as usize, value: value.to_vec(), from: number(from) })
        });
        MergedRow { cells, filled: filled.collect() }
    }
}
