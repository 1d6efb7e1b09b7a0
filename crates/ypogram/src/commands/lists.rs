//! `ypogram lists`: the reference lists, built in and one's own.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use ypogram_core::lists::{BuiltIn, List, Of, built_in};
use ypogram_core::{Class, Hasher, Judge, examine};
use ypogram_io::{Error, Result, Target};
use ypogram_jobs::decisions::{Memory, Remembered};
use ypogram_jobs::lists::edit::{self, Action, Wish};
use ypogram_jobs::lists::{ListSpec, check};

use crate::arguments::{JudgingArguments, ListEditArguments, ListsArguments, ListsCommand};
use crate::commands::lists_new;
use crate::nearest_hint::nearest_hint;
use crate::output_target::target_of;
use crate::render::lists::{Shown, Tested};
use crate::rulebook::FILE_NAME;
use crate::settings::Settings;
use crate::{exit, render};

pub(crate) fn run(arguments: &ListsArguments) -> Result<ExitCode> {
    let json = arguments.json;
    match &arguments.command {
        None => overview(&arguments.judging, json),
        Some(ListsCommand::Show { name, like, judging }) => show(name, like.as_deref(), judging, json),
        Some(ListsCommand::Test { values, judging }) => test(values, judging, json),
        Some(ListsCommand::New(new)) => lists_new::run(new),
        Some(ListsCommand::Add(edit)) => change(edit, Action::Add, json),
        Some(ListsCommand::Change(edit)) => change(edit, Action::Change, json),
        Some(ListsCommand::Remove(edit)) => change(edit, Action::Remove, json),
        Some(ListsCommand::Check { list, of, class, output, force, judging }) => {
            let named = ListSpec {
                of: of_word(of.as_deref())?,
                class: class_word(class.as_deref())?,
                ..ListSpec::default()
            };
            let target = output.as_ref().map_or(Target::Nowhere, |output| target_of(Some(output), *force));
            check_list(list, &named, &target, judging, json)
        }
    }
}

/// The name of what was decided, which is shown and edited like a list.
const DECISIONS: &str = "decisions";

/// What was decided, where `name` says so and no list is called so.
fn decisions_named(name: &str, settings: &Settings) -> Result<Option<Memory>> {
    let is_list = settings.list_specs.iter().any(|spec| spec.name == name);
    match settings.decisions_file().filter(|_| name == DECISIONS && !is_list) {
        Some(file) => Memory::load(&file).map(Some),
        None => Ok(None),
    }
}

fn done(told: bool) -> ExitCode {
    ExitCode::from(if told { exit::TOLD } else { exit::DONE })
}

fn overview(judging: &JudgingArguments, json: bool) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    let decided = settings.decisions_file().map(|file| Ok((Memory::load(&file)?.len(), file))).transpose()?;
    let decided = decided.map(|(entries, file)| render::lists::Overview::of_decisions(entries, &file));
    let rows: Vec<render::lists::Overview> = settings
        .policy
        .lists
        .iter()
        .map(render::lists::Overview::of_own)
        .chain(decided)
        .chain(built_in().iter().map(render::lists::Overview::of_built_in))
        .collect();
    render::print(&match json {
        true => render::json::lines(&rows),
        false => render::lists::overview(&rows, settings.judged_by()),
    })?;
    Ok(done(false))
}

fn show(name: &str, like: Option<&str>, judging: &JudgingArguments, json: bool) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    let own = settings.policy.lists.iter().filter(|list| list.purpose.name == name);
    let of_built_in = built_in().into_iter().filter(|list| list.name == name);
    let decided = decisions_named(name, &settings)?.as_ref().map(entries_of_decisions);
    let lists: Vec<Vec<Shown>> =
        own.map(entries_of).chain(decided).chain(of_built_in.map(entries_of_built_in)).collect();
    if lists.is_empty() {
        return Err(no_such_list(name, &settings));
    }
    let like = like.map(str::to_lowercase);
    let fits = |shown: &Shown| {
        let mut texts = std::iter::once(&shown.entry).chain(&shown.beside);
        like.as_ref().is_none_or(|like| texts.any(|text| text.to_lowercase().contains(like)))
    };
    let entries: Vec<Shown> = lists.into_iter().flatten().filter(fits).collect();
    render::print(&match json {
        true => render::json::lines(&entries),
        false => render::lists::entries(&entries),
    })?;
    if entries.is_empty() && !json {
        render::print_beside(&format!("ypogram: no entry of {name} is like that\n"));
    }
    Ok(done(entries.is_empty()))
}

