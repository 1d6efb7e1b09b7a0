//! What kind of mailbox a domain gives.

use serde::{Serialize, Serializer};

use crate::model::codes::Code;
use crate::model::own_words::{self, OwnWords};
use crate::model::policy_error::PolicyError;

/// What kind of mailbox a domain gives: one of the built-in kinds, or one that a list of the job's own gives.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Class(u8);

/// The words of the built-in classes, by place.
const WORDS: [&str; 11] = [
    "business",
    "free",
    "isp",
    "paid",
    "relay",
    "disposable",
    "education",
    "government",
    "house",
    "reserved",
    "token",
];

/// As many classes of their own can the lists of a job give.
const MOST_OWN: usize = 32;

static OWN: OwnWords<&str, MOST_OWN> = OwnWords::new();

#[allow(non_upper_case_globals, reason = "classes read like the variants of an enumeration")]
impl Class {
    /// A public domain on no list.
    pub const Business: Class = Class(0);
    /// Mailboxes for everybody, without charge.
    pub const Free: Class = Class(1);
    /// Mailboxes that come with an Internet connection.
    pub const Isp: Class = Class(2);
    /// Mailboxes that people pay for.
    pub const Paid: Class = Class(3);
    /// Passes mail on to an address that it hides.
    pub const Relay: Class = Class(4);
    /// Throw-away mailboxes.
    pub const Disposable: Class = Class(5);
    /// Universities and schools, by their public suffix.
    pub const Education: Class = Class(6);
    /// Governments and armed forces, by their public suffix.
    pub const Government: Class = Class(7);
    /// The user's own domains.
    pub const House: Class = Class(8);
    /// Reserved names, which have no mailboxes.
    pub const Reserved: Class = Class(9);
    /// What stands for an address in a redacted copy.
    pub const Token: Class = Class(10);

    /// How many classes there can be: built-in ones and those of jobs.
    pub const COUNT: usize = WORDS.len() + MOST_OWN;
}

impl Class {
    /// The class of that name: a built-in one, else one of the job's own.
    ///
    /// ```
    /// use ypogram_core::Class;
    /// assert_eq!(Class::own("free"), Ok(Class::Free));
    /// assert_eq!(Class::own("partner").unwrap().word(), "partner");
    /// ```
    ///
    /// # Errors
    /// Where it cannot be a name, or there are 32 of them already.
    pub fn own(name: &str) -> Result<Class, PolicyError> {
        if let Some(class) = Class::from_word(name) {
            return Ok(class);
        }
        if !own_words::is_name(name) {
            return Err(PolicyError(format!(
                "‘{name}’ cannot name a class: take lower-case letters, digits and hyphens"
            )));
        }
        let place = OWN.place_of(|word| *word == name, || own_words::kept(name.to_owned()));
        let place = place
            .ok_or_else(|| PolicyError(format!("more than {MOST_OWN} classes of one's own are too many")))?;
        Ok(Class((WORDS.len() + place) as u8))
    }

    /// Every class, the built-in ones first.
    pub fn all() -> impl DoubleEndedIterator<Item = Class> {
        (0..WORDS.len() + OWN.len()).map(|place| Class(place as u8))
    }

    /// The class of that name, where there is one.
    pub fn from_word(word: &str) -> Option<Class> {
        Class::all().find(|class| class.word() == word)
    }

    /// Its place among all classes, below [`Class::COUNT`].
    #[inline]
    pub const fn index(self) -> usize {
        self.0 as usize
    }

    /// Whether it is one of the built-in kinds.
    pub const fn is_built_in(self) -> bool {
        self.index() < WORDS.len()
    }

    /// The class at that place; none where there can be none.
    #[inline]
    pub(crate) const fn at(place: u8) -> Option<Class> {
        if (place as usize) < Class::COUNT { Some(Class(place)) } else { None }
    }

    /// The word in outputs and in the rulebook.
    pub fn word(self) -> &'static str {
        WORDS.get(self.index()).or_else(|| OWN.get(self.index() - WORDS.len())).expect("a class has its word")
    }

    /// The finding that goes with the class.
    pub const fn code(self) -> Option<Code> {
        match self {
            Class::Free => Some(Code::FreeProvider),
            Class::Isp => Some(Code::IspMailbox),
            Class::Paid => Some(Code::PaidMailbox),
            Class::Relay => Some(Code::Relay),
            Class::Disposable => Some(Code::Disposable),
            _ => None,
        }
    }

    /// Education or government, where the labels of a public suffix say so, such as `edu`, `ac.uk`, `gov.au`.
    pub(crate) fn of_suffix(suffix: &[u8]) -> Option<Class> {
        const EDUCATION: [&[u8]; 6] = [b"edu", b"ac", b"ed", b"sch", b"k12", b"school"];
        const GOVERNMENT: [&[u8]; 12] = [
            b"gov",
            b"gob",
            b"gub",
            b"gouv",
            b"go",
            b"govt",
            b"gv",
            b"government",
            b"mil",
            b"mod",
            b"police",
            b"parliament",
        ];
        match suffix {
            b"edu" => return Some(Class::Education),
            b"gov" | b"mil" => return Some(Class::Government),
            // Where the label means something else in other countries: Canada, and the communes of Japan.
            b"gc.ca" | b"lg.jp" => return Some(Class::Government),
            // As short as most are, there is no label in front of that of a country.
            _ if suffix.len() < "ac.uk".len() => return None,
            _ => {}
        }
        // `ac` and `go` by themselves would be country or generic TLDs.
        let first = &suffix[..memchr::memchr(b'.', suffix)?];
        if EDUCATION.contains(&first) {
            Some(Class::Education)
        } else {
            GOVERNMENT.contains(&first).then_some(Class::Government)
        }
    }
}

impl Serialize for Class {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.word())
    }
}
