//! The groups to be shown: the largest, with their spellings, and all of them in a file.

use std::collections::HashMap;

use ypogram_core::SameMailbox;
use ypogram_io::{Output, Result};

use crate::duplicates::decisions::Decision;
use crate::engine::distinct::DistinctCount;
use crate::engine::hash_sample::HashSample;
use crate::jobs::dedupe::DedupeOptions;
use crate::jobs::dedupe::group_list::GroupList;
use crate::jobs::dedupe::mailbox_list::MailboxList;
use crate::jobs::dedupe::report::{DedupeReport, Group, GroupMember, RuleFigures};
use crate::jobs::dedupe::spelling::{Spelling, text};

/// Groups that are shown, and members of each.
const GROUPS: usize = 12;
const MEMBERS: usize = 8;

/// What is gathered for the view.
pub(crate) struct View {
    pub(crate) rules: RuleCounts,
    /// The largest groups: size, and the survivor, by which a group is known.
    largest: Vec<(u64, u64)>,
    members: HashMap<u64, Group>,
    /// Every group's members, for the file.
    groups: Option<GroupList>,
    mailboxes: Option<MailboxList>,
    at_least: u64,
}

impl View {
    /// # Errors
    /// Where the file for all groups exists or cannot be made.
    pub(crate) fn open(options: &DedupeOptions, sources: &[String], with_id: bool) -> Result<Self> {
        Ok(View {
            rules: RuleCounts::within(options.memory / 4),
            largest: Vec::new(),
            members: HashMap::new(),
            groups: GroupList::open(options, sources, with_id)?,
            mailboxes: MailboxList::open(options, sources, with_id)?,
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
        decision: Option<Decision>,
        source: usize,
        line: u64,
        spelling: &[u8],
    ) -> Result<()> {
        let count = decision.map_or(Some(1), |decision| (decision.rank == 0).then_some(decision.count));
        match (&mut self.mailboxes, count.filter(|count| *count >= self.at_least)) {
            (Some(list), Some(count)) => list.add(count, record, source, line, spelling),
            _ => Ok(()),
        }
    }

    /// A record of a group, with its address and how it stood.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(crate) fn add(
        &mut self,
        decision: Decision,
        source: usize,
        line: u64,
        spelling: &[u8],
    ) -> Result<()> {
        if self.members.is_empty() {
            self.keep_largest();
            self.members = self
                .largest
                .iter()
                .map(|&(count, survivor)| (survivor, Group::of(count, survivor)))
                .collect();
        }
        let shown = self.members.contains_key(&decision.group);
        if !shown && self.groups.is_none() {
            return Ok(());
        }
        let Spelling { address, id, as_found } = Spelling::read(spelling);
        let member = GroupMember {
            record: decision.record,
            source,
            line,
            id: text(id),
            address: text(address),
            as_found: text(as_found),
            rank: decision.rank,
            other_person: decision.other_person,
        };
        if let Some(groups) = self.groups.as_mut().filter(|_| decision.count >= self.at_least) {
            groups.add(decision, &member)?;
        }
        if let Some(group) = self.members.get_mut(&decision.group)
            && (group.members.len() < MEMBERS || decision.rank == 0)
        {
            group.members.push(member);
        }
        Ok(())
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
        let groups = self.groups.map(GroupList::finish).transpose()?;
        let mailboxes = self.mailboxes.map(MailboxList::finish).transpose()?;
        Ok(groups.into_iter().chain(mailboxes).collect())
    }
}

/// The rules side by side: how many mailboxes each sees.
pub(crate) struct RuleCounts {
    records: u64,
    seen: [HashSample<()>; 4],
}

/// Up to this many mailboxes are counted exactly for each rule, however little memory there is, and where there is enough.
const EXACT: std::ops::RangeInclusive<usize> = 1 << 16..=1_800_000;

/// Bytes that a counted mailbox takes for each rule while the table grows.
const COUNTED: usize = 27;

impl RuleCounts {
    /// None yet, in at most so many bytes of memory.
    fn within(most: usize) -> Self {
        let exact = (most / 4 / COUNTED).clamp(*EXACT.start(), *EXACT.end());
        RuleCounts { records: 0, seen: std::array::from_fn(|_| HashSample::new(exact)) }
    }

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
