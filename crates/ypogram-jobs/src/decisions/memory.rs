//! Decisions that are remembered from run to run, in a file of separated values.

use std::hash::BuildHasher as _;
use std::ops::Range;
use std::path::Path;

use hashbrown::hash_table::Entry as TableEntry;
use hashbrown::{DefaultHashBuilder, HashTable};
use ypogram_core::{Code, CodeSet, Policy};
use ypogram_io::csv::write_row;
use ypogram_io::{Batch, Chunk, Error, OpenOptions, OutputFile, Result, open};

use crate::decisions::answers::{AnswerKind, codes_of};
use crate::plan::field_rules::Asked;

/// The columns of the file.
const COLUMNS: [&str; 7] = ["as_found", "person", "findings", "decision", "address", "decided", "reason"];
const AS_FOUND: usize = 0;
const PERSON: usize = 1;
const FINDINGS: usize = 2;
const DECISION: usize = 3;
const ADDRESS: usize = 4;
const DECIDED: usize = 5;
const REASON: usize = 6;

/// A decision that is remembered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remembered {
    /// The address as it stood, in standard form where it has one.
    pub as_found: String,
    /// The person whose record it was.
    pub person: String,
    /// The findings that it answers, a space between them.
    pub findings: String,
    /// What was done.
    pub kind: AnswerKind,
    /// The address that takes its place.
    pub address: String,
    /// The day on which it was decided.
    pub decided: String,
    /// Why, where somebody wrote that.
    pub reason: String,
}

impl Remembered {
    /// Its cells, in the order of the file.
    pub fn cells(&self) -> [&str; 7] {
        let decision = match self.kind {
            AnswerKind::Kept => "keep",
            AnswerKind::Taken => "take",
            AnswerKind::Dropped => "drop",
            AnswerKind::Typed | AnswerKind::Moved => &self.address,
        };
        let address = if self.kind == AnswerKind::Taken { &*self.address } else { "" };
        [&self.as_found, &self.person, &self.findings, decision, address, &self.decided, &self.reason]
    }
}

/// The decisions of a file, their cells in one text behind one another.
#[derive(Clone, Debug)]
pub struct Memory {
    text: Vec<u8>,
    /// In the order of the file; a later one counts before an earlier one.
    entries: Vec<Entry>,
    /// The last entry about each address.
    by_address: HashTable<u32>,
    hasher: DefaultHashBuilder,
    /// A bit for the hash of each address: most addresses are known not to be there without a look at the table, which seldom is in
    /// the processor's cache.
    bits: Vec<u64>,
    /// Some of them are about mailboxes of several persons.
    pub(crate) has_shared: bool,
    /// How the file is written, where it is one of separated values: what separates its cells, and the names of its columns.
    layout: Option<(u8, Vec<String>)>,
}

/// An entry, by where its cells stand in the text.
#[derive(Clone, Debug)]
struct Entry {
    line: u64,
    kind: AnswerKind,
    codes: CodeSet,
    cells: [Range<u32>; COLUMNS.len()],
    /// The one before it about the same address.
    earlier: Option<u32>,
}

impl Default for Memory {
    fn default() -> Self {
        Memory {
            text: Vec::new(),
            entries: Vec::new(),
            by_address: HashTable::new(),
            hasher: DefaultHashBuilder::default(),
            bits: Vec::new(),
            has_shared: false,
            layout: Some((b',', COLUMNS.map(str::to_owned).into())),
        }
    }
}

