//! All lists of a job, read and ready.

use ypogram_core::lists::Lists;
use ypogram_core::{Hasher, Judge, Policy};
use ypogram_io::Result;

use crate::lists::load::{ListReport, load};
use crate::lists::spec::{ListSpec, Matching};

/// The lists of a job, read and ready.
#[derive(Clone, Debug, Default)]
pub struct OwnLists {
    /// What the policy asks.
    pub lists: Lists,
    /// Which of them, by place, are held against a field rather than the address.
    pub matching: Vec<(usize, Matching)>,
    /// The columns that they append.
    pub columns: Vec<AppendedColumn>,
    /// What was found while they were read.
    pub reports: Vec<ListReport>,
}

/// A column that a list appends.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct AppendedColumn {
    /// The list, by place.
    pub list: usize,
    /// The column of the list, by place.
    pub column: usize,
    /// The name of the output's column.
    pub name: String,
    /// Whether the prefix of added columns stands before it.
    pub prefixed: bool,
}

/// The lists that append `columns`, by place, with their names.
pub(crate) fn lists_of(columns: &[AppendedColumn], lists: &Lists) -> Vec<(usize, String)> {
    let mut places: Vec<usize> = columns.iter().map(|column| column.list).collect();
    places.sort_unstable();
    places.dedup();
    places.into_iter().map(|place| (place, lists.get(place).purpose.name.clone())).collect()
}

impl OwnLists {
    /// Reads the lists that `specs` describe. Keys are made by `policy`.
    ///
    /// # Errors
    /// Where one cannot be read, or lacks a column that was named.
    pub fn load(specs: &[ListSpec], policy: &Policy) -> Result<Self> {
        let mut judge = Judge::new(policy, Hasher::with_key(0));
        let mut own = OwnLists::default();
        let mut lists = Vec::new();
        for (place, spec) in specs.iter().enumerate() {
            let (list, report) = load(spec, &mut judge)?;
            own.matching.extend(spec.matching.clone().map(|matching| (place, matching)));
            own.columns.extend(spec.columns.iter().enumerate().map(|(column, named)| AppendedColumn {
                list: place,
                column,
                name: named.name.clone(),
                prefixed: named.prefixed,
            }));
            own.reports.push(report);
            lists.push(list);
        }
        own.lists = Lists::new(lists);
        Ok(own)
    }
}
