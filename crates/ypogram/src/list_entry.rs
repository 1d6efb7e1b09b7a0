//! A list of one's own as the rulebook and `--list` describe it.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use ypogram_core::lists::{BesideBuiltIn, Of, Several};
use ypogram_core::{Class, Code, Pattern, Severity};
use ypogram_io::{Error, Result};
use ypogram_jobs::lists::{By, ListColumn, ListSpec, Matching};

use crate::nearest_hint::nearest_hint;

/// An entry of `[lists]`.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct ListEntry {
    /// The file that holds the entries, beside the rulebook.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) file: Option<PathBuf>,
    /// Entries given here.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) entries: Vec<String>,
    /// What the entries are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) of: Option<String>,
    /// The column of the file that holds them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) entry: Option<String>,
    /// The field that is held against them.
    #[serde(rename = "match", skip_serializing_if = "Option::is_none")]
    pub(crate) matching: Option<String>,
    /// How: `exact`, `prefix`, or the name of a pattern.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) by: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) class: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) finding: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) severity: Option<Severity>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) built_in: Option<String>,
    #[serde(skip_serializing_if = "ColumnsEntry::is_empty")]
    pub(crate) columns: ColumnsEntry,
    /// Which cells count where several entries are one: `first`, or `all` joined.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) several: Option<String>,
    /// Where it was named, to stand in front of messages.
    #[serde(skip)]
    pub(crate) place: String,
    /// The folder that the file is looked for in.
    #[serde(skip)]
    pub(crate) folder: PathBuf,
}

/// Columns that are appended to matching records.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub(crate) enum ColumnsEntry {
    /// Under their own names, with the prefix.
    Plain(Vec<String>),
    /// Under other names.
    Named(std::collections::BTreeMap<String, String>),
}

impl Default for ColumnsEntry {
    fn default() -> Self {
        ColumnsEntry::Plain(Vec::new())
    }
}

impl ColumnsEntry {
    fn is_empty(&self) -> bool {
        match self {
            ColumnsEntry::Plain(columns) => columns.is_empty(),
            ColumnsEntry::Named(columns) => columns.is_empty(),
        }
    }
}

/// Reads `NAME=FILE,key=value…`, as `--list` has it.
///
/// # Errors
/// Where it is not of that form.
pub(crate) fn read_argument(text: &str) -> Result<(String, ListEntry)> {
    let form =
        "write NAME=FILE, and behind it what the list does, such as partners=partners.csv,class=partner";
    let bad = || Error::unusable(format!("--list {text}: this names no list"), form);
    let mut parts = text.split(',');
    let (name, file) = parts.next().and_then(|part| part.split_once('=')).ok_or_else(bad)?;
    if name.is_empty() || file.is_empty() {
        return Err(bad());
    }
    let mut entry = ListEntry {
        file: Some(file.into()),
        place: format!("--list {name}: "),
        folder: PathBuf::new(),
        ..ListEntry::default()
    };
    for part in parts {
        let (key, value) = part.split_once('=').ok_or_else(bad)?;
        let value = value.to_owned();
        match key {
            "of" => entry.of = Some(value),
            "entry" => entry.entry = Some(value),
            "match" => entry.matching = Some(value),
            "by" => entry.by = Some(value),
            "class" => entry.class = Some(value),
            "finding" => entry.finding = Some(value),
            "built-in" => entry.built_in = Some(value),
            "several" => entry.several = Some(value),
            "columns" => entry.columns = ColumnsEntry::Plain(value.split('+').map(str::to_owned).collect()),
            "severity" => {
                let known = [Severity::Off, Severity::Note, Severity::Review, Severity::Reject];
                let severity = known.into_iter().find(|severity| severity.word() == value);
                entry.severity = Some(severity.ok_or_else(|| {
                    Error::unusable(
                        format!("--list {name}: there is no severity ‘{value}’"),
                        "known are: off, note, review, reject",
                    )
                })?);
            }
            _ => {
                let known = [
                    "of", "entry", "match", "by", "class", "finding", "severity", "built-in", "columns",
                    "several",
                ];
                return Err(Error::unusable(
                    format!("--list {name}: unknown key ‘{key}’"),
                    nearest_hint(key, known.into_iter()),
                ));
            }
        }
    }
    Ok((name.to_owned(), entry))
}

