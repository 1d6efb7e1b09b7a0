//! What `split` adds to a record: the parts of its address, the name that it shows, and what other values are cut into.

use std::collections::HashMap;

use ypogram_core::Part;
use ypogram_core::names::NameOrder;
use ypogram_io::Result;

use crate::engine::reading::Reading;
use crate::plan::columns::Column;
use crate::plan::cut::Cut;
use crate::plan::fields::FieldPlan;
use crate::plan::person::PersonFields;

/// What is asked for.
#[derive(Clone, Debug, Default)]
pub struct SplitWanted {
    /// The parts, each with the name of its column where it has one of its own.
    pub parts: Vec<(Part, Option<String>)>,
    /// The cuts, in order.
    pub cuts: Vec<Cut>,
    /// Which name stands first in local parts.
    pub orders: NameOrders,
    /// Fields that name a person; recognised by their names where none is given.
    pub persons: Vec<String>,
    /// The parts come where the address field stands, which does not come out itself.
    pub replace: bool,
    /// Each address of a record gets a row of its own.
    pub row_per_address: bool,
}

/// Which name stands first in local parts, by domain.
#[derive(Clone, Debug, Default)]
pub struct NameOrders {
    /// At every other domain.
    pub otherwise: NameOrder,
    /// At these (lower-case A-labels).
    pub by_domain: HashMap<String, NameOrder>,
}

impl NameOrders {
    /// The order at `domain`.
    pub fn at(&self, domain: &[u8]) -> NameOrder {
        if self.by_domain.is_empty() {
            return self.otherwise;
        }
        let named = std::str::from_utf8(domain).ok().and_then(|domain| self.by_domain.get(domain));
        named.copied().unwrap_or(self.otherwise)
    }
}

impl SplitWanted {
    /// Whether names are read out of local parts.
    pub fn wants_names(&self) -> bool {
        self.parts.iter().any(|(part, _)| part.is_of_name())
    }

    /// The columns that are added, each with the name that it was given.
    pub(crate) fn columns(&self, persons: Option<&PersonFields>) -> Vec<(Column, Option<String>)> {
        let parts = self.parts.iter().map(|(part, name)| (Column::Part(*part), name.clone()));
        let mut columns: Vec<_> = parts.collect();
        if persons.is_some() {
            columns.push((Column::Findings, None));
        }
        let cuts = self.cuts.iter().flat_map(Cut::columns).enumerate();
        columns.extend(cuts.map(|(place, name)| (Column::Cut(place as u16), Some(name.to_owned()))));
        columns
    }
}

/// The same, ready for the fields of a job.
#[derive(Debug, Default)]
pub(crate) struct SplitPlan {
    pub(crate) orders: NameOrders,
    /// Names are asked for.
    pub(crate) names: bool,
    /// A part is asked for that depends on the public suffix.
    pub(crate) suffixes: bool,
    /// The fields that a name is held against.
    pub(crate) persons: Option<PersonFields>,
    /// The cuts with the place of their field.
    cuts: Vec<(Cut, usize)>,
    /// For each column its cut and which of its columns it is.
    columns: Vec<(usize, usize)>,
}

impl SplitPlan {
    /// # Errors
    /// Where a field does not exist.
    pub(crate) fn settle(wanted: &SplitWanted, plan: &FieldPlan, reading: &Reading) -> Result<Self> {
        let place = |cut: &Cut| Ok((cut.clone(), plan.place_of(&cut.field, reading, "--cut")?));
        let cuts = wanted.cuts.iter().map(place).collect::<Result<Vec<_>>>()?;
        let columns = wanted.cuts.iter().enumerate();
        let columns =
            columns.flat_map(|(at, cut)| (0..cut.columns().count()).map(move |column| (at, column)));
        let persons = PersonFields::settle(&wanted.persons, plan, reading)?;
        Ok(SplitPlan {
            orders: wanted.orders.clone(),
            names: wanted.wants_names(),
            suffixes: wanted.parts.iter().any(|(part, _)| part.needs_suffix()),
            persons: Some(persons).filter(|persons| wanted.wants_names() && !persons.is_empty()),
            columns: columns.collect(),
            cuts,
        })
    }

    /// How many cuts there are.
    pub(crate) fn cuts(&self) -> usize {
        self.cuts.len()
    }

    /// What the cut column at `column` takes from the cell that `cell` gives of a field.
    pub(crate) fn take<'c>(
        &self,
        column: usize,
        cell: impl FnOnce(usize) -> Option<&'c [u8]>,
    ) -> Option<&'c [u8]> {
        let (cut, pick) = self.columns[column];
        let (cut, field) = &self.cuts[cut];
        cut.take(cell(*field)?, pick)
    }

    /// Calls `miss` with each cut that does not fit a cell which has something in it, and that cell.
    pub(crate) fn misses<'c>(
        &self,
        cell: impl Fn(usize) -> Option<&'c [u8]>,
        mut miss: impl FnMut(usize, &'c [u8]),
    ) {
        for (at, (cut, field)) in self.cuts.iter().enumerate() {
            let Some(cell) = cell(*field).filter(|cell| !cell.trim_ascii().is_empty()) else { continue };
            if (0..cut.columns().count()).any(|column| cut.take(cell, column).is_none()) {
                miss(at, cell);
            }
        }
    }
}
