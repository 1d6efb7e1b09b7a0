//! The passes of `clean` before the one that writes: which record is a duplicate of which where that cannot be told as the records come,
//! and what the one that stays takes from the others.

use std::sync::Arc;

use tempfile::TempDir;
use ypogram_core::{Code, Hasher, Policy, Severity};
use ypogram_io::Result;

use crate::decisions::PlacedAnswers;
use crate::duplicates::merge::{FilledCount, Merge};
use crate::duplicates::merged_rows::MergedRows;
use crate::duplicates::survivor::Survivor;
use crate::engine::id_store::IdStore;
use crate::engine::packed_cells::pack;
use crate::engine::progress::Progress;
use crate::engine::reading::{Reading, SourceReport};
use crate::engine::same_as_before::same_as_before;
use crate::jobs::clean::earlier::{EarlierOnes, FirstPass, UnclearCells};
use crate::jobs::clean::options::CleanOptions;
use crate::jobs::clean::settling::Settling;
use crate::judge::annotate::{Judging, Wanted};
use crate::judge::checked_fields::CheckedFields;
use crate::judge::judge_all::judge_all;
use crate::lists::lists_of;
use crate::plan::fields::FieldPlan;
use crate::plan::house::HousePlan;
use crate::plan::person::PersonFields;
use crate::plan::same_fields::SameFields;
use crate::plan::shared::Shared;

/// What all passes go by.
pub(super) struct Passes<'o> {
    pub(super) options: &'o CleanOptions,
    pub(super) policy: &'o Policy,
    /// What was decided about single records.
    pub(super) answers: Option<PlacedAnswers>,
    /// What is asked of other fields.
    pub(super) fields: CheckedFields,
    pub(super) temporary: &'o Arc<TempDir>,
    pub(super) progress: &'o Progress,
}

/// What is known before the pass that writes.
pub(super) struct Beforehand {
    pub(super) earlier: EarlierOnes,
    /// What tells records apart, where they have it.
    pub(super) ids: Option<IdStore>,
    /// Rows that are further ones of their records.
    pub(super) added: Vec<u64>,
    /// Rows that take cells from others.
    pub(super) merged: Option<(MergedRows, FilledCount)>,
    pub(super) unclear: UnclearCells,
    /// What is to be known about the dates by which records are preferred.
    pub(super) notes: Vec<String>,
    pub(super) read: Vec<SourceReport>,
}

impl Beforehand {
    /// Nothing is known but how to look up which earlier record has a mailbox.
    pub(super) fn nothing(earlier: EarlierOnes, ids: Option<IdStore>) -> Self {
        Beforehand {
            earlier,
            ids,
            added: Vec::new(),
            merged: None,
            unclear: UnclearCells::default(),
            notes: Vec::new(),
            read: Vec::new(),
        }
    }
}