impl ListEntry {
    /// What the job is given about the list called `name`, whose entries a field may have alone where `is_allowed`; `pattern_named` gives the
    /// patterns of the rulebook.
    ///
    /// # Errors
    /// Where it says what cannot be; the message starts with where it was named.
    pub(crate) fn spec(
        &self,
        name: &str,
        is_allowed: bool,
        pattern_named: impl Fn(&str) -> Result<Pattern>,
    ) -> Result<ListSpec> {
        let wrong = |message: String, hint: String| Error::unusable(format!("{}{message}", self.place), hint);
        if self.file.is_some() != self.entries.is_empty() {
            return Err(wrong(
                format!("the list ‘{name}’ needs a file or entries, and not both"),
                "give file = \"…\" or entries = [\"…\"]".into(),
            ));
        }
        let several = match self.several.as_deref() {
            None => Several::default(),
            Some(word) => one_of(Several::ALL, Several::word, word).map_err(|hint| {
                wrong(format!("the list ‘{name}’: there is no several = \"{word}\""), hint)
            })?,
        };
        // What a field may have does nothing to addresses.
        let is_allowed =
            is_allowed && self.matching.is_none() && matches!(self.of.as_deref(), None | Some("values"));
        let of = if is_allowed { Of::Values } else { self.of_word(name)? };
        let built_in = match self.built_in.as_deref() {
            None => BesideBuiltIn::default(),
            Some(word) => one_of(BesideBuiltIn::ALL, BesideBuiltIn::word, word).map_err(|hint| {
                wrong(format!("the list ‘{name}’: there is no built-in = \"{word}\""), hint)
            })?,
        };
        let effect = if is_allowed { Ok((None, None)) } else { self.effect(name) };
        let (class, finding) = effect.map_err(|error| wrong(error, "see docs/lists.md".into()))?;
        self.refuse_useless_severity(name, class, finding)?;
        if of == Of::LocalParts && class.is_some() {
            return Err(wrong(
                format!("the list ‘{name}’: a local part tells nothing of the class of a mailbox"),
                "raise a finding instead, such as finding = \"role-account\"".into(),
            ));
        }
        let matching = self.matching.as_ref().map(|field| {
            let by = match self.by.as_deref() {
                None | Some("exact") => By::Exact,
                Some("prefix") => By::Prefix,
                Some(pattern) => By::Pattern(Box::new(pattern_named(pattern)?)),
            };
            Ok(Matching { field: field.clone(), by })
        });
        Ok(ListSpec {
            name: name.to_owned(),
            file: self.file.as_ref().map(|file| self.folder.join(file)),
            from: self
                .file
                .as_ref()
                .map_or_else(|| "the rulebook".to_owned(), |file| file.display().to_string()),
            entries: self.entries.clone(),
            of,
            entry_column: self.entry.clone(),
            matching: matching.transpose()?,
            class,
            finding,
            built_in,
            columns: self.columns(),
            several,
            place: self.place.clone(),
        })
    }

    fn of_word(&self, name: &str) -> Result<Of> {
        let wrong = |message: String, hint: String| Error::unusable(format!("{}{message}", self.place), hint);
        match (self.of.as_deref(), &self.matching) {
            (None, None) => Ok(Of::default()),
            (None | Some("values"), Some(_)) => Ok(Of::Values),
            (Some("values"), None) => Err(wrong(
                format!("the list ‘{name}’ is of values, and no field is named that holds them"),
                "name it: match = \"…\"".into(),
            )),
            (Some(word), None) => one_of(Of::ALL, Of::word, word)
                .map_err(|hint| wrong(format!("the list ‘{name}’ cannot be of ‘{word}’"), hint)),
            (Some(word), Some(_)) => Err(wrong(
                format!("the list ‘{name}’ is matched against a field, and so is of values, not of {word}"),
                "leave of = … out, or match = …".into(),
            )),
        }
    }

