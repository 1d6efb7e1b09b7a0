//! Where each row goes, with the values that depend on other records.

use ypogram_tables::Result;

use crate::engine::id_store::IdStore;
use crate::engine::numbers::write_number;
use crate::jobs::dedupe::fates::End;
use crate::jobs::dedupe::part::{Part, To, value};

/// Sends the rows of a part to their outputs.
#[derive(Default)]
pub(crate) struct SettleRows {
    /// What records are named by that others are the same as; their number where there is none.
    ids: Option<IdStore>,
    /// Records without an address go apart.
    sets_apart: bool,
}

impl SettleRows {
    pub(crate) fn new(ids: Option<IdStore>, sets_apart: bool) -> Self {
        SettleRows { ids, sets_apart }
    }

    /// Adds what tells the records of the part apart.
    ///
    /// # Errors
    /// Where the temporary folder cannot be written to.
    pub(crate) fn add_ids(&mut self, part: &Part) -> Result<()> {
        match &mut self.ids {
            Some(store) => part.ids.iter().try_for_each(|id| store.add(id)),
            None => Ok(()),
        }
    }

    /// The next row of the part is the record of that number, with an address.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    #[inline]
    pub(crate) fn ends(&mut self, part: &mut Part, record: u64, end: End) -> Result<()> {
        match end {
            End::Stays => {
                part.stays();
                Ok(())
            }
            End::Dropped(other) => self.same_as(part, record, To::Dropped, other),
            End::Review(other) => self.same_as(part, record, To::Review, other),
        }
    }

    fn same_as(&mut self, part: &mut Part, record: u64, to: To, other: u64) -> Result<()> {
        part.goes_with(to, &[value::RECORD, value::SAME_AS], |value, out| match value {
            value::SAME_AS => self.name(other, out),
            _ => {
                write_number(record, out);
                Ok(())
            }
        })
    }

    /// The next row of the part is the record of that number, without an address.
    ///
    /// # Errors
    /// None; for the sake of the others.
    pub(crate) fn has_no_address(&self, part: &mut Part, record: u64) -> Result<()> {
        if !self.sets_apart {
            part.stays();
            return Ok(());
        }
        part.goes_with(To::NoAddress, &[value::RECORD], |_, out| {
            write_number(record, out);
            Ok(())
        })
    }

    /// The next row of the part stays, marked with what it is the same as, and how many are; none of both where it has no address.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn is_marked(&mut self, part: &mut Part, marks: Option<(Option<u64>, u64)>) -> Result<()> {
        let (same_as, count) = marks.unzip();
        part.goes_with(To::Kept, &[value::SAME_AS, value::SAME_COUNT], |value, out| match value {
            value::SAME_AS => same_as.flatten().map_or(Ok(()), |other| self.name(other, out)),
            _ => {
                if let Some(count) = count {
                    write_number(count, out);
                }
                Ok(())
            }
        })
    }

    /// Appends what the record of that number is named by.
    fn name(&mut self, record: u64, out: &mut Vec<u8>) -> Result<()> {
        match &mut self.ids {
            Some(ids) => ids.write(record, out),
            None => {
                write_number(record, out);
                Ok(())
            }
        }
    }
}
