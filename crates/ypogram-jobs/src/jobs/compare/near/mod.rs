//! Probable twins: new records whose mailbox is not known, and known records that are probably of the same person. They are proposed,
//! and change nothing.

mod fields;
mod likeness;

use serde::Serialize;
use ypogram_io::{Output, Record, Result, RowSpec, SortedRows, Target};

use crate::engine::packed_cells::{pack, unpack};
use crate::engine::side_table::SideTable;
use crate::jobs::compare::known::Known;
use crate::plan::contact_trait::ContactTrait;
use crate::plan::fields::FieldPlan;
use fields::{NearFields, refuse_unknown};
use likeness::{Compared, Traits};

/// What was found, for the report.
#[derive(Clone, Debug, Default, Serialize)]
pub struct NearReport {
    /// Pairs that were proposed.
    pub pairs: u64,
    /// New records in them.
    pub new_records: u64,
    /// Telephone numbers, names and the like that so many share that nobody was compared by them.
    pub too_common: u64,
    /// The first pairs.
    #[serde(skip)]
    pub first: Vec<NearPair>,
}

/// A new record and a known one.
#[derive(Clone, Debug)]
pub struct NearPair {
    /// In what both are like one another.
    pub evidence: String,
    /// The new record, and its name or address.
    pub new: (u64, String),
    /// The known one, as record of its source.
    pub known: (u64, String),
}

/// Pairs in the report.
const FIRST: usize = 8;

/// Known records that are compared with the new ones of one shared text. A switchboard's number is shared by more, and says nothing.
const MOST: usize = 16;

/// Known records of one name, at most, for which the name alone is enough.
const NAMESAKES: usize = 4;

/// The records of both sides, while they are gathered.
pub(crate) struct NearPairs {
    new_fields: NearFields,
    known_fields: NearFields,
    /// By the text that they share: first the known ones, then the new ones.
    by_text: SortedRows,
    most: usize,
}

impl NearPairs {
    /// None yet, with the fields of both sides.
    ///
    /// # Errors
    /// Where a field was named that is on neither side.
    pub(crate) fn within(
        most: usize,
        named: &[(ContactTrait, String)],
        new: &FieldPlan,
        known: &FieldPlan,
    ) -> Result<Self> {
        refuse_unknown(named, [Some(new), Some(known)])?;
        Ok(NearPairs {
            new_fields: NearFields::of(new, named),
            known_fields: NearFields::of(known, named),
            by_text: SortedRows::within(most),
            most,
        })
    }