    /// The class and the finding: those that are named; without any, the one that the list is named after, which a list that
    /// brings columns raises only where it has a severity.
    fn effect(&self, name: &str) -> std::result::Result<(Option<Class>, Option<Code>), String> {
        let class = self.class.as_deref().map(Class::own).transpose();
        let finding = self.finding.as_deref().map(Code::own).transpose();
        let said = |error: ypogram_core::PolicyError| format!("the list ‘{name}’: {}", error.0);
        let (class, finding) = (class.map_err(said)?, finding.map_err(said)?);
        let raises = self.severity.is_some_and(|severity| severity != Severity::Off);
        if class.is_some() || finding.is_some() || !self.columns.is_empty() && !raises {
            return Ok((class, finding));
        }
        match Class::from_word(name).filter(|_| self.columns.is_empty()) {
            Some(class) => Ok((Some(class), None)),
            None => Ok((None, Some(Code::own(name).map_err(said)?))),
        }
    }

    /// A severity is that of a finding: without one it would do nothing.
    fn refuse_useless_severity(&self, name: &str, class: Option<Class>, finding: Option<Code>) -> Result<()> {
        let Some(severity) = self.severity.filter(|_| finding.is_none()) else { return Ok(()) };
        let gives = match class {
            Some(class) => format!("the class ‘{}’", class.word()),
            None => "columns".to_owned(),
        };
        Err(Error::unusable(
            format!(
                "{}the list ‘{name}’: severity = \"{}\" would do nothing, since the list gives {gives} and raises no finding",
                self.place,
                severity.word()
            ),
            "name the finding as well, such as finding = \"do-not-mail\", or leave the severity out",
        ))
    }

    fn columns(&self) -> Vec<ListColumn> {
        match &self.columns {
            ColumnsEntry::Plain(columns) => columns
                .iter()
                .map(|column| ListColumn {
                    column: column.clone(),
                    name: column.trim().to_lowercase().replace([' ', '-'], "_"),
                    prefixed: true,
                })
                .collect(),
            ColumnsEntry::Named(columns) => columns
                .iter()
                .map(|(column, name)| ListColumn {
                    column: column.clone(),
                    name: name.clone(),
                    prefixed: false,
                })
                .collect(),
        }
    }
}

fn one_of<T: Copy, const N: usize>(
    all: [T; N],
    word_of: impl Fn(T) -> &'static str,
    word: &str,
) -> std::result::Result<T, String> {
    all.into_iter().find(|item| word_of(*item) == word).ok_or_else(|| {
        let known: Vec<&str> = all.iter().map(|item| word_of(*item)).collect();
        format!("known are: {}", known.join(", "))
    })
}

/// Tells each list of the rulebook `name`, whose text is `text`, where it was named, and where its file is to be looked for.
pub(crate) fn settle_places(lists: &mut BTreeMap<String, ListEntry>, text: &str, name: &str) {
    let folder = Path::new(name).parent().map(Path::to_path_buf).unwrap_or_default();
    for (list, entry) in lists {
        let lines = || text.lines().map(str::trim).enumerate();
        let is_head = |line: &str| {
            let named = [format!("[lists.{list}]"), format!("[lists.\"{list}\"]")];
            let inline =
                line.strip_prefix(list.as_str()).is_some_and(|rest| rest.trim_start().starts_with("= {"));
            inline || named.iter().any(|head| line.starts_with(head))
        };
        let head = lines().find(|(_, line)| is_head(line));
        let line = head.map(|(head, _)| {
            let mut below = lines().skip(head + 1).take_while(|(_, line)| !line.starts_with('['));
            below.find(|(_, line)| line.starts_with("file")).map_or(head, |(line, _)| line)
        });
        entry.place = line.map_or_else(|| format!("{name}: "), |line| format!("{name}: line {}: ", line + 1));
        entry.folder.clone_from(&folder);
    }
}
