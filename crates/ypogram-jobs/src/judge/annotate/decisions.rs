//! What somebody decided about a record takes effect.

use std::borrow::Cow;

use ypogram_core::{Code, CodeSet, Found, Repair, Verdict};
use ypogram_io::Record;

use crate::decisions::{Answer, AnswerKind};
use crate::engine::reading::Task;
use crate::judge::annotate::{Annotator, Part};
use crate::judge::decided::{Decided, DecidedRecord, SharedAnswer};
use crate::judge::select_address::{Candidate, Candidates, SelectedAddress};

/// A decision that applies to the record in hand.
struct Applied {
    kind: AnswerKind,
    address: Option<Vec<u8>>,
    /// The findings that it answers.
    answers: CodeSet,
    from_memory: bool,
}

impl<'p> Annotator<'p> {
    /// Notes where the records of a chunk stand among all.
    pub(super) fn enter_chunk(&mut self, task: &Task) {
        self.records_before = self
            .wanted
            .answers
            .as_ref()
            .map(|answers| answers.records_before(task.source, task.chunk.number));
    }

    /// What was decided about a record of the chunk in hand.
    #[inline]
    pub(super) fn answer_of(&self, record: usize) -> Option<&'p Answer> {
        let before = self.records_before?;
        self.wanted.answers.as_ref()?.of(before + record as u64 + 1)
    }

    /// Whether a decision about the address that the judge holds may be remembered.
    #[inline]
    pub(super) fn may_be_remembered(&self, verdict: Verdict) -> bool {
        let Some(memory) = &self.wanted.memory else { return false };
        verdict == Verdict::Review || memory.has_shared && verdict == Verdict::Accept
    }

    /// Lets what was decided about the record take effect.
    pub(super) fn apply_decision<'c>(
        &mut self,
        selected: &mut SelectedAddress,
        record: Record<'c>,
        candidates: &mut Candidates<'c>,
        part: &mut Part,
    ) -> Decided {
        if self.answer_of(record.index()).is_some() && !self.keys_only {
            part.decided_records.extend(self.decided_record(selected, record, candidates));
        }
        let mut decided = Decided::default();
        if self.may_be_remembered(selected.verdict) && self.answer_of(record.index()).is_none() {
            decided = self.remembered_of_shared(selected, record, candidates);
        }
        let Some(applied) = self.applied(selected, record, candidates) else { return decided };
        let Applied { kind, address, answers, from_memory } = applied;
        let policy = self.picker.judge.policy();
        match (kind, address) {
            (AnswerKind::Kept, _) => {
                selected.verdict = policy.verdict(selected.codes.without(answers));
            }
            (AnswerKind::Dropped, _) if answers.contains(Code::SharedMailbox) => {
                decided.shared = SharedAnswer::Drop;
            }
            (AnswerKind::Dropped, _) => {
                selected.codes = selected.codes.with(Code::Dropped);
                selected.verdict = Verdict::Reject;
            }
            (_, address) => {
                let text = address.unwrap_or_default();
                let mut found = Found::whole(b"");
                found.text = Cow::Owned(text);
                let (field, cell) = (selected.field, self.picker.plan().cell(record, selected.field));
                candidates.push(Candidate { field, cell: cell.unwrap_or_default(), found });
                let last = candidates.len() - 1;
                *selected = self.picker.judged_of_record(last, &candidates[last], record);
                self.hold_against_house(selected, record, candidates);
                selected.repairs.insert(Repair::Decided);
                selected.verdict = policy.verdict(selected.codes.without(answers));
            }
        }
        // Whoever decided about this very record is not asked again, even where its mailbox turns out to be another person's as well.
        if !from_memory && !matches!(kind, AnswerKind::Dropped | AnswerKind::Moved) {
            decided.shared = SharedAnswer::Keep;
        }
        (decided.kind, decided.from_memory) = (Some(kind), from_memory);
        decided
    }

    /// What there is to remember about a record, before the decision about it takes effect; nothing where it would never be answered
    /// from memory.
    fn decided_record<'c>(
        &self,
        selected: &SelectedAddress,
        record: Record<'c>,
        candidates: &Candidates<'c>,
    ) -> Option<DecidedRecord> {
        let (answer, policy) = (self.answer_of(record.index())?, self.picker.judge.policy());
        let may_be_asked = policy.reviewing().with(Code::SharedMailbox);
        let findings = match answer.kind {
            // A new address answers nothing that was found.
            AnswerKind::Moved => return None,
            AnswerKind::Kept | AnswerKind::Dropped => answer.codes().intersection(may_be_asked),
            AnswerKind::Taken | AnswerKind::Typed => selected.codes.intersection(policy.reviewing()),
        };
        let is_rejected = selected.verdict == Verdict::Reject;
        if is_rejected || findings.is_empty() || findings.meets(self.never_from_memory) {
            return None;
        }
        let persons = self.wanted.persons.as_ref();
        let names: Vec<&str> = findings.iter().map(Code::name).collect();
        Some(DecidedRecord {
            record: self.records_before? + record.index() as u64 + 1,
            as_found: String::from_utf8_lossy(self.as_found(selected, candidates)).into_owned(),
            person: persons.map_or_else(String::new, |persons| persons.text(record, self.picker.plan())),
            findings: names.join(" "),
        })
    }

    /// The decision about this record, else one that is remembered.
    fn applied<'c>(
        &self,
        selected: &SelectedAddress,
        record: Record<'c>,
        candidates: &Candidates<'c>,
    ) -> Option<Applied> {
        let policy = self.picker.judge.policy();
        if let Some(answer) = self.answer_of(record.index()) {
            let of_another = matches!(answer.kind, AnswerKind::Taken | AnswerKind::Typed);
            return Some(Applied {
                kind: answer.kind,
                address: answer.address.as_ref().map(|address| address.as_bytes().to_vec()),
                // Whoever types an address means it, but has seen what lists say of the other one alone.
                answers: match of_another {
                    true => policy.reviewing().without(self.never_from_memory).union(answer.codes()),
                    false => answer.codes(),
                },
                from_memory: false,
            });
        }
        let memory = self.wanted.memory.as_ref()?;
        if selected.verdict != Verdict::Review {
            return None;
        }
        let as_found = self.as_found(selected, candidates);
        let (entry, answers) = memory.answer(as_found, selected.codes, policy, self.never_from_memory)?;
        Some(Applied {
            kind: entry.kind,
            address: Some(entry.address.into_bytes()),
            answers,
            from_memory: true,
        })
    }

    /// What is remembered about the mailbox of the record being that of several persons, which holds for its person alone.
    fn remembered_of_shared<'c>(
        &self,
        selected: &SelectedAddress,
        record: Record<'c>,
        candidates: &Candidates<'c>,
    ) -> Decided {
        let (Some(memory), Some(persons)) = (&self.wanted.memory, &self.wanted.persons) else {
            return Decided::default();
        };
        let mut entries = memory.of(self.as_found(selected, candidates));
        let Some(shared) = entries.find_map(|(entry, codes)| {
            let is_its = codes.contains(Code::SharedMailbox)
                && persons.is(&entry.person, record, self.picker.plan(), self.hasher);
            match entry.kind {
                AnswerKind::Kept if is_its => Some(SharedAnswer::Keep),
                AnswerKind::Dropped if is_its => Some(SharedAnswer::Drop),
                _ => None,
            }
        }) else {
            return Decided::default();
        };
        Decided { kind: None, shared, from_memory: true }
    }

    /// The address as it stood, by which a decision is remembered: in standard form where it has one. The judge holds it.
    pub(super) fn as_found<'a>(
        &'a self,
        selected: &SelectedAddress,
        candidates: &'a Candidates<'_>,
    ) -> &'a [u8] {
        match selected.judged.has_standard_form {
            true => self.picker.judge.address(),
            false => self.picker.text(selected, candidates),
        }
    }
}
