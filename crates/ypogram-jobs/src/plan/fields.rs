//! Which fields hold addresses: as given, or found by looking at the first records.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};
use ypogram_core::{Judge, Policy};
use ypogram_io::{Error, Record, Result, Schema, nearest, some_of};

use crate::engine::blank::is_blank;
use crate::engine::header_cells::holds_whole_cell_address;
use crate::engine::reading::Reading;
use crate::engine::shortened::shortened;
use crate::lists::{Matching, PlacedList};
use crate::plan::person_field_names::names_a_person;

/// The fields a job was asked to look at.
#[derive(Clone, Debug, Default)]
pub struct FieldChoice {
    /// Fields that should hold an address and nothing else, in order of preference.
    pub address: Vec<String>,
    /// Fields that may hold one among other words, in order of preference.
    pub text: Vec<String>,
    /// Fields that name a person; without any, those whose names say so.
    pub person: Vec<String>,
    /// The field that distinguishes records.
    pub id: Option<String>,
    /// Fields that are held against a list, by its place among the lists of the policy.
    pub lists: Vec<(usize, Matching)>,
}

/// How the address fields came to be.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "chosen", rename_all = "kebab-case")]
pub enum HowChosen {
    /// They were named.
    Named,
    /// It has the most whole-cell addresses in the first records.
    MostAddresses {
        /// Addresses there.
        addresses: u64,
        /// Records that were looked at.
        records: u64,
    },
    /// It is the only field.
    OnlyField,
    /// No field held a whole-cell address in the records looked at.
    #[default]
    NoneFound,
}

/// The fields of a job, united over its sources, and what part each plays.
#[derive(Clone, Debug)]
pub struct FieldPlan {
    /// Every field, in the order of the first source that has it.
    pub fields: Vec<String>,
    /// The address fields, as places in `fields`.
    pub address: Vec<usize>,
    /// The text fields, as places in `fields`.
    pub text: Vec<usize>,
    /// The fields that name a person, as places in `fields`: words beside an address are a name where they stand there.
    pub(crate) names: Vec<usize>,
    /// The fields that distinguish records, as places in `fields`: the one that was named, else the primary key of a table.
    pub id: Vec<usize>,
    /// The lists that are held against a field.
    pub(crate) lists: Vec<PlacedList>,
    /// How the address fields were chosen.
    pub how: HowChosen,
    /// For each source and field, the place in the source's own records.
    pub(crate) places: Vec<Vec<Option<usize>>>,
}

/// How many records are looked at to find the address field.
const LOOKED_AT: usize = 10_000;

impl FieldPlan {
    /// Settles the fields of `reading` by `choice`.
    ///
    /// # Errors
    /// Where a field that was named does not exist.
    pub(crate) fn settle(reading: &mut Reading, choice: &FieldChoice, policy: &Policy) -> Result<Self> {
        let (fields, places) = united(reading);
        let mut plan = FieldPlan::of_fields(fields, places);
        plan.text = plan.named(&choice.text, reading, "--also")?;
        plan.address = plan.named(&choice.address, reading, "--field")?;
        if let Some(both) = plan.address.iter().find(|field| plan.text.contains(field)) {
            let name = &plan.fields[*both];
            return Err(Error::unusable(
                format!("the field {name} is named as an address field and as a text field"),
                "name it once: with --field where it should hold an address only, with --also where it holds text",
            ));
        }
        plan.names = plan.fields_of_persons(&choice.person, reading)?;
        plan.names.retain(|field| !plan.address.contains(field) && !plan.text.contains(field));
        plan.id = match &choice.id {
            Some(id) => vec![plan.place_of(id, reading, "--id")?],
            None => plan.primary_key(reading),
        };
        for (list, matching) in &choice.lists {
            let named_by = format!("match of list {}:", policy.lists.get(*list).purpose.name);
            let field = plan.place_of(&matching.field, reading, &named_by)?;
            plan.lists.push(PlacedList { list: *list, field, by: matching.by.clone() });
        }
        if choice.address.is_empty() {
            plan.find_address_fields(reading, policy)?;
        }
        Ok(plan)
    }

    fn named(&self, names: &[String], reading: &Reading, option: &str) -> Result<Vec<usize>> {
        let places = names.iter().map(|name| self.place_of(name, reading, option));
        let mut places = places.collect::<Result<Vec<_>>>()?;
        let mut seen = Vec::new();
        places.retain(|place| {
            !seen.contains(place) && {
                seen.push(*place);
                true
            }
        });
        Ok(places)
    }

