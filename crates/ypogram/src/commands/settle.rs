//! `ypogram settle`: decisions come back, and every record is sorted anew.

use std::collections::{BTreeMap, HashSet};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::{CommandFactory as _, FromArgMatches as _};
use ypogram_io::{Error, OutputFolder, Result, SourcePlace, clear_temporary_leftovers};
use ypogram_jobs::clean::{CleanOptions, CleanReport, Keep};
use ypogram_jobs::decisions::{Answer, Memory, Remembered};
use ypogram_jobs::settle::{
    Moved, MovedRecords, Questions, Returned, SettleFolder, answers_to, suggestions_as_sure,
};
use ypogram_jobs::{Outcome, clean};

use crate::arguments::{Arguments, CleanArguments, Command, SettleArguments};
use crate::ask::{self, Asking};
use crate::call::Call;
use crate::commands::clean as clean_command;
use crate::dns;
use crate::render::figure_names::{self, Figures};
use crate::render::words::{counted, for_shell};
use crate::settings::Settings;
use crate::telling::Telling;
use crate::{exit, progress_bar, render};

pub(crate) fn run(arguments: &SettleArguments) -> Result<ExitCode> {
    figure_names::check(arguments.figure.as_deref())?;
    OutputFolder::finish_earlier(&arguments.folder)?;
    // Where all is settled already, nothing else would clear what a run left that was killed at its very end.
    clear_temporary_leftovers();
    let folder = SettleFolder::open(&arguments.folder)?;
    let (mut cleaned, cleaning) = call_of(&folder)?;
    let Prepared { settings, options, decisions_file } =
        where_it_was_called(&folder, || Prepared::of(&cleaned, &folder))?;
    if let Some(file) = &decisions_file {
        Memory::refuse_unfit(file)?;
    }
    let mut options = with_copies(options, &folder);
    let moved =
        arguments.returned.as_deref().map(|file| Moved::read(file, &settings.policy)).transpose()?.flatten();
    let mut questions = Questions::read(&folder, &options.prefix)?;
    if arguments.ask {
        questions.look_up_others(&folder, &options.prefix)?;
    }
    let returned = arguments.returned.as_deref().filter(|_| moved.is_none());
    let Some(came) = decisions((arguments, returned), &folder, (&options.prefix, &questions))? else {
        return Ok(ended(arguments, questions.are_for_review()));
    };
    let mut answers = answers_to(&questions, &came.decisions, &settings.policy, came.faults)?;
    let mut notes = Vec::new();
    if let Some(moved) = &moved {
        let earlier = &folder.call.answers;
        let records = progress_bar::watch(&folder.copies(), arguments.quiet, |progress| {
            moved.records(&options, earlier, progress)
        })?;
        notes.extend(notes_about(moved, &records));
        if records.answers.is_empty() {
            render::print_beside("no record has a mailbox that has moved; nothing is left to do\n");
            return Ok(ended(arguments, questions.are_for_review()));
        }
        answers.extend(records.answers);
    }
    if answers.is_empty() && came.repeated > 0 {
        let decisions = counted(came.repeated, "decision in it was", "decisions in it were");
        render::print_beside(&format!("{decisions} taken before; nothing is left to do\n"));
        return Ok(ended(arguments, questions.are_for_review()));
    }
    if let (true, Some(least)) = (answers.is_empty(), arguments.take) {
        render::print_beside(&format!("no suggestion is {}; nothing is left to do\n", least.word()));
        return Ok(ended(arguments, questions.are_for_review()));
    }
    if answers.is_empty() && arguments.ask {
        render::print_beside("\nnothing was answered, and nothing is settled\n");
        return Ok(ended(arguments, questions.are_for_review()));
    }
    if answers.is_empty() {
        return Err(nothing_decided(arguments, &folder));
    }
    if arguments.returned.is_some() || arguments.take.is_some() || arguments.ask {
        refuse_changed(&folder, arguments)?;
    }
    let output = &mut cleaned.output;
    (output.json, output.quiet, output.full) = (arguments.json, arguments.quiet, arguments.full);
    output.figure.clone_from(&arguments.figure);
    options.answers.by_record.extend(answers.clone());
    let mut report =
        progress_bar::watch(&folder.copies(), arguments.quiet, |progress| clean::run(&options, progress))?;
    report.notes.extend(notes);
    report.notes.extend(changed_cells(came.changed_cells));
    report.notes.extend(remember(decisions_file.as_deref(), &report, &answers)?);
    let shared = options.shared;
    let telling = Telling { output: &cleaned.output, beside: false, first: None };
    telling.tell(
        || Figures::of_clean(&report),
        || render::json::clean("settle", &report),
        || render::clean::summary(&report, &cleaning, settings.judged_by(), shared),
    )?;
    Ok(ended(arguments, report.counts.of(Outcome::Review) > 0))
}

