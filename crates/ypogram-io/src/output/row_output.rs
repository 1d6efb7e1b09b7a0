//! Where encoded rows go, sorted on the way where that is asked for.

use crate::output::sorted_rows::SortedRows;
use crate::output::{Output, OutputFile};
use crate::records::error::Result;
use crate::rows::{Enclose, EncodedRows, Opening, OutputPlace, Projection, TakeBytes};

impl TakeBytes for OutputFile {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        self.write(bytes)
    }

    fn place(&self) -> OutputPlace {
        OutputPlace { path: Some(self.path().to_path_buf()), ..OutputPlace::default() }
    }
}

impl TakeBytes for Output {
    fn take(&mut self, bytes: &[u8]) -> Result<()> {
        self.write(bytes)
    }

    fn place(&self) -> OutputPlace {
        match self {
            Output::Stream(..) | Output::Nowhere => OutputPlace::default(),
            Output::File(file, part) => OutputPlace { part: part.clone(), ..file.place() },
            Output::InPlace(place) => place.clone(),
        }
    }
}

/// An output of rows.
pub struct RowOutput<O> {
    to: O,
    enclosure: Option<Box<dyn Enclose>>,
    sorted: Option<SortedRows>,
}

/// Sorted rows are handed over when there are so many bytes of them.
const GATHERED: usize = 1 << 14;

impl<O: TakeBytes> RowOutput<O> {
    /// Over `to`, which begins so.
    ///
    /// # Errors
    /// Where that cannot be written.
    pub fn begin(mut to: O, opening: &Opening, projection: &Projection) -> Result<Self> {
        to.take(&opening.bytes)?;
        let enclosure = opening.enclosure.as_ref().map(|make| make(&to.place())).transpose()?;
        let sorted = projection.is_sorted().then(|| SortedRows::within(projection.memory));
        Ok(RowOutput { to, enclosure, sorted })
    }

    /// Appends rows; those that are sorted wait for the [end](Self::finish).
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub fn write(&mut self, rows: &EncodedRows) -> Result<()> {
        match &mut self.sorted {
            None => put(&mut self.to, &mut self.enclosure, &rows.bytes),
            Some(sorted) => rows.sorted().try_for_each(|(key, row)| sorted.add(key, row)),
        }
    }

    /// Writes what waited, and gives what was written to.
    ///
    /// # Errors
    /// As above.
    pub fn finish(self) -> Result<O> {
        let RowOutput { mut to, mut enclosure, sorted } = self;
        if let Some(mut sorted) = sorted {
            let mut gathered = Vec::new();
            sorted.finish(&mut |_, row| {
                gathered.extend_from_slice(row);
                if gathered.len() < GATHERED {
                    return Ok(());
                }
                let taken = put(&mut to, &mut enclosure, &gathered);
                gathered.clear();
                taken
            })?;
            put(&mut to, &mut enclosure, &gathered)?;
        }
        if let Some(mut enclosure) = enclosure {
            enclosure.end(&mut to)?;
        }
        Ok(to)
    }
}

/// Hands over whole rows.
fn put(to: &mut impl TakeBytes, enclosure: &mut Option<Box<dyn Enclose>>, rows: &[u8]) -> Result<()> {
    match enclosure {
        Some(enclosure) => enclosure.rows(rows, to),
        None => to.take(rows),
    }
}
