//! Fields that differ between a new record and the known one with its mailbox.

use ypogram_io::{Output, Record, Result, RowSpec, SortedRows, Target};

use crate::engine::packed_cells::{pack, unpack};
use crate::engine::side_table::SideTable;
use crate::plan::fields::FieldPlan;

/// In how many records each field differs, those that differ in some.
pub(crate) type FieldCounts = Vec<(String, u64)>;

/// The records of both sides while they are gathered.
pub(crate) struct Differences {
    /// The fields that both have: the name, the place in the new records, and in the known ones.
    fields: Vec<(String, usize, usize)>,
    /// By known record; behind it the new ones with its mailbox.
    records: SortedRows,
    most: usize,
}

impl Differences {
    /// None yet, of the fields that both plans have.
    pub(crate) fn within(most: usize, new: &FieldPlan, known: &FieldPlan) -> Self {
        let place = |name: &String| known.fields.iter().position(|other| other.eq_ignore_ascii_case(name));
        let fields = new.fields.iter().enumerate();
        let fields = fields.filter_map(|(nth, name)| Some((name.clone(), nth, place(name)?)));
        Differences { fields: fields.collect(), records: SortedRows::within(most), most }
    }

    /// Adds a known record, which a new one has the mailbox of.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add_known(&mut self, number: u64, record: Record<'_>, plan: &FieldPlan) -> Result<()> {
        let cells = packed(self.fields.iter().map(|(_, _, place)| *place), record, plan);
        self.records.add(&[&number.to_be_bytes()[..], &[0]].concat(), &cells)
    }

    /// Adds a new record, whose mailbox the known one of that number has.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add_new(
        &mut self,
        known: u64,
        number: u64,
        record: Record<'_>,
        plan: &FieldPlan,
    ) -> Result<()> {
        let cells = packed(self.fields.iter().map(|(_, place, _)| *place), record, plan);
        self.records.add(&[&known.to_be_bytes()[..], &[1], &number.to_be_bytes()].concat(), &cells)
    }

    /// Writes what differs to `target`, in the order of the new records; gives in how many records each field does, those in which it
    /// does, and the file, which is not published yet.
    ///
    /// # Errors
    /// Where the file exists or cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(
        self,
        target: Option<&Target>,
        spec: &RowSpec,
    ) -> Result<(FieldCounts, Option<Output>)> {
        let Differences { fields, mut records, most } = self;
        let mut counts = vec![0_u64; fields.len()];
        let mut differing = SortedRows::within(most);
        let mut present: (u64, Vec<Vec<u8>>) = (0, Vec::new());
        records.finish(&mut |key, row| {
            let (known, rest) = key.split_first_chunk().expect("a number");
            let (known, cells) = (u64::from_be_bytes(*known), unpack(row).map(<[u8]>::to_vec));
            if rest[0] == 0 {
                present = (known, cells.collect());
                return Ok(());
            }
            for (nth, (new, old)) in cells.zip(&present.1).enumerate() {
                if new.trim_ascii() != old.trim_ascii() {
                    counts[nth] += 1;
                    let key = [&rest[1..], &(nth as u32).to_be_bytes()].concat();
                    let mut row = present.0.to_le_bytes().to_vec();
                    pack(&new, &mut row);
                    pack(old, &mut row);
                    differing.add(&key, &row)?;
                }
            }
            Ok(())
        })?;
        let columns = ["record", "known_record", "field", "value", "known_value"];
        let open =
            |target| SideTable::open(target, &columns, &["record", "known_record"], &spec.guard_alone());
        let mut table = target.map(open).transpose()?;
        if let Some(table) = &mut table {
            differing.finish(&mut |key, row| {
                let (record, field) = key.split_first_chunk().expect("a number");
                let field = u32::from_be_bytes(field.try_into().expect("a place")) as usize;
                let (known, cells) = row.split_first_chunk().expect("a number");
                let (record, known) = (u64::from_be_bytes(*record), u64::from_le_bytes(*known));
                let mut cells = unpack(cells);
                let (record, known) = (record.to_string(), known.to_string());
                let (value, before) = (cells.next().unwrap_or_default(), cells.next().unwrap_or_default());
                table.add([record.as_bytes(), known.as_bytes(), fields[field].0.as_bytes(), value, before])
            })?;
        }
        let named = fields.into_iter().map(|(name, ..)| name).zip(counts).filter(|(_, count)| *count > 0);
        Ok((named.collect(), table.map(SideTable::finish).transpose()?))
    }
}

fn packed(places: impl Iterator<Item = usize>, record: Record<'_>, plan: &FieldPlan) -> Vec<u8> {
    let mut cells = Vec::new();
    places.for_each(|place| pack(plan.cell(record, place).unwrap_or_default(), &mut cells));
    cells
}
