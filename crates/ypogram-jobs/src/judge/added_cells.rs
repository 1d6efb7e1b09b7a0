//! The added cells of a row: those that follow from the verdict, which many rows share, and those that each has for itself.

use std::hash::{Hash, Hasher};

use ypogram_core::{
    Class, Code, CodeSet, Form, Policy, Repairs, Verdict, WordOf, Words, providers::Operator,
};
use ypogram_io::{Template, TemplateCell};

use crate::judge::select_address::SelectedAddress;
use crate::plan::columns::Column;

/// What the shared cells of a row follow from: rows of one key have one [`Template`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct TemplateKey {
    has_address: bool,
    pub(crate) codes: CodeSet,
    verdict: Verdict,
    class: Option<Class>,
    operator: Operator,
    pub(crate) repairs: Repairs,
    form: Form,
    field: usize,
    source: usize,
    well_formed: bool,
    /// There is something in one of the values that few rows have.
    rare_values: bool,
}

impl TemplateKey {
    /// Of a row with that address, none where there is none, from the source of that number.
    #[inline]
    pub(crate) fn of(selected: &SelectedAddress, source: usize) -> Self {
        TemplateKey {
            has_address: true,
            codes: selected.codes,
            verdict: selected.verdict,
            class: selected.judged.class,
            operator: selected.judged.operator,
            repairs: selected.repairs,
            form: selected.form,
            field: selected.field,
            source,
            well_formed: selected.well_formed,
            rare_values: false,
        }
    }

    /// The same, where there is something in one of the values that few rows have, or not.
    pub(crate) fn with_rare_values(self, rare_values: bool) -> Self {
        TemplateKey { rare_values, ..self }
    }

    /// Of a row with an address of which no more is reported than this.
    pub(crate) fn of_found(
        codes: CodeSet,
        verdict: Verdict,
        class: Option<Class>,
        form: Form,
        (field, source): (usize, usize),
    ) -> Self {
        let none = TemplateKey::without_address(source);
        TemplateKey { has_address: true, codes, verdict, class, form, field, ..none }
    }

    /// Of a row without an address.
    pub(crate) fn without_address(source: usize) -> Self {
        TemplateKey {
            has_address: false,
            codes: CodeSet::EMPTY,
            verdict: Verdict::Reject,
            class: None,
            operator: Operator::default(),
            repairs: Repairs::default(),
            form: Form::None,
            field: 0,
            source,
            well_formed: false,
            rare_values: false,
        }
    }

    /// With these findings.
    pub(crate) fn with_codes(self, codes: CodeSet) -> Self {
        TemplateKey { codes, ..self }
    }

    /// With one more finding, and the verdict that `verdict` gives then.
    pub(crate) fn with_code(self, code: Code, verdict: Option<Verdict>) -> Self {
        TemplateKey { codes: self.codes.with(code), verdict: verdict.unwrap_or(self.verdict), ..self }
    }
}

impl Hash for TemplateKey {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let of_domain = self.class.map_or(0, Class::index) << 16 | self.operator.index();
        let rest = (of_domain as u64) << 40 ^ (self.form as u64) << 32 ^ (self.source as u64) << 8;
        state.write_u64(self.codes.folded() ^ rest);
    }
}

/// The added columns of an output.
#[derive(Clone, Debug)]
pub(crate) struct AddedColumns {
    columns: Vec<Column>,
    /// Those of which each row has a value of its own, in order.
    values: Vec<Column>,
    fields: Vec<String>,
    sources: Vec<String>,
    /// Records are named by text rather than by number.
    named_by_id: bool,
    /// The findings that ask for a decision, and those that reject.
    grave: [CodeSet; 2],
    /// The house's own words.
    words: Words,
}

impl AddedColumns {
    pub(crate) fn new(
        columns: Vec<Column>,
        fields: &[String],
        sources: Vec<String>,
        named_by_id: bool,
    ) -> Self {
        let values = columns.iter().copied().filter(|column| !is_shared(*column)).collect();
        let grave = [CodeSet::EMPTY; 2];
        let words = Words::default();
        AddedColumns { columns, values, fields: fields.to_vec(), sources, named_by_id, grave, words }
    }

    /// The same with the severities and words of `policy`, from which it follows why a record is not accepted.
    pub(crate) fn by(self, policy: &Policy) -> Self {
        let (grave, words) = ([policy.rejecting(), policy.reviewing()], policy.words.clone());
        AddedColumns { grave, words, ..self }
    }

    /// Those of them that are in `columns`, in that order; each value keeps its number.
    pub(crate) fn only(&self, columns: Vec<Column>) -> Self {
        AddedColumns { columns, ..self.clone() }
    }

    /// The columns of which each row has a value of its own; the first has value 0.
    pub(crate) fn values(&self) -> &[Column] {
        &self.values
    }

