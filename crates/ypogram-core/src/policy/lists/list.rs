//! A list of one's own: its entries, what they raise, and what they append.

use std::hash::BuildHasher as _;

use hashbrown::{DefaultHashBuilder, HashMap, HashTable};

use crate::model::class::Class;
use crate::model::codes::Code;
use crate::policy::lists::entry::{self, EntryKind, Of, Standardize};

/// What a list does beside the built-in one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum BesideBuiltIn {
    /// Its entries count where the built-in list has the same one.
    #[default]
    Override,
    /// It only adds what the built-in list does not have.
    Extend,
    /// What the built-in list says of its class or finding does not count at all.
    Replace,
}

impl BesideBuiltIn {
    /// All there are.
    pub const ALL: [BesideBuiltIn; 3] =
        [BesideBuiltIn::Override, BesideBuiltIn::Extend, BesideBuiltIn::Replace];

    /// The word in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            BesideBuiltIn::Override => "override",
            BesideBuiltIn::Extend => "extend",
            BesideBuiltIn::Replace => "replace",
        }
    }
}

/// Which cells count where several entries of a list are one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Several {
    /// Those of the first.
    #[default]
    First,
    /// Those of all, each once, joined by `; `.
    All,
}

impl Several {
    /// All there are.
    pub const ALL: [Several; 2] = [Several::First, Several::All];

    /// The word in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Several::First => "first",
            Several::All => "all",
        }
    }
}

/// What a list is called, and what its entries do.
#[derive(Clone, Debug, Default)]
pub struct Purpose {
    /// Its name.
    pub name: String,
    /// Where it comes from, as people call it.
    pub from: String,
    /// What its entries are.
    pub of: Of,
    /// The class that they give.
    pub class: Option<Class>,
    /// The finding that they raise.
    pub finding: Option<Code>,
    /// What it does beside the built-in list.
    pub built_in: BesideBuiltIn,
    /// The names of the cells that come with each entry.
    pub columns: Vec<String>,
    /// Which cells count where several entries are one.
    pub several: Several,
}

/// A list of one's own.
///
/// ```
/// use ypogram_core::lists::{Added, List, Purpose};
/// use ypogram_core::{Hasher, Judge, Policy};
/// let policy = Policy::default();
/// let mut judge = Judge::new(&policy, Hasher::with_key(1));
/// let mut list = List::new(Purpose::default());
/// assert_eq!(list.add(1, b"*.Marsh-Mill.example", [], &mut judge), Added::New);
/// assert_eq!(list.add(2, b"@marsh-mill.example", [], &mut judge), Added::Twice { line: 1 });
/// ```
#[derive(Clone, Debug)]
pub struct List {
    /// What it is called, and what its entries do.
    pub purpose: Purpose,
    entries: Vec<Entry>,
    /// The entries as they are looked up, one behind the other.
    texts: Vec<u8>,
    /// Where the cell ends, by entry and column.
    cell_ends: Vec<usize>,
    cells: Vec<u8>,
    /// The cells of entries that stand several times with others, joined where all of them count.
    several: HashMap<usize, Vec<Vec<u8>>>,
    index: HashTable<u32>,
    hasher: DefaultHashBuilder,
    pub(crate) has_domains: bool,
    pub(crate) has_below: bool,
    pub(crate) has_addresses: bool,
    /// The lengths that entries have, the longest first; only kept for values.
    lengths: Vec<usize>,
}

#[derive(Clone, Copy, Debug)]
struct Entry {
    start: usize,
    len: u32,
    line: u32,
    kind: EntryKind,
}

/// What became of an entry.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Added {
    /// It is on the list now.
    New,
    /// It was there already, from this line.
    Twice {
        /// The line of the first.
        line: u64,
    },
    /// It is not what the list is of, for this reason.
    Unfit(String),
}