/// How the command ends where records are left for review, or none are.
fn ended(arguments: &SettleArguments, is_left: bool) -> ExitCode {
    ExitCode::from(if is_left && arguments.fail_on.is_some() { exit::TOLD } else { exit::DONE })
}

/// What the call that wrote the folder asks for, as it is now.
struct Prepared {
    settings: Settings,
    options: CleanOptions,
    decisions_file: Option<PathBuf>,
}

impl Prepared {
    fn of(cleaned: &CleanArguments, folder: &SettleFolder) -> Result<Self> {
        let mut settings = Settings::resolve(&cleaned.sources, &cleaned.judging)?;
        dns::settle_kept(&mut settings, &folder.copy_of(clean::DNS))?;
        let options = clean_command::options(cleaned, &mut settings, folder.path.clone())?;
        let decisions_file = settings.decisions_file().as_deref().map(absolute).transpose()?;
        Ok(Prepared { settings, options, decisions_file })
    }
}

/// Does something in the folder in which `clean` was called, from where the names in that call are meant.
fn where_it_was_called<T>(folder: &SettleFolder, work: impl FnOnce() -> Result<T>) -> Result<T> {
    let here = std::env::current_dir();
    // Where that folder is gone, names may still be found from here.
    let _ = std::env::set_current_dir(&folder.call.called_in);
    let done = work();
    if let Ok(here) = here {
        let _ = std::env::set_current_dir(here);
    }
    done
}

/// The same over the copies of the sources, with what was decided before.
fn with_copies(options: CleanOptions, folder: &SettleFolder) -> CleanOptions {
    let copies = folder.copies();
    // Several tables of a server have one address.
    let file = |source: &PathBuf| match SourcePlace::of(source) {
        place if place.is_on_server() => source.clone(),
        place => place.file,
    };
    let files = folder.call.sources.iter().map(file);
    let mut open = options.open;
    open.kept.extend(files.zip(copies.clone()));
    CleanOptions {
        sources: folder.call.sources.clone(),
        open,
        force: true,
        // The earlier run may have been in this very folder.
        since: None,
        discard_decisions: true,
        answers: folder.call.answers.clone(),
        keep: Some(Keep {
            arguments: folder.call.arguments.clone(),
            called_in: folder.call.called_in.clone(),
            copies,
        }),
        read_before: Some(folder.sources.clone()),
        ..options
    }
}

/// The decisions that are to be taken now; none where somebody left before they were to be.
fn decisions(
    (arguments, returned): (&SettleArguments, Option<&Path>),
    folder: &SettleFolder,
    (prefix, questions): (&str, &Questions),
) -> Result<Option<Returned>> {
    let mut came = Returned::default();
    if arguments.ask {
        match ask::ask(folder, questions)? {
            Asking::Take(decisions) => came.decisions = decisions,
            Asking::Left(answers) => {
                render::print_beside(&format!(
                    "\n{} kept, and nothing is settled yet; ypogram settle --ask {} goes on.\n",
                    counted(answers as u64, "answer is", "answers are"),
                    for_shell(&folder.path.display().to_string()),
                ));
                return Ok(None);
            }
        }
        return Ok(Some(came));
    }
    if let Some(least) = arguments.take {
        came.decisions = suggestions_as_sure(questions, least.into());
    } else if let Some(returned) = returned {
        came.add(returned, prefix, questions, &folder.call.answers)?;
    } else {
        for output in folder.outputs.iter().filter(|output| output.is_changed_in(&folder.path)) {
            came.add(&folder.path.join(&output.name), prefix, questions, &folder.call.answers)?;
        }
    }
    let decided: HashSet<u64> = came.decisions.iter().map(|asked| asked.record).collect();
    let answered = ask::kept(folder)?.into_iter();
    came.decisions.extend(answered.filter(|asked| !decided.contains(&asked.record)));
    Ok(Some(came))
}

