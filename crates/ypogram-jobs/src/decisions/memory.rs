//! Decisions that are remembered from run to run, in a file of separated values.

use std::hash::BuildHasher as _;
use std::path::Path;

use hashbrown::HashMap;
use ypogram_core::{Code, CodeSet, Policy};
use ypogram_io::csv::write_row;
use ypogram_io::{Batch, Chunk, Error, OpenOptions, OutputFile, Result, open};

use crate::decisions::answers::{AnswerKind, codes_of};
use crate::decisions::decision::Decision;

/// The columns of the file.
const COLUMNS: [&str; 7] = ["as_found", "person", "findings", "decision", "address", "decided", "reason"];

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
            AnswerKind::Typed => &self.address,
        };
        let address = if self.kind == AnswerKind::Taken { &*self.address } else { "" };
        [&self.as_found, &self.person, &self.findings, decision, address, &self.decided, &self.reason]
    }
}

/// The decisions of a file.
#[derive(Clone, Debug, Default)]
pub struct Memory {
    /// In the order of the file, each with its line; a later one counts before an earlier one.
    pub entries: Vec<(u64, Remembered)>,
    codes: Vec<CodeSet>,
    by_address: HashMap<Vec<u8>, Vec<u32>>,
    /// A bit for the hash of each address: most addresses are known not to be there without a look at the table, which seldom is in
    /// the processor's cache.
    bits: Vec<u64>,
    /// Some of them are about mailboxes of several persons.
    pub(crate) has_shared: bool,
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
        let mut source = match open(path, &OpenOptions::default()) {
            Ok(source) => source,
            Err(error) if error.kind == ypogram_io::ErrorKind::Empty => return Ok(memory),
            Err(error) => return Err(error),
        };
        let mut places = [0; COLUMNS.len()];
        for (place, column) in places.iter_mut().zip(COLUMNS) {
            let fields = &source.schema().fields;
            *place = fields.iter().position(|field| field == column).ok_or_else(|| {
                Error::unusable(
                    format!("{}: there is no column ‘{column}’", path.display()),
                    format!("a file of decisions has the columns {}", COLUMNS.join(", ")),
                )
            })?;
        }
        let (mut chunk, mut batch, mut decoder) = (Chunk::default(), Batch::default(), source.decoder());
        let mut lines = source.schema().lines_before + 1;
        while source.next_chunk(&mut chunk)? {
            batch.clear();
            decoder.decode(&chunk, &mut batch)?;
            for record in batch.records(&chunk) {
                let line = lines + record.line_in_chunk();
                let cells = places.map(|place| {
                    String::from_utf8_lossy(record.cell(place).unwrap_or_default()).trim().to_owned()
                });
                let entry = read(cells).map_err(|why| {
                    Error::unusable(
                        format!("{}, line {line}: {why}", path.display()),
                        "a decision is keep, take, drop or an address; correct the line, or remove it",
                    )
                })?;
                memory.add(line, entry);
            }
            lines += batch.lines;
        }
        if !memory.is_empty() {
            memory.settle_bits();
        }
        Ok(memory)
    }

    fn add(&mut self, line: u64, entry: Remembered) {
        let codes = codes_of(entry.findings.split_whitespace());
        self.has_shared |= codes.contains(Code::SharedMailbox);
        let place = self.entries.len() as u32;
        self.by_address.entry(entry.as_found.as_bytes().to_vec()).or_default().push(place);
        self.codes.push(codes);
        self.entries.push((line, entry));
    }

    /// Whether something may be remembered about that address.
    #[inline]
    pub(crate) fn may_know(&self, address: &[u8]) -> bool {
        match self.bits.len() {
            0 => false,
            words => {
                let bit = self.by_address.hasher().hash_one(address) as usize % (words * 64);
                self.bits[bit / 64] >> (bit % 64) & 1 == 1
            }
        }
    }

    fn settle_bits(&mut self) {
        let words = (self.entries.len() / 4).next_power_of_two();
        self.bits = vec![0; words];
        for address in self.by_address.keys() {
            let bit = self.by_address.hasher().hash_one(&address[..]) as usize % (words * 64);
            self.bits[bit / 64] |= 1 << (bit % 64);
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

    /// Those about that address, the latest first, each with the findings that it answers.
    pub(crate) fn of(&self, address: &[u8]) -> impl Iterator<Item = (&Remembered, CodeSet)> {
        let known = Some(address).filter(|address| self.may_know(address));
        let places = known.and_then(|address| self.by_address.get(address)).map(Vec::as_slice);
        let places = places.unwrap_or_default();
        places.iter().rev().map(|&place| (&self.entries[place as usize].1, self.codes[place as usize]))
    }

    /// The latest decision about that address which answers all that is `asked`, and the findings that it answers.
    pub(crate) fn answer(&self, address: &[u8], asked: CodeSet) -> Option<(&Remembered, CodeSet)> {
        self.of(address).find(|(_, answers)| asked.without(*answers).is_empty())
    }

    /// Appends decisions to the file at `path`, which is made for its owner alone where there is none; what is remembered already is not
    /// added twice.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn append(path: &Path, decided: &[Remembered]) -> Result<u64> {
        let known = Memory::load(path)?;
        let is_new = |entry: &&Remembered| {
            let same = |known: &Remembered| {
                (&known.person, &known.findings, known.kind, &known.address)
                    == (&entry.person, &entry.findings, entry.kind, &entry.address)
            };
            !known.of(entry.as_found.as_bytes()).any(|(known, _)| same(known))
        };
        let new: Vec<&Remembered> = decided.iter().filter(is_new).collect();
        if new.is_empty() {
            return Ok(0);
        }
        let mut bytes = match std::fs::read(path) {
            Ok(bytes) => bytes,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Vec::new(),
            Err(error) => return Err(Error::reading(&path.display().to_string(), &error)),
        };
        if bytes.is_empty() {
            write_row(COLUMNS, b',', &mut bytes);
        } else if !bytes.ends_with(b"\n") {
            bytes.push(b'\n');
        }
        for entry in &new {
            write_row(entry.cells(), b',', &mut bytes);
        }
        let mut file = OutputFile::create_private(path)?;
        file.write(&bytes)?;
        file.sync()?;
        file.publish()?;
        Ok(new.len() as u64)
    }
}

/// The findings that no decision of an earlier run answers: whoever asks to be left alone is left alone, and lists change.
pub(crate) fn never_from_memory(policy: &Policy) -> CodeSet {
    let of_lists = policy.lists.iter().filter_map(|list| list.purpose.finding);
    of_lists.fold(CodeSet::of(&[Code::DoNotContact]), CodeSet::with).union(policy.rejecting())
}

/// An entry of those cells.
fn read(cells: [String; COLUMNS.len()]) -> std::result::Result<Remembered, String> {
    let [as_found, person, findings, decision, address, decided, reason] = cells;
    if as_found.is_empty() {
        return Err("it names no address".to_owned());
    }
    let (kind, address) = match Decision::read(&decision)? {
        Some(Decision::Keep) => (AnswerKind::Kept, String::new()),
        Some(Decision::Drop) => (AnswerKind::Dropped, String::new()),
        Some(Decision::Take) if address.contains('@') => (AnswerKind::Taken, address),
        Some(Decision::Take) => {
            return Err("‘take’ needs the address in the column ‘address’".to_owned());
        }
        Some(Decision::Address(typed)) => (AnswerKind::Typed, typed),
        None => return Err("there is no decision".to_owned()),
    };
    Ok(Remembered { as_found, person, findings, kind, address, decided, reason })
}
