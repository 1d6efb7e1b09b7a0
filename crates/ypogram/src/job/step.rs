//! The steps of a job, read from the rulebook and held against what each command takes.

use std::path::{Path, PathBuf};

use clap::{Arg, ArgAction, CommandFactory as _};
use toml::{Table, Value};
use ypogram_io::{Error, Result};

use crate::arguments::Arguments;
use crate::nearest_hint::nearest_hint;

/// The commands that can be steps.
const COMMANDS: [&str; 8] = ["clean", "check", "split", "dedupe", "compare", "extract", "survey", "bounces"];

/// What a step cannot say, since the job says it.
pub(super) const OF_JOB: [&str; 10] = [
    "add-to-job",
    "force",
    "discard-decisions",
    "quiet",
    "json",
    "figure",
    "full",
    "first",
    "rules",
    "no-rules",
];

/// One step of a job.
#[derive(Clone, Debug)]
pub(crate) struct Step {
    pub(crate) name: String,
    /// The command.
    pub(crate) command: String,
    pub(crate) sources: Vec<Source>,
    /// Its options as words of the command line, those of outputs left out.
    pub(crate) options: Vec<String>,
    /// Where its rows go, in the staging folder as in the end; none where it has none.
    pub(crate) main: Option<PathBuf>,
    /// The main output is published.
    pub(crate) is_published: bool,
    /// The folder of an earlier run against which it is held, where the call says so.
    pub(crate) since: Option<PathBuf>,
    /// Further outputs, by the option that names them.
    pub(crate) further: Vec<(String, PathBuf)>,
}

/// Where a step reads from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Source {
    /// A file.
    File(PathBuf),
    /// An output of an earlier step: its place, and the name of the output.
    Step(usize, String),
}

impl Step {
    /// Whether its outputs are several files in a folder.
    pub(crate) fn writes_folder(&self) -> bool {
        match &*self.command {
            "clean" => true,
            "compare" => !self.options.iter().any(|option| option == "--mark"),
            _ => false,
        }
    }

    /// What is published, as it is written in the rulebook.
    pub(crate) fn published(&self) -> impl Iterator<Item = &Path> {
        let main = self.main.iter().filter(|_| self.is_published);
        main.chain(self.further.iter().map(|(_, path)| path)).map(PathBuf::as_path)
    }
}

/// Reads the steps of the job `job` out of the rulebook `text`, called `rulebook` in messages.
///
/// # Errors
/// Where a step says something that its command does not take, with the line and the nearest name.
pub(crate) fn steps(job: &str, tables: &[Table], text: &str, rulebook: &str) -> Result<Vec<Step>> {
    let mut steps: Vec<Step> = Vec::new();
    for (nth, table) in tables.iter().enumerate() {
        let reader = StepReader { place: StepPlace { job, nth, text, rulebook }, table, before: &steps };
        let step = reader.read()?;
        steps.push(step);
    }
    match steps.is_empty() {
        true => Err(Error::unusable(
            format!("{rulebook}: the job ‘{job}’ has no steps"),
            format!("write [[job.{job}.step]], and below it do = \"clean\" and source = [\"…\"]"),
        )),
        false => Ok(steps),
    }
}

/// Where a step stands.
#[derive(Clone, Copy)]
struct StepPlace<'t> {
    job: &'t str,
    nth: usize,
    text: &'t str,
    rulebook: &'t str,
}

impl StepPlace<'_> {
    /// The line of a key of the step, else of the step, for messages.
    fn line(&self, key: &str) -> String {
        let header = format!("[[job.{}.step]]", self.job);
        let bare = |line: &str| line.chars().filter(|c| !c.is_whitespace() && *c != '"').collect::<String>();
        let mut of_step =
            self.text.lines().enumerate().filter(|(_, line)| bare(line) == header).skip(self.nth);
        let Some((start, _)) = of_step.next() else { return self.rulebook.to_owned() };
        let body = self.text.lines().enumerate().skip(start + 1);
        let mut body = body.take_while(|(_, line)| !line.trim_start().starts_with('['));
        let found = body.find(|(_, line)| {
            line.trim_start().strip_prefix(key).is_some_and(|rest| rest.trim_start().starts_with('='))
        });
        format!("{}: line {}", self.rulebook, found.map_or(start, |(line, _)| line) + 1)
    }

    fn error(&self, key: &str, what: &str, hint: impl Into<String>) -> Error {
        Error::unusable(format!("{}: {what}", self.line(key)), hint)
    }
}

struct StepReader<'t> {
    place: StepPlace<'t>,
    table: &'t Table,
    before: &'t [Step],
}

