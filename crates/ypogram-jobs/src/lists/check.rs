//! Whether a list says what it means to: entries that stand twice, cannot be used or never match, and those that speak of what
//! a built-in list knows.

use serde::Serialize;
use ypogram_core::lists::{EntryKind, List, Of};
use ypogram_core::{Judge, Kind, Policy, Verdict, examine, providers};
use ypogram_io::{Result, Target};

use crate::lists::edit::{self, Edit};
use crate::lists::load::{ListReport, load};
use crate::lists::spec::ListSpec;

/// What there is to tell of a list.
#[derive(Clone, Debug, Serialize)]
pub struct ListCheck {
    /// What was found while it was read.
    #[serde(flatten)]
    pub read: ListReport,
    /// Entries that are addresses, domains, domains with those below, and anything else.
    pub kinds: Kinds,
    /// Entries that no usable address can meet: line, entry, reason.
    pub never: Vec<(u64, String, String)>,
    /// Domains that a built-in list has in another class: line, entry, that class.
    pub shadowing: Vec<(u64, String, &'static str)>,
    /// Domains that a built-in list has in the same class: line, entry.
    pub known: Vec<(u64, String)>,
}

/// How many entries there are of each kind.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct Kinds {
    /// Addresses.
    pub addresses: u64,
    /// Domains.
    pub domains: u64,
    /// Domains that count for those below them as well.
    pub domains_with_those_below: u64,
    /// Local parts or values.
    pub others: u64,
}

impl ListCheck {
    /// Whether something is to be mended.
    pub fn finds_fault(&self) -> bool {
        !(self.read.twice.is_empty() && self.read.unfit.is_empty() && self.never.is_empty())
    }
}

/// Checks the list that `spec` describes, as a job by `policy` would use it.
///
/// # Errors
/// Where it cannot be read.
pub fn check(spec: &ListSpec, policy: &Policy, judge: &mut Judge<'_>) -> Result<ListCheck> {
    let (list, read) = load(spec, judge)?;
    let mut out =
        ListCheck { read, kinds: Kinds::default(), never: vec![], shadowing: vec![], known: vec![] };
    for entry in 0..list.len() {
        let (line, text, shown) = (list.line(entry), list.text(entry), list.shown(entry));
        let counted = match list.kind(entry) {
            EntryKind::Address => &mut out.kinds.addresses,
            EntryKind::Domain { below: false } => &mut out.kinds.domains,
            EntryKind::Domain { below: true } => &mut out.kinds.domains_with_those_below,
            EntryKind::Text => &mut out.kinds.others,
        };
        *counted += 1;
        if let Some(reason) = never_meets(&list, entry, policy) {
            out.never.push((line, shown, reason));
        } else if let Some(built_in) = providers::find(text).filter(|_| list.purpose.of != Of::Values) {
            match spec.class {
                Some(class) if class == built_in.class => out.known.push((line, shown)),
                Some(_) => out.shadowing.push((line, shown, built_in.class.word())),
                None => {}
            }
        }
    }
    Ok(out)
}

/// Why no usable address can meet the entry.
fn never_meets(list: &List, entry: usize, policy: &Policy) -> Option<String> {
    let text = list.text(entry);
    let address = match list.kind(entry) {
        EntryKind::Address => text.to_vec(),
        // A suffix has no mailboxes of its own, yet the names below it do.
        EntryKind::Domain { below: true } => [b"night.owl@host.", text].concat(),
        EntryKind::Domain { below: false } => [b"night.owl@", text].concat(),
        EntryKind::Text => return None,
    };
    let examined = examine(&address, policy);
    if examined.verdict != Verdict::Reject {
        return None;
    }
    let of_name = |finding: &&ypogram_core::Finding| finding.code.info().kind != Kind::List;
    examined.findings.iter().find(of_name).map(|finding| finding.message.clone().into_owned())
}

/// Writes the list to `path` with every entry as it is looked up: comments, order and further columns stay, what stands
/// there twice goes, and what cannot be used becomes a comment.
///
/// # Errors
/// Where the list cannot be read or the file cannot be written.
pub fn write_normalised(spec: &ListSpec, target: &Target, judge: &mut Judge<'_>) -> Result<()> {
    let mut file = edit::Editable::open(spec, judge)?;
    let edits: Vec<Edit> = file
        .rows
        .iter()
        .map(|row| {
            let bytes = match (&row.shown, row.first) {
                (Some(_), false) => Vec::new(),
                (Some(shown), true) if shown.as_bytes() == row.entry => return Edit::keep(row),
                (Some(shown), true) => file.with_entry(row, shown),
                (None, _) => [b"# ", &file.bytes[row.span.clone()]].concat(),
            };
            Edit { span: row.span.clone(), bytes }
        })
        .collect();
    file.apply(edits);
    let mut output = target.open()?;
    output.write(&file.bytes)?;
    output.finish()
}
