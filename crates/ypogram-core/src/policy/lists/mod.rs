//! Lists of one's own beside the built-in ones: of addresses, domains, keys, local parts, or values of a field.
//!
//! An entry gives a class, raises a finding, or brings cells of its own along. Where several speak of one address, the more
//! exact one gives the class (an address before its domain, a domain before one above it); of equally exact ones, one's own
//! before the built-in; of several of one's own, the list that was named first. Findings are raised by all of them.

mod built_in;
mod entry;
mod list;

pub use built_in::{BuiltIn, built_in};
pub use entry::{EntryKind, Of, Standardize};
pub use list::{Added, BesideBuiltIn, List, Purpose, Several};

use crate::model::class::Class;
use crate::model::codes::{Code, CodeSet};

/// The lists of a job, in the order in which they are asked.
#[derive(Clone, Debug, Default)]
pub struct Lists {
    lists: Vec<List>,
    /// A list of addresses, keys or local parts is among them, so that each address has to be looked up.
    pub(crate) by_address: bool,
    /// A list of keys is among them.
    pub(crate) by_key: bool,
    replaced_classes: u64,
    /// Findings of which the built-in lists are not asked.
    pub(crate) replaced: CodeSet,
}

/// An address as lists are asked about it, in standard form with its local part in lower case.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Asked<'a> {
    pub(crate) address: &'a [u8],
    pub(crate) at: usize,
    /// The local part without its tag.
    pub(crate) base: &'a [u8],
    /// The key under the rule of the job; empty where no list is of keys.
    pub(crate) key: &'a [u8],
}

impl<'a> Asked<'a> {
    pub(crate) fn domain(self) -> &'a [u8] {
        &self.address[self.at + 1..]
    }
}

impl Lists {
    /// These lists; the first is asked first.
    pub fn new(lists: Vec<List>) -> Self {
        let mut all = Lists::default();
        for list in &lists {
            let of_addresses = list.has_addresses && list.purpose.of != Of::Values;
            all.by_address |= of_addresses;
            all.by_key |= of_addresses && list.purpose.of == Of::Keys;
            if list.purpose.built_in == BesideBuiltIn::Replace {
                if let Some(class) = list.purpose.class {
                    all.replaced_classes |= 1 << class.index();
                }
                if let Some(finding) = list.purpose.finding {
                    all.replaced.insert(finding);
                }
            }
        }
        all.lists = lists;
        all
    }

    /// The lists, in order.
    pub fn iter(&self) -> impl Iterator<Item = &List> {
        self.lists.iter()
    }

    /// The list at that place.
    pub fn get(&self, place: usize) -> &List {
        &self.lists[place]
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.lists.is_empty()
    }

    /// Whether the built-in list of that class counts.
    pub(crate) fn asks_built_in(&self, class: Class) -> bool {
        self.replaced_classes >> class.index() & 1 == 0
    }

    /// The class that the lists give to `domain`, where the built-in entry that counts for it has `built_in` bytes.
    pub(crate) fn class_of_domain(&self, domain: &[u8], built_in: Option<usize>) -> Option<Class> {
        let mut best: Option<(usize, Class)> = None;
        for list in &self.lists {
            let (Some(class), Some(entry)) = (list.purpose.class, list.find_domain(domain)) else { continue };
            let bytes = list.text(entry).len();
            let beaten = built_in.is_some_and(|built_in| match list.purpose.built_in {
                BesideBuiltIn::Extend => built_in >= bytes,
                _ => built_in > bytes,
            });
            if !beaten && best.is_none_or(|(longest, _)| bytes > longest) {
                best = Some((bytes, class));
            }
        }
        best.map(|(_, class)| class)
    }

    /// Whether any list that raises a finding has an entry for `domain`.
    pub(crate) fn raises_at_domain(&self, domain: &[u8]) -> bool {
        self.lists.iter().any(|list| list.purpose.finding.is_some() && list.find_domain(domain).is_some())
    }

    /// The findings of the entries for `domain`.
    pub(crate) fn codes_of_domain(&self, domain: &[u8]) -> CodeSet {
        let raised = self
            .lists
            .iter()
            .filter_map(|list| list.purpose.finding.filter(|_| list.find_domain(domain).is_some()));
        raised.fold(CodeSet::EMPTY, CodeSet::with)
    }

    /// The first list that raises `code` for the address, with its entry.
    pub(crate) fn raising(&self, code: Code, asked: Asked<'_>) -> Option<(&List, usize)> {
        let raising = self.lists.iter().filter(|list| list.purpose.finding == Some(code));
        raising.filter_map(|list| list.find_any(asked).map(|entry| (list, entry))).next()
    }

    /// Adds to `class` and `codes`, which the domain gave, what the entries for the address itself, its key and its local
    /// part say.
    pub(crate) fn settle(
        &self,
        asked: Asked<'_>,
        class: Option<Class>,
        mut codes: CodeSet,
    ) -> (Option<Class>, CodeSet) {
        let mut own = None;
        for list in self.lists.iter().filter(|list| list.find_address(asked).is_some()) {
            own = own.or(list.purpose.class);
            if let Some(code) = list.purpose.finding {
                codes.insert(code);
            }
        }
        let Some(own) = own else { return (class, codes) };
        if let Some(code) = class.and_then(Class::code) {
            codes = codes.without(CodeSet::of(&[code]));
        }
        if let Some(code) = own.code() {
            codes.insert(code);
        }
        (Some(own), codes)
    }
}

impl List {
    /// The entry for the address itself, its key or its local part.
    fn find_address(&self, asked: Asked<'_>) -> Option<usize> {
        match self.purpose.of {
            Of::Values | Of::Domains => None,
            Of::Keys => self.find(asked.key),
            Of::LocalParts => self.find(asked.base),
            Of::Addresses | Of::Contacts => {
                if self.has_addresses {
                    self.find(asked.address)
                } else {
                    None
                }
            }
        }
    }

    /// The entry of the list that is the most exact for the address.
    pub(crate) fn find_any(&self, asked: Asked<'_>) -> Option<usize> {
        self.find_address(asked).or_else(|| self.find_domain(asked.domain()))
    }
}
