//! Which columns come out, in which order, under which names, with which changes, and in which order of rows.

use std::collections::HashSet;

use crate::records::column_type::ColumnType;
use crate::records::error::{Error, Result, some_of};
use crate::records::format::Format;
use crate::records::nearest::nearest;
use crate::rows::TextEncoding;

/// What is asked of the rows of an output: their format, their columns, by their names, and their order.
#[derive(Clone, Debug, Default)]
pub struct RowSpec {
    /// The format; that which the name of the output tells, or that of the source, where none is given.
    pub format: Option<Format>,
    /// The columns that come out, in order, each with its name there; all as they stand where there is none.
    pub columns: Vec<(String, String)>,
    /// Columns that do not come out, where none are chosen.
    pub left_out: Vec<String>,
    /// Columns whose cells are changed, and how.
    pub changed: Vec<(String, Change)>,
    /// Columns by which rows are sorted, whether they come out or not; equal rows stay in their order.
    pub sort_by: Vec<SortBy>,
    /// Bytes of memory for rows that are sorted; past that they go to temporary files.
    pub memory: usize,
    /// Cells that a spreadsheet would take for formulas come out with an apostrophe in front.
    pub guard_formulas: bool,
    /// The encoding of an output of text.
    pub encoding: TextEncoding,
    /// What the names of added columns start with, so that they can be named without it; nothing where they cannot.
    pub prefix: String,
}

/// Appends bytes that put cells in order when compared byte by byte.
pub type KeyOf = fn(&[u8], &mut Vec<u8>);

/// A column that rows are sorted by.
#[derive(Clone, Debug)]
pub struct SortBy {
    /// Its name.
    pub column: String,
    /// The greatest first; what is empty comes last all the same.
    pub downwards: bool,
    /// How its cells are put in order.
    pub key: KeyOf,
}

/// What becomes of a cell.
pub type Change = fn(&[u8]) -> Vec<u8>;

impl RowSpec {
    /// Whether rows stay as they are.
    pub fn is_none(&self) -> bool {
        !self.guard_formulas && self.names_none()
    }

    /// Whether it names no column.
    pub fn names_none(&self) -> bool {
        self.columns.is_empty()
            && self.left_out.is_empty()
            && self.changed.is_empty()
            && self.sort_by.is_empty()
    }

    /// Nothing of it but the guard against formulas: for tables with columns of their own.
    #[must_use]
    pub fn guard_alone(&self) -> Self {
        RowSpec {
            format: self.format,
            guard_formulas: self.guard_formulas,
            encoding: self.encoding,
            ..RowSpec::default()
        }
    }

    /// The same with the names that `header` has: an added column can be named with and without its prefix, unless there is one of that name.
    #[must_use]
    pub fn with_whole_names(&self, header: &[String]) -> Self {
        let mut whole = self.clone();
        let has = |name: &str| header.iter().any(|known| known.eq_ignore_ascii_case(name));
        let complete = |name: &mut String| {
            if self.prefix.is_empty() || has(name) {
                return;
            }
            let longer = format!("{}{name}", self.prefix);
            let shorter = name.strip_prefix(&*self.prefix).map(str::to_owned);
            if let Some(other) = std::iter::once(longer).chain(shorter).find(|other| has(other)) {
                *name = other;
            }
        };
        for (name, shown) in &mut whole.columns {
            let is_shown_so = name == shown;
            complete(name);
            if is_shown_so {
                shown.clone_from(name);
            }
        }
        whole.left_out.iter_mut().for_each(complete);
        whole.changed.iter_mut().for_each(|(name, _)| complete(name));
        whole.sort_by.iter_mut().for_each(|by| complete(&mut by.column));
        whole
    }

    /// What of it names columns of `header`: for one of several outputs that do not all have the same columns.
    #[must_use]
    pub fn within(&self, header: &[String]) -> Self {
        let mut within = self.with_whole_names(header);
        within.columns.retain(|(name, _)| header.contains(name));
        within.left_out.retain(|name| header.contains(name));
        within.changed.retain(|(name, _)| header.contains(name));
        within.sort_by.retain(|by| header.contains(&by.column));
        within
    }
}

