//! The values that a row has for itself, column by column.

use std::borrow::Cow;

use ypogram_core::{CellKind, Verdict};
use ypogram_io::Record;

use crate::judge::added_cells::{is_rare, join_words};
use crate::judge::annotate::{Annotator, Part, Row, Settled};
use crate::judge::select_address::{Candidates, SelectedAddress};
use crate::judge::tally::reason_for_review;
use crate::lists::AppendedColumn;
use crate::plan::columns::Column;
use crate::plan::house_pattern::missed;
use crate::plan::outcome::Outcome;
use crate::plan::split::Source;

impl Annotator<'_> {
    /// Adds a row for the record with the address that the judge holds.
    pub(super) fn add_row<'c>(
        &mut self,
        record: Record<'c>,
        settled: Settled,
        candidates: &Candidates<'c>,
        part: &mut Part,
    ) {
        let Settled { selected, outcome, added, decided, .. } = settled;
        self.key.clear();
        if matches!(outcome, Outcome::Kept | Outcome::Review) {
            self.picker.judge.key(self.picker.judge.policy().same, &mut self.key);
        }
        let person = match self.key.is_empty() {
            true => 0,
            false => self.wanted.person(record, self.picker.plan(), self.hasher),
        };
        let key = self.wanted.hash(&self.key, record, self.picker.plan(), self.hasher);
        if let Some(comparing) = &self.wanted.comparing {
            part.compared.push(comparing.compare(&self.picker.judge, self.hasher, outcome));
        }
        if let Some(scoring) = &self.wanted.scoring {
            part.scores.push(scoring.score(
                record,
                selected.map(|selected| selected.verdict),
                self.picker.plan(),
            ));
        }
        if self.keys_only {
            let record = record.index() as u32;
            return part.rows.push(Row { outcome, added, key, person, record, decided, ..Row::default() });
        }
        self.gather_house_address(record, part);
        self.suggested = None;
        let values = part.values.add_row();
        let (mut values_are_simple, mut rare_values) = (self.picker.judge.is_plain(), false);
        for value in 0..self.added.values().len() {
            let column = self.added.values()[value];
            let place = part.values.append_with(|out| {
                self.write_value(column, record, &settled, candidates, out);
            });
            values_are_simple &= place.is_empty() || is_of_address(column);
            rare_values |= is_rare(column) && !place.is_empty();
            part.values.set(values, value, place);
        }
        let template = self.template(selected.as_ref(), rare_values, record.source(), part);
        let policy = self.picker.judge.policy();
        part.rows.push(Row {
            key,
            person,
            record: record.index() as u32,
            values: values as u32,
            template,
            class: selected.and_then(|selected| selected.judged.class),
            outcome,
            output: 0,
            added,
            decided,
            suggested: self.suggested.as_ref().map(|suggestion| suggestion.confidence),
            reason: selected.map_or(0, |selected| reason_for_review(&selected, policy)),
            values_are_simple,
            record_is_simple: false,
        });
    }

    /// Appends what `column` says of the record and the address that the judge holds; nothing where that depends on the records
    /// before.
    fn write_value(
        &mut self,
        column: Column,
        record: Record<'_>,
        settled: &Settled,
        candidates: &Candidates<'_>,
        out: &mut Vec<u8>,
    ) {
        let with_address = settled.selected.is_some();
        let plan = self.picker.plan();
        match column {
            Column::Input => {
                let field = settled.selected.map(|selected| selected.field);
                let field = field.or(plan.address.first().copied()).or(plan.text.first().copied());
                let cell = field.and_then(|field| plan.cell(record, field));
                out.extend_from_slice(cell.unwrap_or_default());
            }
            Column::Original => {
                let cell = self.wanted.into.and_then(|field| plan.cell(record, field));
                out.extend_from_slice(cell.unwrap_or_default());
            }
            Column::Kind => self.write_kind(record, out),
            Column::FromList(column) => self.write_from_list(usize::from(column), record, with_address, out),
            Column::Cut(column) => {
                let selected = settled.selected.as_ref();
                let value = |source| self.split_value(source, record, selected);
                let taken = self.wanted.split.take(usize::from(column), &value);
                out.extend_from_slice(&taken.unwrap_or_default());
            }
            Column::Lists => self.write_lists(record, with_address, out),
            Column::FieldsAtFault => self.wanted.fields.faults(&self.broken).write(out),
            Column::PatternWhy => self.write_pattern_miss(record, settled, candidates, out),
            Column::SetAside => {
                let reason = settled.set_aside.map(|place| self.wanted.selection.reason(place));
                out.extend_from_slice(reason.unwrap_or_default().as_bytes());
            }
            _ => {
                if let Some(selected) = &settled.selected {
                    self.write_value_of_address(column, selected, settled.pattern, candidates, out);
                }
            }
        }
    }

    fn write_value_of_address(
        &mut self,
        column: Column,
        selected: &SelectedAddress,
        pattern: Option<usize>,
        candidates: &Candidates<'_>,
        out: &mut Vec<u8>,
    ) {
        let judge = &self.picker.judge;
        match column {
            Column::Address => out.extend_from_slice(judge.address()),
            Column::LocalPart => out.extend_from_slice(judge.local_part()),
            Column::Domain => out.extend_from_slice(judge.domain()),
            Column::HostedBy => {
                let host = judge.policy().hosted_by(judge.domain());
                out.extend_from_slice(host.unwrap_or_default().as_bytes());
            }
            Column::Key => out.extend_from_slice(&self.key),
            Column::More => out.extend_from_slice(&self.picker.more),
            Column::Pattern => out.extend_from_slice(self.pattern_word(pattern).as_bytes()),
            Column::House | Column::HouseProposal | Column::HouseWhy => self.write_of_house(column, out),
            Column::Suggestion => self.write_suggestion(selected, candidates, out),
            Column::Confidence => {
                let confidence =
                    self.suggested.as_ref().map_or("", |suggestion| suggestion.confidence.word());
                out.extend_from_slice(confidence.as_bytes());
            }
            Column::Reason => {
                let reason = self.suggested.as_ref().map_or("", |suggestion| &suggestion.reason);
                out.extend_from_slice(reason.as_bytes());
            }
            Column::Remark => out.extend_from_slice(remark(selected, candidates)),
            Column::Part(part) if selected.verdict.is_usable() => {
                if let Some(parts) = judge.parts() {
                    let suffix = if self.wanted.split.suffixes { parts.suffix() } else { None };
                    parts.write_known(part, &self.name, suffix, out);
                }
            }
            _ => {}
        }
    }

    /// What the cell holds that is reported by kind.
    fn write_kind(&mut self, record: Record<'_>, out: &mut Vec<u8>) {
        let plan = self.picker.plan();
        let field = self.wanted.label.expect("a field is named");
        let cell = plan.cell(record, field).unwrap_or_default();
        let of_address_field = plan.address.contains(&field);
        self.picker.judge.aside(|judge| self.addresses.look(cell, of_address_field, judge));
        let kind = CellKind::of(cell, self.addresses.spans.len());
        out.extend_from_slice(kind.word().as_bytes());
    }

    /// The entry of the list at `list` that speaks of the record or its address.
    fn entry_in(&self, list: usize, record: Record<'_>, with_address: bool) -> Option<usize> {
        let (plan, judge) = (self.picker.plan(), &self.picker.judge);
        match plan.lists.iter().find(|placed| placed.list == list) {
            Some(placed) => placed.entry(&judge.policy().lists, plan.cell(record, placed.field)?),
            None if with_address => judge.entry_in(list),
            None => None,
        }
    }

    fn write_from_list(&self, column: usize, record: Record<'_>, with_address: bool, out: &mut Vec<u8>) {
        let AppendedColumn { list, column, .. } = self.wanted.from_lists[column];
        if let Some(entry) = self.entry_in(list, record, with_address) {
            out.extend_from_slice(self.picker.judge.policy().lists.get(list).cell(entry, column));
        }
    }

    /// The names of the lists that speak of the record or its address.
    fn write_lists(&self, record: Record<'_>, with_address: bool, out: &mut Vec<u8>) {
        let lists = self.picker.judge.policy().lists.iter().enumerate();
        let speaks = |place: &usize| self.entry_in(*place, record, with_address).is_some();
        let names = lists.filter(|(place, _)| speaks(place)).map(|(_, list)| &*list.purpose.name);
        let mut joined = Vec::new();
        join_words(names, &mut joined);
        out.extend_from_slice(&joined);
    }

    /// What came of holding the address against the house's formats.
    fn write_of_house(&self, column: Column, out: &mut Vec<u8>) {
        let Some(verdict) = &self.house.verdict else { return };
        match column {
            Column::House => out.extend_from_slice(verdict.words().as_bytes()),
            Column::HouseProposal => {
                out.extend_from_slice(verdict.proposal.as_deref().unwrap_or_default().as_bytes())
            }
            _ => {
                let sentences: Vec<&str> = verdict.faults.iter().map(|fault| &*fault.message).collect();
                out.extend_from_slice(sentences.join(" ").as_bytes());
            }
        }
    }

    /// A value that is cut or put together: a field, or a part of the address that the judge holds.
    pub(super) fn split_value<'c>(
        &self,
        source: Source,
        record: Record<'c>,
        selected: Option<&SelectedAddress>,
    ) -> Option<Cow<'c, [u8]>> {
        match source {
            Source::Field(field) => self.picker.plan().cell(record, field).map(Cow::Borrowed),
            Source::Part(part) => {
                selected.filter(|selected| selected.verdict.is_usable())?;
                let parts = self.picker.judge.parts()?;
                let mut out = Vec::new();
                let suffix = if self.wanted.split.suffixes { parts.suffix() } else { None };
                parts.write_known(part, &self.name, suffix, &mut out);
                Some(Cow::Owned(out))
            }
            Source::Column(_) => None,
        }
    }

    /// How far the value fits the patterns that it misses.
    fn write_pattern_miss(
        &self,
        record: Record<'_>,
        settled: &Settled,
        candidates: &Candidates<'_>,
        out: &mut Vec<u8>,
    ) {
        let Some(selected) = settled.selected.filter(|_| settled.pattern.is_none()) else { return };
        let (as_it_stands, standard_form) = self.forms_of(&selected, record, candidates);
        out.extend_from_slice(missed(&self.wanted.patterns, as_it_stands, standard_form).as_bytes());
    }

    fn pattern_word(&self, fitting: Option<usize>) -> &str {
        match (&self.wanted.patterns[..], fitting) {
            ([_], Some(_)) => "true",
            ([_], None) => "false",
            (patterns, Some(first)) => &patterns[first].pattern.name,
            (_, None) => "",
        }
    }

    /// What was probably meant, where the address is not accepted; what there is to say about that is kept for other columns.
    fn write_suggestion(
        &mut self,
        selected: &SelectedAddress,
        candidates: &Candidates<'_>,
        out: &mut Vec<u8>,
    ) {
        self.suggested = None;
        // Nothing is to be suggested for a plain address that is only not built as the house prescribes.
        let is_mendable = !selected.plain || selected.codes.meets(self.mendable);
        if selected.verdict == Verdict::Accept || !is_mendable {
            return;
        }
        let plain = self.picker.text(selected, candidates).to_vec();
        self.suggested = self.picker.judge.aside(|judge| match selected.plain {
            true => judge.suggest(&plain, selected.codes),
            false => judge.suggest_found(&candidates[selected.candidate].found, selected.codes),
        });
        if let Some(suggestion) = &self.suggested {
            out.extend_from_slice(suggestion.address.as_bytes());
        }
    }
}

/// Whether a value is an address in standard form, or part of one.
fn is_of_address(column: Column) -> bool {
    matches!(column, Column::Address | Column::LocalPart | Column::Domain | Column::Key)
}

/// The words beside the address that are no name.
fn remark<'c>(selected: &SelectedAddress, candidates: &'c Candidates<'_>) -> &'c [u8] {
    // A plain address has none.
    let found = candidates.get(selected.candidate).filter(|_| !selected.plain);
    found.and_then(|candidate| candidate.found.remark.as_deref()).unwrap_or_default()
}
