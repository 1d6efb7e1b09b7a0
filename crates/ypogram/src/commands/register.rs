//! `ypogram register`: a store that admits each mailbox once.

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use serde_json::json;
use ypogram_core::{Policy, examine};
use ypogram_io::{Error, OpenOptions, Result, RowSpec, Target};
use ypogram_jobs::register::{
    self, Act, Admission, Answer, AskOptions, RegisterOptions, RegisterReport, Store,
};
use ypogram_jobs::{FieldChoice, Progress};

use crate::arguments::{
    AdmissionArguments, JudgingArguments, RegisterAddArguments, RegisterArguments, RegisterCommand,
    RegisterEditArguments, RegisterLookArguments, RegisterStoreArguments,
};
use crate::commands::{common, guard};
use crate::output_target::target_of;
use crate::render::json::Contents;
use crate::render::register as told;
use crate::settings::{self, Settings};
use crate::{clashes, exit, progress_bar, render};

pub(crate) fn run(arguments: &RegisterArguments) -> Result<ExitCode> {
    match &arguments.command {
        RegisterCommand::New { store, judging } => new(store, judging),
        RegisterCommand::Add(arguments) => add(arguments),
        RegisterCommand::Look(arguments) => look(arguments),
        RegisterCommand::Withdraw(arguments) => edit(arguments, Act::Withdraw { forget: arguments.forget }),
        RegisterCommand::Remove(arguments) => edit(arguments, Act::Remove),
        RegisterCommand::List { store, output, force } => list(store, &target_of(output.as_ref(), *force)),
        RegisterCommand::Stats(arguments) => stats(arguments),
        RegisterCommand::Guard(arguments) => guard::run(arguments),
        RegisterCommand::Verify(arguments) => verify(arguments),
        RegisterCommand::Ask { store, admission, source, judging } => ask(store, admission, source, judging),
    }
}

/// Now, in UTC.
fn now() -> String {
    let now = jiff::Timestamp::now();
    jiff::Timestamp::from_second(now.as_second()).unwrap_or(now).to_string()
}

/// The register, and the policy by which its keys are made.
fn open(path: &Path, judging: &JudgingArguments, mut policy: Policy) -> Result<(Store, Policy)> {
    let store = Store::open(path)?;
    let rule = store.rule();
    if let Some(asked) = judging.same.map(ypogram_core::SameMailbox::from).filter(|asked| *asked != rule) {
        return Err(Error::unusable(
            format!("{}: its rule is ‘{}’, not ‘{}’", path.display(), rule.word(), asked.word()),
            format!("leave --same out, or make another register with --same {}", asked.word()),
        ));
    }
    policy.same = rule;
    Ok((store, policy))
}

fn new(path: &Path, judging: &JudgingArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    Store::create(path, settings.policy.same)?;
    render::print(&format!(
        "{} is an empty register; two addresses are one mailbox by the rule ‘{}’\n",
        path.display(),
        settings.policy.same.word()
    ))?;
    Ok(ExitCode::from(exit::DONE))
}

fn add(arguments: &RegisterAddArguments) -> Result<ExitCode> {
    common::refuse_addresses(&arguments.sources.sources)?;
    let settings = Settings::resolve(&arguments.sources, &arguments.judging)?;
    let target = match &arguments.output.place {
        Some(path) => target_of(Some(path), arguments.output.force),
        None => Target::Nowhere,
    };
    let read: Vec<PathBuf> = arguments.sources.sources.iter().chain([&arguments.store]).cloned().collect();
    clashes::refuse(&read, &settings, &[&target])?;
    let (mut store, policy) = open(&arguments.store, &arguments.judging, settings.policy.clone())?;
    let options = RegisterOptions {
        sources: arguments.sources.sources.clone(),
        open: settings::open_options(&arguments.sources, &arguments.machine),
        fields: settings.fields.clone(),
        policy,
        act: Act::Admit,
        admits_review: arguments.admission.admit.is_some(),
        admissible_only: arguments.admissible_only,
        rows: settings.row_spec(&arguments.output, &arguments.machine)?,
        prefix: settings.prefix(&arguments.output),
        now: now(),
        threads: settings::threads(&arguments.machine),
        target,
    };
    let sources = &options.sources;
    let report = progress_bar::watch(sources, arguments.output.quiet, |progress| {
        register::add(&mut store, &options, progress)
    })?;
    if !arguments.output.quiet || arguments.output.json {
        let text = match arguments.output.json {
            true => render::json::added(&report),
            false => told::added(&report),
        };
        match options.target {
            Target::Standard => render::print_beside(&text),
            _ => render::print(&text)?,
        }
    }
    Ok(ExitCode::from(if is_told(&report) { exit::TOLD } else { exit::DONE }))
}

fn is_told(report: &RegisterReport) -> bool {
    report.stopped || report.sources.iter().any(|source| source.broken_off.is_some())
}

/// The key and the standard form of an address that was given.
fn key_of(address: &str, store: &Store, policy: &Policy) -> Option<(String, String)> {
    let examined = examine(address.trim().as_bytes(), policy);
    let key = examined.key(store.rule(), policy)?;
    Some((key, examined.standard?.address))
}