fn entries_of(list: &List) -> Vec<Shown> {
    let columns = list.purpose.columns.len();
    let cell = |entry, column| String::from_utf8_lossy(list.cell(entry, column)).into_owned();
    let shown = |entry| Shown {
        entry: list.shown(entry),
        line: Some(list.line(entry)),
        beside: (0..columns).map(|column| cell(entry, column)).collect(),
    };
    (0..list.len()).map(shown).collect()
}

fn entries_of_decisions(memory: &Memory) -> Vec<Shown> {
    let shown = |(line, entry): (u64, Remembered)| {
        let [as_found, beside @ ..] = entry.cells().map(str::to_owned);
        Shown { entry: as_found, line: Some(line), beside: beside.to_vec() }
    };
    memory.entries().map(shown).collect()
}

fn entries_of_built_in(list: BuiltIn) -> Vec<Shown> {
    let entries = list.entries.into_iter();
    entries.map(|(entry, beside)| Shown { entry, line: None, beside: vec![beside] }).collect()
}

fn no_such_list(name: &str, settings: &Settings) -> Error {
    let own = settings.list_specs.iter().map(|spec| spec.name.clone());
    let names: Vec<String> = own.chain(built_in().iter().map(|list| list.name.to_owned())).collect();
    let hint = nearest_hint(name, names.iter().map(String::as_str));
    Error::unusable(
        format!("there is no list ‘{name}’"),
        format!("{hint}; `ypogram lists` shows them all, and a list of your own is named by its file"),
    )
}

fn test(values: &[String], judging: &JudgingArguments, json: bool) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    let tested: Vec<Tested> = values.iter().map(|value| test_one(value, &settings)).collect();
    render::print(&match json {
        true => render::json::lines(&tested),
        false => render::lists::tested(&tested),
    })?;
    Ok(done(tested.iter().any(|tested| tested.entries.is_empty())))
}

fn test_one(value: &str, settings: &Settings) -> Tested {
    let bare = value.trim().trim_start_matches('@');
    // A local part that is on no list stands for anybody at the domain.
    let address = if bare.contains('@') { bare.to_owned() } else { format!("night.owl@{bare}") };
    let examined = examine(address.as_bytes(), &settings.policy);
    let rejecting = |code| settings.policy.severity(code) == ypogram_core::Severity::Reject;
    let trouble = examined.findings.iter().find(|finding| rejecting(finding.code));
    Tested {
        value: value.to_owned(),
        class: examined.class,
        verdict: examined.verdict,
        trouble: trouble.map(|finding| finding.message.clone().into_owned()),
        entries: settings.policy.decided(&examined),
    }
}

/// The list of one's own of that name, or the file itself.
fn find_spec(name: &str, settings: &Settings) -> Result<ListSpec> {
    if let Some(spec) = settings.list_specs.iter().find(|spec| spec.name == name) {
        if spec.file.is_none() {
            return Err(Error::unusable(
                format!("the entries of ‘{name}’ stand in the rulebook ({})", spec.from),
                "change them there, or give the list a file of its own",
            ));
        }
        return Ok(spec.clone());
    }
    if let (DECISIONS, Some(file)) = (name, settings.decisions_file()) {
        return Ok(ListSpec {
            name: name.to_owned(),
            from: file.display().to_string(),
            file: Some(file),
            of: Of::Values,
            entry_column: Some("as_found".to_owned()),
            ..ListSpec::default()
        });
    }
    if Path::new(name).is_file() {
        return Ok(ListSpec {
            name: name.to_owned(),
            file: Some(PathBuf::from(name)),
            from: name.to_owned(),
            ..ListSpec::default()
        });
    }
    if let Some(list) = built_in().into_iter().find(|list| list.name == name) {
        return Err(Error::unusable(
            format!("the list ‘{}’ is built in", list.name),
            format!(
                "keep a list of your own beside it: in {FILE_NAME}, [lists.our-{name}] with file = \"…\" and {}",
                match Class::from_word(name) {
                    Some(_) => format!("class = \"{name}\""),
                    None => format!("finding = \"{name}\""),
                }
            ),
        ));
    }
    Err(no_such_list(name, settings))
}

