//! The figures of summaries by name: one name each, the same in every command.

use std::borrow::Borrow;

use indexmap::IndexMap;
use ypogram_core::text::SkipReason;
use ypogram_core::{Class, Code, Form, Repair, Verdict};
use ypogram_io::{Error, Result, nearest};
use ypogram_jobs::bounces::BouncesReport;
use ypogram_jobs::check::CheckReport;
use ypogram_jobs::clean::CleanReport;
use ypogram_jobs::compare::{CompareReport, State};
use ypogram_jobs::dedupe::DedupeReport;
use ypogram_jobs::domains::DomainsReport;
use ypogram_jobs::extract::{ByRecordReport, ExtractReport};
use ypogram_jobs::links::{KindReport, LinksReport};
use ypogram_jobs::survey::{SurveyCounts, SurveyReport};
use ypogram_jobs::{Outcome, Tally};

/// The figures of one summary.
#[derive(Debug, Default)]
pub(crate) struct Figures(Vec<(String, u64)>);

/// Kinds of decisions, in the order in which `clean` counts them.
const DECISIONS: [&str; 6] = ["kept", "taken", "dropped", "typed", "moved", "from-memory"];

/// Names that some command has a figure for; what stands behind a dot says which of several.
const NAMES: [&str; 75] = [
    "accepted",
    "addresses",
    "away",
    "behind",
    "blank-lines",
    "changed-meanwhile",
    "class",
    "decisions",
    "deferred",
    "distinct",
    "domains",
    "duplicate",
    "empty",
    "files",
    "filled",
    "filled-before",
    "finding",
    "firms",
    "form",
    "formula-cells",
    "full",
    "further-addresses",
    "further-addresses-in-no-kept-record",
    "gone",
    "groups",
    "handed-over",
    "households",
    "in-groups",
    "kept",
    "known",
    "known-in-both",
    "known-missing",
    "known-records",
    "long-records",
    "mailboxes",
    "matches",
    "merged-cells",
    "messages",
    "moved",
    "new",
    "no-address",
    "not-fitting",
    "operator",
    "other",
    "passed",
    "pattern",
    "probable-twins",
    "reachable",
    "recipients",
    "records",
    "records-not-utf8",
    "records-that-share-a-mailbox",
    "rejected",
    "rejected-texts",
    "repair",
    "review",
    "rows",
    "rows-added",
    "set-aside",
    "shared",
    "shared-mailbox",
    "short-records",
    "since",
    "suggestions",
    "undecoded-messages",
    "unpaired-surrogates",
    "unread",
    "unusable",
    "usable",
    "usable-after-repair",
    "usable-as-it-stood",
    "usable-from-text",
    "with-recipients",
    "withdrawn",
    "written",
];

/// Refuses a name that no figure has, before anything is done.
///
/// # Errors
/// Where none has it.
pub(crate) fn check(name: Option<&str>) -> Result<()> {
    let Some(name) = name else { return Ok(()) };
    let head = name.split('.').next().unwrap_or_default();
    match NAMES.contains(&head) {
        true => Ok(()),
        false => Err(unknown(name, NAMES.into_iter())),
    }
}

fn unknown<'n>(name: &str, known: impl Iterator<Item = &'n str> + Clone) -> Error {
    let meant =
        nearest(name, known.clone()).map_or_else(String::new, |meant| format!("did you mean {meant}? "));
    let all: Vec<&str> = known.filter(|known| !known.contains('.')).collect();
    Error::unusable(
        format!("there is no figure ‘{name}’ here"),
        format!("{meant}The figures are: {}; see docs/figures.md", all.join(", ")),
    )
}

impl Figures {
    /// The figure of that name.
    ///
    /// # Errors
    /// Where there is none.
    pub(crate) fn get(&self, name: &str) -> Result<u64> {
        let found = self.0.iter().find(|(known, _)| known == name);
        found.map(|(_, count)| *count).ok_or_else(|| unknown(name, self.0.iter().map(|(name, _)| &**name)))
    }

