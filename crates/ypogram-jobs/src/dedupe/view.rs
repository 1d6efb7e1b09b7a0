//! The groups to be shown: the largest, with their spellings, and all of them in a file.

use std::collections::{BTreeMap, HashMap};

use ypogram_core::SameMailbox;
use ypogram_tables::csv::CsvEncoder;
use ypogram_tables::{Output, Result};

use crate::dedupe::DedupeOptions;
use crate::dedupe::fates::Fate;
use crate::dedupe::mailbox_list::MailboxList;
use crate::dedupe::report::{DedupeReport, Group, GroupMember, RuleFigures};
use crate::dedupe::spelling::{Spelling, text};
use crate::distinct::DistinctCount;
use crate::hash_sample::HashSample;

/// Groups that are shown, and members of each.
const GROUPS: usize = 12;
const MEMBERS: usize = 8;

/// What is gathered for the view.
pub(crate) struct View {
    pub(crate) rules: RuleCounts,
    /// The largest groups: size, and the survivor, by which a group is known.
    largest: Vec<(u64, u64)>,
    members: HashMap<u64, Group>,
    /// Every group's members, for the file: by survivor, in the order of preference.
    groups: Option<(Output, BTreeMap<u64, Vec<GroupMember>>)>,
    mailboxes: Option<MailboxList>,
    at_least: u64,
}

impl View {
    /// # Errors
    /// Where the file for all groups exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, sources: &[String]) -> Result<Self> {
        let groups = options.groups.as_ref().map(|target| Ok((target.open()?, BTreeMap::new())));
        Ok(View {
            rules: RuleCounts::default(),
            largest: Vec::new(),
            members: HashMap::new(),
            groups: groups.transpose()?,
            mailboxes: MailboxList::open(options, sources)?,
            at_least: options.at_least,
        })
    }

    /// A group of `count` records of which `survivor` stays.
    pub(crate) fn see_group(&mut self, survivor: u64, count: u64) {
        self.largest.push((count, survivor));
        if self.largest.len() > 4 * GROUPS {
            self.keep_largest();
        }
    }

    fn keep_largest(&mut self) {
        self.largest.sort_unstable_by_key(|&(count, survivor)| (std::cmp::Reverse(count), survivor));
        self.largest.truncate(GROUPS);
    }

    /// A record with a mailbox, which is listed once.
    ///
    /// # Errors
    /// Where the list cannot be written.
    pub(crate) fn add_mailbox(
        &mut self,
        record: u64,
        fate: Option<Fate>,
        source: usize,
        line: u64,
        spelling: &[u8],
    ) -> Result<()> {
        let count = fate.map_or(Some(1), |fate| (fate.rank == 0).then_some(fate.count));
        match (&mut self.mailboxes, count.filter(|count| *count >= self.at_least)) {
            (Some(list), Some(count)) => list.add(count, record, source, line, spelling),
            _ => Ok(()),
        }
    }

    /// A record of a group, with its address and how it stood.
    pub(crate) fn add(&mut self, fate: Fate, source: usize, line: u64, spelling: &[u8]) {
        if self.members.is_empty() {
            self.keep_largest();
            self.members = self
                .largest
                .iter()
                .map(|&(count, survivor)| (survivor, Group::of(count, survivor)))
                .collect();
        }
        let shown = self.members.contains_key(&fate.group);
        if !shown && self.groups.is_none() {
            return;
        }
        let Spelling { address, id, as_found } = Spelling::read(spelling);
        let member = GroupMember {
            record: fate.record,
            source,
            line,
            id: text(id),
            address: text(address),
            as_found: text(as_found),
            rank: fate.rank,
            other_person: fate.other_person,
        };
        if let Some(group) = self.members.get_mut(&fate.group)
            && (group.members.len() < MEMBERS || fate.rank == 0)
        {
            group.members.push(member.clone());
        }
        if let Some((_, groups)) = self.groups.as_mut().filter(|_| fate.count >= self.at_least) {
            groups.entry(fate.group).or_default().push(member);
        }
    }

    /// Puts the groups into `report`; gives the files that were asked for, not published yet.
    ///
    /// # Errors
    /// Where a file cannot be written.
    pub(crate) fn finish(self, report: &mut DedupeReport) -> Result<Vec<Output>> {
        let mut groups: Vec<Group> = self.members.into_values().collect();
        groups.sort_by_key(|group| (std::cmp::Reverse(group.count), group.survivor));
        groups.iter_mut().for_each(|group| group.members.sort_by_key(|member| member.rank));
        report.largest = groups;
        report.rules = self.rules.figures();
        let groups = self.groups.map(|(output, groups)| write_groups(output, groups, report)).transpose()?;
        let mailboxes = self.mailboxes.map(MailboxList::finish).transpose()?;
        Ok(groups.into_iter().chain(mailboxes).collect())
    }
}

/// One row a record, the largest groups first.
fn write_groups(
    mut output: Output,
    groups: BTreeMap<u64, Vec<GroupMember>>,
    report: &DedupeReport,
) -> Result<Output> {
    let mut groups: Vec<Vec<GroupMember>> = groups.into_values().collect();
    groups.sort_by_key(|group| std::cmp::Reverse(group.len()));
    let mut encoder = CsvEncoder::copying(0, b',', b"\n");
    let mut out = Vec::new();
    let several = report.source_names.len() > 1;
    let with_id = groups.iter().flatten().any(|member| !member.id.is_empty());
    let names = ["group", "count", "record", "line", "address", "as_found", "stays"];
    let more = several.then_some("source").into_iter().chain(with_id.then_some("id"));
    encoder.row(names.into_iter().chain(more), &mut out);
    for (number, group) in groups.iter_mut().enumerate() {
        group.sort_by_key(|member| member.rank);
        for member in group.iter() {
            let stays = if member.rank == 0 {
                "yes"
            } else if member.other_person {
                "other-person"
            } else {
                "no"
            };
            let numbers =
                [number as u64 + 1, group.len() as u64, member.record, member.line].map(|n| n.to_string());
            let texts = [&*member.address, &*member.as_found, stays];
            let source = several.then(|| &*report.source_names[member.source]);
            let id = with_id.then_some(&*member.id);
            encoder.row(numbers.iter().map(String::as_str).chain(texts).chain(source).chain(id), &mut out);
        }
        if out.len() > 1 << 18 {
            output.write(&out)?;
            out.clear();
        }
    }
    output.write(&out)?;
    Ok(output)
}

/// The rules side by side: how many mailboxes each sees.
pub(crate) struct RuleCounts {
    records: u64,
    seen: [HashSample<()>; 4],
}

/// Up to this many mailboxes are counted exactly for each rule.
const EXACT: usize = 1_800_000;

impl Default for RuleCounts {
    fn default() -> Self {
        RuleCounts { records: 0, seen: std::array::from_fn(|_| HashSample::new(EXACT)) }
    }
}

impl RuleCounts {
    pub(crate) fn add(&mut self, hashes: &[u64; 4]) {
        self.records += 1;
        for (seen, &hash) in self.seen.iter_mut().zip(hashes) {
            seen.value(hash, || ());
            seen.thin();
        }
    }

    fn figures(&self) -> Vec<RuleFigures> {
        let figure = |(rule, seen): (SameMailbox, &HashSample<()>)| RuleFigures {
            rule: rule.word().into(),
            mailboxes: DistinctCount { count: seen.distinct(), exact: seen.is_exact() },
            duplicates: self.records.saturating_sub(seen.distinct()),
        };
        SameMailbox::ALL.into_iter().zip(&self.seen).map(figure).collect()
    }
}
