//! The rulebook `ypogram.toml`: every setting of a job, so that it can be run again.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use ypogram_core::names::NameOrder;
use ypogram_core::providers::Certainty;
use ypogram_core::{Code, Grammar, Pattern, SameMailbox, Severity, ready_patterns};
use ypogram_io::{Error, Result, nearest};
use ypogram_jobs::{FieldRule, HousePattern, PatternOf, Shared};

use crate::field_rules::{self, FieldRules};
use crate::house::HouseSection;
use crate::list_entry::{self, ListEntry};
use crate::nearest_hint::nearest_hint;
use crate::own_words::WordsSection;

/// The name under which a rulebook is found in the working directory.
pub(crate) const FILE_NAME: &str = "ypogram.toml";

/// The newest version of rulebooks. From the second on, patterns are held against values as they stand, and a value is well formed
/// where it is an address exactly as it stands.
pub(crate) const VERSION: u32 = 2;

/// What a rulebook can say.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct Rulebook {
    /// As of which version of rulebooks its words are meant; the first where it says nothing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) version: Option<u32>,
    pub(crate) fields: Fields,
    pub(crate) judging: Judging,
    pub(crate) standard_form: StandardForm,
    pub(crate) same_mailbox: SameMailboxSection,
    #[serde(skip_serializing_if = "DnsSection::is_default")]
    pub(crate) dns: DnsSection,
    pub(crate) domains: Domains,
    pub(crate) severity: BTreeMap<String, Severity>,
    pub(crate) patterns: BTreeMap<String, PatternEntry>,
    #[serde(skip_serializing_if = "HouseSection::is_default")]
    pub(crate) house: HouseSection,
    /// What is asked of other fields, by field.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub(crate) field_rules: FieldRules,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub(crate) lists: BTreeMap<String, ListEntry>,
    #[serde(skip_serializing_if = "SelectionSection::is_everything")]
    pub(crate) selection: SelectionSection,
    #[serde(skip_serializing_if = "NamesSection::is_default")]
    pub(crate) names: NamesSection,
    /// Jobs by name; each step is read when the job is run.
    #[serde(skip_serializing)]
    pub(crate) job: BTreeMap<String, JobEntry>,
    #[serde(skip_serializing_if = "DecisionsSection::is_none")]
    pub(crate) decisions: DecisionsSection,
    #[serde(skip_serializing_if = "WordsSection::is_empty")]
    pub(crate) words: WordsSection,
    pub(crate) output: Output,
}

/// An entry of `[job]`.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct JobEntry {
    /// Its steps, in order.
    pub(crate) step: Vec<toml::Table>,
}

/// `[decisions]`: what was decided is remembered.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct DecisionsSection {
    /// The file of decisions; a name without a folder is that of a file beside the rulebook.
    pub(crate) file: Option<PathBuf>,
}

impl DecisionsSection {
    fn is_none(&self) -> bool {
        self.file.is_none()
    }
}

/// `[fields]`: where addresses stand.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct Fields {
    /// Fields that should hold an address and nothing else, in order of preference.
    pub(crate) address: Vec<String>,
    /// Fields that may hold one among other words, in order of preference.
    pub(crate) text: Vec<String>,
    /// Fields that name a person.
    pub(crate) person: Vec<String>,
    /// The field that distinguishes records.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) id: Option<String>,
}

/// `[judging]`: what an address is held against.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct Judging {
    pub(crate) grammar: Grammar,
}

/// An entry of `[patterns]`: the house's own library of patterns.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub(crate) enum PatternEntry {
    /// Just the pattern: it has to fit the whole value, letter case included.
    Plain(String),
    /// With options.
    Full(FullPattern),
}

#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub(crate) struct FullPattern {
    pub(crate) pattern: String,
    /// Whether it has to fit the whole value.
    #[serde(default = "yes")]
    pub(crate) whole: bool,
    #[serde(default)]
    pub(crate) ignore_case: bool,
    /// What it is held against; as the version of the rulebook has it where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) of: Option<PatternOfWord>,
}

