//! What the domain name system says of a domain.

use std::str::FromStr;

use jiff::{SignedDuration, Timestamp};
use ypogram_core::Code;

/// What was found out about a domain.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum AnswerKind {
    /// It has a mail host with an address that can be reached.
    MailHost,
    /// It has no mail host, and an address of its own, where mail goes (RFC 5321 §5.1).
    Address,
    /// It says that it takes no mail (RFC 7505).
    NullMx,
    /// It does not exist.
    NoSuchDomain,
    /// It exists, and has neither a mail host nor an address.
    Nothing,
    /// Its mail host has no address, or only private ones.
    HostNotFound,
    /// The servers failed, or did not answer in time.
    NotAnswered,
}

/// What the domain name system says of a domain, and when it was asked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Answer {
    /// What was found out.
    pub kind: AnswerKind,
    /// The preferred mail host, in lower-case A-labels; empty where there is none.
    pub mail_host: String,
    /// For how many seconds it may be remembered, by those who run the domain.
    pub ttl: u32,
    /// When it was asked.
    pub asked: Timestamp,
}

impl AnswerKind {
    /// All of them.
    pub const ALL: [AnswerKind; 7] = [
        AnswerKind::MailHost,
        AnswerKind::Address,
        AnswerKind::NullMx,
        AnswerKind::NoSuchDomain,
        AnswerKind::Nothing,
        AnswerKind::HostNotFound,
        AnswerKind::NotAnswered,
    ];

    /// The word in files and outputs.
    pub const fn word(self) -> &'static str {
        match self {
            AnswerKind::MailHost => "mail-host",
            AnswerKind::Address => "address",
            AnswerKind::NullMx => "null-mx",
            AnswerKind::NoSuchDomain => "no-such-domain",
            AnswerKind::Nothing => "nothing",
            AnswerKind::HostNotFound => "host-not-found",
            AnswerKind::NotAnswered => "not-answered",
        }
    }

    /// The finding that it is; none where the domain takes mail.
    pub const fn code(self) -> Option<Code> {
        match self {
            AnswerKind::MailHost | AnswerKind::Address => None,
            AnswerKind::NullMx => Some(Code::TakesNoMail),
            AnswerKind::NoSuchDomain => Some(Code::NoSuchDomain),
            AnswerKind::Nothing => Some(Code::NoMailHost),
            AnswerKind::HostNotFound => Some(Code::MailHostNotFound),
            AnswerKind::NotAnswered => Some(Code::NotAnswered),
        }
    }
}

impl FromStr for AnswerKind {
    type Err = ();

    fn from_str(word: &str) -> Result<Self, ()> {
        AnswerKind::ALL.into_iter().find(|kind| kind.word() == word).ok_or(())
    }
}

impl Answer {
    /// An answer without a mail host.
    pub fn bare(kind: AnswerKind, ttl: u32, asked: Timestamp) -> Self {
        Answer { kind, mail_host: String::new(), ttl, asked }
    }

    /// How old it is.
    pub fn age(&self, now: Timestamp) -> SignedDuration {
        now.duration_since(self.asked)
    }

    /// Whether it is to be asked again: what was not answered always is, anything else after `keep`, or its own time where that is longer.
    pub fn is_old(&self, now: Timestamp, keep: SignedDuration) -> bool {
        let own = SignedDuration::from_secs(i64::from(self.ttl));
        self.kind == AnswerKind::NotAnswered || self.age(now) >= keep.max(own)
    }

    /// The answer as a sentence.
    pub fn sentence(&self, domain: &str) -> String {
        let host = &self.mail_host;
        let told = match self.kind {
            AnswerKind::MailHost => format!("{domain} takes mail at {host}"),
            AnswerKind::Address => {
                format!("{domain} has no mail host of its own, and an address, where mail goes")
            }
            AnswerKind::NullMx => format!("{domain} says that it takes no mail"),
            AnswerKind::NoSuchDomain => format!("{domain} does not exist"),
            AnswerKind::Nothing => format!("{domain} exists, and has neither a mail host nor an address"),
            AnswerKind::HostNotFound => {
                format!("The mail host of {domain}, {host}, has no address that can be reached")
            }
            AnswerKind::NotAnswered => format!("The DNS did not answer for {domain}"),
        };
        match self.asked == Timestamp::UNIX_EPOCH {
            true => format!("{domain} was not asked about."),
            false => format!("{told} (asked {}).", self.asked.strftime("%Y-%m-%d %H:%M UTC")),
        }
    }
}
