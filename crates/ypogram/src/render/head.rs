//! What stands above every summary: what was read, which fields were looked at and why, and by which rulebook.

use std::path::Path;

use ypogram_core::shown;
use ypogram_jobs::lists::ListReport;
use ypogram_jobs::{FieldPlan, HowChosen, ReadColumns, SourceReport};

use crate::render::style;
use crate::render::words::{counted, number};

/// What stands above a summary.
pub(crate) struct Head<'a> {
    pub(crate) sources: &'a [SourceReport],
    pub(crate) how: &'a HowChosen,
    pub(crate) address_fields: Vec<&'a str>,
    pub(crate) text_fields: Vec<&'a str>,
    /// What else there is to say, such as a condition.
    pub(crate) more: Vec<String>,
    pub(crate) by: JudgedBy<'a>,
}

/// By what addresses were judged.
#[derive(Clone, Copy, Default)]
pub(crate) struct JudgedBy<'a> {
    /// The rulebook that was used.
    pub(crate) rulebook: Option<&'a Path>,
    /// Its words are meant as before rulebooks had versions.
    pub(crate) of_first_version: bool,
    /// The lists of one's own.
    pub(crate) lists: &'a [ListReport],
    /// What is told of the answers of the domain name system.
    pub(crate) dns: Option<&'a str>,
}

impl JudgedBy<'_> {
    /// The rulebook and the lists, a part of a line each.
    pub(crate) fn parts(self) -> Vec<String> {
        let earlier = match self.of_first_version {
            true => {
                " (no version = 2 in its first line: patterns and yp_well_formed go by the standard form, as before)"
            }
            false => "",
        };
        let rulebook = self.rulebook.map(|rulebook| format!("rulebook: {}{earlier}", rulebook.display()));
        let lists: Vec<String> = self.lists.iter().map(list).collect();
        let lists = (!lists.is_empty()).then(|| format!("lists: {}", lists.join(", ")));
        rulebook.into_iter().chain(lists).collect()
    }
}

/// A list's name, and how many entries it has.
fn list(report: &ListReport) -> String {
    format!("{} ({})", report.name, counted(report.entries, "entry", "entries"))
}

impl JudgedBy<'_> {
    /// Lists of which some entries cannot be used, and what to do.
    pub(crate) fn unfit_entries(self) -> Vec<String> {
        let unfit = |report: &ListReport| {
            let unfit = report.unfit.len() as u64;
            (unfit > 0).then(|| {
                let of = counted(report.entries + unfit, "entry", "entries");
                let (count, name) = (number(unfit), &report.name);
                format!("{count} of {of} of the list {name} cannot be used: ypogram lists check {name}")
            })
        };
        let several = |report: &ListReport| {
            (report.with_several_cells > 0).then(|| {
                let (name, count) = (&report.name, report.with_several_cells);
                let stand = counted(
                    count,
                    "entry stands several times with other cells",
                    "entries stand several times with other cells",
                );
                let counts = match report.joins {
                    true => "all of them count, joined",
                    false => "the first counts (several = \"all\" joins them)",
                };
                format!("list {name}: {stand}; {counts}: ypogram lists check {name}")
            })
        };
        self.lists.iter().flat_map(|report| unfit(report).into_iter().chain(several(report))).collect()
    }
}

impl<'a> Head<'a> {
    /// For sources of which just the fields of `plan` were looked at.
    pub(crate) fn of(sources: &'a [SourceReport], plan: &'a FieldPlan, by: JudgedBy<'a>) -> Self {
        Head {
            sources,
            how: &plan.how,
            address_fields: plan.address_names(),
            text_fields: plan.text_names(),
            more: Vec::new(),
            by,
        }
    }

    /// For a report that names the columns.
    pub(crate) fn of_columns(
        sources: &'a [SourceReport],
        columns: &'a ReadColumns,
        how: &'a HowChosen,
        by: JudgedBy<'a>,
    ) -> Self {
        let names = |columns: &'a [String]| columns.iter().map(String::as_str).collect();
        let (address_fields, text_fields) = (names(&columns.address), names(&columns.text));
        Head { sources, how, address_fields, text_fields, more: Vec::new(), by }
    }

    /// With more to say, such as a condition.
    #[must_use]
    pub(crate) fn with(mut self, more: impl IntoIterator<Item = String>) -> Self {
        self.more.extend(more);
        self
    }

    /// Its lines.
    pub(crate) fn lines(&self) -> Vec<String> {
        let mut lines = Vec::new();
        for SourceReport { name, format, broken_off, remarks, .. } in self.sources {
            let format = style::dim(&format!("({format})"));
            lines.push(format!("{} {format}", style::title(&shown(name.as_bytes()))));
            lines.extend(remarks.iter().map(|remark| shown(remark.as_bytes())));
            if let Some(why) = broken_off {
                let why = format!("it broke off, and only what could be read is here: {why}");
                lines.push(style::bad(&why));
            }
        }
        let mut parts = vec![self.address_part()];
        if !self.text_fields.is_empty() {
            parts.push(format!("text field: {}", names(&self.text_fields)));
        }
        parts.extend_from_slice(&self.more);
        // Lists would make the line too long.
        let by = self.by.parts().join(" · ");
        match (by.is_empty(), self.by.lists.is_empty()) {
            (true, _) => lines.push(parts.join(" · ")),
            (false, true) => lines.push(format!("{} · {by}", parts.join(" · "))),
            (false, false) => lines.extend([parts.join(" · "), by]),
        }
        lines.extend(self.by.dns.map(str::to_owned));
        lines
    }

    fn address_part(&self) -> String {
        let fields = names(&self.address_fields);
        match self.how {
            HowChosen::NoneFound => {
                "no address field: no field holds addresses alone; name one with --field".to_owned()
            }
            HowChosen::MostAddresses { addresses, records } => {
                let (addresses, records) = (number(*addresses), number(*records));
                format!(
                    "address field: {fields} (it has the most addresses: {addresses} in the first {records} records)"
                )
            }
            _ => format!("address field: {fields}"),
        }
    }
}

/// Names as they are shown, separated by commas.
pub(crate) fn names(names: &[impl AsRef<str>]) -> String {
    names.iter().map(|name| shown(name.as_ref().as_bytes())).collect::<Vec<_>>().join(", ")
}