    /// Those that are not nought, in order.
    pub(crate) fn told(&self) -> impl Iterator<Item = (&str, u64)> {
        self.0.iter().filter(|(_, count)| *count > 0).map(|(name, count)| (&**name, *count))
    }

    fn add(&mut self, name: &str, count: u64) {
        debug_assert!(NAMES.contains(&name.split('.').next().unwrap_or_default()), "{name}");
        self.0.push((name.to_owned(), count));
    }

    /// Counts of one kind, each under the name of the kind and its own.
    fn of<N: AsRef<str>, C: Borrow<u64>>(&mut self, kind: &str, counts: impl IntoIterator<Item = (N, C)>) {
        for (name, count) in counts {
            self.add(&format!("{kind}.{}", name.as_ref()), *count.borrow());
        }
    }

    fn codes(&mut self, kind: &str, counts: &[u64]) {
        self.of(kind, Code::all().map(|code| (code.name(), counts[code.index()])));
    }

    fn tally(&mut self, tally: &Tally) {
        self.add("usable", tally.usable());
        self.add("usable-as-it-stood", tally.as_it_stood);
        self.add("usable-after-repair", tally.after_repair);
        self.add("usable-from-text", tally.from_text);
        self.add("further-addresses", tally.more);
        self.codes("finding", &tally.findings);
        self.of("repair", Repair::ALL.iter().map(|repair| (repair.name(), tally.repairs[*repair as usize])));
        self.of("form", Form::ALL.iter().map(|form| (form.word(), tally.forms[*form as usize])));
        self.of("class", Class::all().map(|class| (class.word(), tally.classes[class.index()])));
    }

    /// Those of `check` and `split`.
    pub(crate) fn of_check(report: &CheckReport) -> Self {
        let mut figures = Figures::default();
        let of = |outcome: Outcome| report.tally.outcomes[outcome as usize];
        figures.add("records", report.records);
        figures.add("blank-lines", report.blank_lines);
        figures.add("formula-cells", report.formula_cells);
        figures.add("accepted", of(Outcome::Kept));
        figures.add("review", of(Outcome::Review));
        figures.add("rejected", of(Outcome::Rejected));
        figures.add("no-address", report.no_address);
        figures.add("set-aside", of(Outcome::SetAside));
        figures.add("written", report.written);
        if let Some(filled) = report.filled {
            figures.add("filled", filled.changed);
            figures.add("filled-before", filled.same);
            figures.add("changed-meanwhile", filled.moved);
        }
        figures.add("rows-added", report.tally.rows_added);
        figures.tally(&report.tally);
        figures.of("pattern", report.tally.patterns_by_name());
        figures.of("set-aside", report.tally.set_aside_by_reason(&report.selection));
        figures.of("reachable", report.plan.fields.iter().zip(report.tally.reachable.iter().copied()));
        figures
    }

    /// Those of `clean`.
    pub(crate) fn of_clean(report: &CleanReport) -> Self {
        let (counts, tally) = (&report.counts, &report.counts.tally);
        let mut figures = Figures::default();
        figures.add("records", counts.records);
        figures.add("rows", counts.rows());
        figures.add("rows-added", tally.rows_added);
        figures.add("blank-lines", counts.blank_lines);
        figures.add("formula-cells", counts.formula_cells);
        for outcome in Outcome::ALL {
            figures.add(outcome.word(), counts.of(outcome));
        }
        figures.tally(tally);
        figures.add("further-addresses-in-no-kept-record", counts.further_not_kept);
        figures.add("mailboxes", counts.mailboxes);
        figures.add("shared-mailbox", counts.shared);
        figures.add("merged-cells", report.filled.unwrap_or_default().cells);
        figures.add("short-records", tally.short);
        figures.add("long-records", tally.long);
        figures.add("records-not-utf8", tally.not_utf8);
        figures
            .of("handed-over", Class::all().map(|class| (class.word(), counts.handed_over[class.index()])));
        if let Some(since) = report.since {
            let counts = [
                ("new", since.new),
                ("gone", since.gone),
                ("changed", since.changed),
                ("moved", since.moved),
            ];
            figures.of("since", counts);
        }
        figures.of("decisions", DECISIONS.into_iter().zip(counts.decisions));
        figures.of("suggestions", ["likely", "sure"].into_iter().zip(counts.suggestions));
        figures.codes("rejected", &tally.rejected);
        figures.codes("review", &tally.review);
        figures.of("pattern", tally.patterns_by_name());
        figures.of("set-aside", tally.set_aside_by_reason(&report.selection));
        figures.of("reachable", report.plan.fields.iter().zip(tally.reachable.iter().copied()));
        figures
    }

