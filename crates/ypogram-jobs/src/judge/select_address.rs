//! Which address is the record's: the address fields in the order given, then the text fields; the first accepted one
//! wins, else the first for review, else the first.

use smallvec::{SmallVec, smallvec};
use ypogram_core::providers::Certainty;
use ypogram_core::{
    CellBatch, Code, CodeSet, Form, Found, Grammar, Hasher, Judge, Kind, Plain, Policy, Repair, Repairs,
    SameMailbox, Summary, SummaryKey, Verdict, cell, is_well_formed, text,
};
use ypogram_io::{Record, Result};

use crate::engine::faults::{Faulty, caught};
use crate::judge::elsewhere;
use crate::plan::fields::FieldPlan;

/// The address of a record.
#[derive(Clone, Copy, Debug)]
pub(crate) struct SelectedAddress {
    pub(crate) judged: Summary,
    /// The findings of the address and of how it stood.
    pub(crate) codes: CodeSet,
    pub(crate) verdict: Verdict,
    pub(crate) repairs: Repairs,
    pub(crate) form: Form,
    /// The field it stood in, as a place in the plan.
    pub(crate) field: usize,
    /// It comes from a text field.
    pub(crate) from_text: bool,
    /// Its place among the record's candidates.
    pub(crate) candidate: usize,
    /// It is plain, and there are no candidates to look at: it is the whole cell, or stands there in a simple wrapping.
    pub(crate) plain: bool,
    /// It stands in a wrapping.
    pub(crate) wrapped: bool,
    /// The value of its field, exactly as it stands, is an address by the grammar in force; reported only where it is asked for.
    pub(crate) well_formed: bool,
}

/// An address found in a field of a record, and the cell it stands in.
#[derive(Clone, Debug)]
pub(crate) struct Candidate<'c> {
    pub(crate) field: usize,
    pub(crate) cell: &'c [u8],
    pub(crate) found: Found<'c>,
}

/// Records that are looked up together: one that is not in the processor's cache takes as long as some twenty that are.
pub(crate) const LOOKED_AHEAD: usize = 32;

/// Where records that are looked up together are lines, their text has at most so many bytes; it is copied.
const LONGEST_LINES: usize = LOOKED_AHEAD * 128;

impl SelectedAddress {
    /// The address that is the whole of a cell in the field at `field`.
    fn plain(judged: Summary, field: usize) -> Self {
        SelectedAddress {
            judged,
            codes: judged.codes,
            verdict: judged.verdict,
            repairs: judged.repairs,
            form: Form::Plain,
            field,
            from_text: false,
            candidate: 0,
            plain: true,
            wrapped: false,
            well_formed: is_without_syntax_fault(judged.codes),
        }
    }

    /// The only address of a cell in the field at `field`, which has that in common with others.
    pub(crate) fn summary_key(summary_key: SummaryKey, policy: &Policy, field: usize) -> Self {
        let selected = SelectedAddress::plain(summary_key.summary(policy), field);
        let unwrapping = summary_key.unwrapping();
        let as_it_stands = unwrapping.is_empty() || policy.well_formed_by_standard_form;
        let well_formed = selected.well_formed && as_it_stands;
        let codes = selected.codes.union(policy.faults_as_typed(unwrapping, well_formed));
        let (form, repairs) = (summary_key.form(), selected.repairs.union(unwrapping));
        let wrapped = !unwrapping.is_empty();
        SelectedAddress {
            form,
            repairs,
            codes,
            verdict: policy.verdict(codes),
            wrapped,
            well_formed,
            ..selected
        }
    }

    /// The same with another finding.
    pub(crate) fn with_code(mut self, code: Code, policy: &Policy) -> Self {
        self.codes = policy.in_force(self.codes.with(code));
        self.verdict = policy.verdict(self.codes);
        self
    }

    /// Whether it tells a mailbox: a rejected address is not used, and of one for review there may be no standard form.
    pub(crate) fn has_mailbox(&self) -> bool {
        self.verdict.is_usable() && self.judged.has_standard_form
    }
}

fn is_without_syntax_fault(codes: CodeSet) -> bool {
    codes.iter().all(|code| code.info().kind != Kind::Syntax)
}