#[derive(Clone, Copy, Debug, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum PatternOfWord {
    AsItStands,
    StandardForm,
}

fn yes() -> bool {
    true
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks by reference")]
fn is_no(value: &bool) -> bool {
    !value
}

/// `[standard-form]`: what an address is brought to.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct StandardForm {
    pub(crate) letter_case: LetterCaseWord,
    /// The most bytes an address may have.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) max_length: Option<usize>,
}

#[derive(Clone, Copy, Debug, Default, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum LetterCaseWord {
    #[default]
    Lower,
    Keep,
}

/// `[dns]`: how the domain name system is asked, where it is.
#[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct DnsSection {
    /// The servers that are asked; without any, those of the system.
    pub(crate) resolver: Vec<String>,
    /// Questions a second at most.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) most_per_second: Option<u32>,
    /// Domains that are asked about at once.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) at_once: Option<usize>,
    /// Seconds that a server has for an answer.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) wait: Option<u64>,
    /// Seconds that everything about one domain may take.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) wait_for_domain: Option<u64>,
    /// Days after which an answer is asked for again.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) keep_days: Option<u32>,
    /// The file with the answers that are kept; a name without a folder is that of a file beside the rulebook.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) cache: Option<PathBuf>,
}

impl DnsSection {
    fn is_default(&self) -> bool {
        *self == DnsSection::default()
    }
}

/// `[same-mailbox]`: when two addresses are one.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct SameMailboxSection {
    pub(crate) rule: SameMailbox,
    /// Mailboxes at a domain have the tags of whoever runs its mail host, where the domain name system was asked.
    #[serde(skip_serializing_if = "is_no")]
    pub(crate) by_host: bool,
    /// What becomes of a record whose mailbox another person's record has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) shared: Option<Shared>,
    /// What rule `provider` knows of domains beyond the built-in list.
    pub(crate) domains: BTreeMap<String, MailboxEntry>,
}

/// An entry of `[same-mailbox.domains]`.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub(crate) enum MailboxEntry {
    /// Hosted at this operator, whose tags and dots count.
    HostedAt(String),
    /// A rule of its own.
    Own(MailboxRuleEntry),
}

#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct MailboxRuleEntry {
    /// Whether dots in the local part count.
    pub(crate) dots: DotsWord,
    /// The separator before a tag.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) tag: Option<char>,
    /// The domain whose mailboxes it reaches.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) alias_of: Option<String>,
}

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum DotsWord {
    #[default]
    Count,
    Ignored,
}

/// `[domains]`: what the job knows of domains beyond the built-in lists.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct Domains {
    /// Names to treat as public although they are reserved or not in the root zone.
    pub(crate) public: Vec<String>,
    /// Free providers beyond the built-in list.
    pub(crate) free: Vec<String>,
    /// The house's own domains.
    pub(crate) house: Vec<String>,
    /// Which free providers count where records are selected: `known` ones, or those on published lists as well.
    #[serde(skip_serializing_if = "is_known")]
    pub(crate) certainty: Certainty,
}

fn is_known(certainty: &Certainty) -> bool {
    *certainty == Certainty::Known
}

/// `[selection]`: which usable records are wanted; the others are set aside.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct SelectionSection {
    /// Only these classes and findings.
    pub(crate) only: Vec<String>,
    /// Not these.
    pub(crate) without: Vec<String>,
}

impl SelectionSection {
    fn is_everything(&self) -> bool {
        *self == SelectionSection::default()
    }
}

/// `[names]`: which name stands first in local parts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct NamesSection {
    pub(crate) order: NameOrder,
    /// At these domains.
    pub(crate) domains: BTreeMap<String, NameOrder>,
}

impl NamesSection {
    fn is_default(&self) -> bool {
        *self == NamesSection::default()
    }
}

