//! Raw arguments and the rulebook, resolved once into typed settings: command line beats rulebook beats defaults.

use std::hash::{BuildHasher, Hasher, RandomState};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use ypogram_core::lists::Of;
use ypogram_core::{Class, LetterCase, Policy};
use ypogram_io::RowSpec;
use ypogram_io::{Error, Format, OpenOptions, Result};
use ypogram_jobs::decisions::Memory;
use ypogram_jobs::lists::{ListReport, ListSpec, OwnLists};
use ypogram_jobs::split::NameOrders;
use ypogram_jobs::{Conditions, FieldChoice, Selection, Shared};

use crate::arguments::{
    FieldArguments, JudgingArguments, LetterCaseArgument, MachineArguments, OutputArguments,
    ReadingArguments, SelectionArguments, SharedArgument, SourceArguments,
};
use crate::column_choice;
use crate::dns::held::Dns;
use crate::field_rules;
use crate::house::{Formats, HouseArguments};
use crate::list_entry;
use crate::old_lists;
use crate::render::head::JudgedBy;
use crate::rulebook::{self, DotsWord, LetterCaseWord, MailboxEntry, MailboxRuleEntry, Rulebook};
use ypogram_jobs::HouseFormats;

/// What a job is to go by.
#[derive(Debug)]
pub(crate) struct Settings {
    /// Everything as resolved; what the receipt holds.
    pub(crate) rulebook: Rulebook,
    /// The rulebook's file, where one was used.
    pub(crate) rulebook_file: Option<PathBuf>,
    pub(crate) policy: Policy,
    pub(crate) fields: FieldChoice,
    /// Which name stands first in local parts.
    pub(crate) name_orders: NameOrders,
    /// What the job was given about its lists.
    pub(crate) list_specs: Vec<ListSpec>,
    /// What the lists append, and what was found while they were read.
    pub(crate) lists: OwnLists,
    /// The answers of the domain name system, where it was asked.
    pub(crate) dns: Option<Dns>,
    /// Columns of sources on servers that are not read: those that are filled there.
    pub(crate) not_read: Vec<String>,
}

impl Settings {
    /// Resolves the arguments with the rulebook that counts.
    ///
    /// # Errors
    /// Where the rulebook cannot be read or asks for what cannot be.
    pub(crate) fn resolve(sources: &SourceArguments, judging: &JudgingArguments) -> Result<Self> {
        Settings::resolve_with(sources, judging, &[])
    }

    /// The same with more lists, behind those of the rulebook.
    ///
    /// # Errors
    /// Where the rulebook or a list cannot be read, or asks for what cannot be.
    pub(crate) fn resolve_with(
        sources: &SourceArguments,
        judging: &JudgingArguments,
        more: &[ListSpec],
    ) -> Result<Self> {
        if sources.sources.is_empty() {
            return Err(Error::unusable("no source is named", "name a file, or - for standard input"));
        }
        let mut settings = Settings::of(Some(&sources.fields), judging, more)?;
        if sources.id.is_some() {
            settings.rulebook.fields.id.clone_from(&sources.id);
            settings.fields.id.clone_from(&sources.id);
        }
        Ok(settings)
    }

    /// The same where no sources are read.
    ///
    /// # Errors
    /// Where the rulebook cannot be read or asks for what cannot be.
    pub(crate) fn without_sources(judging: &JudgingArguments) -> Result<Self> {
        Settings::of(None, judging, &[])
    }

    /// The same for a stream with these fields.
    ///
    /// # Errors
    /// As above.
    #[cfg(feature = "worker")]
    pub(crate) fn for_stream(fields: &FieldArguments, judging: &JudgingArguments) -> Result<Self> {
        Settings::of(Some(fields), judging, &[])
    }

