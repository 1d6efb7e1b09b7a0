//! Where encoded rows go, sorted on the way where that is asked for.

use encoding_rs::{Encoding, UTF_8};

use crate::output::sorted_rows::SortedRows;
use crate::output::{Output, OutputFile};
use crate::records::error::Result;
use crate::rows::{Enclose, Encoded, EncodedRows, Filled, Opening, OutputPlace, Projection, TakeBytes};

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

    fn filled(&mut self, filled: Filled) {
        if let Output::InPlace(place) = self {
            place.filled = Some(filled);
        }
    }
}

/// An output of rows.
pub struct RowOutput<O> {
    to: O,
    enclosure: Option<Box<dyn Enclose>>,
    /// Where it is not UTF-8.
    encoding: Option<&'static Encoding>,
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
        let encoding = projection.encoding.encoding.filter(|encoding| *encoding != UTF_8);
        match projection.encoding.is_plain() {
            true => to.take(&opening.bytes)?,
            false => taker(&mut to, encoding, |out| out.take(&projection.encoding.start(&opening.bytes)))?,
        }
        let enclosure = opening.enclosure.as_ref().map(|make| make(&to.place())).transpose()?;
        let sorted = projection.is_sorted().then(|| SortedRows::within(projection.memory));
        Ok(RowOutput { to, enclosure, encoding, sorted })
    }

    /// Appends rows; those that are sorted wait for the [end](Self::finish).
    ///
    /// # Errors
    /// Where they cannot be written, or the temporary folder cannot be used.
    pub fn write(&mut self, rows: &EncodedRows) -> Result<()> {
        match &mut self.sorted {
            None => put((&mut self.to, self.encoding), &mut self.enclosure, &rows.bytes),
            Some(sorted) => rows.sorted().try_for_each(|(key, row)| sorted.add(key, row)),
        }
    }

    /// Writes what waited, and gives what was written to.
    ///
    /// # Errors
    /// As above.
    pub fn finish(self) -> Result<O> {
        let RowOutput { mut to, mut enclosure, encoding, sorted } = self;
        if let Some(mut sorted) = sorted {
            let mut gathered = Vec::new();
            sorted.finish(&mut |_, row| {
                gathered.extend_from_slice(row);
                if gathered.len() < GATHERED {
                    return Ok(());
                }
                let taken = put((&mut to, encoding), &mut enclosure, &gathered);
                gathered.clear();
                taken
            })?;
            put((&mut to, encoding), &mut enclosure, &gathered)?;
        }
        if let Some(mut enclosure) = enclosure {
            taker(&mut to, encoding, |out| enclosure.end(out))?;
        }
        Ok(to)
    }
}

/// Hands over whole rows.
fn put(
    (to, encoding): (&mut impl TakeBytes, Option<&'static Encoding>),
    enclosure: &mut Option<Box<dyn Enclose>>,
    rows: &[u8],
) -> Result<()> {
    match enclosure {
        Some(enclosure) => taker(to, encoding, |out| enclosure.rows(rows, out)),
        None => taker(to, encoding, |out| out.take(rows)),
    }
}

/// Calls `give` with what takes bytes, encoded on the way where that is asked for.
fn taker(
    to: &mut impl TakeBytes,
    encoding: Option<&'static Encoding>,
    give: impl FnOnce(&mut dyn TakeBytes) -> Result<()>,
) -> Result<()> {
    match encoding {
        Some(encoding) => give(&mut Encoded { out: to, encoding }),
        None => give(to),
    }
}
