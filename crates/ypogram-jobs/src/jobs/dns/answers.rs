//! The answers that a job judges by.

use std::collections::HashMap;
use std::sync::{Mutex, PoisonError, RwLock};

use jiff::Timestamp;
use ypogram_core::names::NameOrder;
use ypogram_core::{Code, DnsAnswers, Part, Policy, examine};

use crate::jobs::dns::answer::{Answer, AnswerKind};
use crate::jobs::dns::store::{self, Store};

/// Somebody who asks about a domain that comes up while records are judged.
pub trait AskNow: std::fmt::Debug + Send {
    /// Asks, and waits for the answer.
    fn ask_now(&mut self, domain: &str) -> Answer;
}

/// The answers that a job judges by; shared by its threads.
#[derive(Debug)]
pub struct Answers {
    known: RwLock<HashMap<Box<[u8]>, Known>>,
    /// What is said of other domains.
    others: Others,
    /// Decides what belongs to a mail host's name.
    policy: Policy,
}

/// What is said of domains of which nothing is known.
#[derive(Debug)]
pub enum Others {
    /// Nothing.
    Nothing,
    /// That they were not answered.
    NotAnswered,
    /// What whoever asks about them now finds out.
    Ask(Mutex<Box<dyn AskNow>>),
}

#[derive(Debug)]
struct Known {
    answer: Answer,
    hosted_by: String,
    /// It was found out while records were judged.
    is_new: bool,
}

impl Answers {
    /// These answers, and what is said of other domains.
    pub fn of(store: Store, others: Others, policy: &Policy) -> Self {
        let known = store.into_iter().map(|(domain, answer)| {
            let hosted_by = hosted_by(&domain, &answer, policy);
            (domain.into_bytes().into_boxed_slice(), Known { answer, hosted_by, is_new: false })
        });
        Answers { known: RwLock::new(known.collect()), others, policy: policy.clone() }
    }

    /// All of them.
    pub fn all(&self) -> Store {
        self.those(|_| true)
    }

    /// What was found out since these answers were put together.
    pub fn learnt(&self) -> Store {
        self.those(|known| known.is_new)
    }

    fn those(&self, are_meant: impl Fn(&Known) -> bool) -> Store {
        let known = self.known.read().unwrap_or_else(PoisonError::into_inner);
        let meant = known.iter().filter(|(_, known)| are_meant(known));
        meant.map(|(domain, known)| (text_of(domain), known.answer.clone())).collect()
    }

    /// The answer for a domain in lower-case A-labels, and who runs its mail host; none where it was not asked about.
    pub fn answer(&self, domain: &str) -> Option<(Answer, String)> {
        self.with(domain.as_bytes(), |_, known| (known.answer.clone(), known.hosted_by.clone()))
    }

    /// Every domain with a mail host, and who runs that.
    pub fn hosts(&self) -> Vec<(String, String)> {
        let known = self.known.read().unwrap_or_else(PoisonError::into_inner);
        let hosted = known.iter().filter(|(_, known)| known.answer.kind == AnswerKind::MailHost);
        let mut hosts: Vec<_> =
            hosted.map(|(domain, known)| (text_of(domain), known.hosted_by.clone())).collect();
        hosts.sort_unstable();
        hosts
    }

    fn with<T>(&self, domain: &[u8], tell: impl Fn(&str, &Known) -> T) -> Option<T> {
        let name = String::from_utf8_lossy(domain);
        if name.is_empty() {
            return None;
        }
        if let Some(known) = self.known.read().unwrap_or_else(PoisonError::into_inner).get(domain) {
            return Some(tell(&name, known));
        }
        let answer = match &self.others {
            Others::Nothing => return None,
            Others::NotAnswered => Answer::bare(AnswerKind::NotAnswered, 0, Timestamp::UNIX_EPOCH),
            Others::Ask(asker) => asker.lock().unwrap_or_else(PoisonError::into_inner).ask_now(&name),
        };
        let known = Known { hosted_by: hosted_by(&name, &answer, &self.policy), answer, is_new: true };
        let told = tell(&name, &known);
        self.known.write().unwrap_or_else(PoisonError::into_inner).insert(domain.into(), known);
        Some(told)
    }
}

impl DnsAnswers for Answers {
    fn code(&self, domain: &[u8]) -> Option<Code> {
        self.with(domain, |_, known| known.answer.kind.code()).flatten()
    }

    fn sentence(&self, domain: &[u8]) -> Option<String> {
        self.with(domain, |name, known| known.answer.sentence(name))
    }

    fn hosted_by(&self, domain: &[u8]) -> Option<String> {
        self.with(domain, |_, known| known.hosted_by.clone()).filter(|host| !host.is_empty())
    }

    /// BLAKE3 of the text of their file, without the times, and without what was found out since.
    fn hash(&self) -> String {
        let mut all = self.those(|known| !known.is_new);
        all.values_mut().for_each(|answer| (answer.asked, answer.ttl) = (Timestamp::UNIX_EPOCH, 0));
        let text = store::text(all.iter().map(|(domain, answer)| (&**domain, answer)));
        blake3::hash(text.as_bytes()).to_hex().to_string()
    }
}

fn text_of(domain: &[u8]) -> String {
    String::from_utf8_lossy(domain).into_owned()
}

/// Whose mail host it is: the domain that somebody registered for it. Empty where a domain has none.
fn hosted_by(domain: &str, answer: &Answer, policy: &Policy) -> String {
    match answer.kind {
        AnswerKind::MailHost => registrable(&answer.mail_host, policy),
        AnswerKind::Address => registrable(domain, policy),
        _ => String::new(),
    }
}

fn registrable(host: &str, policy: &Policy) -> String {
    let examined = examine(format!("night.owl@{host}").as_bytes(), policy);
    let parts = examined.parts(policy).map(|parts| parts.text(Part::Registrable, NameOrder::default()));
    parts.unwrap_or_default()
}