impl Memory {
    /// Reads the file at `path`; there are none where it does not exist.
    ///
    /// # Errors
    /// Where it cannot be read, lacks a column, or holds something that is no decision.
    pub fn load(path: &Path) -> Result<Self> {
        let mut memory = Memory::default();
        if path.symlink_metadata().is_err() {
            return Ok(memory);
        }
        let mut source = match open(path, &OpenOptions { fingerprint: false, ..OpenOptions::default() }) {
            Ok(source) => source,
            Err(error) if error.kind == ypogram_io::ErrorKind::Empty => return Ok(memory),
            Err(error) => return Err(error),
        };
        let fields = source.schema().fields.clone();
        let mut places = [0; COLUMNS.len()];
        for (place, column) in places.iter_mut().zip(COLUMNS) {
            *place = fields.iter().position(|field| field == column).ok_or_else(|| {
                Error::unusable(
                    format!("{}: there is no column ‘{column}’", path.display()),
                    format!("a file of decisions has the columns {}", COLUMNS.join(", ")),
                )
            })?;
        }
        memory.layout = source.schema().layout().map(|layout| (layout.delimiter, fields));
        // An entry has more bytes than that.
        let most = path.metadata().map_or(0, |metadata| metadata.len() as usize / 40);
        memory.by_address.reserve(most, |_| unreachable!("it is empty"));
        memory.entries.reserve(most);
        memory.text.reserve(most * 40);
        let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
        let mut lines = source.schema().lines_before + 1;
        while source.next_chunk(&mut chunk)? {
            batch.clear();
            decoder.decode(&chunk, &mut batch)?;
            for record in batch.records(&chunk) {
                let line = lines + record.line_in_chunk();
                let cells = places.map(|place| record.cell(place).unwrap_or_default());
                memory.add(line, cells).map_err(|why| {
                    Error::unusable(
                        format!("{}, line {line}: {why}", path.display()),
                        "a decision is keep, take, drop or an address; correct the line, or remove it",
                    )
                })?;
            }
            lines += batch.lines;
        }
        memory.settle_bits();
        Ok(memory)
    }

    fn add(&mut self, line: u64, cells: [&[u8]; COLUMNS.len()]) -> std::result::Result<(), String> {
        let cells = cells.map(|cell| {
            let start = self.text.len() as u32;
            self.text.extend_from_slice(cell.trim_ascii());
            start..self.text.len() as u32
        });
        let kind = self.kind_of(&cells)?;
        let findings = self.cell(&cells[FINDINGS]);
        let codes = match self.entries.last() {
            Some(last) if self.cell(&last.cells[FINDINGS]) == findings => last.codes,
            _ => codes_of(String::from_utf8_lossy(findings).split_whitespace()),
        };
        self.has_shared |= codes.contains(Code::SharedMailbox);
        let place = self.entries.len() as u32;
        let entry = Entry { line, kind, codes, cells, earlier: None };
        let address = &self.text[range(&entry.cells[AS_FOUND])];
        let (entries, text, hasher) = (&self.entries, &self.text, &self.hasher);
        let address_of = |place: u32| &text[range(&entries[place as usize].cells[AS_FOUND])];
        let known = self.by_address.entry(
            hasher.hash_one(address),
            |&other| address_of(other) == address,
            |&other| hasher.hash_one(address_of(other)),
        );
        let earlier = match known {
            TableEntry::Occupied(mut known) => Some(std::mem::replace(known.get_mut(), place)),
            TableEntry::Vacant(free) => {
                free.insert(place);
                None
            }
        };
        self.entries.push(Entry { earlier, ..entry });
        Ok(())
    }

    /// What was done by the entry of those cells.
    fn kind_of(&self, cells: &[Range<u32>; COLUMNS.len()]) -> std::result::Result<AnswerKind, String> {
        if cells[AS_FOUND].is_empty() {
            return Err("it names no address".to_owned());
        }
        let decision = self.cell(&cells[DECISION]);
        let has_at_sign = |cell: &[u8]| memchr::memchr(b'@', cell).is_some();
        Ok(match decision {
            _ if decision.eq_ignore_ascii_case(b"keep") => AnswerKind::Kept,
            _ if decision.eq_ignore_ascii_case(b"drop") => AnswerKind::Dropped,
            _ if decision.eq_ignore_ascii_case(b"take") && has_at_sign(self.cell(&cells[ADDRESS])) => {
                AnswerKind::Taken
            }
            _ if decision.eq_ignore_ascii_case(b"take") => {
                return Err("‘take’ needs the address in the column ‘address’".to_owned());
            }
            _ if has_at_sign(decision) => AnswerKind::Typed,
            b"" => return Err("there is no decision".to_owned()),
            _ => return Err(format!("‘{}’ is no decision", String::from_utf8_lossy(decision))),
        })
    }

