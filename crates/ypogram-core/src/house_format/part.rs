//! What an address of the house is made of.

/// What is at fault in an address that is not built as the house prescribes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum HousePart {
    /// The given name, or how much of it stands there.
    Given,
    /// The family name, or how much of it stands there.
    Family,
    /// Given name and family name stand the other way round.
    Order,
    /// Dots, hyphens and the like between the parts.
    Separator,
    /// Digits.
    Number,
    /// A fixed text.
    Literal,
    /// The labels before the house's domain.
    SubDomain,
    /// The domain.
    Domain,
    /// Something that the format has no place for.
    Surplus,
}

impl HousePart {
    /// Every one, in the order in which they are named.
    pub const ALL: [HousePart; 9] = [
        HousePart::Given,
        HousePart::Family,
        HousePart::Order,
        HousePart::Separator,
        HousePart::Number,
        HousePart::Literal,
        HousePart::SubDomain,
        HousePart::Domain,
        HousePart::Surplus,
    ];

    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            HousePart::Given => "given",
            HousePart::Family => "family",
            HousePart::Order => "order",
            HousePart::Separator => "separator",
            HousePart::Number => "number",
            HousePart::Literal => "literal",
            HousePart::SubDomain => "sub-domain",
            HousePart::Domain => "domain",
            HousePart::Surplus => "surplus",
        }
    }
}

/// Which name of a person.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum NameOf {
    Given,
    Family,
}

impl NameOf {
    pub(super) const fn part(self) -> HousePart {
        match self {
            NameOf::Given => HousePart::Given,
            NameOf::Family => HousePart::Family,
        }
    }

    /// What people call it.
    pub(super) const fn called(self) -> &'static str {
        match self {
            NameOf::Given => "given name",
            NameOf::Family => "family name",
        }
    }
}

/// How many letters or digits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Count {
    pub(crate) least: usize,
    /// None where there may be any number more.
    pub(crate) most: Option<usize>,
}

impl Count {
    pub(crate) const ANY: Count = Count { least: 1, most: None };

    pub(super) fn takes(self, count: usize) -> bool {
        count >= self.least && self.most.is_none_or(|most| count <= most)
    }
}

/// A piece of a local part.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Piece {
    /// A fixed text, in lower case.
    Literal(String),
    /// A name, or its first letters.
    Name(NameOf, Option<Count>),
    Digits(Count),
    /// What the record says in a field, by its place among those of the format.
    Field(usize),
}

impl Piece {
    /// The part that is at fault where the piece is.
    pub(super) fn part(&self) -> HousePart {
        match self {
            Piece::Literal(text) if is_separator(text) => HousePart::Separator,
            Piece::Literal(_) | Piece::Field(_) => HousePart::Literal,
            Piece::Name(of, _) => of.part(),
            Piece::Digits(_) => HousePart::Number,
        }
    }
}

/// Whether a text stands between parts and says nothing itself.
pub(super) fn is_separator(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| "._-+~".contains(c))
}

/// One way to build an address.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Sequence {
    pub(super) local: Vec<Piece>,
    /// In lower-case A-labels.
    pub(super) domain: String,
}
