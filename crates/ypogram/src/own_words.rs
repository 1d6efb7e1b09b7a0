//! `[words]` of the rulebook: the house's own sentences and labels, in the place of built-in ones.

use std::collections::BTreeMap;
use std::path::Path;

use serde::{Deserialize, Serialize};
use ypogram_core::{Class, Code, Kind, WordOf, Words};
use ypogram_io::{Error, Result};
use ypogram_jobs::Outcome;

use crate::nearest_hint::nearest_hint;

/// `[words]`: a text for everything that is called so, or a table of texts for what is called so among findings, patterns, outcomes,
/// classes or kinds.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(transparent)]
pub(crate) struct WordsSection(BTreeMap<String, WordEntry>);

#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
enum WordEntry {
    Text(String),
    Of(BTreeMap<String, String>),
}

impl WordsSection {
    pub(crate) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The words, once the lists are known, which may bring classes and findings of their own.
    ///
    /// # Errors
    /// Where something is called so that is not there, or a text is empty.
    pub(crate) fn words<'p>(
        &self,
        patterns: impl Iterator<Item = &'p String>,
        rulebook: Option<&Path>,
    ) -> Result<Words> {
        let patterns: Vec<&str> = patterns.map(String::as_str).collect();
        let mut words = Words::default();
        for (name, entry) in &self.0 {
            match entry {
                WordEntry::Text(text) => {
                    let meant: Vec<WordOf> = WordOf::ALL
                        .into_iter()
                        .filter(|of| called(*of, &patterns).contains(&name.as_str()))
                        .collect();
                    if meant.is_empty() {
                        let known = WordOf::ALL.into_iter().flat_map(|of| called(of, &patterns));
                        return Err(unknown(rulebook, name, "nothing", known));
                    }
                    refuse_empty(rulebook, name, text)?;
                    meant.into_iter().for_each(|of| words.set(of, name, text));
                }
                WordEntry::Of(texts) => {
                    let of = WordOf::ALL.into_iter().find(|of| of.word() == name).ok_or_else(|| {
                        unknown(rulebook, name, "no table", WordOf::ALL.into_iter().map(WordOf::word))
                    })?;
                    for (name, text) in texts {
                        if !called(of, &patterns).contains(&name.as_str()) {
                            return Err(unknown(
                                rulebook,
                                name,
                                &format!("no {}", of.word()),
                                called(of, &patterns).into_iter(),
                            ));
                        }
                        refuse_empty(rulebook, name, text)?;
                        words.set(of, name, text);
                    }
                }
            }
        }
        Ok(words)
    }
}

/// What there is of a sort, by name.
fn called<'p>(of: WordOf, patterns: &[&'p str]) -> Vec<&'p str> {
    match of {
        WordOf::Finding => Code::all().map(Code::name).collect(),
        WordOf::Pattern => patterns.to_vec(),
        WordOf::Outcome => Outcome::ALL.into_iter().map(Outcome::word).collect(),
        WordOf::Class => Class::all().map(Class::word).collect(),
        WordOf::Kind => Kind::ALL.into_iter().map(Kind::word).collect(),
    }
}

fn refuse_empty(rulebook: Option<&Path>, name: &str, text: &str) -> Result<()> {
    match text.trim().is_empty() {
        true => Err(Error::unusable(
            format!("{}[words] {name} says nothing", place(rulebook, name)),
            "write a text, or take the line out",
        )),
        false => Ok(()),
    }
}

fn unknown<'n>(
    rulebook: Option<&Path>,
    name: &str,
    what: &str,
    known: impl Iterator<Item = &'n str>,
) -> Error {
    Error::unusable(
        format!("{}[words]: {what} is called ‘{name}’", place(rulebook, name)),
        nearest_hint(name, known),
    )
}

/// The rulebook and the line, in front of a message.
fn place(rulebook: Option<&Path>, name: &str) -> String {
    let Some(path) = rulebook else { return String::new() };
    let text = std::fs::read_to_string(path).unwrap_or_default();
    let lines = text.lines().enumerate().skip_while(|(_, line)| !line.trim_start().starts_with("[words"));
    let says = |line: &str| line.trim_start().trim_start_matches(['"', '\'']).starts_with(name);
    let line = lines.into_iter().find(|(_, line)| says(line)).map(|(line, _)| format!("line {}: ", line + 1));
    format!("{}: {}", path.display(), line.unwrap_or_default())
}