/// `[output]`: how results are written.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct Output {
    pub(crate) prefix: String,
    /// The columns that come out, in order, as `name` or `name=New name`; all where there is none.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) columns: Vec<String>,
    /// What a workbook of cleaned records refuses.
    pub(crate) xlsx: XlsxSection,
}

impl Default for Output {
    fn default() -> Self {
        Output { prefix: "yp_".into(), columns: Vec::new(), xlsx: XlsxSection::default() }
    }
}

/// `[output.xlsx]`: what is said where an entry in an address column of a workbook is refused.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
pub(crate) struct XlsxSection {
    pub(crate) title: String,
    pub(crate) message: String,
}

impl Default for XlsxSection {
    fn default() -> Self {
        XlsxSection {
            title: "This is no email address".into(),
            message: "One address a cell, as in name@fernhollow.example: one @, no spaces, and a domain with a dot."
                .into(),
        }
    }
}

impl XlsxSection {
    /// Refuses what spreadsheet programs do not take.
    fn check(&self, name: &str) -> Result<()> {
        let longest = [("title", &self.title, 32), ("message", &self.message, 255)];
        let too_long = longest.iter().find(|(_, text, most)| text.encode_utf16().count() > *most);
        match too_long {
            Some((setting, text, most)) => Err(Error::unusable(
                format!(
                    "{name}: output.xlsx.{setting} has {} characters, and spreadsheet programs show {most}",
                    text.encode_utf16().count()
                ),
                "write less",
            )),
            None => Ok(()),
        }
    }
}

/// The rulebook that counts, and where it was found.
///
/// # Errors
/// Where it cannot be read, or says something that is not understood: with the line and the nearest known word.
pub(crate) fn find(named: Option<&Path>, go_without: bool) -> Result<(Rulebook, Option<PathBuf>)> {
    let path = match named {
        Some(path) => path.to_path_buf(),
        None if !go_without && Path::new(FILE_NAME).is_file() => PathBuf::from(FILE_NAME),
        None => return Ok((Rulebook { version: Some(VERSION), ..Rulebook::default() }, None)),
    };
    let shown = path.display();
    let text = std::fs::read_to_string(&path).map_err(|error| {
        let why = ypogram_io::cause(&error);
        Error::unusable(
            format!("{shown}: the rulebook cannot be read: {why}"),
            format!("name another with --rules; without it, {FILE_NAME} in this folder is taken where there is one"),
        )
    })?;
    let rulebook = read(&text, &shown.to_string())?;
    Ok((rulebook, Some(path)))
}

/// Reads the rulebook `text`, called `name` in messages.
pub(crate) fn read(text: &str, name: &str) -> Result<Rulebook> {
    let mut rulebook: Rulebook = toml::from_str(text).map_err(|error| misread(text, name, &error))?;
    rulebook.output.xlsx.check(name)?;
    if let Some(version) = rulebook.version.filter(|version| !(1..=VERSION).contains(version)) {
        return Err(Error::unusable(
            format!("{name}: version = {version}: this program knows rulebooks up to version {VERSION}"),
            format!("write version = {VERSION}, or use a newer ypogram"),
        ));
    }
    for (code, severity) in &rulebook.severity {
        let line =
            text.lines().position(|line| line.trim_start().trim_matches('"').starts_with(code.as_str()));
        let place = line.map_or_else(|| name.to_owned(), |line| format!("{name}: line {}", line + 1));
        let Some(known) = Code::from_name(code) else {
            let of_a_list =
                rulebook.lists.iter().any(|(name, list)| list.finding.as_ref().unwrap_or(name) == code);
            let hint = match of_a_list {
                true => {
                    "the severity of a finding of your own stands with its list: severity = \"…\"".to_owned()
                }
                false => nearest_hint(code, Code::all().map(Code::name)),
            };
            return Err(Error::unusable(format!("{place}: there is no finding ‘{code}’"), hint));
        };
        if let Err(error) = ypogram_core::Policy::default().set_severity(known, *severity) {
            return Err(Error::unusable(format!("{place}: {}", error.0), "take the line out"));
        }
    }
    list_entry::settle_places(&mut rulebook.lists, text, name);
    field_rules::settle_today(&mut rulebook.field_rules);
    Ok(rulebook)
}