    /// The place of the field of that name.
    ///
    /// # Errors
    /// Where there is none.
    pub(crate) fn place_of(&self, name: &str, reading: &Reading, option: &str) -> Result<usize> {
        let exact = self.fields.iter().position(|field| field == name);
        exact
            .or_else(|| self.fields.iter().position(|field| field.eq_ignore_ascii_case(name)))
            .ok_or_else(|| self.no_such_field(name, reading, option))
    }

    /// The fields that name a person: those of these names, without any those whose names say so.
    ///
    /// # Errors
    /// Where one that is named does not exist.
    pub(crate) fn fields_of_persons(&self, names: &[String], reading: &Reading) -> Result<Vec<usize>> {
        if names.is_empty() {
            return Ok((0..self.fields.len()).filter(|&field| names_a_person(&self.fields[field])).collect());
        }
        names.iter().map(|name| self.place_of(name, reading, "--person")).collect()
    }

    /// Whether the list at place `list` has an entry for the record: for what stands in the field that is held against it, else for the address
    /// that the judge holds. None where there is nothing to look up.
    pub(crate) fn looks_up(
        &self,
        list: usize,
        record: Record<'_>,
        address: Option<&Judge<'_>>,
        policy: &Policy,
    ) -> Option<bool> {
        match self.lists.iter().find(|placed| placed.list == list) {
            Some(placed) => {
                let cell = self.cell(record, placed.field).filter(|cell| !is_blank(cell))?;
                Some(placed.entry(&policy.lists, cell).is_some())
            }
            None => Some(address?.entry_in(list).is_some()),
        }
    }

    fn no_such_field(&self, name: &str, reading: &Reading, option: &str) -> Error {
        let source = reading.name(0);
        let described = reading.schemas().map(|schema| &*schema.described);
        let otherwise = described.filter_map(read_otherwise).next().unwrap_or_default();
        Error::unusable(
            format!("{source}: there is no field ‘{name}’"),
            format!("{}{otherwise}", nearest_field(name, &self.fields, option)),
        )
    }

    /// Every field as a text field.
    pub(crate) fn of_all(reading: &Reading) -> Self {
        let (fields, places) = united(reading);
        let text = (0..fields.len()).collect();
        FieldPlan { text, ..FieldPlan::of_fields(fields, places) }
    }

    fn of_fields(fields: Vec<String>, places: Vec<Vec<Option<usize>>>) -> Self {
        FieldPlan {
            fields,
            address: vec![],
            text: vec![],
            names: vec![],
            id: vec![],
            lists: vec![],
            how: HowChosen::Named,
            places,
        }
    }

    /// Just the fields that are named, as text fields.
    ///
    /// # Errors
    /// Where one does not exist.
    pub(crate) fn named_only(reading: &Reading, choice: &FieldChoice) -> Result<Self> {
        let mut plan = FieldPlan::of_all(reading);
        plan.text = plan.named(&choice.text, reading, "--field")?;
        Ok(plan)
    }

    /// Takes from each source the field with the most whole-cell addresses, the leftmost of equals.
    fn find_address_fields(&mut self, reading: &mut Reading, policy: &Policy) -> Result<()> {
        let free: Vec<usize> = (0..self.fields.len()).filter(|field| !self.text.contains(field)).collect();
        if self.fields.len() == 1 {
            self.address = free;
            self.how = HowChosen::OnlyField;
            return Ok(());
        }
        self.how = HowChosen::NoneFound;
        for source in 0..reading.len() {
            let (counts, records) = self.count_addresses(reading, source, policy)?;
            let best = free.iter().copied().rev().max_by_key(|&field| counts[field]);
            let Some(field) = best.filter(|&field| counts[field] > 0) else { continue };
            if self.address.is_empty() {
                self.how = HowChosen::MostAddresses { addresses: counts[field], records };
            }
            if !self.address.contains(&field) {
                self.address.push(field);
            }
        }
        Ok(())
    }

    fn count_addresses(
        &self,
        reading: &mut Reading,
        source: usize,
        policy: &Policy,
    ) -> Result<(Vec<u64>, u64)> {
        let mut counts = vec![0; self.fields.len()];
        let mut records = 0;
        let places = &self.places[source];
        reading.look_ahead(source, LOOKED_AT, |batch, chunk| {
            for record in batch.records(chunk).take(LOOKED_AT - records as usize) {
                records += 1;
                for (count, cell) in
                    counts.iter_mut().zip(places.iter().map(|place| place.and_then(|i| record.cell(i))))
                {
                    *count += u64::from(cell.is_some_and(|cell| holds_whole_cell_address(cell, policy)));
                }
            }
        })?;
        Ok((counts, records))
    }

