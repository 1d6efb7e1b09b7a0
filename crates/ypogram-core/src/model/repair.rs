//! Changes made to reach the standard form; none of them can change which mailbox is meant.

use serde::{Serialize, Serializer};

use crate::model::codes::{Code, CodeSet};

macro_rules! repairs {
    ($($variant:ident $name:literal $sentence:literal)*) => {
        /// A change made to reach the standard form.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        #[repr(u8)]
        pub enum Repair {
            $(#[doc = $sentence] $variant,)*
        }

        impl Repair {
            /// Every repair, in the order in which they are named.
            pub const ALL: &'static [Repair] = &[$(Repair::$variant),*];

            /// The code as it is written everywhere, such as `angle-brackets`.
            pub fn name(self) -> &'static str {
                match self { $(Repair::$variant => $name),* }
            }

            /// One sentence for people.
            pub fn sentence(self) -> &'static str {
                match self { $(Repair::$variant => $sentence),* }
            }
        }
    };
}

repairs! {
    Trimmed "trimmed" "White space around it was removed."
    Invisible "invisible" "Characters that show nothing were removed."
    FullWidth "full-width" "Full-width characters became ordinary ones."
    Entities "entities" "Character references and escapes, such as &amp; and \\u0026, were decoded."
    Percent "percent" "Percent-encoding was decoded."
    Mailto "mailto" "The prefix mailto: was removed, with what follows a question mark."
    AngleBrackets "angle-brackets" "Angle brackets were removed."
    NameRemoved "name" "A display name or comment was set aside."
    Label "label" "A label such as E-mail: was removed."
    Telephone "telephone" "A telephone number beside it was set aside."
    Unwrapped "unwrapped" "Quotation marks or brackets around it were removed."
    Candidate "sign" "A single sign beside it was removed."
    TakenFromText "from-text" "It was taken out of the words around it."
    OneOfSeveral "one-of-several" "It was taken out of a list of several."
    SpaceAroundAt "space-around-at" "White space beside the @ was removed."
    Quotes "quotes" "Quotation marks that the local part does not need were removed."
    LocalCase "local-part-case" "The local part was written in lower case."
    DomainCase "domain-case" "The domain was written in lower case."
    UnicodeForm "unicode-form" "Letters were composed to one form (NFC)."
    ALabel "a-label" "The domain was written in A-labels (IDNA)."
    Decided "decided" "Somebody decided that another address is meant."
}

impl Repair {
    /// The finding that an entry has which would need this repair, where it has to be right as it was typed; none for what is
    /// no fault there: letter case, a domain in its own letters, quotes that are not needed.
    pub fn as_typed(self) -> Option<Code> {
        Some(match self {
            Repair::Trimmed => Code::AsTypedTrimmed,
            Repair::Invisible => Code::AsTypedInvisible,
            Repair::FullWidth => Code::AsTypedFullWidth,
            Repair::Entities => Code::AsTypedEntities,
            Repair::Percent => Code::AsTypedPercent,
            Repair::Mailto => Code::AsTypedMailto,
            Repair::AngleBrackets => Code::AsTypedAngleBrackets,
            Repair::NameRemoved => Code::AsTypedName,
            Repair::Label => Code::AsTypedLabel,
            Repair::Telephone => Code::AsTypedTelephone,
            Repair::Unwrapped => Code::AsTypedUnwrapped,
            Repair::Candidate => Code::AsTypedSign,
            Repair::TakenFromText => Code::AsTypedFromText,
            Repair::OneOfSeveral => Code::AsTypedOneOfSeveral,
            Repair::SpaceAroundAt => Code::AsTypedSpaceAroundAt,
            Repair::UnicodeForm => Code::AsTypedUnicodeForm,
            Repair::Quotes | Repair::LocalCase | Repair::DomainCase | Repair::ALabel | Repair::Decided => {
                return None;
            }
        })
    }
}

/// A set of repairs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Repairs(u32);

impl Repairs {
    /// None.
    pub const NONE: Repairs = Repairs(0);

    /// Adds one.
    #[inline]
    pub fn insert(&mut self, repair: Repair) {
        self.0 |= 1 << repair as u8;
    }

    /// These and one more.
    #[must_use]
    pub fn with(mut self, repair: Repair) -> Self {
        self.insert(repair);
        self
    }

    /// Those of both.
    #[must_use]
    pub fn union(self, other: Repairs) -> Self {
        Repairs(self.0 | other.0)
    }

    /// Whether `repair` was made.
    pub fn contains(self, repair: Repair) -> bool {
        self.0 & 1 << repair as u8 != 0
    }

    /// Whether nothing was changed.
    #[inline]
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// The findings that an entry has which would need them, where it has to be right as it was typed.
    pub fn as_typed(self) -> CodeSet {
        self.iter().filter_map(Repair::as_typed).fold(CodeSet::EMPTY, CodeSet::with)
    }

    /// Each of them, in order.
    pub fn iter(self) -> impl Iterator<Item = Repair> {
        Repair::ALL.iter().copied().filter(move |&repair| self.contains(repair))
    }
}

impl Serialize for Repair {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.name())
    }
}
