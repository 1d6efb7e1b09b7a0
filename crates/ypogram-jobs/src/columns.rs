//! The columns that Ypogram appends to a record.

use ypogram_tables::{Error, Result};

use crate::lists::AppendedColumn;

macro_rules! columns {
    ($($variant:ident $name:literal)*) => {
        /// A column that Ypogram can append.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Column {
            $(#[doc = concat!("`yp_", $name, "`")] $variant,)*
            /// A column that a list of one's own brings along, by place among those columns.
            FromList(u16),
        }

        impl Column {
            /// Every column.
            pub const ALL: &'static [Column] = &[$(Column::$variant),*];

            /// Its name without the prefix; empty for a column of a list, whose name the list gives.
            pub const fn name(self) -> &'static str {
                match self {
                    $(Column::$variant => $name,)*
                    Column::FromList(_) => "",
                }
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
    Lists "lists"
    SetAside "set_aside"
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
    from_lists: Vec<AppendedColumn>,
}

impl ColumnSet {
    /// These columns, named with `prefix`, and those of lists among them as the lists name them.
    ///
    /// # Errors
    /// Where one of `fields` has the name of one of them already, or two columns have one name.
    pub fn new(
        columns: Vec<Column>,
        prefix: &str,
        from_lists: &[AppendedColumn],
        fields: &[String],
    ) -> Result<Self> {
        let set = ColumnSet { columns, prefix: prefix.to_owned(), from_lists: from_lists.to_vec() };
        let names: Vec<String> = set.names().collect();
        if let Some(twin) = names.iter().enumerate().find(|(place, name)| names[..*place].contains(name)) {
            return Err(Error::unusable(
                format!("there would be two columns ‘{}’", twin.1),
                "give the column of the list another name in the rulebook: columns = { owner = \"account owner\" }",
            ));
        }
        let taken = names.into_iter().find(|name| fields.contains(name));
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
        self.columns.iter().map(|column| match column {
            Column::FromList(place) => {
                let column = &self.from_lists[usize::from(*place)];
                format!("{}{}", if column.prefixed { &self.prefix } else { "" }, column.name)
            }
            column => format!("{}{}", self.prefix, column.name()),
        })
    }
}