/// Where the cells of a column come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ColumnSource {
    /// The own field at that place among those of the output.
    Own(usize),
    /// The added column at that place.
    Added(usize),
}

/// A column that comes out.
#[derive(Clone, Debug)]
pub(crate) struct OutColumn {
    pub(crate) name: String,
    /// Its name before it was given another.
    pub(crate) original: String,
    pub(crate) source: ColumnSource,
    pub(crate) change: Option<Change>,
    pub(crate) column_type: ColumnType,
}

/// The columns of an output, settled when a job is planned.
#[derive(Clone, Debug)]
pub struct Projection {
    pub(crate) columns: Vec<OutColumn>,
    /// What a record has beyond the fields of its source comes out behind them.
    pub(crate) with_surplus: bool,
    pub(crate) guard_formulas: bool,
    pub(crate) encoding: TextEncoding,
    /// All own fields and then all added ones come out as they stand.
    pub(crate) is_everything: bool,
    pub(crate) own_fields: usize,
    pub(crate) sort_by: Vec<(ColumnSource, SortBy)>,
    pub(crate) memory: usize,
}

impl Projection {
    /// Of rows with the fields `own` and behind them the columns `added`.
    ///
    /// # Errors
    /// Where a column is named that they do not have, or two would have one name.
    pub fn new(spec: &RowSpec, own: &[String], added: &[String]) -> Result<Self> {
        let header = [own, added].concat();
        let spec = &spec.with_whole_names(&header);
        let place = |name: &str| place_of(name, &header);
        let source = |place: usize| match place.checked_sub(own.len()) {
            Some(added) => ColumnSource::Added(added),
            None => ColumnSource::Own(place),
        };
        let chosen: Vec<(usize, String)> = match spec.columns.is_empty() {
            true => {
                let left_out = spec.left_out.iter().map(|name| place(name));
                let left_out = left_out.collect::<Result<Vec<usize>>>()?;
                header.iter().cloned().enumerate().filter(|(place, _)| !left_out.contains(place)).collect()
            }
            false => {
                let columns = spec.columns.iter();
                columns.map(|(name, shown)| Ok((place(name)?, shown.clone()))).collect::<Result<_>>()?
            }
        };
        let mut seen = HashSet::new();
        if !spec.names_none()
            && let Some((_, twin)) = chosen.iter().find(|(_, name)| !seen.insert(name))
        {
            return Err(Error::unusable(
                format!("two columns would be called ‘{twin}’"),
                "give one of them another name, as in --columns name=Name",
            ));
        }
        let sort_place = |by: &SortBy| {
            let renamed = chosen.iter().find(|(_, shown)| *shown == by.column).map(|(place, _)| *place);
            let place = renamed.map_or_else(|| place_of(&by.column, &header), Ok);
            Ok((source(place?), by.clone()))
        };
        let sort_by = spec.sort_by.iter().map(sort_place).collect::<Result<Vec<_>>>()?;
        let changes = spec.changed.iter().map(|(name, change)| Ok((place(name)?, *change)));
        let changes = changes.collect::<Result<Vec<(usize, Change)>>>()?;
        let change_of =
            |place: usize| changes.iter().rfind(|(of, _)| *of == place).map(|(_, change)| *change);
        let columns = chosen.into_iter().map(|(place, name)| OutColumn {
            name,
            original: header[place].clone(),
            source: source(place),
            change: change_of(place),
            column_type: ColumnType::Text,
        });
        Ok(Projection {
            columns: columns.collect(),
            with_surplus: spec.columns.is_empty(),
            guard_formulas: spec.guard_formulas,
            encoding: spec.encoding,
            is_everything: RowSpec { sort_by: Vec::new(), ..spec.clone() }.is_none(),
            own_fields: own.len(),
            sort_by,
            memory: spec.memory,
        })
    }

    /// The same with the types of the own fields and of the added columns, for formats that have types for whole columns.
    #[must_use]
    pub fn with_types(mut self, own: &[ColumnType], added: &[ColumnType]) -> Self {
        for column in &mut self.columns {
            let found = match column.source {
                ColumnSource::Own(place) => own.get(place),
                ColumnSource::Added(place) => added.get(place),
            };
            // What is changed may be anything.
            column.column_type = found.copied().filter(|_| column.change.is_none()).unwrap_or_default();
        }
        self
    }

