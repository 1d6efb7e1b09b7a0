//! The answers of the domain name system, asked for or taken from a file, and what a summary tells of them.

pub(crate) mod held;

use std::path::{Path, PathBuf};
use std::sync::Arc;

use ypogram_io::{Error, Result};
use ypogram_jobs::dns::{self, Answers, DnsOptions, Others, Store};

use crate::arguments::{DnsArguments, MachineArguments, SourceArguments};
use crate::render::dns::Told;
use crate::rulebook::DnsSection;
use crate::settings::Settings;
pub(crate) use held::Dns;

/// What is read.
#[cfg_attr(not(feature = "dns"), allow(dead_code))]
pub(crate) struct Read<'a> {
    pub(crate) sources: &'a SourceArguments,
    pub(crate) machine: &'a MachineArguments,
    pub(crate) quiet: bool,
}

/// Has the policy of `settings` judge by the answers, where that is asked for: every domain of the sources is asked about once.
///
/// # Errors
/// Where a file with answers or a source cannot be read, or the servers do not answer for the Internet.
pub(crate) fn settle(settings: &mut Settings, arguments: &DnsArguments, read: &Read<'_>) -> Result<()> {
    let dns = match (&arguments.dns_snapshot, arguments.ask_dns) {
        (Some(file), _) => of_snapshot(settings, file)?,
        (None, true) => asked(settings, arguments, read)?,
        (None, false) => return Ok(()),
    };
    judge_by(settings, dns)
}

/// The same for values that come one by one; those in `known_ahead` are known already.
///
/// # Errors
/// As above.
pub(crate) fn settle_one_by_one(
    settings: &mut Settings,
    arguments: &DnsArguments,
    known_ahead: &[&[u8]],
) -> Result<()> {
    let dns = match (&arguments.dns_snapshot, arguments.ask_dns) {
        (Some(file), _) => of_snapshot(settings, file)?,
        (None, true) => one_by_one(settings, arguments, known_ahead)?,
        (None, false) => return Ok(()),
    };
    judge_by(settings, dns)
}

/// Judges by answers that an earlier run kept in its folder.
///
/// # Errors
/// Where the file cannot be read.
pub(crate) fn settle_kept(settings: &mut Settings, file: &Path) -> Result<()> {
    if !file.is_file() {
        return Ok(());
    }
    let store = dns::load(file, false)?;
    let dns = Dns::of(store, Others::Nothing, settings, String::new());
    judge_by(settings, dns)
}

fn judge_by(settings: &mut Settings, dns: Dns) -> Result<()> {
    settings.policy.answered_by(dns.answers.clone());
    if settings.rulebook.same_mailbox.by_host {
        for (domain, host) in dns.answers.hosts() {
            let Some(tag) = ypogram_core::tag_at_host(&host) else { continue };
            let given = settings.policy.set_mailbox_rule(&domain, true, Some(tag));
            given.map_err(|error| Error::unusable(format!("[same-mailbox] by-host: {}", error.0), ""))?;
        }
    }
    settings.dns = Some(dns);
    Ok(())
}

impl Dns {
    fn of(store: Store, others: Others, settings: &Settings, told: String) -> Self {
        let answers = Arc::new(Answers::of(store, others, &settings.policy));
        Dns { answers, told, kept: Vec::new(), folder: None, cache: None }
    }
}

fn of_snapshot(settings: &Settings, file: &Path) -> Result<Dns> {
    let store = dns::load(file, false)?;
    let told = Told::of_snapshot(file, &store).line();
    Ok(Dns::of(store, Others::NotAnswered, settings, told))
}

#[cfg(feature = "dns")]
fn asked(settings: &Settings, arguments: &DnsArguments, read: &Read<'_>) -> Result<Dns> {
    use jiff::Timestamp;

    use crate::{progress_bar, settings};

    let (options, cache) = (options(arguments, &settings.rulebook.dns)?, cache(arguments, settings)?);
    let known = dns::load(&cache, true)?;
    let folder = ypogram_io::temporary_folder()?;
    let open = settings::open_options(read.sources, read.machine);
    let open = ypogram_jobs::keep_what_is_read_once(&read.sources.sources, &open, &folder)?;
    let threads = settings::threads(read.machine);
    let domains = progress_bar::watch(&read.sources.sources, read.quiet, |progress| {
        let (sources, fields) = (&read.sources.sources, &settings.fields);
        dns::domains_of(sources, &open, fields, &settings.policy, threads, progress)
    })?;
    let now = Timestamp::now();
    let (mut store, mut to_ask) = (Store::new(), Vec::new());
    for domain in domains {
        match known.get(&domain).filter(|answer| !answer.is_old(now, options.keep)) {
            Some(answer) => drop(store.insert(domain, answer.clone())),
            None => to_ask.push(domain),
        }
    }
    let mut asked = dns::Asked::default();
    if !to_ask.is_empty() {
        asked = progress_bar::watch_questions(to_ask.len() as u64, read.quiet, |progress, done| {
            dns::ask(&to_ask, &options, progress, done)
        })?;
        dns::add_to(&cache, &asked.answers)?;
        if asked.stopped {
            return Err(Error::interrupted());
        }
    }
    let told = Told::of_asked(&asked.answers, &store, now, asked.no_network);
    store.extend(asked.answers);
    if asked.no_network {
        crate::render::print_beside(
            "ypogram: no server for the DNS answers: nothing is said against any domain\n",
        );
    }
    let dns = Dns::of(store, Others::Nothing, settings, told.line());
    Ok(Dns { kept: open.kept, folder: Some(folder), ..dns })
}

