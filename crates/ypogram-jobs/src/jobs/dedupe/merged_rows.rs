//! The survivors whose cells were filled, in a temporary file, in the order of the records.

use std::fs::File;
use std::io::{self, BufReader, BufWriter, Read as _, Seek as _, SeekFrom, Write as _};
use std::path::PathBuf;

use tempfile::TempDir;
use ypogram_io::{Error, Result, private_file};

use crate::engine::packed_cells::{pack, unpack};

/// The cells of a survivor, by field.
pub(crate) type Cells = Vec<(usize, Vec<u8>)>;

/// Survivors, first written and then read.
pub(crate) struct MergedRows {
    path: PathBuf,
    write: BufWriter<File>,
    read: Option<BufReader<File>>,
    /// The one that is read next.
    next: Option<(u64, Cells)>,
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
    pub(crate) fn add(&mut self, record: u64, cells: &[Vec<u8>]) -> Result<()> {
        let mut packed = Vec::new();
        cells.iter().for_each(|cell| pack(cell, &mut packed));
        let mut bytes = record.to_le_bytes().to_vec();
        pack(&packed, &mut bytes);
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
    pub(crate) fn of(&mut self, record: u64) -> Result<Option<Cells>> {
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

fn read_one(read: &mut BufReader<File>) -> io::Result<Option<(u64, Cells)>> {
    let mut record = [0; 8];
    match read.read_exact(&mut record) {
        Ok(()) => {}
        Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => return Ok(None),
        Err(error) => return Err(error),
    }
    let mut length = [0; 4];
    read.read_exact(&mut length)?;
    let mut packed = vec![0; u32::from_le_bytes(length) as usize];
    read.read_exact(&mut packed)?;
    let cells = unpack(&packed).map(<[u8]>::to_vec).enumerate().collect();
    Ok(Some((u64::from_le_bytes(record), cells)))
}
