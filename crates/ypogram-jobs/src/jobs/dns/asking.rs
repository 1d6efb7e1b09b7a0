//! Asks about many domains at once.

use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use futures_util::StreamExt as _;
use jiff::Timestamp;
use ypogram_io::{Error, Result};

use crate::engine::progress::Progress;
use crate::jobs::dns::answer::{Answer, AnswerKind};
use crate::jobs::dns::answers::AskNow;
use crate::jobs::dns::options::DnsOptions;
use crate::jobs::dns::questions::Questions;
use crate::jobs::dns::store::Store;
use crate::jobs::dns::trust::{self, Trust};

/// How long nothing may happen before it is looked whether somebody wants to stop.
const LOOK_UP: Duration = Duration::from_millis(100);

/// What came of asking.
#[derive(Debug, Default)]
pub struct Asked {
    /// The answers.
    pub answers: Store,
    /// No server could be reached.
    pub no_network: bool,
    /// Somebody wanted to stop; the answers are those until then.
    pub stopped: bool,
}

/// How many domains have been dealt with, for whoever shows it.
#[derive(Debug, Default)]
pub struct AskProgress {
    done: AtomicU64,
}

impl AskProgress {
    /// Domains that have been dealt with.
    pub fn done(&self) -> u64 {
        self.done.load(Ordering::Relaxed)
    }
}

/// Asks about each of `domains` once.
///
/// # Errors
/// Where no server is known, or those that are asked do not answer for the Internet.
pub fn ask(
    domains: &[String],
    options: &DnsOptions,
    progress: &Progress,
    done: &AskProgress,
) -> Result<Asked> {
    runtime()?.block_on(async {
        let questions = Questions::open(options)?;
        match trust::of(&questions).await {
            Trust::Good => {}
            Trust::NoNetwork => {
                let not_answered = |domain: &String| (domain.clone(), not_answered());
                let answers = domains.iter().map(not_answered).collect();
                return Ok(Asked { answers, no_network: true, stopped: false });
            }
            Trust::Lies(what) => return Err(refused(&what)),
        }
        let mut asked = Asked::default();
        let answers = domains.iter().map(|domain| answer_in_time(&questions, domain, options));
        let mut answers = futures_util::stream::iter(answers).buffer_unordered(options.at_once.max(1));
        loop {
            match tokio::time::timeout(LOOK_UP, answers.next()).await {
                Ok(Some((domain, answer))) => {
                    asked.answers.insert(domain.clone(), answer);
                    done.done.fetch_add(1, Ordering::Relaxed);
                }
                Ok(None) => return Ok(asked),
                Err(_) => {}
            }
            if progress.check().is_err() {
                asked.stopped = true;
                return Ok(asked);
            }
        }
    })
}

async fn answer_in_time<'d>(
    questions: &Questions,
    domain: &'d String,
    options: &DnsOptions,
) -> (&'d String, Answer) {
    let answer = tokio::time::timeout(options.wait_for_domain, questions.answer(domain)).await;
    (domain, answer.unwrap_or_else(|_| not_answered()))
}

fn not_answered() -> Answer {
    Answer::bare(AnswerKind::NotAnswered, 0, Timestamp::now())
}

fn runtime() -> Result<tokio::runtime::Runtime> {
    tokio::runtime::Builder::new_current_thread()
        .enable_all()
        .build()
        .map_err(|error| Error::unusable(format!("the DNS cannot be asked: {error}"), ""))
}

fn refused(what: &str) -> Error {
    Error::unusable(
        format!("the resolver does not answer for the Internet: {what}"),
        "name another with --resolver ADDRESS, or go without --ask-dns: nothing was judged by it",
    )
}

/// Asks about one domain after the other, for values that come one by one.
pub struct OneByOne {
    runtime: tokio::runtime::Runtime,
    questions: Questions,
    options: DnsOptions,
    /// Whether the servers are to be believed; not known before the first question.
    trust: Option<Trust>,
}

impl OneByOne {
    /// Opens the way to the servers; asks nothing yet.
    ///
    /// # Errors
    /// Where no server is known.
    pub fn open(options: &DnsOptions) -> Result<Self> {
        let runtime = runtime()?;
        let questions = runtime.block_on(async { Questions::open(options) })?;
        Ok(OneByOne { runtime, questions, options: options.clone(), trust: None })
    }

    /// Finds out whether the servers are to be believed.
    ///
    /// # Errors
    /// Where they do not answer for the Internet.
    pub fn check(&mut self) -> Result<()> {
        let trust = self.runtime.block_on(trust::of(&self.questions));
        let told = match &trust {
            Trust::Lies(what) => Err(refused(what)),
            Trust::Good | Trust::NoNetwork => Ok(()),
        };
        self.trust = Some(trust);
        told
    }
}

impl std::fmt::Debug for OneByOne {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("OneByOne").field("options", &self.options).finish_non_exhaustive()
    }
}

impl AskNow for OneByOne {
    fn ask_now(&mut self, domain: &str) -> Answer {
        match self.trust {
            Some(Trust::Good) => {
                let domain = domain.to_owned();
                self.runtime.block_on(answer_in_time(&self.questions, &domain, &self.options)).1
            }
            _ => not_answered(),
        }
    }
}
