//! Where each row goes, with the values that depend on other records.

use ypogram_io::Result;

use crate::duplicates::decisions::End;
use crate::engine::id_store::IdStore;
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
        let row = part.goes_with_values(to);
        part.values.set_number(row, value::RECORD, record);
        self.set_same_as(part, row, other)
    }

    /// The next row of the part is the record of that number, without an address.
    pub(crate) fn has_no_address(&self, part: &mut Part, record: u64) {
        match self.sets_apart {
            true => {
                let row = part.goes_with_values(To::NoAddress);
                part.values.set_number(row, value::RECORD, record);
            }
            false => part.stays(),
        }
    }

    /// The next row of the part stays, marked with what it is the same as, and how many are; none of both where it has no address.
    ///
    /// # Errors
    /// Where the temporary folder cannot be read.
    pub(crate) fn is_marked(&mut self, part: &mut Part, marks: Option<(Option<u64>, u64)>) -> Result<()> {
        let row = part.goes_with_values(To::Kept);
        let Some((same_as, count)) = marks else { return Ok(()) };
        part.values.set_number(row, value::SAME_COUNT, count);
        same_as.map_or(Ok(()), |other| self.set_same_as(part, row, other))
    }

    /// Sets what the row is the same as: the record of that number, by its name where records have one.
    fn set_same_as(&mut self, part: &mut Part, row: usize, other: u64) -> Result<()> {
        let Some(ids) = &mut self.ids else {
            part.values.set_number(row, value::SAME_AS, other);
            return Ok(());
        };
        let mut written = Ok(());
        let place = part.values.append_with(|out| written = ids.write(other, out));
        part.values.set(row, value::SAME_AS, place);
        written
    }
}
