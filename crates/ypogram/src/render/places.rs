//! Where something stands, or was written to, in words.

use ypogram_core::{Code, shown};
use ypogram_io::Target;
use ypogram_jobs::{Example, SourceReport, Tally};

use crate::render::words::number;

/// To where records were written.
pub(crate) fn place(target: &Target) -> String {
    match target {
        Target::Standard => "to standard output".to_owned(),
        Target::Nowhere => "nowhere".to_owned(),
        Target::File { path, .. } => format!("to {}", path.display()),
    }
}

/// Where the first record with that finding stands, and what its cell says.
pub(crate) fn example(tally: &Tally, sources: &[SourceReport], code: Code) -> String {
    if code == Code::SharedMailbox {
        return "the record of another person has it: column yp_same_as".into();
    }
    let Some(example) = &tally.examples[code.index()] else { return String::new() };
    format!("{}: {}", place_of(example, sources), shown(example.text.as_bytes()))
}

/// The line of an example, with its source where there are several and what tells its record apart.
pub(crate) fn place_of(example: &Example, sources: &[SourceReport]) -> String {
    let line = format!("line {}", number(example.line));
    let id = example.id.as_ref().map_or_else(String::new, |id| format!(" ({})", shown(id.as_bytes())));
    match sources.len() {
        1 => format!("{line}{id}"),
        _ => format!("{}, {line}{id}", sources[example.source].name),
    }
}