/// # Errors
/// Where decisions stand in the folder's own files, which would be lost.
fn refuse_changed(folder: &SettleFolder, arguments: &SettleArguments) -> Result<()> {
    let changed = folder.outputs.iter().find(|output| output.is_changed_in(&folder.path));
    match changed.filter(|_| !arguments.discard_decisions) {
        None => Ok(()),
        Some(changed) => {
            let (shown, output) = (folder.path.display(), &changed.name);
            Err(Error::output(
                format!("{shown}: {output} was changed since it was written, and would be replaced"),
                format!(
                    "ypogram settle {shown} takes the decisions in it first; --discard-decisions replaces it"
                ),
            ))
        }
    }
}

fn nothing_decided(arguments: &SettleArguments, folder: &SettleFolder) -> Error {
    let shown = arguments.folder.display();
    let hint = match &arguments.returned {
        None => format!(
            "write keep, take, drop or an address into the column yp_decision of {}, and save it",
            folder.outputs.iter().map(|output| output.name.as_str()).collect::<Vec<_>>().join(" or ")
        ),
        Some(_) => "write keep, take, drop or an address into its column yp_decision, and save it".to_owned(),
    };
    Error::unusable(format!("{shown}: nothing is decided"), hint)
}

/// What there is to say of mailboxes that have moved.
fn notes_about(moved: &Moved, records: &MovedRecords) -> Vec<String> {
    let count = records.answers.len() as u64;
    let mut notes = vec![format!(
        "{} the new address of a mailbox that has moved; correct the source as well",
        counted(count, "record has taken", "records have taken")
    )];
    let unknown = records.unknown.len() as u64;
    let first = records.unknown.first().map_or("", String::as_str);
    notes.extend((unknown > 0).then(|| {
        let shown = counted(unknown, "mailbox that has moved is", "mailboxes that have moved are");
        format!("{shown} in no record, such as {}", ypogram_core::shown(first.as_bytes()))
    }));
    notes.extend((moved.without_address > 0).then(|| {
        let shown = counted(moved.without_address, "mailbox has", "mailboxes have");
        format!("{shown} moved without saying where to, and nothing changes for it")
    }));
    notes
}

fn changed_cells(changed: u64) -> Option<String> {
    let shown = counted(changed, "other cell was", "other cells were");
    (changed > 0)
        .then(|| format!("{shown} changed beside the decisions, and not taken: correct the source for that"))
}

/// Appends the decisions to the file of the rulebook, where it names one.
fn remember(
    file: Option<&Path>,
    report: &CleanReport,
    answers: &BTreeMap<u64, Answer>,
) -> Result<Option<String>> {
    let Some(file) = file else { return Ok(None) };
    let decided = jiff::ZonedDateTime::now().date().to_string();
    let remembered = report.counts.decided.iter().filter_map(|record| {
        let answer = answers.get(&record.record)?;
        Some(Remembered {
            as_found: record.as_found.clone(),
            person: record.person.clone(),
            findings: record.findings.clone(),
            kind: answer.kind,
            address: answer.address.clone().unwrap_or_default(),
            decided: decided.clone(),
            reason: String::new(),
        })
    });
    let added = Memory::append(file, &remembered.collect::<Vec<_>>())?;
    let shown = counted(added, "decision is", "decisions are");
    Ok((added > 0).then(|| format!("{shown} remembered in {}", file.display())))
}

/// The call that wrote the folder.
fn call_of(folder: &SettleFolder) -> Result<(CleanArguments, Call)> {
    let arguments = &folder.call.arguments;
    let words = std::iter::once("ypogram").chain(arguments.iter().map(String::as_str));
    let matched = Arguments::command().try_get_matches_from(words);
    let read = matched.and_then(|matches| {
        Ok((Arguments::from_arg_matches(&matches)?, Call::of(matches, arguments.iter().map(Into::into))))
    });
    match read.map(|(arguments, call)| (arguments.command, call)) {
        Ok((Command::Clean(cleaned), call)) => Ok((cleaned, call)),
        _ => Err(Error::unusable(
            format!("{}: this version does not know the call that wrote the folder", folder.path.display()),
            "clean the sources again with this version",
        )),
    }
}

fn absolute(path: &Path) -> Result<PathBuf> {
    std::path::absolute(path).map_err(|error| Error::reading(&path.display().to_string(), &error))
}