    fn of(fields: Option<&FieldArguments>, judging: &JudgingArguments, more: &[ListSpec]) -> Result<Self> {
        let (mut rulebook, file) = rulebook::find(judging.rules.as_deref(), judging.no_rules)?;
        if let Some(fields) = fields {
            take_fields(&mut rulebook, fields);
        }
        if let Some(grammar) = judging.grammar {
            rulebook.judging.grammar = grammar.into();
        }
        if let Some(same) = judging.same {
            rulebook.same_mailbox.rule = same.into();
        }
        if let Some(case) = judging.letter_case {
            rulebook.standard_form.letter_case = match case {
                LetterCaseArgument::Lower => LetterCaseWord::Lower,
                LetterCaseArgument::Keep => LetterCaseWord::Keep,
            };
        }
        for argument in &judging.own_lists {
            let (name, entry) = list_entry::read_argument(argument)?;
            rulebook.lists.insert(name, entry);
        }
        let mut policy = policy_of(&rulebook).map_err(|message| {
            let place = file.as_ref().map_or_else(String::new, |file| format!("{}: ", file.display()));
            Error::unusable(format!("{place}{message}"), "see docs/rulebook.md")
        })?;
        let name_orders = name_orders(&rulebook)?;
        let mut specs = list_specs(&rulebook)?;
        specs.extend_from_slice(more);
        let mut lists = OwnLists::load(&specs, &policy)?;
        for (spec, report) in specs.iter().zip(&lists.reports) {
            refuse_unfit_entries(spec, report)?;
            let severity = rulebook.lists.get(&spec.name).and_then(|list| list.severity);
            if let (Some(code), Some(severity)) = (spec.finding, severity) {
                let set = policy.set_severity(code, severity);
                set.map_err(|error| Error::unusable(format!("{}{}", spec.place, error.0), ""))?;
            }
        }
        let files = specs.iter().filter_map(|spec| Some((&*spec.name, spec.file.as_deref()?)));
        old_lists::report(files);
        policy.lists = std::mem::take(&mut lists.lists);
        policy.words = rulebook.words.words(rulebook.patterns.keys(), file.as_deref())?;
        let fields = FieldChoice {
            address: rulebook.fields.address.clone(),
            text: rulebook.fields.text.clone(),
            person: rulebook.fields.person.clone(),
            id: rulebook.fields.id.clone(),
            lists: lists.matching.clone(),
        };
        Ok(Settings {
            rulebook,
            rulebook_file: file,
            policy,
            fields,
            name_orders,
            list_specs: specs,
            lists,
            dns: None,
            not_read: Vec::new(),
        })
    }

    /// How sources are to be opened: those that can be read but once from where they were put.
    pub(crate) fn open_options(&self, sources: &SourceArguments, machine: &MachineArguments) -> OpenOptions {
        let mut open = open_options(sources, machine);
        open.not_read.clone_from(&self.not_read);
        if let Some(dns) = self.dns.as_ref().filter(|dns| !dns.kept.is_empty()) {
            open.kept.clone_from(&dns.kept);
        }
        open
    }

    /// What a summary tells of it.
    pub(crate) fn judged_by(&self) -> JudgedBy<'_> {
        JudgedBy {
            rulebook: self.rulebook_file.as_deref(),
            of_first_version: self.rulebook.is_of_first_version(),
            lists: &self.lists.reports,
            dns: self.dns.as_ref().map(|dns| &*dns.told).filter(|told| !told.is_empty()),
        }
    }

    /// How the rows of an output are arranged, by its options and the columns of the rulebook, unless others are named.
    ///
    /// # Errors
    /// Where a column has no name.
    pub(crate) fn row_spec(&self, output: &OutputArguments, machine: &MachineArguments) -> Result<RowSpec> {
        match output.columns.is_empty() {
            true => self.arranged(&self.rulebook.output.columns, output, machine),
            false => self.row_spec_of(output, machine),
        }
    }

    /// The same by the options alone.
    ///
    /// # Errors
    /// Where a column has no name.
    pub(crate) fn row_spec_of(
        &self,
        output: &OutputArguments,
        machine: &MachineArguments,
    ) -> Result<RowSpec> {
        self.arranged(&column_choice::items(&output.columns), output, machine)
    }

    /// How rows with the columns `chosen` are arranged.
    fn arranged(
        &self,
        chosen: &[String],
        output: &OutputArguments,
        machine: &MachineArguments,
    ) -> Result<RowSpec> {
        let sort_by = column_choice::items(&output.sort_by);
        let spec = column_choice::row_spec(chosen, &sort_by, machine.memory / 2, output.guard_formulas)?;
        Ok(RowSpec { encoding: output.encoding(), prefix: self.prefix(output), ..spec })
    }

    /// The file of decisions that are remembered, where the rulebook names one.
    pub(crate) fn decisions_file(&self) -> Option<PathBuf> {
        let file = self.rulebook.decisions.file.as_ref()?;
        let around = self.rulebook_file.as_deref().and_then(Path::parent);
        Some(around.map_or_else(|| file.clone(), |around| around.join(file)))
    }

    /// The decisions of earlier runs; none where the rulebook names no file for them.
    ///
    /// # Errors
    /// Where the file cannot be read, or holds something that is no decision.
    pub(crate) fn remembered(&self) -> Result<Option<Arc<Memory>>> {
        let Some(file) = self.decisions_file() else { return Ok(None) };
        let memory = Memory::load(&file)?;
        Ok((!memory.is_empty()).then(|| Arc::new(memory)))
    }

    /// What the names of added columns start with.
    pub(crate) fn prefix(&self, output: &OutputArguments) -> String {
        output.prefix.clone().unwrap_or_else(|| self.rulebook.output.prefix.clone())
    }

    /// Which usable records are wanted: the command line takes the place of the rulebook.
    ///
    /// # Errors
    /// Where a word is neither a class nor a finding.
    pub(crate) fn take_selection(&mut self, arguments: &SelectionArguments) -> Result<Selection> {
        let selection = &mut self.rulebook.selection;
        if !arguments.only.is_empty() || !arguments.without.is_empty() {
            selection.only.clone_from(&arguments.only);
            selection.without.clone_from(&arguments.without);
        }
        Selection::read(&selection.only, &selection.without, self.rulebook.domains.certainty)
    }

    /// The conditions in `text`, where there is one, with the patterns that they name.
    ///
    /// # Errors
    /// Where they are not understood, or name a pattern that is not there.
    pub(crate) fn conditions(&self, text: Option<&str>) -> Result<Option<Conditions>> {
        let read = |text| Conditions::read(text)?.with_patterns(|name| self.rulebook.pattern(name));
        text.map(read).transpose()
    }

    /// What becomes of records that share a mailbox with another person's: the command line takes the place of the rulebook.
    pub(crate) fn take_shared(&mut self, argument: Option<SharedArgument>, default: Shared) -> Shared {
        let shared = &mut self.rulebook.same_mailbox.shared;
        *shared.insert(argument.map(Shared::from).or(*shared).unwrap_or(default))
    }

    /// The formats of the house: those that `arguments` give, else those of the rulebook.
    ///
    /// # Errors
    /// Where one is not in the notation.
    pub(crate) fn take_house(&mut self, arguments: &HouseArguments) -> Result<HouseFormats> {
        let file = self.rulebook_file.as_ref().map(|file| file.display().to_string());
        let formats = self.rulebook.house.formats(
            &arguments.formats,
            &self.rulebook.fields.person,
            file.as_deref().unwrap_or("the rulebook"),
        )?;
        if !arguments.formats.is_empty() {
            let house = &mut self.rulebook.house;
            (house.format, house.everyone) = (Formats::Several(arguments.formats.clone()), true);
        }
        Ok(formats)
    }

    /// The rulebook as resolved, for the receipt.
    pub(crate) fn resolved(&self) -> serde_json::Value {
        serde_json::to_value(&self.rulebook).expect("plain data")
    }
}