impl StepReader<'_> {
    fn read(&self) -> Result<Step> {
        let command = self.text("do")?.ok_or_else(|| {
            self.place.error(
                "",
                "the step does not say what to do",
                format!("do is one of {}", COMMANDS.join(", ")),
            )
        })?;
        if !COMMANDS.contains(&&*command) {
            let hint = nearest_hint(&command, COMMANDS.into_iter());
            return Err(self.place.error("do", &format!("‘{command}’ is no step"), hint));
        }
        let name = self.text("name")?.unwrap_or_else(|| command.clone());
        if self.before.iter().any(|step| step.name == name) {
            let hint = "give one of them a name, as in name = \"merge\"";
            return Err(self.place.error("name", &format!("two steps are called ‘{name}’"), hint));
        }
        let mut step = Step {
            sources: self.sources(&name)?,
            options: Vec::new(),
            main: None,
            is_published: false,
            since: None,
            further: Vec::new(),
            name,
            command,
        };
        for (key, value) in
            self.table.iter().filter(|(key, _)| !["do", "name", "source"].contains(&key.as_str()))
        {
            self.take_option(key, value, &mut step)?;
        }
        if step.main.is_none() && step.command != "survey" {
            step.main = Some(PathBuf::from(match step.writes_folder() {
                true => step.name.clone(),
                false => format!("{}.csv", step.name),
            }));
        }
        Ok(step)
    }

    /// A text under `key`.
    fn text(&self, key: &str) -> Result<Option<String>> {
        match self.table.get(key) {
            None => Ok(None),
            Some(Value::String(text)) => Ok(Some(text.clone())),
            Some(_) => {
                Err(self.place.error(key, &format!("{key} is a text"), format!("write {key} = \"…\"")))
            }
        }
    }

    fn sources(&self, name: &str) -> Result<Vec<Source>> {
        let named = match self.table.get("source") {
            Some(Value::String(source)) => vec![source.clone()],
            Some(Value::Array(sources)) => {
                sources.iter().filter_map(|source| source.as_str().map(str::to_owned)).collect()
            }
            _ => Vec::new(),
        };
        if named.is_empty() {
            let what = format!("the step ‘{name}’ has no source");
            return Err(self.place.error(
                "source",
                &what,
                "write source = [\"members.csv\"], or an earlier step's output",
            ));
        }
        named.iter().map(|source| self.source(source)).collect()
    }

    /// A file, or an output of an earlier step.
    fn source(&self, source: &str) -> Result<Source> {
        let (name, output) = source.split_once('.').unwrap_or((source, ""));
        let Some(at) = self.before.iter().position(|step| step.name == name) else {
            return Ok(Source::File(source.into()));
        };
        let known: &[&str] = match &*self.before[at].command {
            "clean" => &["kept", "review", "rejected", "duplicates", "set-aside", "no-address"],
            "dedupe" => &["kept", "dropped"],
            "compare" if self.before[at].writes_folder() => {
                &["new", "known", "withdrawn", "duplicates", "unusable"]
            }
            "survey" => &[],
            _ => &["output", ""],
        };
        match known.contains(&output) {
            true => Ok(Source::Step(at, output.to_owned())),
            false => {
                let known: Vec<String> = known.iter().map(|output| format!("{name}.{output}")).collect();
                let hint = format!("its outputs are: {}", known.join(", "));
                Err(self.place.error("source", &format!("the step ‘{name}’ has no output ‘{output}’"), hint))
            }
        }
    }

    fn take_option(&self, key: &str, value: &Value, step: &mut Step) -> Result<()> {
        if OF_JOB.contains(&key) {
            let what = format!("‘{key}’ is for the whole job");
            return Err(self.place.error(
                key,
                &what,
                format!("leave it out here; ypogram run {} --{key}", self.place.job),
            ));
        }
        let all = Arguments::command();
        let command = all.find_subcommand(&step.command).expect("it is a command");
        let is_option = |argument: &&Arg| argument.get_long().is_some() && !argument.is_hide_set();
        let arguments = || command.get_arguments().filter(is_option);
        let Some(argument) = arguments().find(|argument| argument.get_long() == Some(key)) else {
            let known: Vec<&str> = arguments().filter_map(Arg::get_long).chain(["source", "name"]).collect();
            let hint = nearest_hint(key, known.into_iter());
            return Err(self.place.error(key, &format!("{} has no option ‘{key}’", step.command), hint));
        };
        let values = self.values(key, value, argument)?;
        if is_output(argument) {
            let path = PathBuf::from(values.into_iter().flatten().next().unwrap_or_default());
            if key == "output" {
                (step.main, step.is_published) = (Some(path), true);
            } else {
                step.further.push((key.to_owned(), path));
            }
            return Ok(());
        }
        step.options.extend(values.into_iter().map(|value| match value {
            Some(value) => format!("--{key}={value}"),
            None => format!("--{key}"),
        }));
        Ok(())
    }

    /// What an option is given: nothing where it is a flag.
    fn values(&self, key: &str, value: &Value, argument: &Arg) -> Result<Vec<Option<String>>> {
        let is_flag = matches!(argument.get_action(), ArgAction::SetTrue);
        let one = |value: &Value| match value {
            Value::String(text) => Some(text.clone()),
            Value::Integer(number) => Some(number.to_string()),
            Value::Float(number) => Some(number.to_string()),
            _ => None,
        };
        let unfit = || {
            let hint = if is_flag {
                format!("write {key} = true")
            } else {
                format!("write {key} = \"…\", or a list of texts")
            };
            self.place.error(key, &format!("{key} cannot be given like that"), hint)
        };
        match value {
            Value::Boolean(yes) if is_flag => Ok(if *yes { vec![None] } else { Vec::new() }),
            Value::Array(values) if !is_flag => {
                values.iter().map(|value| one(value).map(Some).ok_or_else(unfit)).collect()
            }
            value if !is_flag => Ok(vec![Some(one(value).ok_or_else(unfit)?)]),
            _ => Err(unfit()),
        }
    }
}

/// Whether the command takes an option of that name.
pub(super) fn takes(command: &str, option: &str) -> bool {
    let all = Arguments::command();
    let command = all.find_subcommand(command);
    command.is_some_and(|command| command.get_arguments().any(|argument| argument.get_long() == Some(option)))
}

/// Whether an option names a file or folder that is written.
fn is_output(argument: &Arg) -> bool {
    let value = argument.get_value_names().and_then(|names| names.first());
    let is_path = value.is_some_and(|name| matches!(name.as_str(), "FILE" | "FOLDER"));
    is_path && argument.get_help_heading() == Some("Output")
}