    /// The cell of `record` in the field at place `field`.
    #[inline]
    pub(crate) fn cell<'c>(&self, record: Record<'c>, field: usize) -> Option<&'c [u8]> {
        self.places[record.source()][field].and_then(|place| record.cell(place))
    }

    /// The same with whatever stands behind it, and how many bytes the cell has.
    #[inline]
    pub(crate) fn cell_and_behind<'c>(&self, record: Record<'c>, field: usize) -> Option<(&'c [u8], usize)> {
        self.places[record.source()][field].and_then(|place| record.cell_and_behind(place))
    }

    /// The fields of the primary key, where all sources have the same.
    fn primary_key(&self, reading: &Reading) -> Vec<usize> {
        let key_of = |(schema, places): (&Schema, &Vec<Option<usize>>)| -> Vec<usize> {
            let place = |own: &usize| places.iter().position(|place| *place == Some(*own));
            schema.key.iter().filter_map(place).collect()
        };
        let mut keys = reading.schemas().zip(&self.places).map(key_of);
        let key = keys.next().unwrap_or_default();
        if keys.all(|other| other == key) { key } else { Vec::new() }
    }

    /// Whether fields of theirs identify records.
    pub(crate) fn has_id(&self) -> bool {
        !self.id.is_empty()
    }

    /// What `record` says in the fields that distinguish records.
    pub(crate) fn id(&self, record: Record<'_>) -> Option<String> {
        let mut id = Vec::new();
        self.write_id(record, &mut id);
        (!id.is_empty()).then(|| shortened(&id))
    }

    /// Appends what `record` says in the fields that distinguish records, with a comma between several.
    pub(crate) fn write_id(&self, record: Record<'_>, out: &mut Vec<u8>) {
        for (nth, field) in self.id.iter().enumerate() {
            out.extend_from_slice(if nth > 0 { b", " } else { b"" });
            out.extend_from_slice(self.cell(record, *field).unwrap_or_default());
        }
    }

    /// Whether addresses may stand in other fields for the most part: none was named, and none of them holds mostly addresses.
    pub(crate) fn looks_in_the_wrong_place(&self) -> bool {
        match self.how {
            HowChosen::NoneFound => true,
            HowChosen::MostAddresses { addresses, records } => addresses * 2 < records,
            HowChosen::Named | HowChosen::OnlyField => false,
        }
    }

    /// The fields that were looked at: what tells records apart, and the address and text fields.
    pub fn looked_at(&self) -> impl Iterator<Item = &str> {
        let fields = self.id.iter().chain(&self.address).chain(&self.text);
        fields.map(|&field| &*self.fields[field])
    }

    /// The address fields' names, in order.
    pub fn address_names(&self) -> Vec<&str> {
        self.address.iter().map(|&field| &*self.fields[field]).collect()
    }

    /// The text fields' names, in order.
    pub fn text_names(&self) -> Vec<&str> {
        self.text.iter().map(|&field| &*self.fields[field]).collect()
    }
}

fn united(reading: &Reading) -> (Vec<String>, Vec<Vec<Option<usize>>>) {
    let mut fields: Vec<String> = Vec::new();
    let mut seen = HashSet::new();
    for field in reading.schemas().flat_map(|schema| &schema.fields) {
        if seen.insert(field) || reading.len() == 1 {
            fields.push(field.clone());
        }
    }
    let places = |schema: &Schema| {
        if reading.len() == 1 {
            return (0..fields.len()).map(Some).collect();
        }
        let places = schema.places();
        fields.iter().map(|field| places.get(&**field).copied()).collect()
    };
    let places = reading.schemas().map(places).collect();
    (fields, places)
}

/// How a source can be read otherwise than it was recognised to be, so that it may have the field.
fn read_otherwise(described: &str) -> Option<&'static str> {
    if described.contains("without a header: ") {
        Some("; the first line was taken for a record: if it names the fields, say --header 1")
    } else if described.contains(" by its content,") {
        Some("; it was taken for a table: to read it line by line, say --from text")
    } else {
        None
    }
}

/// What to say where a field does not exist: the nearest one, and all there are.
pub(crate) fn nearest_field(name: &str, fields: &[String], option: &str) -> String {
    let all = some_of(fields);
    match nearest(name, fields.iter().map(String::as_str)) {
        Some(nearest) => {
            format!("did you mean {option} {}? The fields are: {all}", quoted_for_shell(nearest))
        }
        None => format!("the fields are: {all}"),
    }
}

/// A name as it can be copied into a shell.
pub(crate) fn quoted_for_shell(name: &str) -> String {
    let plain = name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | '.'));
    if plain { name.to_owned() } else { format!("'{}'", name.replace('\'', r"'\''")) }
}