    /// The number of the value in that column, where each row has one of its own.
    pub(crate) fn value_of(&self, column: Column) -> Option<usize> {
        self.values.iter().position(|value| *value == column)
    }

    pub(crate) fn contains(&self, column: Column) -> bool {
        self.columns.contains(&column)
    }

    /// What rows of that key have in common.
    pub(crate) fn template(&self, key: &TemplateKey) -> Template {
        Template { cells: self.columns.iter().map(|column| self.cell(*column, key)).collect() }
    }

    fn cell(&self, column: Column, key: &TemplateKey) -> TemplateCell {
        if is_rare(column) && !key.rare_values {
            return TemplateCell::Nothing;
        }
        if let Some(value) = self.value_of(column) {
            let is_number = match column {
                Column::Record | Column::Line | Column::SameCount | Column::KnownRecord => true,
                Column::SameAs => !self.named_by_id,
                _ => false,
            };
            return if is_number { TemplateCell::Number(value) } else { TemplateCell::Value(value) };
        }
        if let Some(detail) = self.detail(column, key) {
            return TemplateCell::Value(detail);
        }
        if column == Column::WellFormed {
            return TemplateCell::Bool(key.well_formed);
        }
        let mut text = Vec::new();
        match column {
            Column::Source => text.extend_from_slice(self.sources[key.source].as_bytes()),
            Column::Form => text.extend_from_slice(key.form.word().as_bytes()),
            Column::Findings => join_words(key.codes.iter().map(Code::name), &mut text),
            _ if !key.has_address => {}
            Column::Verdict => text.extend_from_slice(key.verdict.word().as_bytes()),
            Column::Repairs => join_words(key.repairs.iter().map(|repair| repair.name()), &mut text),
            Column::Field => text.extend_from_slice(self.fields[key.field].as_bytes()),
            Column::Why => text.extend_from_slice(self.why(key).as_bytes()),
            Column::Class => text.extend_from_slice(key.class.map_or("", Class::word).as_bytes()),
            Column::Operator => text.extend_from_slice(key.operator.name().as_bytes()),
            _ => {}
        }
        if text.is_empty() { TemplateCell::Nothing } else { TemplateCell::Text(text.into()) }
    }

    /// The value that tells why a record is not accepted more exactly than the sentence of its finding does, where there is one.
    fn detail(&self, column: Column, key: &TemplateKey) -> Option<usize> {
        let code = self.gravest(key).filter(|_| column == Column::Why && key.has_address)?;
        let detail = match code {
            Code::HouseFormat => Column::HouseWhy,
            Code::Pattern => Column::PatternWhy,
            _ => return None,
        };
        self.value_of(detail).filter(|_| self.words.own(WordOf::Finding, code.name()).is_none())
    }

    /// The gravest finding, in a sentence.
    fn why(&self, key: &TemplateKey) -> &str {
        self.gravest(key).map_or("", |code| self.words.sentence(code))
    }

    /// The gravest finding of a record that is not accepted.
    fn gravest(&self, key: &TemplateKey) -> Option<Code> {
        let gravest = self.grave.iter().find_map(|codes| codes.intersection(key.codes).first());
        gravest.filter(|_| key.verdict != Verdict::Accept)
    }
}

/// Whether the cells of a column follow from a [`TemplateKey`].
fn is_shared(column: Column) -> bool {
    matches!(
        column,
        Column::WellFormed
            | Column::Verdict
            | Column::Findings
            | Column::Repairs
            | Column::Form
            | Column::Field
            | Column::Class
            | Column::Operator
            | Column::Source
            | Column::Decision
            | Column::Why
    )
}

/// Whether few rows have something in that column: without it, a row is fewer stretches for an encoder.
pub(crate) fn is_rare(column: Column) -> bool {
    matches!(
        column,
        Column::Suggestion
            | Column::Confidence
            | Column::Reason
            | Column::More
            | Column::Remark
            | Column::SetAside
    )
}

/// Whether a value follows from a plain address alone, or is empty beside one.
pub(crate) fn follows_from_plain_address(column: Column) -> bool {
    matches!(
        column,
        Column::Address
            | Column::LocalPart
            | Column::Domain
            | Column::Key
            | Column::Suggestion
            | Column::Confidence
            | Column::Reason
            | Column::More
            | Column::Remark
            | Column::SetAside
            | Column::House
            | Column::HouseProposal
            | Column::HouseWhy
            | Column::FieldsAtFault
    ) || column.depends_on_order()
}

/// Appends `words`, a space between them and before the first where something stands there.
pub(crate) fn join_words<'w>(words: impl Iterator<Item = &'w str>, out: &mut Vec<u8>) {
    for word in words {
        if !out.is_empty() {
            out.push(b' ');
        }
        out.extend_from_slice(word.as_bytes());
    }
}