impl Rulebook {
    /// The pattern of that name.
    ///
    /// # Errors
    /// Where there is none, or it cannot be read.
    pub(crate) fn pattern_named(&self, name: &str) -> Result<Pattern> {
        Ok(self.pattern(name)?.pattern)
    }

    /// What is asked of fields other than the address.
    ///
    /// # Errors
    /// Where a pattern is not there, or a rule asks for what cannot be.
    pub(crate) fn field_rules(&self) -> Result<Vec<FieldRule>> {
        field_rules::read(&self.field_rules, |name| self.pattern(name))
    }

    /// The patterns of those names, in that order; all of them where none is named.
    ///
    /// # Errors
    /// Where one is not there, or is no regular expression.
    pub(crate) fn patterns_named(&self, names: &[String]) -> Result<Vec<HousePattern>> {
        let all = || self.patterns.keys().cloned().collect();
        let names: Vec<String> = if names.is_empty() { all() } else { names.to_vec() };
        names.iter().map(|name| self.pattern(name)).collect()
    }

    /// Whether its words are meant as before rulebooks had versions.
    pub(crate) fn is_of_first_version(&self) -> bool {
        self.version.unwrap_or(1) == 1
    }

    /// The pattern of that name with what it is held against: one of the rulebook, else a ready-made one.
    ///
    /// # Errors
    /// Where there is none, or it is no regular expression.
    pub(crate) fn pattern(&self, name: &str) -> Result<HousePattern> {
        let (written, whole, ignore_case, of) = match self.patterns.get(name) {
            Some(PatternEntry::Plain(pattern)) => (pattern, true, false, None),
            Some(PatternEntry::Full(full)) => (&full.pattern, full.whole, full.ignore_case, full.of),
            None => {
                if let Some(ready) = ready_patterns::named(name) {
                    return Ok(HousePattern { pattern: ready.pattern(), of: PatternOf::AsItStands });
                }
                let names = self.patterns.keys().map(String::as_str);
                let hint = match nearest(name, names.chain(ready_patterns::all().map(|ready| ready.name))) {
                    Some(nearest) => format!("did you mean ‘{nearest}’? "),
                    None => String::new(),
                };
                let hint = format!(
                    "{hint}`ypogram rules patterns` shows them all; your own go under [patterns] in {FILE_NAME}"
                );
                return Err(Error::unusable(format!("there is no pattern ‘{name}’"), hint));
            }
        };
        let pattern = Pattern::new(name, written, whole, ignore_case)
            .map_err(|message| Error::unusable(message, "see docs/rulebook.md"))?;
        let of = match of {
            Some(PatternOfWord::StandardForm) => PatternOf::StandardForm,
            None if self.is_of_first_version() => PatternOf::StandardForm,
            Some(PatternOfWord::AsItStands) | None => PatternOf::AsItStands,
        };
        Ok(HousePattern { pattern, of })
    }
}

fn misread(text: &str, name: &str, error: &toml::de::Error) -> Error {
    let line = error.span().map(|span| text[..span.start].matches('\n').count() + 1);
    let place = line.map_or_else(|| name.to_owned(), |line| format!("{name}: line {line}"));
    let message = error.message();
    let words: Vec<&str> = message.split('`').skip(1).step_by(2).collect();
    match words.split_first() {
        Some((unknown, known)) if message.starts_with("unknown field") => Error::unusable(
            format!("{place}: unknown key ‘{unknown}’"),
            nearest_hint(unknown, known.iter().copied()),
        ),
        Some((unknown, known)) if message.starts_with("unknown variant") => Error::unusable(
            format!("{place}: ‘{unknown}’ is not one of the words here"),
            nearest_hint(unknown, known.iter().copied()),
        ),
        _ => Error::unusable(
            format!("{place}: {}", message.lines().next().unwrap_or(message)),
            "see docs/rulebook.md",
        ),
    }
}