fn look(arguments: &RegisterLookArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(&arguments.judging)?;
    let (store, policy) = open(&arguments.store, &arguments.judging, settings.policy)?;
    let (mut all_known, mut out, mut answers) = (true, String::new(), Vec::new());
    for address in &arguments.addresses {
        let found = match key_of(address, &store, &policy) {
            Some((key, _)) => store.look(&key)?,
            None => (Answer::Refused, None),
        };
        all_known &= matches!(found.0, Answer::Known | Answer::Withdrawn);
        let word = if found.0 == Answer::Admitted { "unknown" } else { found.0.word() };
        answers.push(json!({
            "address": address,
            "answer": word,
            "since": found.1.as_ref().map(|entry| &entry.since),
            "source": found.1.as_ref().map(|entry| &entry.source),
        }));
        out.push_str(&told::looked_up(address, word, found.1.as_ref()));
    }
    render::print(&if arguments.json { render::json::lines(&answers) } else { out })?;
    Ok(ExitCode::from(if all_known { exit::DONE } else { exit::TOLD }))
}

fn edit(arguments: &RegisterEditArguments, act: Act) -> Result<ExitCode> {
    if arguments.forget && act == Act::Remove {
        return Err(Error::unusable("--forget is for withdraw", "leave it out: what is removed is gone"));
    }
    let settings = Settings::without_sources(&arguments.judging)?;
    let (mut store, policy) = open(&arguments.store, &arguments.judging, settings.policy.clone())?;
    let policy = common::by_mailbox_alone(policy);
    let is_file = |value: &String| ypogram_io::SourcePlace::of(Path::new(value)).file.exists();
    let (files, addresses): (Vec<&String>, Vec<&String>) =
        arguments.values.iter().partition(|value| is_file(value));
    if let Some(wrong) = addresses.iter().find(|address| !address.contains('@')) {
        return Err(Error::unusable(
            format!("‘{wrong}’ is neither an address nor a file that is there"),
            "give addresses, or files that hold them",
        ));
    }
    if !files.is_empty() && !addresses.is_empty() {
        return Err(Error::unusable(
            "addresses and files are given together",
            "give the one first, and then the other",
        ));
    }
    if !files.is_empty() {
        let options = RegisterOptions {
            sources: files.into_iter().map(PathBuf::from).collect(),
            open: OpenOptions { sort_of: Some(ypogram_jobs::sort_of_cell), ..OpenOptions::default() },
            fields: FieldChoice { address: arguments.fields.clone(), ..FieldChoice::default() },
            policy,
            act,
            admits_review: true,
            admissible_only: true,
            target: Target::Nowhere,
            rows: RowSpec::default(),
            prefix: "yp_".into(),
            now: now(),
            threads: settings::threads(&arguments.machine),
        };
        let report = progress_bar::watch(&options.sources, false, |progress| {
            register::add(&mut store, &options, progress)
        })?;
        render::print(&told::edited(&report, act))?;
        return Ok(ExitCode::from(if is_told(&report) { exit::TOLD } else { exit::DONE }));
    }
    store.begin()?;
    let mut out = String::new();
    let since = now();
    for address in addresses {
        let Some((key, standard)) = key_of(address, &store, &policy) else {
            store.roll_back()?;
            return Err(Error::unusable(
                format!("‘{address}’ is no address, so it has no mailbox"),
                format!("see ypogram explain {}", render::words::for_shell(address)),
            ));
        };
        let admission = Admission { key: &key, address: &standard, since: &since, source: "command line" };
        let done = match act {
            Act::Remove => store.remove(&key)?,
            _ => store.withdraw(admission, arguments.forget)?,
        };
        out.push_str(&told::edited_one(address, act, done));
    }
    store.commit()?;
    store.wipe()?;
    render::print(&out)?;
    Ok(ExitCode::from(exit::DONE))
}

fn list(path: &Path, target: &Target) -> Result<ExitCode> {
    let store = Store::open(path)?;
    let count = register::list(&store, target)?;
    let text = format!(
        "{} written {}\n",
        render::words::counted(count, "mailbox", "mailboxes"),
        render::places::place(target)
    );
    match target {
        Target::Standard => render::print_beside(&text),
        _ => render::print(&text)?,
    }
    Ok(ExitCode::from(exit::DONE))
}

fn stats(arguments: &RegisterStoreArguments) -> Result<ExitCode> {
    let store = Store::open(&arguments.store)?;
    let [admitted, withdrawn, forgotten] = store.counts()?;
    let (span, sources) = (store.first_and_last()?, store.by_source()?);
    render::print(&match arguments.json {
        true => {
            let counts = [admitted, withdrawn, forgotten];
            let contents = Contents { rule: store.rule(), counts, span: span.as_ref(), from: &sources };
            render::json::contents(&arguments.store.display().to_string(), &contents)
        }
        false => {
            told::stats(&arguments.store, store.rule(), [admitted, withdrawn, forgotten], span, &sources)
        }
    })?;
    Ok(ExitCode::from(exit::DONE))
}

fn verify(arguments: &RegisterStoreArguments) -> Result<ExitCode> {
    let settings = Settings::without_sources(&arguments.judging)?;
    let (store, policy) = open(&arguments.store, &arguments.judging, settings.policy)?;
    let report = register::verify(&store, &policy)?;
    render::print(&match arguments.json {
        true => render::json::verified(&arguments.store.display().to_string(), &report),
        false => told::verified(&report, &arguments.store),
    })?;
    Ok(ExitCode::from(if report.is_good() { exit::DONE } else { exit::TOLD }))
}

fn ask(
    path: &Path,
    admission: &AdmissionArguments,
    source: &str,
    judging: &JudgingArguments,
) -> Result<ExitCode> {
    let settings = Settings::without_sources(judging)?;
    let (store, mut policy) = open(path, judging, settings.policy)?;
    policy.as_typed = true;
    let options = AskOptions { policy: &policy, admits_review: admission.admit.is_some(), source };
    let pipes = (std::io::stdin().lock(), std::io::stdout().lock());
    register::ask(&store, pipes, &options, now, &Progress::default())?;
    Ok(ExitCode::from(exit::DONE))
}
