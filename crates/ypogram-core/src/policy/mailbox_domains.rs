//! The domains whose mailboxes are reached under several spellings, by rule: for whoever writes the rule out for another program.

use std::collections::BTreeMap;

use crate::data::providers::{self, MailboxRule};
use crate::policy::job_policy::Policy;

/// Domains whose mailboxes are reached by one rule.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MailboxDomains {
    /// The rule.
    pub rule: MailboxRule,
    /// The rule's name space takes the place of the domain.
    pub joined: bool,
    /// The domains, in lower-case A-labels, sorted.
    pub domains: Vec<String>,
    /// Those of them whose rule holds for every domain below as well, unless that has one of its own.
    pub with_below: Vec<String>,
}

impl Policy {
    /// The domains with a rule of their own under [`SameMailbox::Provider`](crate::SameMailbox), those that the job gives one included.
    ///
    /// ```
    /// let all = ypogram_core::Policy::default().mailbox_domains();
    /// let of_google = all.iter().find(|same| same.domains.iter().any(|domain| domain == "gmail.com")).unwrap();
    /// assert_eq!(of_google.rule.tag, Some(b'+'));
    /// assert!(of_google.joined && of_google.domains.contains(&"googlemail.com".to_owned()));
    /// ```
    pub fn mailbox_domains(&self) -> Vec<MailboxDomains> {
        let mut by_rule: BTreeMap<(u8, bool), Vec<String>> = BTreeMap::new();
        let built_in = providers::all().map(|(domain, provider)| (domain, (provider.rule, provider.joined)));
        let built_in = built_in.filter(|(domain, _)| self.own_rule(domain.as_bytes()).is_none());
        let own = self
            .own_rules
            .iter()
            .map(|(domain, rule)| (std::str::from_utf8(domain).unwrap_or_default(), *rule));
        for (domain, rule) in built_in.chain(own) {
            by_rule.entry(rule).or_default().push(domain.to_owned());
        }
        let all = by_rule.into_iter().map(|((rule, joined), mut domains)| {
            domains.sort_unstable();
            let is_with_below = |domain: &&String| {
                let own = self.own_rule(domain.as_bytes()).is_some();
                !own && providers::find_own(domain.as_bytes()).is_some_and(|provider| provider.below)
            };
            let with_below = domains.iter().filter(is_with_below).cloned().collect();
            MailboxDomains { rule: self.rules[usize::from(rule)].clone(), joined, domains, with_below }
        });
        all.filter(|same| same.joined || same.rule.changes_something()).collect()
    }
}
