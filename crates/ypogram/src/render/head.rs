//! What stands above every summary: what was read, which fields were looked at and why, and by which rulebook.

use std::fmt::Write as _;
use std::path::Path;

use ypogram_core::shown;
use ypogram_jobs::{FieldPlan, HowChosen, SourceReport};

use crate::render::style;
use crate::render::words::number;

/// What stands above a summary.
pub(crate) struct Head<'a> {
    /// Name, format, and why it broke off, of each source.
    pub(crate) sources: Vec<(&'a str, &'a str, Option<&'a str>)>,
    pub(crate) how: &'a HowChosen,
    pub(crate) address_fields: Vec<&'a str>,
    pub(crate) text_fields: Vec<&'a str>,
    /// What else there is to say, such as a condition.
    pub(crate) more: Vec<String>,
    pub(crate) rulebook: Option<&'a Path>,
}

impl<'a> Head<'a> {
    /// For sources of which just the fields of `plan` were looked at.
    pub(crate) fn of(sources: &'a [SourceReport], plan: &'a FieldPlan, rulebook: Option<&'a Path>) -> Self {
        Head {
            sources: told(sources),
            how: &plan.how,
            address_fields: plan.address_names(),
            text_fields: plan.text_names(),
            more: Vec::new(),
            rulebook,
        }
    }

    /// Appends it to `out`.
    pub(crate) fn write(&self, out: &mut String) {
        for (name, format, broken_off) in &self.sources {
            let format = style::dim(&format!("({format})"));
            let _ = writeln!(out, "{} {format}", style::title(&shown(name.as_bytes())));
            if let Some(why) = broken_off {
                let why = format!("it broke off, and only what could be read is here: {why}");
                let _ = writeln!(out, "{}", style::bad(&why));
            }
        }
        let mut parts = vec![self.address_part()];
        if !self.text_fields.is_empty() {
            parts.push(format!("text field: {}", names(&self.text_fields)));
        }
        parts.extend_from_slice(&self.more);
        if let Some(rulebook) = self.rulebook {
            parts.push(format!("rulebook: {}", rulebook.display()));
        }
        let _ = writeln!(out, "{}\n", parts.join(" · "));
    }

    fn address_part(&self) -> String {
        let fields = names(&self.address_fields);
        match self.how {
            HowChosen::NoneFound => {
                "no address field: no field holds addresses; name one with --field".to_owned()
            }
            HowChosen::MostAddresses(addresses, records) => {
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

/// Name, format, and why it broke off, of each source.
pub(crate) fn told(sources: &[SourceReport]) -> Vec<(&str, &str, Option<&str>)> {
    sources.iter().map(|source| (&*source.name, &*source.format, source.broken_off.as_deref())).collect()
}