/// Picks the address of record after record. One for each thread.
pub(crate) struct AddressSelector<'p> {
    plan: &'p FieldPlan,
    pub(crate) judge: Judge<'p>,
    /// For each source where its records have the only address field, where there is just one.
    only: Vec<Option<usize>>,
    /// What was seen of some records.
    ahead: CellBatch,
    /// The source, the chunk and the place of the first of them.
    ahead_from: (usize, u64, usize),
    /// Further usable addresses of the record picked last, in standard form, separated by commas.
    pub(crate) more: Vec<u8>,
    /// How many these are.
    pub(crate) more_count: u64,
    /// Whether the values that are looked at are well formed is asked for.
    pub(crate) asks_well_formed: bool,
    /// The address fields of the record picked last have none that can be used without a look.
    from_other_field: bool,
    /// A text field of the record picked last says that it is not to be contacted.
    warned: bool,
    /// The standard forms of all the addresses of a record.
    addresses: Vec<u8>,
    /// Records of the chunk in hand with which the program has a fault.
    pub(crate) faulty: Faulty,
}

/// The addresses of one record before one is picked; kept by the caller for a whole chunk, whose bytes they borrow.
pub(crate) type Candidates<'c> = Vec<Candidate<'c>>;

impl<'p> AddressSelector<'p> {
    pub(crate) fn new(plan: &'p FieldPlan, policy: &'p Policy, hasher: Hasher) -> Self {
        let only = match &plan.address[..] {
            [field] => plan.places.iter().map(|places| places[*field]).collect(),
            _ => vec![None; plan.places.len()],
        };
        let judge = Judge::new(policy, hasher);
        AddressSelector {
            plan,
            judge,
            only,
            ahead: CellBatch::default(),
            ahead_from: (0, 0, 0),
            more: Vec::new(),
            more_count: 0,
            asks_well_formed: policy.as_typed,
            from_other_field: false,
            warned: false,
            addresses: Vec::new(),
            faulty: Faulty::default(),
        }
    }

    /// The place among what was seen ahead of the only cell of `record` that can hold an address; none
    /// where it has no such field, and where the record stands in front of those that were looked at.
    #[inline]
    fn ahead(&mut self, record: Record<'_>) -> Option<usize> {
        let place = self.only[record.source()]?;
        let (of, chunk, first) = self.ahead_from;
        let nth = record.index().wrapping_sub(first);
        let is_of_chunk = (of, chunk) == (record.source(), record.chunk_number());
        if nth < self.ahead.len() && is_of_chunk {
            return Some(nth);
        }
        if is_of_chunk && record.index() < first || self.faulty.is_careful() {
            return None;
        }
        self.look_ahead(record, place);
        Some(0)
    }

    /// Looks at `record` and those behind it,.
    #[inline(never)]
    fn look_ahead(&mut self, record: Record<'_>, place: usize) {
        self.ahead_from = (record.source(), record.chunk_number(), record.index());
        #[cfg(test)]
        record
            .and_behind(LOOKED_AHEAD)
            .for_each(|record| crate::engine::faults::tests::provoke(record.raw()));
        if let Some((text, lines)) = record.lines(LOOKED_AHEAD, LONGEST_LINES) {
            return self.judge.scan_batch_in(text, lines, &mut self.ahead);
        }
        let cells = record.and_behind(LOOKED_AHEAD).map(|record| {
            let mut texts =
                self.plan.text.iter().filter_map(|&field| self.plan.cell_and_behind(record, field));
            // A remark in a text field counts for the record, whatever its address.
            let may_say = |(from, len): (&[u8], usize)| {
                text::may_hold_one(&from[..len]) || cell::starts_with_do_not_contact(from, len)
            };
            record.cell_and_behind(place).filter(|_| !texts.any(may_say))
        });
        self.judge.look_ahead(cells, &mut self.ahead);
    }

