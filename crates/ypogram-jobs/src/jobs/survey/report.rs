//! What a survey reports, as plain data: shown, kept in a file, and held against another survey.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use ypogram_core::{CellKind, Class, Code, Form, Policy, Repair, Severity, Verdict};

use crate::engine::distinct::{DistinctCount, estimates};
use crate::engine::reading::SourceReport;
use crate::jobs::receipt::LAYOUT;
use crate::jobs::survey::counts::{SurveyCounts, UsableFigures};
use crate::jobs::survey::gathered::{AFTER_REPAIR, AS_IT_STOOD, FieldCounts, Gathered, NOT_USABLE, Shape};
use crate::jobs::survey::ladder::{self, Ladder};
use crate::jobs::survey::mailboxes::MailboxFigures;
use crate::jobs::survey::options::SurveyOptions;
use crate::jobs::survey::values::TopValue;
use crate::plan::field_rules::FieldChecks;
use crate::plan::fields::{FieldPlan, HowChosen};
use crate::plan::read_columns::ReadColumns;

/// What a survey reports. The layout is described in `docs/json.md`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SurveyReport {
    /// The version of this layout.
    pub layout: u32,
    /// `survey`.
    pub command: String,
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// The condition that the surveyed records meet, where there was one.
    pub only: Option<String>,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// How the address fields were chosen.
    pub how: HowChosen,
    /// Every count.
    pub counts: SurveyCounts,
    /// Each field, in order.
    pub fields: Vec<FieldFigures>,
    /// The forms of addresses, the most frequent first.
    pub forms: Vec<FormFigures>,
    /// The findings, by severity and then the most frequent first.
    pub findings: Vec<FindingFigures>,
    /// Shapes of the cells in the address fields, the most frequent first.
    pub shapes: Vec<ShapeFigures>,
    /// The rarest shapes, the rarest last; only those that are not among `shapes`.
    pub rare_shapes: Vec<ShapeFigures>,
    /// The most frequent domains.
    pub domains: Vec<TopValue>,
    /// Local parts that are used at several domains, and at how many; estimates where that is said.
    pub local_parts: Vec<TopValue>,
    /// Whether the figures of `local_parts` are exact.
    pub local_parts_exact: bool,
    /// Mailboxes that several records have; estimates where the number of mailboxes is one.
    pub same_mailbox: MailboxFigures,
    /// Where records that lack a usable address would find one.
    pub elsewhere: Ladder,
}

/// A count under a name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Figure {
    /// What is counted.
    pub name: String,
    /// How many.
    pub count: u64,
}

/// One field.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FieldFigures {
    /// Its name.
    pub name: String,
    /// Cells with something in them.
    pub filled: u64,
    /// Cells without.
    pub empty: u64,
    /// How many distinct values there are.
    pub distinct: DistinctCount,
    /// Whether no value is there twice and every record has one, so that it distinguishes records. Beyond 65,536 values a
    /// fair sample of them was looked at.
    pub unique: bool,
    /// Characters of the shortest filled cell.
    pub shortest: u64,
    /// Characters of the longest.
    pub longest: u64,
    /// Bytes of UTF-8 that hold every cell.
    pub bytes: u64,
    /// Cells by what they hold, the most frequent first.
    pub kinds: Vec<Figure>,
    /// The most frequent values.
    pub values: Vec<TopValue>,
    /// Whether the counts of these are exact.
    pub values_exact: bool,
    /// Filled cells that each pattern fits, where patterns are asked for.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub patterns: Vec<Figure>,
    /// Records that break what is asked of the field, by what that is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub faults: Vec<Figure>,
}

/// One form.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FormFigures {
    /// Its name.
    pub form: String,
    /// Records whose address stands so.
    pub count: u64,
    /// Of them, usable as it stands.
    pub as_it_stood: u64,
    /// Usable after repair.
    pub after_repair: u64,
    /// Not usable.
    pub not_usable: u64,
}

/// One finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FindingFigures {
    /// Its code.
    pub code: String,
    /// How much it weighs in this job.
    pub severity: Severity,
    /// Records with it.
    pub count: u64,
    /// The first cell with it.
    pub example: String,
}

