//! `--add-to-job`: a command that was run becomes a step of a job in the rulebook, whose comments and order stay.

use std::path::{Path, PathBuf};

use toml_edit::{Array, ArrayOfTables, Item, Table, value};
use ypogram_io::{Error, Result};

use crate::call::Call;
use crate::default_folder::default_folder;
use crate::job::step::{self, Step};
use crate::render;
use crate::rulebook::FILE_NAME;
use crate::rulebook_edit::{RulebookEdit, implicit};

/// A call that is to become a step, once it is done.
pub(crate) struct AddStep {
    job: String,
    rulebook: PathBuf,
    command: String,
    sources: Vec<String>,
    output: Option<String>,
    /// Options with their values; none for one without.
    options: Vec<(String, Option<Vec<String>>)>,
}

impl AddStep {
    /// What `call` asks for; none where it asks for nothing of that kind.
    ///
    /// # Errors
    /// Where such a call cannot be a step.
    pub(crate) fn asked_by(call: &Call) -> Result<Option<Self>> {
        let Some(job) = call.job_to_add_to() else { return Ok(None) };
        let refused =
            |what: &str, hint: &str| Err(Error::unusable(format!("--add-to-job {job}: {what}"), hint));
        if call.has("no-rules") {
            return refused("a job stands in a rulebook", "leave --no-rules out");
        }
        if call.has("first") {
            return refused(
                "a trial is no step",
                "leave --first out, or try the job with ypogram run --first",
            );
        }
        let is_name = |c: char| c.is_ascii_alphanumeric() || "-_".contains(c);
        if job.is_empty() || !job.chars().all(is_name) {
            return refused("that is no name", "take letters, digits and hyphens");
        }
        let sources = call.sources();
        if sources.iter().any(|source| source == "-") {
            return refused("standard input is not there next month", "name a file");
        }
        let has_password = |source: &String| {
            let authority =
                source.split_once("://").map(|(_, rest)| rest.split('/').next().unwrap_or_default());
            authority.and_then(|it| it.rsplit_once('@')).is_some_and(|(user, _)| user.contains(':'))
        };
        if sources.iter().any(has_password) {
            return refused(
                "the source has a password in it",
                "leave the password out, and give it in the environment",
            );
        }
        let command = call.command();
        let mut options = call.options();
        let output = options.iter().position(|(name, _)| name == "output").map(|at| options.remove(at));
        let output = output.and_then(|(_, values)| values?.into_iter().next()).filter(|output| output != "-");
        let output = output.or_else(|| {
            let source = sources.first().filter(|_| command == "clean");
            source.map(|source| default_folder(source.as_ref()).display().to_string())
        });
        options.retain(|(name, _)| name != "output" && !step::OF_JOB.contains(&name.as_str()));
        let rulebook = call.value_of("rules").map_or_else(|| PathBuf::from(FILE_NAME), PathBuf::from);
        Ok(Some(AddStep { job, rulebook, command, sources, output, options }))
    }

    /// Appends the step, unless the job has it already.
    ///
    /// # Errors
    /// Where the rulebook cannot be read or written.
    pub(crate) fn add(&self) -> Result<()> {
        let edit = RulebookEdit::open(&self.rulebook)?;
        let RulebookEdit { known, text, shown, is_new } = &edit;
        let before = match known.job.get(&self.job) {
            Some(entry) => step::steps(&self.job, &entry.step, text, shown)?,
            None => Vec::new(),
        };
        let mut document = edit.document()?;
        let jobs = document.entry("job").or_insert_with(implicit);
        let job = jobs.as_table_mut().map(|jobs| jobs.entry(&self.job).or_insert_with(implicit));
        let steps = job
            .and_then(Item::as_table_mut)
            .map(|job| job.entry("step").or_insert_with(|| Item::ArrayOfTables(ArrayOfTables::new())));
        let Some(steps) = steps.and_then(Item::as_array_of_tables_mut) else {
            let hint = format!("write its steps as [[job.{}.step]]", self.job);
            return Err(Error::unusable(
                format!("{shown}: the job ‘{}’ is written in another way", self.job),
                hint,
            ));
        };
        let mut table = self.table(&before);
        let said = |table: &Table| {
            let said = table.iter().filter(|(key, _)| *key != "name");
            said.map(|(key, item)| format!("{key}={}", item.to_string().trim()))
                .collect::<std::collections::BTreeSet<_>>()
        };
        if let Some(at) = steps.iter().position(|step| said(step) == said(&table)) {
            render::print_beside(&format!(
                "step {} of the job ‘{}’ says the same; nothing is added\n",
                at + 1,
                self.job
            ));
            return Ok(());
        }
        table.set_position(None);
        steps.push(table);
        let number = steps.len();
        edit.write(&document, &self.rulebook)?;
        let made = if *is_new { format!("{shown} was made; ") } else { String::new() };
        render::print_beside(&format!("{made}step {number} of the job ‘{}’ stands in {shown}\n", self.job));
        Ok(())
    }

    fn table(&self, before: &[Step]) -> Table {
        let mut table = Table::new();
        let output = self.output.as_deref().map(|output| self.seen_from_rulebook(output));
        if before.iter().any(|step| step.name == self.command) {
            table["name"] = value(self.name(before, output.as_deref()));
        }
        table["do"] = value(&self.command);
        table["source"] =
            value(self.sources.iter().map(|source| self.source(source, before)).collect::<Array>());
        for (name, values) in &self.options {
            table[name] = match values {
                None => value(true),
                Some(values) if values.len() == 1 => value(&values[0]),
                Some(values) => value(values.iter().collect::<Array>()),
            };
        }
        if let Some(output) = output {
            table["output"] = value(output);
        }
        table
    }

    /// A name that no step has: that of its output, else the command with a number.
    fn name(&self, before: &[Step], output: Option<&str>) -> String {
        let stem = output.and_then(|output| Path::new(output).file_stem()?.to_str().map(str::to_owned));
        let numbered = (2..).map(|number| format!("{}-{number}", self.command));
        let mut names = stem.into_iter().filter(|stem| !stem.contains('.')).chain(numbered);
        names.find(|name| before.iter().all(|step| step.name != *name)).expect("numbers do not end")
    }

    /// A source, as the output of an earlier step where it is one.
    fn source(&self, source: &str, before: &[Step]) -> String {
        let path = self.seen_from_rulebook(source);
        let of_step = before.iter().find_map(|step| {
            let main = step.main.as_ref().filter(|_| step.is_published)?;
            let output = match &*step.command {
                _ if step.writes_folder() => {
                    let name = Path::new(&path).strip_prefix(main).ok()?.to_str()?.to_owned();
                    name.split('.').next()?.to_owned()
                }
                "dedupe" if Path::new(&path) == main => "kept".to_owned(),
                _ if Path::new(&path) == main => "output".to_owned(),
                _ => step.further.iter().find(|(_, further)| Path::new(&path) == further)?.0.clone(),
            };
            Some(format!("{}.{output}", step.name))
        });
        of_step.unwrap_or(path)
    }

    /// A path as it is meant from the folder of the rulebook.
    fn seen_from_rulebook(&self, path: &str) -> String {
        let is_here = self.rulebook.parent().is_none_or(|around| around.as_os_str().is_empty());
        let path = path.trim_end_matches('/');
        match is_here || Path::new(path).is_absolute() {
            true => path.to_owned(),
            false => {
                std::path::absolute(path).map_or_else(|_| path.to_owned(), |path| path.display().to_string())
            }
        }
    }
}
