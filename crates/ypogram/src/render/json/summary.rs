//! What the summaries of all commands have in common.

use serde::Serialize;
use ypogram_jobs::{LAYOUT, ReadColumns, SourceReport};

/// What every summary begins with.
#[derive(Serialize)]
pub(crate) struct Summary<'a, C> {
    layout: u32,
    command: &'static str,
    sources: Sources<'a>,
    #[serde(skip_serializing_if = "Option::is_none")]
    columns: Option<ReadColumns>,
    counts: C,
    #[serde(skip_serializing_if = "<[String]>::is_empty")]
    notes: &'a [String],
}

/// What was read: with all that is known of it, or by name, where that is a folder of mail or of text.
#[derive(Serialize)]
#[serde(untagged)]
enum Sources<'a> {
    Known(&'a [SourceReport]),
    Named(Vec<NamedSource<'a>>),
}

#[derive(Serialize)]
struct NamedSource<'a> {
    name: &'a str,
}

impl<'a, C: Serialize> Summary<'a, C> {
    pub(crate) fn of(command: &'static str, sources: &'a [SourceReport], counts: C) -> Self {
        Summary {
            layout: LAYOUT,
            command,
            sources: Sources::Known(sources),
            columns: None,
            counts,
            notes: &[],
        }
    }

    pub(crate) fn of_names(command: &'static str, names: impl Iterator<Item = &'a str>, counts: C) -> Self {
        let sources = Sources::Named(names.map(|name| NamedSource { name }).collect());
        Summary { sources, ..Summary::of(command, &[], counts) }
    }

    pub(crate) fn with_columns(self, columns: ReadColumns) -> Self {
        Summary { columns: Some(columns), ..self }
    }

    pub(crate) fn with_notes(self, notes: &'a [String]) -> Self {
        Summary { notes, ..self }
    }

    /// The whole, with what this command alone reports behind it.
    pub(crate) fn text(self, more: impl Serialize) -> String {
        #[derive(Serialize)]
        struct Whole<S, M> {
            #[serde(flatten)]
            summary: S,
            #[serde(flatten)]
            more: M,
        }
        lines(&Whole { summary: self, more })
    }
}

/// `value` as JSON for people and programs, indented.
pub(crate) fn lines(value: &impl Serialize) -> String {
    serde_json::to_string_pretty(value).expect("plain data") + "\n"
}