    /// The address of a record that has but one cell to look at, where that is a plain address or one in a simple wrapping, with
    /// its key under `same`; none where there is more to it. Afterwards [`AddressSelector::judge`] holds no address.
    #[inline(always)]
    pub(crate) fn plain_address<'c>(
        &'c mut self,
        record: Record<'c>,
        same: SameMailbox,
    ) -> Option<Plain<'c>> {
        if !self.plan.lists.is_empty() || record.has_links() {
            return None;
        }
        let nth = self.ahead(record)?;
        self.judge.plain(&self.ahead, nth, same)
    }

    /// Whether there is but one cell of `record` to look at, and it is empty.
    #[inline]
    pub(crate) fn is_empty(&self, record: Record<'_>) -> bool {
        let only = self.only[record.source()].filter(|_| self.plan.text.is_empty());
        only.and_then(|place| record.cell(place)).is_some_and(<[u8]>::is_empty)
    }

    /// The address of `record`; none where there is none. Afterwards [`AddressSelector::judge`] holds its
    /// standard form.
    pub(crate) fn pick<'c>(
        &mut self,
        record: Record<'c>,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
    ) -> Option<SelectedAddress> {
        if self.faulty.takes(record.index()) {
            return Some(self.faulty_one(candidates));
        }
        let mut selected = self.pick_address(record, cells, candidates)?;
        if record.has_links() {
            selected = self.hold_against_link(record, selected, candidates);
        }
        if !self.plan.lists.is_empty() {
            self.hold_against_lists(record, &mut selected);
        }
        Some(selected)
    }

    /// The same; a panic is a finding of the record.
    pub(crate) fn pick_caught<'c>(
        &mut self,
        record: Record<'c>,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
    ) -> Option<SelectedAddress> {
        loop {
            let selected = caught(|| self.pick(record, cells, candidates));
            if let Some(selected) = selected {
                return selected;
            }
            self.forget_what_is_ahead();
            self.faulty.note().ok()?;
        }
    }

    /// What is reported about a record with which the program has a fault: nothing of it is looked at again.
    #[cold]
    fn faulty_one(&mut self, candidates: &mut Candidates<'_>) -> SelectedAddress {
        self.more.clear();
        self.more_count = 0;
        let field = self.plan.address.first().or(self.plan.text.first()).copied().unwrap_or_default();
        candidates.clear();
        candidates.push(Candidate { field, cell: b"", found: Found::whole(b"") });
        let mut selected = self.judged(0, &candidates[0]);
        selected.judged.codes = CodeSet::of(&[Code::ProgramFault]);
        (selected.codes, selected.verdict, selected.well_formed) =
            (selected.judged.codes, Verdict::Reject, false);
        selected
    }

    /// What was seen of records ahead is not relied on any more, as after a panic.
    fn forget_what_is_ahead(&mut self) {
        self.ahead = CellBatch::default();
    }

    /// Prepares for the same chunk again, after a panic in it.
    ///
    /// # Errors
    /// Where the record that panicked is known already, and doing the chunk again would not help.
    pub(crate) fn start_again(&mut self) -> Result<()> {
        self.forget_what_is_ahead();
        self.faulty.note()
    }

    /// A link of the cell that goes to another address is a finding, with that address as the remark.
    #[cold]
    fn hold_against_link<'c>(
        &self,
        record: Record<'c>,
        mut selected: SelectedAddress,
        candidates: &mut Candidates<'c>,
    ) -> SelectedAddress {
        let place = self.plan.places[record.source()][selected.field];
        let Some(link) = place.and_then(|place| record.link(place)) else { return selected };
        let examined = ypogram_core::examine(link.trim_ascii(), self.judge.policy());
        let is_same = match &examined.standard {
            Some(standard) if selected.judged.has_standard_form => {
                standard.address.as_bytes() == self.judge.address()
            }
            _ => false,
        };
        if is_same {
            return selected;
        }
        if candidates.is_empty() {
            let cell = self.plan.cell(record, selected.field).unwrap_or_default();
            candidates.push(Candidate { field: selected.field, cell, found: Found::whole(cell) });
            selected.candidate = 0;
        }
        candidates[selected.candidate].found.remark = Some(link.into());
        selected.plain = false;
        selected.with_code(Code::OtherLink, self.judge.policy())
    }

    /// What lists of values say of the record's fields counts for its address.
    fn hold_against_lists(&self, record: Record<'_>, selected: &mut SelectedAddress) {
        let policy = self.judge.policy();
        for placed in &self.plan.lists {
            let cell = self.plan.cell(record, placed.field);
            if cell.and_then(|cell| placed.entry(&policy.lists, cell)).is_none() {
                continue;
            }
            let purpose = &policy.lists.get(placed.list).purpose;
            if purpose.class.is_some() {
                (selected.judged.class, selected.judged.certainty) = (purpose.class, Certainty::Known);
            }
            if let Some(code) = purpose.finding {
                selected.codes = policy.in_force(selected.codes.with(code));
                selected.verdict = policy.verdict(selected.codes);
            }
        }
    }

    fn pick_address<'c>(
        &mut self,
        record: Record<'c>,
        cells: &mut Vec<Found<'c>>,
        candidates: &mut Candidates<'c>,
    ) -> Option<SelectedAddress> {
        #[cfg(test)]
        crate::engine::faults::tests::provoke(record.raw());
        candidates.clear();
        self.more.clear();
        self.more_count = 0;
        if let Some(plain) = self.plain(record) {
            return Some(plain);
        }
        let policy = self.judge.policy();
        let names: SmallVec<[&[u8]; 4]> =
            self.plan.names.iter().filter_map(|&field| self.plan.cell(record, field)).collect();
        let beside = cell::Beside { names: &names };
        for &field in &self.plan.address {
            if let Some(cell) = self.plan.cell(record, field)
                && !cell.is_empty()
            {
                cells.clear();
                cell::read_beside(cell, beside, policy, cells);
                candidates.extend(cells.drain(..).map(|found| Candidate { field, cell, found }));
            }
        }
        self.warned = false;
        for &field in &self.plan.text {
            if let Some((from, len)) = self.plan.cell_and_behind(record, field) {
                let cell = &from[..len];
                self.warned |= cell::starts_with_do_not_contact(from, len);
                text::find(cell, policy, |hit| {
                    candidates.push(Candidate { field, cell, found: hit.into_found() });
                });
            }
        }
        self.from_other_field = false;
        let selected = match &candidates[..] {
            [] => return None,
            [only] => self.judged(0, only),
            _ => self.best_of(candidates),
        };
        Some(if self.warned { selected.with_code(Code::DoNotContact, policy) } else { selected })
    }

    /// The address of a record whose only cell to look at is one and nothing else, or has it in a simple wrapping, as most do.
    #[inline]
    fn plain(&mut self, record: Record<'_>) -> Option<SelectedAddress> {
        let nth = self.ahead(record)?;
        let cell = record.cell(self.only[record.source()]?)?;
        if let Some(judged) = self.judge.judge_plain(cell, &self.ahead, nth) {
            return Some(SelectedAddress::plain(judged, self.plan.address[0]));
        }
        let summary_key = self.judge.judge_wrapped(&self.ahead, nth)?;
        Some(SelectedAddress::summary_key(summary_key, self.judge.policy(), self.plan.address[0]))
    }

    /// The text of the address picked last, which the judge holds, without what stood around it.
    pub(crate) fn text<'a>(&'a self, selected: &SelectedAddress, candidates: &'a Candidates<'_>) -> &'a [u8] {
        if selected.plain { self.judge.address() } else { &candidates[selected.candidate].found.text }
    }

    /// The candidate judged; afterwards [`AddressSelector::judge`] holds its standard form.
    pub(crate) fn judged(&mut self, nth: usize, candidate: &Candidate<'_>) -> SelectedAddress {
        let Candidate { field, found, .. } = candidate;
        let judged = self.judge.judge(&found.text);
        let policy = self.judge.policy();
        let repairs = judged.repairs.union(found.repairs);
        let well_formed = match policy.well_formed_by_standard_form {
            true => judged.has_standard_form,
            false => self.asks_well_formed && self.is_well_formed(candidate, &judged),
        };
        let from_text = self.plan.text.contains(field);
        let mut codes = policy.with_as_found(judged.codes, found.codes);
        codes = codes.union(policy.faults_as_typed(repairs, well_formed));
        if from_text && self.from_other_field {
            codes = policy.in_force(codes.with(Code::FromOtherField));
        }
        SelectedAddress {
            judged,
            codes,
            verdict: policy.verdict(codes),
            repairs,
            form: found.form,
            field: *field,
            from_text,
            candidate: nth,
            plain: false,
            wrapped: false,
            well_formed,
        }
    }

    /// Whether the cell of a candidate is an address exactly as it stands; asked of the grammar only where that does not follow from
    /// what is known of the address in it.
    fn is_well_formed(&self, candidate: &Candidate<'_>, judged: &Summary) -> bool {
        const AROUND: [Repair; 8] = [
            Repair::Trimmed,
            Repair::Mailto,
            Repair::AngleBrackets,
            Repair::NameRemoved,
            Repair::Label,
            Repair::Telephone,
            Repair::OneOfSeveral,
            Repair::SpaceAroundAt,
        ];
        let (Candidate { cell, found, .. }, policy) = (candidate, self.judge.policy());
        let has_fault = !is_without_syntax_fault(judged.codes);
        let is_whole = found.text.len() == cell.len() && found.repairs.is_empty();
        if is_whole && (has_fault || is_without_syntax_fault(policy.switched_off())) {
            return !has_fault;
        }
        let around =
            policy.grammar != Grammar::Header && AROUND.iter().any(|&repair| found.repairs.contains(repair));
        !around && is_well_formed(cell, policy.grammar)
    }

    /// The candidate judged, with what counts for the whole record.
    pub(crate) fn judged_of_record(
        &mut self,
        nth: usize,
        candidate: &Candidate<'_>,
        record: Record<'_>,
    ) -> SelectedAddress {
        let mut selected = self.judged(nth, candidate);
        if self.warned {
            selected = selected.with_code(Code::DoNotContact, self.judge.policy());
        }
        if !self.plan.lists.is_empty() {
            self.hold_against_lists(record, &mut selected);
        }
        selected
    }

    /// The candidates with usable addresses beside `picked`, which the judge holds: each address once, in order. Afterwards the judge
    /// holds another.
    pub(crate) fn further(&mut self, selected: &SelectedAddress, candidates: &Candidates<'_>) -> Vec<usize> {
        let mut told: Vec<Vec<u8>> = vec![self.judge.address().to_vec()];
        let mut further = Vec::new();
        for (nth, candidate) in candidates.iter().enumerate().filter(|(nth, _)| *nth != selected.candidate) {
            let verdict = self.judged(nth, candidate).verdict;
            let address = self.judge.address();
            if verdict.is_usable() && !told.iter().any(|earlier| earlier == address) {
                told.push(address.to_vec());
                further.push(nth);
            }
        }
        further
    }

    #[cold]
    fn best_of(&mut self, candidates: &Candidates<'_>) -> SelectedAddress {
        // Each with its verdict, and where in `addresses` its standard form ends. From the last to the first, since that is the best
        // of most, and the judge then holds it already.
        let mut addresses = std::mem::take(&mut self.addresses);
        addresses.clear();
        let mut judged: SmallVec<[_; 4]> = SmallVec::new();
        let mut first = None;
        for (nth, candidate) in candidates.iter().enumerate().rev() {
            let selected = self.judged(nth, candidate);
            let start = addresses.len();
            addresses.extend_from_slice(self.judge.address());
            judged.push((selected, start..addresses.len()));
            first = Some(selected);
        }
        judged.reverse();
        let policy = self.judge.policy();
        let mut of_address_fields =
            judged.iter().map(|(selected, _)| selected).filter(|selected| !selected.from_text).peekable();
        // One from a text field may be somebody else's, unless the address fields say nothing.
        self.from_other_field = of_address_fields.peek().is_some()
            && of_address_fields.all(|selected| selected.verdict != Verdict::Accept);
        if self.from_other_field {
            for (selected, _) in judged.iter_mut().filter(|(selected, _)| selected.from_text) {
                *selected = selected.with_code(Code::FromOtherField, policy);
            }
        }
        let address = |i: usize| &addresses[judged[i].1.clone()];
        let best = (0..judged.len()).min_by_key(|&i| judged[i].0.verdict).expect("there are several");
        let mut told: SmallVec<[_; 4]> = smallvec![address(best)];
        for i in (0..judged.len()).filter(|&i| i != best && judged[i].0.verdict.is_usable()) {
            if told.contains(&address(i)) {
                continue;
            }
            if !self.more.is_empty() {
                self.more.push(b',');
            }
            self.more.extend_from_slice(address(i));
            self.more_count += 1;
            told.push(address(i));
        }
        drop(told);
        self.addresses = addresses;
        match first {
            Some(first) if best == 0 => first,
            _ => self.judged(best, &candidates[best]),
        }
    }

    /// Counts for each field that was not looked at whether it would give the record a usable address. Afterwards the judge may hold
    /// another address.
    #[cold]
    pub(crate) fn count_elsewhere(&mut self, record: Record<'_>, reachable: &mut [u64]) {
        elsewhere::count(record, self.plan, &mut self.judge, reachable);
    }

    /// The plan it picks by.
    pub(crate) fn plan(&self) -> &'p FieldPlan {
        self.plan
    }
}
