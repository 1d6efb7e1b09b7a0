//! The survivors whose cells were filled, in a temporary file, in the order of the records.

use std::fs::File;
use std::io::{self, BufReader, BufWriter, Read as _, Seek as _, SeekFrom, Write as _};
use std::path::PathBuf;

use tempfile::TempDir;
use ypogram_tables::{Error, Result, private_file};

/// The cells of a survivor that was changed.
pub(crate) struct Merged {
    pub(crate) cells: Vec<Vec<u8>>,
    /// What its record had beyond the fields.
    pub(crate) surplus: Vec<Vec<u8>>,
}

/// Survivors, first written and then read.
pub(crate) struct MergedRows {
    path: PathBuf,
    write: BufWriter<File>,
    read: Option<BufReader<File>>,
    /// The one that is read next.
    next: Option<(u64, Merged)>,
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

    /// Adds the survivor of that number, which is greater than those before.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub(crate) fn add(&mut self, record: u64, merged: &Merged) -> Result<()> {
        let mut bytes = record.to_le_bytes().to_vec();
        for cells in [&merged.cells, &merged.surplus] {
            bytes.extend_from_slice(&(cells.len() as u32).to_le_bytes());
            for cell in cells {
                bytes.extend_from_slice(&(cell.len() as u32).to_le_bytes());
                bytes.extend_from_slice(cell);
            }
        }
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

    /// The cells of `record`, where it is one of them. To be asked in the order of the records.
    ///
    /// # Errors
    /// Where the file cannot be read.
    pub(crate) fn of(&mut self, record: u64) -> Result<Option<Merged>> {
        let Some((_, merged)) = self.next.take_if(|(next, _)| *next == record) else { return Ok(None) };
        self.read_next()?;
        Ok(Some(merged))
    }

    fn read_next(&mut self) -> Result<()> {
        let Some(read) = &mut self.read else { return Ok(()) };
        self.next = read_one(read).map_err(|error| Error::temporary(&self.path, &error))?;
        Ok(())
    }
}

fn read_one(read: &mut BufReader<File>) -> io::Result<Option<(u64, Merged)>> {
    let mut record = [0; 8];
    match read.read_exact(&mut record) {
        Ok(()) => {}
        Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => return Ok(None),
        Err(error) => return Err(error),
    }
    let merged = Merged { cells: read_cells(read)?, surplus: read_cells(read)? };
    Ok(Some((u64::from_le_bytes(record), merged)))
}

fn read_cells(read: &mut BufReader<File>) -> io::Result<Vec<Vec<u8>>> {
    (0..read_length(read)?)
        .map(|_| {
            let mut cell = vec![0; read_length(read)?];
            read.read_exact(&mut cell)?;
            Ok(cell)
        })
        .collect()
}

fn read_length(read: &mut BufReader<File>) -> io::Result<usize> {
    let mut length = [0; 4];
    read.read_exact(&mut length)?;
    Ok(u32::from_le_bytes(length) as usize)
}