    /// The types of the columns, in order.
    pub(crate) fn types(&self) -> impl Iterator<Item = ColumnType> {
        self.columns.iter().map(|column| column.column_type)
    }

    /// The names of the columns, in order.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.columns.iter().map(|column| &*column.name)
    }

    /// The place among the columns of the added one whose name ends with `name`, whatever it is called here.
    pub(crate) fn added_column(&self, name: &str) -> Option<usize> {
        let is_it = |column: &OutColumn| {
            matches!(column.source, ColumnSource::Added(_)) && column.original.ends_with(name)
        };
        self.columns.iter().position(is_it)
    }

    /// Whether rows are sorted.
    pub fn is_sorted(&self) -> bool {
        !self.sort_by.is_empty()
    }
}

fn place_of(name: &str, names: &[String]) -> Result<usize> {
    let exact = names.iter().position(|known| known == name);
    exact.or_else(|| names.iter().position(|known| known.eq_ignore_ascii_case(name))).ok_or_else(|| {
        Error::unusable(
            format!("there is no column ‘{name}’ in the output"),
            match nearest(name, names.iter().map(String::as_str)) {
                Some(nearest) => format!("did you mean ‘{nearest}’? Its columns are: {}", some_of(names)),
                None => format!("its columns are: {}", some_of(names)),
            },
        )
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The columns that come out of `name,yp_address,yp_key` where these are asked for, and why not.
    fn chosen(
        prefix: &str,
        own: &[&str],
        columns: &[(&str, &str)],
    ) -> std::result::Result<Vec<String>, String> {
        let texts = |texts: &[&str]| texts.iter().map(|text| (*text).to_owned()).collect::<Vec<_>>();
        let spec = RowSpec {
            prefix: prefix.to_owned(),
            columns: columns.iter().map(|(name, shown)| ((*name).to_owned(), (*shown).to_owned())).collect(),
            ..RowSpec::default()
        };
        let projection = Projection::new(&spec, &texts(own), &texts(&["yp_address", "yp_key"]));
        projection
            .map(|projection| projection.names().map(str::to_owned).collect())
            .map_err(|error| error.message)
    }

    #[test]
    fn added_columns_have_two_names() {
        let (plain, with_own) = (&["name"][..], &["name", "address"][..]);
        for (own, asked, columns) in [
            (plain, &[("address", "address")][..], &["yp_address"][..]),
            (plain, &[("yp_address", "yp_address"), ("KEY", "KEY")], &["yp_address", "yp_KEY"]),
            (plain, &[("address", "Address")], &["Address"]),
            // A column of one's own goes before, and both can be named.
            (with_own, &[("address", "address"), ("yp_address", "yp_address")], &["address", "yp_address"]),
            // Nothing is said twice.
            (with_own, &[("yp_name", "yp_name")], &["name"]),
        ] {
            assert_eq!(chosen("yp_", own, asked).unwrap(), columns, "{asked:?}");
        }
        assert!(chosen("", plain, &[("address", "address")]).is_err());
        assert!(chosen("x_", plain, &[("address", "address")]).is_err());
        let twice = chosen("yp_", plain, &[("address", "address"), ("yp_address", "yp_address")]);
        assert_eq!(twice.unwrap_err(), "two columns would be called ‘yp_address’");
    }

    #[test]
    fn sorting_and_leaving_out_go_by_both_names() {
        let header = ["name".to_owned(), "yp_key".to_owned()];
        let spec = RowSpec {
            prefix: "yp_".to_owned(),
            left_out: vec!["key".to_owned(), "other".to_owned()],
            sort_by: vec![SortBy { column: "key".to_owned(), downwards: true, key: |_, _| {} }],
            ..RowSpec::default()
        };
        let within = spec.within(&header);
        assert_eq!((&*within.left_out, &*within.sort_by[0].column), (&["yp_key".to_owned()][..], "yp_key"));
    }
}
