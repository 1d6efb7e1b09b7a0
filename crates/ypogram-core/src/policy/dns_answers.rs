//! What the domain name system says of domains. Somebody else asks it; here it is only looked up.

use std::fmt::Debug;

use crate::model::codes::Code;

/// Whoever knows what the domain name system says of domains. Domains are in lower-case A-labels.
///
/// Answers must not change while a list is judged: a domain is asked about once and then remembered, by each thread on its own.
pub trait DnsAnswers: Debug + Send + Sync {
    /// What is reported about a domain; none where it takes mail.
    fn code(&self, domain: &[u8]) -> Option<Code>;

    /// What exactly was answered, and when, as a sentence; none where nothing is known.
    fn sentence(&self, domain: &[u8]) -> Option<String>;

    /// Who runs the mail host of a domain, as the domain that somebody registered for it; none where nothing is known.
    fn hosted_by(&self, domain: &[u8]) -> Option<String>;

    /// A hash of all answers, by which a receipt names them.
    fn hash(&self) -> String;
}