impl Passes<'_> {
    /// Whether the records have to be known before the first is written, however much memory there is.
    pub(super) fn must_know_all(&self) -> bool {
        self.options.survivor != Survivor::First || self.options.merge.is_some()
    }

    pub(super) fn open(&self) -> Result<(Reading, FieldPlan)> {
        let mut reading = Reading::open(&self.options.sources, &self.options.open)?;
        let plan = FieldPlan::settle(&mut reading, &self.options.fields, self.policy)?;
        Ok((reading, plan))
    }

    /// Room for what tells records apart, where they have it.
    pub(super) fn id_store(&self, plan: &FieldPlan) -> Result<Option<IdStore>> {
        plan.has_id().then(|| IdStore::within(self.options.memory / 8, self.temporary)).transpose()
    }

    pub(super) fn wanted(&self, plan: &FieldPlan, reading: &Reading) -> Result<Wanted> {
        let options = self.options;
        let persons = PersonFields::settle(&options.persons, plan, reading)?;
        // Nobody asks for another person where that changes nothing.
        let told_apart = match options.shared {
            Shared::Review => self.policy.severity(Code::SharedMailbox) >= Severity::Review,
            Shared::Keep => true,
            Shared::Drop => false,
        };
        let into =
            options.into.as_deref().map(|field| plan.place_of(field, reading, "--into")).transpose()?;
        Ok(Wanted {
            same: SameFields::settle(&options.by, &options.within, plan, reading)?,
            into,
            row_per_address: options.row_per_address,
            duplicates: true,
            persons: Some(persons).filter(|persons| told_apart && !persons.is_empty()),
            fields: self.fields.clone(),
            patterns: options.patterns.clone(),
            house: HousePlan::settle(&options.house, plan, reading)?,
            selection: options.selection.clone(),
            lookups: lists_of(&options.from_lists, &self.policy.lists),
            from_lists: options.from_lists.clone(),
            answers: self.answers.clone(),
            memory: options.remembered.clone(),
            ..Wanted::default()
        })
    }

    /// Settles which record is a duplicate of which, and what those that stay take from the others.
    ///
    /// # Errors
    /// Where a source is unusable or changes meanwhile, a field does not exist, or the temporary folder cannot be used.
    pub(super) fn beforehand(&self) -> Result<Beforehand> {
        let mut known = self.first()?;
        if let Some(collect) = &self.options.merge {
            let (earlier, merged) = self.merge(known.earlier, collect, &known.read)?;
            (known.earlier, known.merged) = (earlier, Some(merged));
        }
        Ok(known)
    }

    fn first(&self) -> Result<Beforehand> {
        let options = self.options;
        let (mut reading, plan) = self.open()?;
        let scoring = options.survivor.settle(&plan, &mut reading)?;
        let notes = scoring.notes(&plan);
        let preferred = options.survivor != Survivor::First;
        let wanted = Wanted {
            scoring: preferred.then_some(scoring),
            gathers_ids: true,
            ..self.wanted(&plan, &reading)?
        };
        let mut ids = self.id_store(&plan)?;
        let mut gathered = FirstPass::new(options.memory, Arc::clone(self.temporary));
        judge_all(&mut reading, self.judging(&plan), (&wanted, true), self.machine(), |_, part| {
            if let Some(ids) = &mut ids {
                part.ids().try_for_each(|id| ids.add(id))?;
            }
            gathered.take(part)
        })?;
        let (added, unclear) = (std::mem::take(&mut gathered.added), gathered.unclear);
        let earlier = gathered.settle(&options.survivor, options.shared)?;
        Ok(Beforehand { earlier, ids, added, merged: None, unclear, notes, read: reading.reports() })
    }

    /// Finds out what becomes of every record, and fills those that stay from their duplicates.
    fn merge(
        &self,
        earlier: EarlierOnes,
        collect: &[String],
        read_before: &[SourceReport],
    ) -> Result<(EarlierOnes, (MergedRows, FilledCount))> {
        let (mut reading, plan) = self.open()?;
        let wanted = self.wanted(&plan, &reading)?;
        let collect = collect.iter().map(|field| plan.place_of(field, &reading, "--collect"));
        let mut merge = Merge::within(self.options.memory / 8, collect.collect::<Result<_>>()?);
        let mut settling = Settling::new(&reading, &plan, &wanted, (earlier, self.options.shared), None);
        let mut packed = Vec::new();
        judge_all(&mut reading, self.judging(&plan), (&wanted, false), self.machine(), |task, part| {
            settling.settle(task, part)?;
            for nth in 0..part.rows.len() {
                let Some(place) = settling.goes_into(nth, part) else { continue };
                packed.clear();
                let record = part.record(nth, &task.chunk);
                let cells = (0..plan.fields.len()).map(|field| plan.cell(record, field).unwrap_or_default());
                cells.for_each(|cell| pack(cell, &mut packed));
                merge.add(place, settling.record_at(nth, part), &packed)?;
            }
            Ok(())
        })?;
        same_as_before(read_before, &reading.reports())?;
        Ok((settling.into_earlier(), merge.finish(self.temporary)?))
    }

    fn judging<'p>(&'p self, plan: &'p FieldPlan) -> Judging<'p> {
        Judging { plan, policy: self.policy, hasher: Hasher::with_key(self.options.hash_key) }
    }

    fn machine(&self) -> (usize, &Progress) {
        (self.options.threads, self.progress)
    }
}
