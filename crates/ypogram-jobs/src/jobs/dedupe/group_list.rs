//! Every record that shares its mailbox, group by group, the largest groups first.

use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Output, Result, SortedRows};

use crate::jobs::dedupe::fates::Fate;
use crate::jobs::dedupe::report::GroupMember;
use crate::jobs::dedupe::{DedupeOptions, side_table};

/// The list while it grows.
pub(crate) struct GroupList {
    output: Output,
    encoder: CsvEncoder,
    /// By size, group and rank.
    rows: SortedRows,
    row: Vec<u8>,
    with_id: bool,
    /// The sources' names, where there are several.
    sources: Option<Vec<String>>,
}

impl GroupList {
    /// # Errors
    /// Where the file exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, sources: &[String]) -> Result<Option<Self>> {
        let Some(target) = &options.groups else { return Ok(None) };
        let (with_id, several) = (options.fields.id.is_some(), sources.len() > 1);
        let names = ["group", "count", "record", "line", "address", "as_found", "stays"].into_iter();
        let more = several.then_some("source").into_iter().chain(with_id.then_some("id"));
        Ok(Some(GroupList {
            output: side_table::open(target, names.chain(more), &options.arrangement)?,
            encoder: CsvEncoder::copying(0, b',', b"\n"),
            rows: SortedRows::within(options.memory / 8),
            row: Vec::new(),
            with_id,
            sources: several.then(|| sources.to_vec()),
        }))
    }

    /// A record of a group.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(&mut self, fate: Fate, member: &GroupMember) -> Result<()> {
        let stays = match (fate.rank, fate.other_person) {
            (0, _) => "yes",
            (_, true) => "other-person",
            _ => "no",
        };
        let numbers = [fate.count, member.record, member.line].map(|number| number.to_string());
        let texts = [&*member.address, &*member.as_found, stays];
        let source = self.sources.as_ref().map(|sources| &*sources[member.source]);
        let id = self.with_id.then_some(&*member.id);
        self.row.clear();
        let cells = numbers.iter().map(String::as_str).chain(texts).chain(source).chain(id);
        self.encoder.row(cells, &mut self.row);
        let key =
            [&(u64::MAX - fate.count).to_be_bytes()[..], &fate.group.to_be_bytes(), &fate.rank.to_be_bytes()];
        self.rows.add(&key.concat(), &self.row)
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written, or the temporary folder cannot be used.
    pub(crate) fn finish(mut self) -> Result<Output> {
        let mut out = Vec::new();
        let (mut number, mut group) = (0, Vec::new());
        let output = &mut self.output;
        self.rows.finish(&mut |key, row| {
            // The rank stands last.
            let of = &key[..16];
            if group != of {
                (number, group) = (number + 1, of.to_vec());
            }
            out.extend_from_slice(format!("{number},").as_bytes());
            out.extend_from_slice(row);
            if out.len() > 1 << 16 {
                output.write(&out)?;
                out.clear();
            }
            Ok(())
        })?;
        self.output.write(&out)?;
        Ok(self.output)
    }
}
