//! Which usable records are wanted, by class or finding. The others are set aside with the reason; none is dropped.

use ypogram_core::providers::Certainty;
use ypogram_core::{Class, Code, CodeSet, Summary};
use ypogram_io::{Error, Result, nearest};

use crate::judge::select_address::SelectedAddress;

/// Which usable records are wanted.
#[derive(Clone, Debug, Default)]
pub struct Selection {
    /// Only these, where there is any.
    only: Vec<Sort>,
    /// Not these.
    without: Vec<Sort>,
    /// The least certain classes that count.
    certainty: Certainty,
}

/// A class, or all addresses with a finding.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Sort {
    Class(Class),
    Finding(Code),
}

impl Sort {
    fn read(word: &str) -> Result<Self> {
        let class = Class::from_word(word).map(Sort::Class);
        class.or_else(|| Code::from_name(word).map(Sort::Finding)).ok_or_else(|| {
            let classes: Vec<&str> = Class::all().map(Class::word).collect();
            let meant = nearest(word, classes.iter().copied().chain(Code::all().map(Code::name)));
            let meant = meant.map_or_else(String::new, |meant| format!("did you mean ‘{meant}’? "));
            Error::unusable(
                format!("‘{word}’ is neither a class nor a finding"),
                format!("{meant}classes are {}; `ypogram rules` shows the findings", classes.join(", ")),
            )
        })
    }

    fn word(self) -> &'static str {
        match self {
            Sort::Class(class) => class.word(),
            Sort::Finding(code) => code.name(),
        }
    }

    fn is_of(self, class: Option<Class>, codes: CodeSet) -> bool {
        match self {
            Sort::Class(wanted) => class == Some(wanted),
            Sort::Finding(code) => codes.contains(code),
        }
    }
}

impl Selection {
    /// Reads the words of classes and findings. A class that is less certain than `certainty` counts as none is known: the domain
    /// then is one of a business.
    ///
    /// # Errors
    /// Where one is neither.
    pub fn read(only: &[String], without: &[String], certainty: Certainty) -> Result<Self> {
        let sorts = |words: &[String]| words.iter().map(|word| Sort::read(word)).collect::<Result<Vec<_>>>();
        Ok(Selection { only: sorts(only)?, without: sorts(without)?, certainty })
    }

    /// Whether everything is wanted.
    pub fn is_everything(&self) -> bool {
        self.only.is_empty() && self.without.is_empty()
    }

    /// The classes that are not wanted, as far as lists name their domains.
    pub fn unwanted_classes(&self) -> Vec<Class> {
        let is_wanted = |class: Class| {
            let sort = Sort::Class(class);
            !self.without.contains(&sort) && (self.only.is_empty() || self.only.contains(&sort))
        };
        Class::all().filter(|class| *class != Class::Business && !is_wanted(*class)).collect()
    }

    /// The findings that are not wanted.
    pub fn unwanted_findings(&self) -> impl Iterator<Item = Code> {
        self.without.iter().filter_map(|sort| match sort {
            Sort::Finding(code) => Some(*code),
            Sort::Class(_) => None,
        })
    }

    /// Whether domains that no list names are wanted.
    pub fn wants_unlisted(&self) -> bool {
        self.only.is_empty() || self.only.contains(&Sort::Class(Class::Business))
    }

    /// How many reasons there are to set a record aside.
    pub(crate) fn reasons(&self) -> usize {
        self.without.len() + usize::from(!self.only.is_empty())
    }

    /// The reason at that place, as the options say it: `without free`, `only business education`.
    pub fn reason(&self, place: usize) -> String {
        match self.without.get(place) {
            Some(sort) => format!("without {}", sort.word()),
            None => {
                let words: Vec<&str> = self.only.iter().map(|sort| sort.word()).collect();
                format!("only {}", words.join(" "))
            }
        }
    }

    /// The place of the reason why a usable address is set aside; none where it is wanted.
    pub(crate) fn sets_aside(&self, selected: &SelectedAddress) -> Option<usize> {
        let Summary { class, certainty, .. } = selected.judged;
        let (class, codes) = match certainty > self.certainty {
            true => (Some(Class::Business), selected.codes.without(CodeSet::of(&[Code::FreeProvider]))),
            false => (class, selected.codes),
        };
        let is_of = |sort: &Sort| sort.is_of(class, codes);
        let unwanted = self.without.iter().position(is_of);
        unwanted.or_else(|| {
            let missed = !self.only.is_empty() && !self.only.iter().any(is_of);
            missed.then_some(self.without.len())
        })
    }
}
