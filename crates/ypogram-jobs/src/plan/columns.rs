//! The columns that Ypogram appends to a record.

use ypogram_core::Part;
use ypogram_io::ColumnType;
use ypogram_io::RowSpec;
use ypogram_io::{Error, Result};

use crate::lists::AppendedColumn;

macro_rules! columns {
    ($($variant:ident $name:literal $sentence:literal)*) => {
        /// A column that Ypogram can append.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Column {
            $(#[doc = concat!("`yp_", $name, "`: ", $sentence)] $variant,)*
            /// A column that a list of one's own brings along, by place among those columns.
            FromList(u16),
            /// A part of the address.
            Part(Part),
            /// What another value is cut into, by place among those columns.
            Cut(u16),
        }

        impl Column {
            /// Which pattern a value fits, else how far.
            pub(crate) const OF_PATTERNS: [Column; 2] = [Column::Pattern, Column::PatternWhy];
            /// What an address says by the house's formats.
            pub(crate) const OF_HOUSE: [Column; 3] = [Column::House, Column::HouseProposal, Column::HouseWhy];

            /// Every column.
            pub const ALL: &'static [Column] = &[$(Column::$variant),*];

            /// Its name without the prefix; empty for a column of a list or a cut, whose name is given there.
            pub const fn name(self) -> &'static str {
                match self {
                    $(Column::$variant => $name,)*
                    Column::FromList(_) | Column::Cut(_) => "",
                    Column::Part(part) => part.name(),
                }
            }

            /// What stands in it, in a sentence; empty for columns that are named elsewhere.
            pub const fn sentence(self) -> &'static str {
                match self {
                    $(Column::$variant => $sentence,)*
                    Column::FromList(_) | Column::Part(_) | Column::Cut(_) => "",
                }
            }
        }
    };
}

columns! {
    Input "input" "What stood on the line, where it is not one of the fields."
    Address "address" "The address in standard form; empty where its syntax is at fault."
    WellFormed "well_formed" "`true` or `false`: the value exactly as it stands is one address by the grammar in force."
    Verdict "verdict" "`accept`, `review` or `reject`; empty where there is no address."
    Findings "findings" "The codes of what was noticed, with spaces between them."
    Repairs "repairs" "The codes of what was changed to reach the standard form."
    Form "form" "How the address stood in its cell."
    Field "field" "The field in which it stood."
    LocalPart "local_part" "The local part."
    Domain "domain" "The domain, in A-labels."
    Class "class" "What kind of mailbox the domain gives."
    Operator "operator" "Who runs the domain, where that is known."
    HostedBy "hosted_by" "Who runs the mail host of the domain, where the DNS was asked."
    Key "key" "What addresses of one mailbox share under the rule in force."
    Decision "decision" "For whoever decides: `keep`, `take`, `drop` or another address."
    Why "why" "Why the record is asked about or rejected, in sentences."
    Suggestion "suggestion" "What was probably meant."
    Confidence "suggestion_confidence" "How sure the suggestion is: `sure`, `likely` or `guess`."
    Reason "suggestion_reason" "Why it is suggested."
    More "more" "Further addresses of the record, with commas between them."
    Remark "remark" "The words beside the address that are no name."
    Pattern "pattern" "Whether the value fits the pattern, or which of several it fits."
    PatternWhy "pattern_why" "How far a value fits that fits none."
    FieldsAtFault "fields_at_fault" "The fields that do not fulfil the rulebook's rules, each with the rule."
    House "house" "`fits`, or the parts at fault by the house's format."
    HouseProposal "house_proposal" "The address by the house's format."
    HouseWhy "house_why" "What is at fault by the house's format, in sentences."
    Lists "lists" "The lists of your own that speak of the address."
    SetAside "set_aside" "Why a usable record is set aside."
    Original "original" "What stood in the field that `--into` fills."
    Kind "kind" "What the cell holds."
    Source "source" "The source that the record is from."
    Line "line" "The line or row in which the record begins."
    Record "record" "The place of the record in its source, by which decisions name it."
    SameAs "same_as" "The record that stays in place of this one, by its place or `--id`."
    Compared "compared" "`new`, `known`, `withdrawn`, `duplicate` or `unusable`."
    KnownSource "known_source" "Where the known record is."
    KnownRecord "known_record" "The known record, by its place or identifier."
    KnownRule "known_rule" "The strictest rule by which it is the same mailbox."
    KnownSince "known_since" "Since when the register knows the mailbox."
    Answer "answer" "What the register answers."
    SameCount "same_count" "How many records have the mailbox."
}