    /// Those of `bounces`.
    pub(crate) fn of_bounces(report: &BouncesReport) -> Self {
        let mut figures = Figures::default();
        figures.add("files", report.files.len() as u64);
        figures.add("messages", report.messages);
        figures.add("with-recipients", report.with_recipients);
        figures.add("other", report.other);
        figures.add("unread", report.unread.len() as u64);
        figures.add("recipients", report.recipients);
        figures.add("rows", report.rows);
        for (word, count) in &report.what {
            figures.add(word, *count);
        }
        figures
    }

    /// Those of `compare`.
    pub(crate) fn of_compare(report: &CompareReport) -> Self {
        let counts = &report.counts;
        let mut figures = Figures::default();
        figures.add("records", counts.records);
        figures.add("blank-lines", counts.blank_lines);
        for state in State::ALL {
            figures.add(state.word(), counts.of(state));
        }
        figures.add("known-records", counts.known_records);
        figures.add("known-in-both", counts.known_in_both);
        figures.add("known-missing", counts.known_missing);
        figures.add("probable-twins", counts.near.as_ref().map_or(0, |near| near.pairs));
        figures
    }

    /// Those of `dedupe`.
    pub(crate) fn of_dedupe(report: &DedupeReport) -> Self {
        let mut figures = Figures::default();
        for (name, count) in [
            ("records", report.records),
            ("blank-lines", report.blank_lines),
            ("formula-cells", report.formula_cells),
            ("kept", report.kept),
            ("review", report.for_review),
            ("duplicate", report.dropped),
            ("no-address", report.no_address),
            ("rejected", report.rejected),
            ("usable-from-text", report.usable_from_text),
            ("rejected-texts", report.rejected_texts),
            ("mailboxes", report.mailboxes),
            ("shared-mailbox", report.shared),
            ("merged-cells", report.filled),
            ("probable-twins", report.twins.len() as u64),
        ] {
            figures.add(name, count);
        }
        figures.of("reachable", &report.reachable);
        if let (Some(groups), Some(in_groups)) = (report.groups, report.in_groups) {
            figures.add("groups", groups);
            figures.add("in-groups", in_groups);
        }
        figures
    }