    fn cell(&self, place: &Range<u32>) -> &[u8] {
        &self.text[range(place)]
    }

    /// Whether something is remembered about that address.
    #[inline]
    pub(crate) fn knows(&self, address: &[u8]) -> bool {
        self.may_know(address) && self.latest(address).is_some()
    }

    #[inline]
    fn may_know(&self, address: &[u8]) -> bool {
        let [one, other] = self.bits_of(address);
        let is_set = |bit: usize| self.bits[bit / 64] >> (bit % 64) & 1 == 1;
        !self.bits.is_empty() && is_set(one) && is_set(other)
    }

    /// The two bits of an address.
    #[inline]
    fn bits_of(&self, address: &[u8]) -> [usize; 2] {
        let (hash, mask) = (self.hasher.hash_one(address), (self.bits.len() * 64).wrapping_sub(1));
        [hash as usize & mask, hash.rotate_left(32) as usize & mask]
    }

    #[cold]
    fn latest(&self, address: &[u8]) -> Option<u32> {
        let is_it = |place: &u32| self.address_of(*place) == address;
        self.by_address.find(self.hasher.hash_one(address), is_it).copied()
    }

    /// Sixteen bits for each entry.
    fn settle_bits(&mut self) {
        if self.entries.is_empty() {
            return;
        }
        self.bits = vec![0; (self.entries.len() / 4).next_power_of_two()];
        for entry in &self.entries {
            for bit in self.bits_of(self.cell(&entry.cells[AS_FOUND])) {
                self.bits[bit / 64] |= 1 << (bit % 64);
            }
        }
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// All of them, in the order of the file, each with its line.
    pub fn entries(&self) -> impl Iterator<Item = (u64, Remembered)> {
        self.entries.iter().map(|entry| (entry.line, self.remembered(entry)))
    }

    /// The entry that `entry` describes.
    fn remembered(&self, entry: &Entry) -> Remembered {
        let cell = |column: usize| String::from_utf8_lossy(self.cell(&entry.cells[column])).into_owned();
        let address = match entry.kind {
            AnswerKind::Typed | AnswerKind::Moved => cell(DECISION),
            AnswerKind::Taken => cell(ADDRESS),
            AnswerKind::Kept | AnswerKind::Dropped => String::new(),
        };
        let [as_found, person, findings] = [AS_FOUND, PERSON, FINDINGS].map(cell);
        let [decided, reason] = [DECIDED, REASON].map(cell);
        Remembered { as_found, person, findings, kind: entry.kind, address, decided, reason }
    }

    /// Those about that address, the latest first, each with the findings that it answers.
    pub(crate) fn of(&self, address: &[u8]) -> impl Iterator<Item = (Remembered, CodeSet)> {
        self.about(address).map(|entry| (self.remembered(entry), entry.codes))
    }

    /// The same, each with its line.
    pub(super) fn lines_of(&self, address: &[u8]) -> impl Iterator<Item = (u64, Remembered)> {
        self.about(address).map(|entry| (entry.line, self.remembered(entry)))
    }

    fn about(&self, address: &[u8]) -> impl Iterator<Item = &Entry> {
        let latest = if self.may_know(address) { self.latest(address) } else { None };
        let places = std::iter::successors(latest, |place| self.entries[*place as usize].earlier);
        places.map(|place| &self.entries[place as usize])
    }

    fn address_of(&self, place: u32) -> &[u8] {
        self.cell(&self.entries[place as usize].cells[AS_FOUND])
    }

    /// The latest decision about that address which answers all of `codes` that is asked, and the findings that it answers; none where
    /// something is asked that memory never answers.
    pub(crate) fn answer(
        &self,
        address: &[u8],
        codes: CodeSet,
        policy: &Policy,
        never: CodeSet,
    ) -> Option<(Remembered, CodeSet)> {
        let asked = codes.intersection(policy.reviewing());
        if asked.meets(never) {
            return None;
        }
        let (entry, answers) = self.of(address).find(|(_, answers)| asked.without(*answers).is_empty())?;
        let answers = match entry.kind {
            AnswerKind::Taken | AnswerKind::Typed | AnswerKind::Moved => policy.reviewing().without(never),
            AnswerKind::Kept | AnswerKind::Dropped => answers.without(CodeSet::of(&[Code::SharedMailbox])),
        };
        Some((entry, answers))
    }

    /// Refuses the file at `path` where decisions could not be appended to it.
    ///
    /// # Errors
    /// Where it cannot be read, or is not CSV in UTF-8.
    pub fn refuse_unfit(path: &Path) -> Result<()> {
        Memory::with_bytes(path).map(drop)
    }

    /// What is remembered in the file at `path`, and its bytes, behind which more can be written.
    fn with_bytes(path: &Path) -> Result<(Self, Vec<u8>)> {
        let memory = Memory::load(path)?;
        let bytes = match std::fs::read(path) {
            Ok(bytes) => bytes,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Vec::new(),
            Err(error) => return Err(Error::reading(&path.display().to_string(), &error)),
        };
        if memory.layout.is_none() || std::str::from_utf8(&bytes).is_err() {
            return Err(Error::unusable(
                format!("{}: decisions cannot be appended to this file", path.display()),
                "save it as separated values in UTF-8, or name another file in the rulebook ([decisions] file)",
            ));
        }
        Ok((memory, bytes))
    }

    /// Appends decisions to the file at `path`, which is made for its owner alone where there is none; what is remembered already is not
    /// added twice.
    ///
    /// # Errors
    /// Where it cannot be written, or as of [`refuse_unfit`](Self::refuse_unfit).
    pub fn append(path: &Path, decided: &[Remembered]) -> Result<u64> {
        let (known, mut bytes) = Memory::with_bytes(path)?;
        let is_new = |entry: &&Remembered| {
            let same = |known: &Remembered| {
                (&known.person, &known.findings, known.kind, &known.address)
                    == (&entry.person, &entry.findings, entry.kind, &entry.address)
            };
            // An older decision is made again where a later one has come between.
            !known.of(entry.as_found.as_bytes()).next().is_some_and(|(known, _)| same(&known))
        };
        let new: Vec<&Remembered> = decided.iter().filter(is_new).collect();
        if new.is_empty() {
            return Ok(0);
        }
        let (delimiter, columns) = known.layout.as_ref().expect("it is one of separated values");
        if bytes.is_empty() {
            write_row(columns, *delimiter, &mut bytes);
        } else if !bytes.ends_with(b"\n") {
            bytes.push(b'\n');
        }
        for entry in &new {
            let cells = entry.cells();
            let cell = |column: &String| {
                let place = COLUMNS.iter().position(|known| known == column);
                place.map_or("", |place| cells[place])
            };
            write_row(columns.iter().map(cell), *delimiter, &mut bytes);
        }
        let mut file = OutputFile::create_private(path)?;
        file.write(&bytes)?;
        file.sync()?;
        file.publish()?;
        Ok(new.len() as u64)
    }
}

fn range(place: &Range<u32>) -> Range<usize> {
    place.start as usize..place.end as usize
}

/// The findings that no decision of an earlier run answers: whoever asks to be left alone is left alone, and lists change.
pub(crate) fn never_from_memory(policy: &Policy) -> CodeSet {
    let of_lists = policy.lists.iter().filter_map(|list| list.purpose.finding);
    // What other fields say is not of the address.
    let of_fields = Asked::CODES.into_iter();
    let never = of_lists.chain(of_fields).chain([Code::DoNotContact]);
    never.fold(CodeSet::EMPTY, CodeSet::with).union(policy.rejecting())
}