impl Column {
    /// What all its cells hold; `with_id` where records are named by a field of theirs.
    pub(crate) fn column_type(self, with_id: bool) -> ColumnType {
        let number = ColumnType::Integer { bits: 64, signed: true };
        match self {
            Column::WellFormed => ColumnType::Bool,
            Column::Line | Column::Record | Column::SameCount | Column::KnownRecord => number,
            Column::SameAs if !with_id => number,
            _ => ColumnType::Text,
        }
    }

    /// Whether it can only be filled in when all records before are known.
    pub(crate) const fn depends_on_order(self) -> bool {
        matches!(
            self,
            Column::Line
                | Column::Record
                | Column::SameAs
                | Column::SameCount
                | Column::Compared
                | Column::KnownSource
                | Column::KnownRecord
                | Column::KnownRule
                | Column::KnownSince
                | Column::Answer
        )
    }
}

/// How columns are named.
#[derive(Clone, Copy, Debug)]
pub struct Naming<'a> {
    /// What the names start with.
    pub prefix: &'a str,
    /// The columns that lists append.
    pub from_lists: &'a [AppendedColumn],
}

impl<'a> Naming<'a> {
    /// With `prefix`, where no lists append columns.
    pub fn with(prefix: &'a str) -> Self {
        Naming { prefix, from_lists: &[] }
    }

    /// The names of all columns that there are.
    pub fn all_names(&self) -> Vec<String> {
        let from_lists = (0..self.from_lists.len()).map(|place| Column::FromList(place as u16));
        Column::ALL.iter().copied().chain(from_lists).map(|column| self.name(column)).collect()
    }

    /// The name of a column.
    pub(crate) fn name(&self, column: Column) -> String {
        match column {
            Column::FromList(place) => {
                let column = &self.from_lists[usize::from(place)];
                format!("{}{}", if column.prefixed { self.prefix } else { "" }, column.name)
            }
            Column::Part(part) => format!("{}{}", self.prefix, part.name().replace('-', "_")),
            column => format!("{}{}", self.prefix, column.name()),
        }
    }
}

/// The columns that are added to an output, in order, with their names.
#[derive(Clone, Debug)]
pub struct ColumnSet {
    columns: Vec<(Column, String)>,
}

impl ColumnSet {
    /// These columns, named by `naming`.
    ///
    /// # Errors
    /// Where one of `fields` has the name of one of them already, or two columns have one name.
    pub fn new(columns: Vec<Column>, naming: Naming<'_>, fields: &[String]) -> Result<Self> {
        ColumnSet::named(columns.into_iter().map(|column| (column, None)).collect(), naming, fields)
    }

    /// These columns under the names that were given to them, the others named by `naming`.
    ///
    /// # Errors
    /// Where one of `fields` has the name of one of them already, or two columns have one name.
    pub fn named(
        columns: Vec<(Column, Option<String>)>,
        naming: Naming<'_>,
        fields: &[String],
    ) -> Result<Self> {
        let named =
            columns.into_iter().map(|(column, name)| (column, name.unwrap_or_else(|| naming.name(column))));
        let set = ColumnSet { columns: named.collect() };
        let mut seen: Vec<String> = Vec::new();
        for name in set.names() {
            if fields.contains(&name) {
                return Err(Error::unusable(
                    format!("the source has a field ‘{name}’ already"),
                    "give Ypogram's columns another prefix with --prefix, such as --prefix new_, or the column another name",
                ));
            }
            if seen.contains(&name) {
                return Err(Error::unusable(
                    format!("there would be two columns ‘{name}’"),
                    "give one of them another name; a column of a list in the rulebook: columns = { owner = \"account owner\" }",
                ));
            }
            seen.push(name);
        }
        Ok(set)
    }

    /// Those of them that an output arranged like that has a use for.
    pub(crate) fn asked_for(&self, projection: &RowSpec) -> ColumnSet {
        let chosen = projection.columns.iter().map(|(name, _)| name);
        let sorted_by = projection.sort_by.iter().map(|by| &by.column);
        let named = chosen.chain(projection.changed.iter().map(|(name, _)| name)).chain(sorted_by);
        let named: Vec<&String> = named.collect();
        let asked_for =
            |(_, name): &&(Column, String)| projection.columns.is_empty() || named.contains(&name);
        ColumnSet { columns: self.columns.iter().filter(asked_for).cloned().collect() }
    }

    /// The columns, in order.
    pub fn iter(&self) -> impl Iterator<Item = Column> {
        self.columns.iter().map(|(column, _)| *column)
    }

    /// Their names, in order.
    pub fn names(&self) -> impl Iterator<Item = String> {
        self.columns.iter().map(|(_, name)| name.clone())
    }
}