fn change(arguments: &ListEditArguments, action: Action, json: bool) -> Result<ExitCode> {
    let settings = Settings::without_sources(&arguments.judging)?;
    let spec = find_spec(&arguments.list, &settings)?;
    if arguments.becomes.is_some() && (action != Action::Change || arguments.entries.len() != 1) {
        return Err(Error::unusable(
            "--becomes tells what one entry is changed to",
            "write ypogram lists change LIST ENTRY --becomes ENTRY",
        ));
    }
    if action == Action::Change
        && arguments.set.is_empty()
        && arguments.becomes.is_none()
        && arguments.from_file.is_none()
    {
        return Err(Error::unusable(
            "nothing is said of what should change",
            "give --set COLUMN=CELL, --becomes ENTRY, or a file with --from-file",
        ));
    }
    let cells = arguments.set.iter().map(|set| {
        let (column, cell) = set.split_once('=').ok_or_else(|| {
            Error::unusable(format!("--set {set}: there is no = in it"), "write --set COLUMN=CELL")
        })?;
        Ok((column.to_owned(), cell.to_owned()))
    });
    let cells = cells.collect::<Result<Vec<(String, String)>>>()?;
    let wish = |entry: &String| Wish {
        entry: entry.clone(),
        becomes: arguments.becomes.clone(),
        cells: cells.clone(),
    };
    let mut wishes: Vec<Wish> = arguments.entries.iter().map(wish).collect();
    let mut judge = Judge::new(&settings.policy, Hasher::with_key(0));
    if let Some(file) = &arguments.from_file {
        let mut more = edit::wishes_from(file, &spec, &mut judge)?;
        for wish in &mut more {
            if action == Action::Remove {
                wish.cells.clear();
            }
            wish.cells.extend(cells.iter().cloned());
        }
        wishes.extend(more);
    }
    let report = edit::edit(&spec, action, &wishes, &mut judge)?;
    render::print(&match json {
        true => {
            let command = match action {
                Action::Add => "lists add",
                Action::Change => "lists change",
                Action::Remove => "lists remove",
            };
            render::json::list_edited(command, &spec.from, &report)
        }
        false => render::lists::edited(&report, &spec),
    })?;
    let left = !(report.missing.is_empty() && report.unfit.is_empty() && report.differ.is_empty());
    Ok(done(left))
}

fn of_word(word: Option<&str>) -> Result<Of> {
    let Some(word) = word else { return Ok(Of::default()) };
    Of::ALL.into_iter().find(|of| of.word() == word).ok_or_else(|| {
        let known: Vec<&str> = Of::ALL.iter().map(|of| of.word()).collect();
        Error::unusable(format!("a list cannot be of ‘{word}’"), format!("known are: {}", known.join(", ")))
    })
}

fn class_word(word: Option<&str>) -> Result<Option<Class>> {
    word.map(|word| Class::own(word).map_err(|error| Error::unusable(error.0, ""))).transpose()
}

fn check_list(
    list: &str,
    named: &ListSpec,
    target: &Target,
    judging: &JudgingArguments,
    json: bool,
) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    if let Some(memory) = decisions_named(list, &settings)? {
        let idle = memory.idle(&settings.policy);
        render::print(&match json {
            true => render::json::decisions_checked(memory.len(), &idle),
            false => render::lists::idle_decisions(&idle, memory.len()),
        })?;
        return Ok(done(!idle.is_empty()));
    }
    let mut spec = find_spec(list, &settings)?;
    if named.of != Of::default() {
        spec.of = named.of;
    }
    spec.class = named.class.or(spec.class);
    let mut judge = Judge::new(&settings.policy, Hasher::with_key(0));
    let report = check::check(&spec, &settings.policy, &mut judge)?;
    if *target != Target::Nowhere {
        check::write_normalised(&spec, target, &mut judge)?;
    }
    let text = match json {
        true => render::json::list_checked(&report),
        false => render::lists::checked(&report, target),
    };
    match target {
        Target::Standard => render::print_beside(&text),
        _ => render::print(&text)?,
    }
    Ok(done(report.finds_fault()))
}
