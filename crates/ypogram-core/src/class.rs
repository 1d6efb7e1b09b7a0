//! What kind of mailbox a domain gives.

use serde::{Deserialize, Serialize};

use crate::codes::Code;

/// What kind of mailbox a domain gives.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[repr(u8)]
pub enum Class {
    /// A public domain on no list.
    Business,
    /// Mailboxes for everybody, without charge.
    Free,
    /// Mailboxes that come with an Internet connection.
    Isp,
    /// Mailboxes that people pay for.
    Paid,
    /// Passes mail on to an address that it hides.
    Relay,
    /// Throw-away mailboxes.
    Disposable,
    /// Universities and schools, by their public suffix.
    Education,
    /// Governments and armed forces, by their public suffix.
    Government,
    /// The user's own domains.
    House,
    /// Reserved names, which have no mailboxes.
    Reserved,
}

impl Class {
    /// Every class.
    pub const ALL: [Class; 10] = [
        Class::Business,
        Class::Free,
        Class::Isp,
        Class::Paid,
        Class::Relay,
        Class::Disposable,
        Class::Education,
        Class::Government,
        Class::House,
        Class::Reserved,
    ];

    /// The word in outputs and in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Class::Business => "business",
            Class::Free => "free",
            Class::Isp => "isp",
            Class::Paid => "paid",
            Class::Relay => "relay",
            Class::Disposable => "disposable",
            Class::Education => "education",
            Class::Government => "government",
            Class::House => "house",
            Class::Reserved => "reserved",
        }
    }

    /// The finding that goes with the class.
    pub(crate) const fn code(self) -> Option<Code> {
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
        const EDUCATION: [&[u8]; 5] = [b"edu", b"ac", b"sch", b"k12", b"school"];
        const GOVERNMENT: [&[u8]; 10] =
            [b"gov", b"gob", b"gouv", b"go", b"govt", b"gv", b"mil", b"mod", b"police", b"parliament"];
        let mut labels = suffix.split(|&b| b == b'.');
        let first = labels.next()?;
        let alone = labels.next().is_none();
        match first {
            b"edu" => Some(Class::Education),
            b"gov" | b"mil" => Some(Class::Government),
            // `ac` and `go` by themselves would be country or generic endings.
            first if !alone && EDUCATION.contains(&first) => Some(Class::Education),
            first if !alone && GOVERNMENT.contains(&first) => Some(Class::Government),
            _ => None,
        }
    }
}