impl List {
    /// A list without entries.
    pub fn new(purpose: Purpose) -> Self {
        List {
            purpose,
            entries: Vec::new(),
            texts: Vec::new(),
            cell_ends: Vec::new(),
            cells: Vec::new(),
            several: HashMap::new(),
            index: HashTable::new(),
            hasher: DefaultHashBuilder::default(),
            has_domains: false,
            has_below: false,
            has_addresses: false,
            lengths: Vec::new(),
        }
    }

    /// Adds the entry in line `line`, with the cells of the list's columns, in order. Keys are made by the judge's policy.
    pub fn add<'c>(
        &mut self,
        line: u64,
        entry: &[u8],
        cells: impl IntoIterator<Item = &'c [u8]>,
        standardize: &mut impl Standardize,
    ) -> Added {
        let start = self.texts.len();
        let kind = match entry::read(entry, self.purpose.of, standardize, &mut self.texts) {
            Ok(kind) if self.texts.len() > start => kind,
            Ok(_) => return Added::Unfit("it is empty".into()),
            Err(reason) => {
                self.texts.truncate(start);
                return Added::Unfit(reason);
            }
        };
        let hash = self.hasher.hash_one(&self.texts[start..]);
        if let Some(there) = self.find_hashed(hash, &self.texts[start..]) {
            self.texts.truncate(start);
            if kind == (EntryKind::Domain { below: true }) {
                self.entries[there].kind = kind;
                self.has_below = true;
            }
            self.meet_again(there, cells);
            return Added::Twice { line: self.line(there) };
        }
        let len = self.texts.len() - start;
        self.entries.push(Entry { start, len: len as u32, line: line as u32, kind });
        for cell in cells {
            self.cells.extend_from_slice(cell);
            self.cell_ends.push(self.cells.len());
        }
        self.cell_ends.resize(self.entries.len() * self.purpose.columns.len(), self.cells.len());
        self.has_domains |= matches!(kind, EntryKind::Domain { .. });
        self.has_below |= kind == EntryKind::Domain { below: true };
        self.has_addresses |= !matches!(kind, EntryKind::Domain { .. });
        if self.purpose.of == Of::Values
            && let Err(place) = self.lengths.binary_search_by(|known| len.cmp(known))
        {
            self.lengths.insert(place, len);
        }
        let (hasher, texts, entries) = (&self.hasher, &self.texts, &self.entries);
        let hash_of = |&entry: &u32| {
            let entry = entries[entry as usize];
            hasher.hash_one(&texts[entry.start..][..entry.len as usize])
        };
        self.index.insert_unique(hash, (entries.len() - 1) as u32, hash_of);
        Added::New
    }

    /// Deals with the cells of an entry that stands there already.
    fn meet_again<'c>(&mut self, entry: usize, cells: impl IntoIterator<Item = &'c [u8]>) {
        let cells: Vec<&[u8]> = cells.into_iter().map(<[u8]>::trim_ascii).collect();
        let columns = 0..self.purpose.columns.len();
        let own = |column: usize| cells.get(column).copied().unwrap_or_default();
        if columns.clone().all(|column| self.cell(entry, column).trim_ascii() == own(column)) {
            return;
        }
        let before: Vec<Vec<u8>> =
            columns.clone().map(|column| self.cell(entry, column).trim_ascii().to_vec()).collect();
        let joined = self.several.entry(entry).or_insert(before);
        if self.purpose.several == Several::First {
            return;
        }
        for (column, joined) in columns.zip(joined) {
            let is_there = joined.split(|b| *b == b';').any(|cell| cell.trim_ascii() == own(column));
            if own(column).is_empty() || is_there {
                continue;
            }
            if !joined.is_empty() {
                joined.extend_from_slice(b"; ");
            }
            joined.extend_from_slice(own(column));
        }
    }

    /// How many entries stand several times with other cells.
    pub fn with_several_cells(&self) -> usize {
        self.several.len()
    }

    /// The place of `entry`, as anybody would write it; none where it is not on the list.
    pub fn position(&self, entry: &str, standardize: &mut impl Standardize) -> Option<usize> {
        let mut text = Vec::new();
        entry::read(entry.as_bytes(), self.purpose.of, standardize, &mut text).ok()?;
        self.find(&text)
    }

    /// The entry that reads `text` in the form of a look-up.
    #[inline]
    pub(crate) fn find(&self, text: &[u8]) -> Option<usize> {
        self.find_hashed(self.hasher.hash_one(text), text)
    }

    #[inline]
    fn find_hashed(&self, hash: u64, text: &[u8]) -> Option<usize> {
        let same = |&entry: &u32| self.text(entry as usize) == text;
        self.index.find(hash, same).map(|&entry| entry as usize)
    }

    /// The entry that decides about `domain` (lower-case A-labels): its own, else that of the nearest parent which counts
    /// for the domains below it.
    pub(crate) fn find_domain(&self, domain: &[u8]) -> Option<usize> {
        if !self.has_domains {
            return None;
        }
        if let Some(own) = self.find(domain) {
            return Some(own);
        }
        let mut parents = memchr::memchr_iter(b'.', domain).map(|dot| &domain[dot + 1..]);
        let counts_below = |&entry: &usize| self.entries[entry].kind == EntryKind::Domain { below: true };
        if self.has_below { parents.find_map(|parent| self.find(parent).filter(counts_below)) } else { None }
    }

    /// The entry of a list of values that `value` is, letter case and the white space around it aside, or where `prefix` is
    /// asked for, the longest that it starts with.
    ///
    /// ```
    /// # use ypogram_core::lists::{List, Of, Purpose};
    /// # use ypogram_core::{Hasher, Judge, Policy};
    /// # let policy = Policy::default();
    /// # let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// let mut list = List::new(Purpose { of: Of::Values, ..Purpose::default() });
    /// list.add(1, b"ON", [], &mut judge);
    /// list.add(2, b"ON-7", [], &mut judge);
    /// assert_eq!(list.find_value(b" on-7 ", false), Some(1));
    /// assert_eq!(list.find_value(b"ON-71", true), Some(1));
    /// assert_eq!(list.find_value(b"ON-71", false), None);
    /// ```
    pub fn find_value(&self, value: &[u8], prefix: bool) -> Option<usize> {
        let value = value.trim_ascii();
        let lower = match std::str::from_utf8(value) {
            Ok(text) if !value.is_ascii() => crate::characters::fold::folded(text).into_bytes(),
            _ => value.to_ascii_lowercase(),
        };
        if !prefix {
            return self.find(&lower);
        }
        let fitting = self.lengths.iter().filter(|&&len| len <= lower.len());
        fitting.copied().find_map(|len| self.find(&lower[..len]))
    }

    /// How many entries it has.
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Whether it has none.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// The entry in the form in which it is looked up.
    #[inline]
    pub fn text(&self, entry: usize) -> &[u8] {
        let entry = self.entries[entry];
        &self.texts[entry.start..][..entry.len as usize]
    }

    /// The entry as it is shown: a domain that counts for those below it has `*.` in front.
    pub fn shown(&self, entry: usize) -> String {
        let below = self.entries[entry].kind == EntryKind::Domain { below: true };
        format!("{}{}", if below { "*." } else { "" }, String::from_utf8_lossy(self.text(entry)))
    }

    /// What kind of thing the entry is.
    pub fn kind(&self, entry: usize) -> EntryKind {
        self.entries[entry].kind
    }

    /// The line that the entry stands in, from 1.
    pub fn line(&self, entry: usize) -> u64 {
        u64::from(self.entries[entry].line)
    }

    /// What the entry says in the column at that place.
    pub fn cell(&self, entry: usize, column: usize) -> &[u8] {
        if !self.several.is_empty()
            && let Some(cells) = self.several.get(&entry)
        {
            return &cells[column];
        }
        let place = entry * self.purpose.columns.len() + column;
        let start = if place == 0 { 0 } else { self.cell_ends[place - 1] };
        &self.cells[start..self.cell_ends[place]]
    }
}