/// One shape.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ShapeFigures {
    /// The shape; empty for an empty cell.
    pub shape: String,
    /// Cells that have it.
    pub count: u64,
    /// The first of them.
    pub example: String,
}

/// How many of the most frequent are reported.
const MOST: usize = 20;

impl SurveyReport {
    pub(super) fn of(
        gathered: &Gathered,
        plan: &FieldPlan,
        options: &SurveyOptions,
        checks: &FieldChecks,
        (distinct_mailboxes, same_mailbox): (DistinctCount, MailboxFigures),
    ) -> Self {
        let (shapes, rare_shapes) = shapes_of(gathered);
        let (local_parts, local_parts_exact) = local_parts_of(gathered);
        let (forms, findings) = (forms_of(gathered), findings_of(gathered, &options.policy));
        SurveyReport {
            layout: LAYOUT,
            command: "survey".into(),
            sources: Vec::new(),
            only: None,
            columns: ReadColumns::of(plan),
            how: plan.how.clone(),
            counts: SurveyCounts {
                findings: findings.iter().map(|finding| (finding.code.clone(), finding.count)).collect(),
                forms: forms.iter().map(|form| (form.form.clone(), form.count)).collect(),
                ..counts_of(gathered, distinct_mailboxes)
            },
            fields: plan
                .fields
                .iter()
                .zip(&gathered.fields)
                .enumerate()
                .map(|(field, (name, counts))| FieldFigures {
                    patterns: patterns_of(counts, options),
                    faults: faults_of(field, gathered, checks),
                    ..field_of(name, counts, gathered.records)
                })
                .collect(),
            forms,
            findings,
            shapes,
            rare_shapes,
            domains: gathered.domains.top(MOST).0,
            local_parts,
            local_parts_exact,
            same_mailbox,
            elsewhere: ladder::of(gathered, plan),
        }
    }
}

fn counts_of(gathered: &Gathered, mailboxes: DistinctCount) -> SurveyCounts {
    let with_address: u64 = gathered.verdicts.iter().sum();
    let shapes = DistinctCount { count: gathered.shapes.distinct(), exact: gathered.shapes.is_exact() };
    let domains = gathered.domains.distinct();
    let distinct = [("mailboxes", mailboxes), ("usable_domains", domains), ("shapes", shapes)];
    SurveyCounts {
        records: gathered.records,
        blank_lines: 0,
        no_address: gathered.records - with_address,
        usable: UsableFigures {
            as_it_stood: gathered.as_it_stood,
            after_repair: gathered.after_repair,
            from_text: gathered.from_text,
            total: gathered.as_it_stood + gathered.after_repair + gathered.from_text,
        },
        verdicts: [Verdict::Accept, Verdict::Review, Verdict::Reject]
            .map(|verdict| (verdict.word().to_owned(), gathered.verdicts[verdict as usize]))
            .into(),
        repairs: by_name(
            Repair::ALL.iter().map(|repair| figure(repair.name(), gathered.repairs[*repair as usize])),
        ),
        classes: by_name(Class::all().map(|class| figure(class.word(), gathered.classes[class.index()]))),
        operators: by_name(gathered.operators.iter().map(|(name, count)| figure(name, *count))),
        mailboxes: mailboxes.count,
        usable_domains: domains.count,
        shapes: shapes.count,
        estimated: estimates(distinct).map(str::to_owned).collect(),
        ..SurveyCounts::default()
    }
}

fn figure(name: &str, count: u64) -> Figure {
    Figure { name: name.into(), count }
}

/// Those that are there, the most frequent first.
fn ranked(figures: impl Iterator<Item = Figure>) -> Vec<Figure> {
    let mut figures: Vec<Figure> = figures.filter(|figure| figure.count > 0).collect();
    figures.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| a.name.cmp(&b.name)));
    figures
}

/// The same, found by name.
fn by_name(figures: impl Iterator<Item = Figure>) -> IndexMap<String, u64> {
    ranked(figures).into_iter().map(|figure| (figure.name, figure.count)).collect()
}

