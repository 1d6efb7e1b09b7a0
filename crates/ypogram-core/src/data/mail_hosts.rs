//! Who runs the mail hosts of other people's domains.

use crate::data::providers;

const MAIL_HOSTS: &str = include_str!("../../data/mail-hosts.tsv");

/// The separator of tags in mailboxes whose mail host is at the registered domain `host`; none where that is not known.
///
/// Dots count there, whatever the operator does at its own domains.
///
/// ```
/// use ypogram_core::tag_at_host;
/// assert_eq!(tag_at_host("google.com"), Some('+'));
/// assert_eq!(tag_at_host("h-works.org"), None);
/// ```
pub fn tag_at_host(host: &str) -> Option<char> {
    let rows = MAIL_HOSTS.lines().filter(|line| !line.starts_with('#'));
    let (_, operator) = rows.filter_map(|line| line.split_once('\t')).find(|(known, _)| *known == host)?;
    let (_, rule) = providers::built_in_rules().find(|(known, _)| *known == operator)?;
    rule.tag.map(char::from)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_operator_has_a_tag_and_the_hosts_are_sorted() {
        let rows = || MAIL_HOSTS.lines().filter(|line| !line.starts_with('#'));
        assert!(rows().is_sorted() && rows().count() > 5);
        for (host, _) in rows().filter_map(|line| line.split_once('\t')) {
            assert!(tag_at_host(host).is_some(), "{host}");
        }
    }
}