    /// Adds a new record whose mailbox is not known.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add_new(&mut self, number: u64, record: Record<'_>, plan: &FieldPlan) -> Result<()> {
        let traits = self.new_fields.traits(record, plan);
        self.add(1, number, &traits)
    }

    /// Adds a known record.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add_known(&mut self, number: u64, record: Record<'_>, plan: &FieldPlan) -> Result<()> {
        let traits = self.known_fields.traits(record, plan);
        self.add(0, number, &traits)
    }

    fn add(&mut self, side: u8, number: u64, traits: &Traits) -> Result<()> {
        let mut row = Vec::new();
        for text in [&traits.name, &traits.telephone, &traits.street, &traits.address] {
            pack(text.as_bytes(), &mut row);
        }
        for text in Compared::of(traits).shared_texts() {
            self.by_text.add(&[text.as_bytes(), &[0, side], &number.to_be_bytes()].concat(), &row)?;
        }
        Ok(())
    }

    /// Writes the pairs to `target`, in the order of the new records; the file is not published yet.
    ///
    /// # Errors
    /// Where the file exists or cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(
        mut self,
        target: &Target,
        spec: &RowSpec,
        known: &Known,
    ) -> Result<(NearReport, Output)> {
        let mut report = NearReport::default();
        let mut pairs = SortedRows::within(self.most);
        let mut group = Group::default();
        self.by_text.finish(&mut |key, row| {
            let (text, rest) = key.split_at(key.len() - 10);
            let number = u64::from_be_bytes(rest[2..].try_into().expect("eight bytes"));
            if text != group.text {
                report.too_common += u64::from(group.is_too_common && group.has_new);
                group = Group { text: text.to_vec(), ..Group::default() };
            }
            if rest[1] == 0 {
                group.take_known(number, row);
                return Ok(());
            }
            group.has_new = true;
            if group.known.is_empty() {
                return Ok(());
            }
            let compared = Compared::of(&unpacked(row));
            for (of, traits, other) in &group.known {
                let evidence = compared.evidence(other);
                if let Some(evidence) = evidence.filter(|evidence| !group.says_little(evidence)) {
                    let key = [number.to_be_bytes(), of.to_be_bytes()].concat();
                    let mut cells = Vec::new();
                    pack(evidence.join(" ").as_bytes(), &mut cells);
                    cells.extend_from_slice(row);
                    cells.extend_from_slice(traits);
                    pairs.add(&key, &cells)?;
                }
            }
            Ok(())
        })?;
        report.too_common += u64::from(group.is_too_common && group.has_new);
        let numbers = ["record", "known_record"];
        let mut table = SideTable::open(target, COLUMNS, &numbers, &spec.guard_alone())?;
        let mut before: Vec<u8> = Vec::new();
        pairs.finish(&mut |key, row| {
            if key == before {
                return Ok(());
            }
            let [new, of] = [&key[..8], &key[8..]]
                .map(|bytes| u64::from_be_bytes(bytes.try_into().expect("eight bytes")));
            let (source, of_source) = known.place_of(of);
            let cells: Vec<&[u8]> = unpack(row).collect();
            report.pairs += 1;
            report.new_records += u64::from(before.get(..8) != Some(&key[..8]));
            before = key.to_vec();
            let (number, of_source_text) = (new.to_string(), of_source.to_string());
            let first = [number.as_bytes(), source.as_bytes(), of_source_text.as_bytes(), cells[0]];
            let [of_new, of_known] = [&cells[1..5], &cells[5..9]];
            let beside = of_new.iter().zip(of_known).flat_map(|(one, other)| [*one, *other]);
            table.add(first.into_iter().chain(beside))?;
            if report.first.len() < FIRST {
                let shown = |cells: &[&[u8]]| {
                    let shown = cells.iter().find(|cell| !cell.is_empty());
                    shown.map(|cell| String::from_utf8_lossy(cell).into_owned()).unwrap_or_default()
                };
                report.first.push(NearPair {
                    evidence: String::from_utf8_lossy(cells[0]).into_owned(),
                    new: (new, shown(of_new)),
                    known: (of_source, shown(of_known)),
                });
            }
            Ok(())
        })?;
        Ok((report, table.finish()?))
    }
}

/// What the file says of each pair.
const COLUMNS: &[&str] = &[
    "record",
    "known_source",
    "known_record",
    "evidence",
    "name",
    "known_name",
    "telephone",
    "known_telephone",
    "street",
    "known_street",
    "address",
    "known_address",
];

/// The known records that share a text.
#[derive(Default)]
struct Group {
    text: Vec<u8>,
    known: Vec<(u64, Vec<u8>, Compared)>,
    is_too_common: bool,
    has_new: bool,
}

impl Group {
    /// A name that many have in common is none to go by alone.
    fn says_little(&self, evidence: &[&str]) -> bool {
        self.known.len() > NAMESAKES && evidence == ["same-name"]
    }

    fn take_known(&mut self, number: u64, row: &[u8]) {
        if self.known.len() == MOST || self.is_too_common {
            self.is_too_common = true;
            self.known.clear();
            return;
        }
        self.known.push((number, row.to_vec(), Compared::of(&unpacked(row))));
    }
}

fn unpacked(row: &[u8]) -> Traits {
    let mut cells = unpack(row).map(|cell| String::from_utf8_lossy(cell).into_owned());
    let mut next = || cells.next().unwrap_or_default();
    Traits { name: next(), telephone: next(), street: next(), address: next() }
}