fn field_of(name: &str, counts: &FieldCounts, records: u64) -> FieldFigures {
    let (values, values_exact) = counts.values.top(MOST);
    let kinds = CellKind::ALL.iter().map(|kind| figure(kind.word(), counts.kinds[*kind as usize]));
    FieldFigures {
        name: name.into(),
        filled: counts.filled,
        empty: records - counts.filled,
        distinct: counts.values.distinct(),
        unique: records > 1 && counts.filled == records && counts.values.are_unique(),
        shortest: if counts.filled == 0 { 0 } else { counts.shortest },
        longest: counts.longest,
        bytes: counts.most_bytes,
        kinds: ranked(kinds.filter(|figure| figure.name != CellKind::Empty.word())),
        values,
        values_exact,
        patterns: Vec::new(),
        faults: Vec::new(),
    }
}

/// The records that break what is asked of the field at place `field`.
fn faults_of(field: usize, gathered: &Gathered, checks: &FieldChecks) -> Vec<Figure> {
    let all = checks.checks.iter().zip(&gathered.field_faults);
    all.filter(|(check, _)| check.field == field).map(|(check, count)| figure(check.word(), *count)).collect()
}

/// The filled cells of a field that each pattern fits.
fn patterns_of(counts: &FieldCounts, options: &SurveyOptions) -> Vec<Figure> {
    let names = options.patterns.iter().map(|pattern| &pattern.pattern.name);
    names.zip(&counts.patterns).map(|(name, count)| figure(name, *count)).collect()
}

fn forms_of(gathered: &Gathered) -> Vec<FormFigures> {
    let form = |(form, counts): (&Form, &[u64; 3])| FormFigures {
        form: form.word().into(),
        count: counts.iter().sum(),
        as_it_stood: counts[AS_IT_STOOD],
        after_repair: counts[AFTER_REPAIR],
        not_usable: counts[NOT_USABLE],
    };
    let mut forms: Vec<_> =
        Form::ALL.iter().zip(&gathered.forms).map(form).filter(|form| form.count > 0).collect();
    forms.sort_by_key(|form| std::cmp::Reverse(form.count));
    forms
}

fn findings_of(gathered: &Gathered, policy: &Policy) -> Vec<FindingFigures> {
    let finding = |code: Code| {
        let noted = &gathered.findings[code.index()];
        let example = noted.example.as_ref().map_or_else(String::new, |(_, text)| text.clone());
        FindingFigures {
            code: code.name().into(),
            severity: policy.severity(code),
            count: noted.count,
            example,
        }
    };
    let mut findings: Vec<_> = Code::all().map(finding).filter(|finding| finding.count > 0).collect();
    findings.sort_by_key(|finding| (std::cmp::Reverse(finding.severity), std::cmp::Reverse(finding.count)));
    findings
}

/// The most frequent shapes, and the rarest of the others.
fn shapes_of(gathered: &Gathered) -> (Vec<ShapeFigures>, Vec<ShapeFigures>) {
    let mut all: Vec<&Shape> = gathered.shapes.iter().map(|(_, shape)| shape).collect();
    all.sort_by(|a, b| b.noted.count.cmp(&a.noted.count).then_with(|| a.shape.cmp(&b.shape)));
    let told = |shape: &&Shape| ShapeFigures {
        shape: shape.shape.clone(),
        count: shape.noted.count,
        example: shape.noted.example.as_ref().map_or_else(String::new, |(_, text)| text.clone()),
    };
    let frequent = all.len().min(MOST);
    let rare = all.len().saturating_sub(MOST).max(frequent);
    (all[..frequent].iter().map(told).collect(), all[rare..].iter().map(told).collect())
}

/// The local parts that are used at most domains, at two or more.
fn local_parts_of(gathered: &Gathered) -> (Vec<TopValue>, bool) {
    let mut domains = std::collections::HashMap::<u64, (u64, &str)>::new();
    for (_, part) in gathered.local_parts.iter() {
        domains.entry(part.hash).or_insert((0, &part.text)).0 += gathered.local_parts.scale();
    }
    let mut all: Vec<(u64, &str)> = domains.into_values().filter(|(count, _)| *count > 1).collect();
    all.sort_unstable_by(|a, b| b.0.cmp(&a.0).then(a.1.cmp(b.1)));
    let told = |(count, text): &(u64, &str)| TopValue { value: (*text).to_owned(), count: *count };
    (all.iter().take(MOST).map(told).collect(), gathered.local_parts.is_exact())
}