/// Fields named on the command line take the place of those in the rulebook.
fn take_fields(rulebook: &mut Rulebook, given: &FieldArguments) {
    let fields = &mut rulebook.fields;
    if !given.fields.is_empty() {
        fields.address.clone_from(&given.fields);
        fields.text.retain(|field| !given.fields.contains(field));
    }
    if !given.person.is_empty() {
        fields.person.clone_from(&given.person);
    }
    if !given.also.is_empty() {
        fields.text.clone_from(&given.also);
        fields.address.retain(|field| !given.also.contains(field) || given.fields.contains(field));
    }
}

fn name_orders(rulebook: &Rulebook) -> Result<NameOrders> {
    let ascii = |domain: &str| {
        let address = format!("night.owl@{domain}");
        let examined = ypogram_core::examine(address.as_bytes(), &Policy::default());
        examined.standard.map(|standard| standard.domain().to_owned()).ok_or_else(|| {
            Error::unusable(format!("[names.domains]: ‘{domain}’ is not a domain"), "see docs/rulebook.md")
        })
    };
    let by_domain = rulebook.names.domains.iter().map(|(domain, order)| Ok((ascii(domain)?, *order)));
    Ok(NameOrders { otherwise: rulebook.names.order, by_domain: by_domain.collect::<Result<_>>()? })
}

/// The lists of the rulebook, those of `[domains]` first.
fn list_specs(rulebook: &Rulebook) -> Result<Vec<ListSpec>> {
    let domains =
        [("house", &rulebook.domains.house, Class::House), ("free", &rulebook.domains.free, Class::Free)];
    let mut specs = Vec::new();
    for (name, entries, class) in domains.into_iter().filter(|(_, entries, _)| !entries.is_empty()) {
        specs.push(ListSpec {
            name: name.into(),
            from: format!("[domains] {name}"),
            entries: entries.clone(),
            of: Of::Domains,
            class: Some(class),
            ..ListSpec::default()
        });
    }
    for (name, entry) in &rulebook.lists {
        let is_allowed = field_rules::allows_list(&rulebook.field_rules, name);
        specs.push(entry.spec(name, is_allowed, |pattern| rulebook.pattern_named(pattern))?);
    }
    Ok(specs)
}

