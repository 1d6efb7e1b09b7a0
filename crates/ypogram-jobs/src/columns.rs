//! The columns that Ypogram appends to a record.

use ypogram_tables::{Error, Result};

macro_rules! columns {
    ($($variant:ident $name:literal)*) => {
        /// A column that Ypogram can append.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Column {
            $(#[doc = concat!("`yp_", $name, "`")] $variant,)*
        }

        impl Column {
            /// Every column.
            pub const ALL: &'static [Column] = &[$(Column::$variant),*];

            /// Its name without the prefix.
            pub const fn name(self) -> &'static str {
                match self { $(Column::$variant => $name),* }
            }
        }
    };
}

columns! {
    Address "address"
    WellFormed "well_formed"
    Verdict "verdict"
    Findings "findings"
    Repairs "repairs"
    Form "form"
    Field "field"
    LocalPart "local_part"
    Domain "domain"
    Class "class"
    Operator "operator"
    Key "key"
    Suggestion "suggestion"
    More "more"
    Pattern "pattern"
    Kind "kind"
    Source "source"
    Line "line"
    Record "record"
    SameAs "same_as"
    SameCount "same_count"
}

impl Column {
    /// Whether it can only be filled in when all records before are known.
    pub(crate) const fn depends_on_order(self) -> bool {
        matches!(self, Column::Line | Column::Record | Column::SameAs | Column::SameCount)
    }
}

/// The columns of an output, in order, with their prefix.
#[derive(Clone, Debug)]
pub struct ColumnSet {
    columns: Vec<Column>,
    prefix: String,
}

impl ColumnSet {
    /// These columns, named with `prefix`.
    ///
    /// # Errors
    /// Where one of `fields` has the name of one of them already.
    pub fn new(columns: Vec<Column>, prefix: &str, fields: &[String]) -> Result<Self> {
        let set = ColumnSet { columns, prefix: prefix.to_owned() };
        let taken = set.names().find(|name| fields.contains(name));
        match taken {
            Some(taken) => Err(Error::unusable(
                format!("the source has a field ‘{taken}’ already"),
                "give Ypogram's columns another prefix with --prefix, such as --prefix new_",
            )),
            None => Ok(set),
        }
    }

    /// The columns, in order.
    pub fn iter(&self) -> impl Iterator<Item = Column> {
        self.columns.iter().copied()
    }

    /// Their names, in order.
    pub fn names(&self) -> impl Iterator<Item = String> {
        self.columns.iter().map(|column| format!("{}{}", self.prefix, column.name()))
    }
}
