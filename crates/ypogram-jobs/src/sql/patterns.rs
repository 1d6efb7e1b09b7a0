//! The key of an address by its provider as one pattern replaced behind the other, where an expression may not be long.
//!
//! MariaDB takes 64 KiB at most for the expression of a column, and the address stands in the expression of these patterns three times only.

use ypogram_core::{MailboxDomains, Policy};
use ypogram_io::SqlDialect;

/// The key of the address that the expression `lower` gives in small letters, for MariaDB.
pub(crate) fn by_provider(lower: &str, policy: &Policy) -> String {
    let all = policy.mailbox_domains();
    let mut address = lower.to_owned();
    for same in all.iter().filter(|same| same.rule.sub_domain && !same.with_below.is_empty()) {
        let above = one_of(same.with_below.iter());
        address =
            replaced(&address, &format!("^[^@]+@{}([^.@]+)\\.({above})$", not_listed(same, &all)), "\\1@\\2");
    }
    // A local part in quotes stays as it is, and so does one of nothing but what does not count.
    let (mut stays, mut key) = ("^\"".to_owned(), address.clone());
    for same in &all {
        let at = format!("@(?:{})$", domains(same, &all));
        let tag = same.rule.tag.map(|tag| escaped(tag.into()));
        let ignored: String = (0..128_u8)
            .filter(|&byte| same.rule.ignored >> byte & 1 == 1)
            .map(|byte| escaped(byte.into()))
            .collect();
        if let Some(tag) = &tag {
            key = replaced(&key, &format!("^([^@{tag}]+){tag}[^@]*({at})"), "\\1\\2");
        }
        if !ignored.is_empty() {
            key = replaced(&key, &format!("[{ignored}](?=[^@]*{at})"), "");
            let tagged = tag.map_or_else(String::new, |tag| format!("(?:{tag}[^@]*)?"));
            stays.push_str(&format!("|^[{ignored}]+{tagged}{at}"));
        }
        if let Some((from, to)) = same.rule.same {
            let from = escaped(from.into());
            key = replaced(&key, &format!("{from}(?=[^@]*{at})"), &char::from(to).to_string());
        }
    }
    key = format!("IF({address} REGEXP {}, {address}, {key})", SqlDialect::MariaDb.text(&stays));
    for same in all.iter().filter(|same| same.joined) {
        let at = format!("@(?:{})$", domains(same, &all));
        key = replaced(&key, &at, &format!("@{}", same.rule.name_space));
    }
    key
}

fn replaced(text: &str, pattern: &str, by: &str) -> String {
    let sql = SqlDialect::MariaDb;
    format!("REGEXP_REPLACE({text}, {}, {})", sql.text(pattern), sql.text(by))
}

/// The domains of a rule as a pattern, with those below that it holds for.
fn domains(same: &MailboxDomains, all: &[MailboxDomains]) -> String {
    let own = one_of(same.domains.iter());
    match same.with_below.is_empty() {
        true => own,
        false => format!("{own}|{}[^@]+\\.{}", not_listed(same, all), one_of(same.with_below.iter())),
    }
}

/// What keeps out the domains below which some rule lists.
fn not_listed(same: &MailboxDomains, all: &[MailboxDomains]) -> String {
    let is_below = |domain: &&String| {
        same.with_below.iter().any(|above| domain.strip_suffix(above).is_some_and(|rest| rest.ends_with('.')))
    };
    let mut listed = all.iter().flat_map(|same| &same.domains).filter(is_below).peekable();
    if listed.peek().is_none() { String::new() } else { format!("(?!{}$)", one_of(listed)) }
}

/// One of the domains, as a pattern.
fn one_of<'d>(domains: impl Iterator<Item = &'d String>) -> String {
    let all: Vec<String> = domains.map(|domain| domain.replace('.', "\\.")).collect();
    format!("(?:{})", all.join("|"))
}

/// A character that stands for itself, within brackets and without.
fn escaped(byte: char) -> String {
    if byte.is_ascii_alphanumeric() { byte.to_string() } else { format!("\\{byte}") }
}