/// An entry of the rulebook itself that cannot be one is a mistake in the rulebook.
fn refuse_unfit_entries(spec: &ListSpec, report: &ListReport) -> Result<()> {
    match report.unfit.first() {
        Some((_, entry, reason)) if spec.file.is_none() => Err(Error::unusable(
            format!("{}the list ‘{}’: ‘{entry}’: {reason}", spec.place, spec.name),
            "see docs/lists.md",
        )),
        _ => Ok(()),
    }
}

/// The policy that the rulebook describes.
///
/// # Errors
/// A sentence, where it asks for what cannot be.
pub(crate) fn policy_of(rulebook: &Rulebook) -> std::result::Result<Policy, String> {
    let mut policy = Policy::default();
    policy.same = rulebook.same_mailbox.rule;
    policy.grammar = rulebook.judging.grammar;
    policy.letter_case = match rulebook.standard_form.letter_case {
        LetterCaseWord::Lower => LetterCase::Lower,
        LetterCaseWord::Keep => LetterCase::Keep,
    };
    policy.max_length = rulebook.standard_form.max_length;
    policy.well_formed_by_standard_form = rulebook.is_of_first_version();
    for name in &rulebook.domains.public {
        policy.trust_name(name).map_err(|error| error.0)?;
    }
    for name in &rulebook.domains.house {
        policy.own_domain(name.trim_start_matches("*.")).map_err(|error| error.0)?;
    }
    take_mailbox_rules(rulebook, &mut policy)?;
    for (code, severity) in &rulebook.severity {
        let code = ypogram_core::Code::from_name(code).expect("the rulebook was checked");
        policy.set_severity(code, *severity).map_err(|error| error.0)?;
    }
    Ok(policy)
}

/// Rules first and aliases after, so that an alias finds the rule of its domain.
fn take_mailbox_rules(rulebook: &Rulebook, policy: &mut Policy) -> std::result::Result<(), String> {
    let domains = &rulebook.same_mailbox.domains;
    for (domain, entry) in domains {
        match entry {
            MailboxEntry::HostedAt(operator) => policy.host_at(domain, operator),
            MailboxEntry::Own(MailboxRuleEntry { alias_of: None, dots, tag }) => {
                policy.set_mailbox_rule(domain, *dots == DotsWord::Count, *tag)
            }
            MailboxEntry::Own(MailboxRuleEntry { dots: DotsWord::Count, tag: None, .. }) => Ok(()),
            MailboxEntry::Own(_) => {
                return Err(format!(
                    "{domain}: give alias-of alone; dots and tag are those of the domain it names"
                ));
            }
        }
        .map_err(|error| format!("{domain}: {}", error.0))?;
    }
    for (domain, entry) in domains {
        if let MailboxEntry::Own(MailboxRuleEntry { alias_of: Some(other), .. }) = entry {
            policy.set_alias(domain, other).map_err(|error| format!("{domain}: {}", error.0))?;
        }
    }
    Ok(())
}

/// How sources are to be opened.
pub(crate) fn open_options(sources: &SourceArguments, machine: &MachineArguments) -> OpenOptions {
    let options = reading_options(sources.from, &sources.reading, machine);
    OpenOptions { first: sources.first.or(options.first), ..options }
}

/// How sources are to be opened, whether as records or as text.
pub(crate) fn reading_options(
    from: Option<Format>,
    reading: &ReadingArguments,
    machine: &MachineArguments,
) -> OpenOptions {
    let defaults = OpenOptions::default();
    OpenOptions {
        format: from,
        delimiter: reading.delimiter,
        header: reading.header(),
        sort_of: Some(ypogram_jobs::sort_of_cell),
        encoding: reading.encoding.iter().rfind(|given| given.source.is_none()).map(|given| given.encoding),
        encodings: reading
            .encoding
            .iter()
            .filter_map(|given| Some((given.source.clone()?, given.encoding)))
            .collect(),
        salvage: reading.salvage,
        sheet: reading.sheet.clone(),
        most_unpacked: reading.most_unpacked as u64,
        longest_record: reading.longest_record,
        first: reading.only_first,
        kept: reading.kept.chunks_exact(2).map(|pair| (pair[0].clone(), pair[1].clone())).collect(),
        chunk_bytes: machine.chunk_bytes.unwrap_or(defaults.chunk_bytes),
        ..defaults
    }
}

/// Worker threads: as given, else one for each core.
pub(crate) fn threads(machine: &MachineArguments) -> usize {
    let cores = || std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    machine.threads.map_or_else(cores, usize::from)
}

/// A number that differs from run to run, so that nobody can foresee the hashes.
pub(crate) fn hash_key() -> u64 {
    RandomState::new().build_hasher().finish()
}