    /// Those of `survey`.
    pub(crate) fn of_survey(report: &SurveyReport) -> Self {
        let mut figures = Figures::default();
        let of = |verdict: Verdict| report.counts.of(verdict);
        let usable = &report.counts.usable;
        for (name, count) in [
            ("records", report.counts.records),
            ("blank-lines", report.counts.blank_lines),
            ("accepted", of(Verdict::Accept)),
            ("review", of(Verdict::Review)),
            ("rejected", of(Verdict::Reject)),
            ("no-address", report.counts.no_address),
            ("usable", usable.total),
            ("usable-as-it-stood", usable.as_it_stood),
            ("usable-after-repair", usable.after_repair),
            ("usable-from-text", usable.from_text),
            ("mailboxes", report.counts.mailboxes),
            ("records-that-share-a-mailbox", report.same_mailbox.in_groups),
            ("domains", report.counts.usable_domains),
        ] {
            figures.add(name, count);
        }
        let SurveyCounts { findings, repairs, forms, classes, operators, .. } = &report.counts;
        let in_all = |counts: &IndexMap<String, u64>, name: &'static str| {
            (name, counts.get(name).copied().unwrap_or_default())
        };
        figures.of("finding", Code::all().map(|code| in_all(findings, code.name())));
        figures.of("repair", Repair::ALL.iter().map(|repair| in_all(repairs, repair.name())));
        figures.of("form", Form::ALL.iter().map(|form| in_all(forms, form.word())));
        figures.of("class", Class::all().map(|class| in_all(classes, class.word())));
        figures.of("operator", operators.iter().map(|(name, count)| (&**name, *count)));
        figures.of("filled", report.fields.iter().map(|field| (&*field.name, field.filled)));
        figures.of("empty", report.fields.iter().map(|field| (&*field.name, field.empty)));
        figures.of("distinct", report.fields.iter().map(|field| (&*field.name, field.distinct.count)));
        figures.of("reachable", report.elsewhere.steps.iter().map(|step| (&*step.field, step.adds)));
        figures
    }

    /// Those of `extract`.
    pub(crate) fn of_extract(report: &ExtractReport) -> Self {
        let mut figures = Figures::default();
        let [accepted, review, rejected] = report.verdicts;
        for (name, count) in [
            ("files", report.names.len() as u64),
            ("addresses", report.addresses),
            ("rows", report.rows),
            ("blank-lines", report.blank_lines),
            ("formula-cells", report.formula_cells),
            ("unpaired-surrogates", report.unpaired_surrogates),
            ("undecoded-messages", report.undecoded_messages),
            ("accepted", accepted),
            ("review", review),
            ("rejected", rejected),
            ("mailboxes", report.mailboxes.count),
            ("domains", report.domains.count),
            ("matches", report.matched()),
        ] {
            figures.add(name, count);
        }
        figures.of("pattern", report.matches.iter().map(|(name, count)| (name, *count)));
        figures.of("form", Form::ALL.iter().map(|form| (form.word(), report.forms[*form as usize])));
        let passed = SkipReason::ALL.iter().map(|reason| (reason.word(), report.passed[*reason as usize]));
        figures.of("passed", passed);
        figures
    }

    /// Those of `domains`.
    pub(crate) fn of_domains(report: &DomainsReport) -> Self {
        let mut figures = Figures::default();
        for (name, count) in [
            ("records", report.records),
            ("no-address", report.without),
            ("domains", report.domains),
            ("new", report.written),
            ("written", report.written),
        ] {
            figures.add(name, count);
        }
        figures.of("class", report.classes.iter().map(|(class, count)| (*class, *count)));
        figures
    }

    /// Those of `links`.
    pub(crate) fn of_links(report: &LinksReport) -> Self {
        let mut figures = Figures::default();
        for (name, count) in [
            ("records", report.records),
            ("unusable", report.without),
            ("addresses", report.addresses),
            ("further-addresses", report.further),
            ("firms", report.firms),
            ("households", report.households),
            ("groups", report.groups),
            ("in-groups", report.in_groups),
        ] {
            figures.add(name, count);
        }
        let shared = |kind: &KindReport| (kind.kind.word().replace(' ', "-"), kind.shared);
        figures.of("shared", report.kinds.iter().map(shared));
        if let Some(behind) = &report.behind {
            figures.add("behind", behind.addresses);
        }
        figures
    }

    /// Those of `extract --row-per-address`.
    pub(crate) fn of_records(report: &ByRecordReport) -> Self {
        let mut figures = Figures::default();
        figures.add("records", report.records);
        figures.add("blank-lines", report.blank_lines);
        figures.add("formula-cells", report.formula_cells);
        figures.add("rows", report.rows);
        figures.add("addresses", report.rows);
        figures.add("no-address", report.without);
        figures
    }
}