#[cfg(feature = "dns")]
fn one_by_one(settings: &Settings, arguments: &DnsArguments, known_ahead: &[&[u8]]) -> Result<Dns> {
    use std::collections::BTreeSet;
    use std::sync::Mutex;

    use jiff::Timestamp;

    let (options, cache) = (options(arguments, &settings.rulebook.dns)?, cache(arguments, settings)?);
    let now = Timestamp::now();
    let mut store = dns::load(&cache, true)?;
    store.retain(|_, answer| !answer.is_old(now, options.keep));
    let domains: BTreeSet<String> = known_ahead
        .iter()
        .filter_map(|value| Some(String::from_utf8_lossy(value).rsplit_once('@')?.1.trim().to_lowercase()))
        .collect();
    let others = match !known_ahead.is_empty() && domains.iter().all(|domain| store.contains_key(domain)) {
        true => Others::Nothing,
        false => {
            let mut asker = dns::OneByOne::open(&options)?;
            asker.check()?;
            Others::Ask(Mutex::new(Box::new(asker)))
        }
    };
    let dns = Dns::of(store, others, settings, String::new());
    Ok(Dns { cache: Some(cache), ..dns })
}

#[cfg(not(feature = "dns"))]
fn asked(_: &Settings, _: &DnsArguments, _: &Read<'_>) -> Result<Dns> {
    Err(asks_nobody())
}

#[cfg(not(feature = "dns"))]
fn one_by_one(_: &Settings, _: &DnsArguments, _: &[&[u8]]) -> Result<Dns> {
    Err(asks_nobody())
}

#[cfg(not(feature = "dns"))]
fn asks_nobody() -> Error {
    Error::unusable(
        "this build of the program does not ask the DNS",
        "build it with --features dns, or take answers from a file with --dns-snapshot",
    )
}

/// How the servers are asked: command line before rulebook before defaults.
#[cfg_attr(not(feature = "dns"), allow(dead_code))]
fn options(arguments: &DnsArguments, rulebook: &DnsSection) -> Result<DnsOptions> {
    use std::time::Duration;

    let defaults = DnsOptions::default();
    let of_rulebook = rulebook.resolver.iter().map(|text| {
        crate::arguments::server(text).map_err(|hint| {
            Error::unusable(format!("[dns] resolver: ‘{text}’ is no address of a server"), hint)
        })
    });
    let of_rulebook = of_rulebook.collect::<Result<Vec<_>>>()?;
    let resolvers = if arguments.resolver.is_empty() { of_rulebook } else { arguments.resolver.clone() };
    Ok(DnsOptions {
        resolvers,
        at_once: rulebook.at_once.unwrap_or(defaults.at_once).max(1),
        most_per_second: arguments.most_per_second.or(rulebook.most_per_second),
        wait: rulebook.wait.map_or(defaults.wait, Duration::from_secs),
        wait_for_domain: rulebook.wait_for_domain.map_or(defaults.wait_for_domain, Duration::from_secs),
        keep: rulebook
            .keep_days
            .map_or(defaults.keep, |days| jiff::SignedDuration::from_hours(24 * i64::from(days))),
    })
}

/// The file with the answers that are kept.
#[cfg_attr(not(feature = "dns"), allow(dead_code))]
fn cache(arguments: &DnsArguments, settings: &Settings) -> Result<PathBuf> {
    if let Some(named) = &arguments.dns_cache {
        return Ok(named.clone());
    }
    if let Some(named) = &settings.rulebook.dns.cache {
        // A name without a folder is that of a file beside the rulebook.
        let beside = settings.rulebook_file.as_deref().and_then(Path::parent).unwrap_or(Path::new(""));
        return Ok(beside.join(named));
    }
    let set = |name: &str| std::env::var_os(name).filter(|value| !value.is_empty()).map(PathBuf::from);
    let caches = set("XDG_CACHE_HOME")
        .filter(|path| path.is_absolute())
        .or_else(|| set("HOME").map(|home| home.join(".cache")))
        .or_else(|| set("LOCALAPPDATA"));
    caches.map(|caches| caches.join("ypogram").join("dns.csv")).ok_or_else(|| {
        Error::unusable("it is not known where this user's caches are", "name a file with --dns-cache FILE")
    })
}
