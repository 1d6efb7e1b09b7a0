//! The key of an address by its provider as one pattern replaced behind the other, where an expression may not be long.
//!
//! MariaDB takes 64 KiB at most for the expression of a column, and the address stands in these patterns' expression twice only.

use ypogram_core::{MailboxDomains, Policy};
use ypogram_io::SqlDialect;

/// The key of the address that the expression `lower` gives in small letters, for MariaDB.
pub(crate) fn by_provider(lower: &str, policy: &Policy) -> String {
    let sql = SqlDialect::MariaDb;
    let all = policy.mailbox_domains();
    let listed = one_of(all.iter().flat_map(|same| &same.domains));
    let mut key = lower.to_owned();
    let mut replace = |pattern: &str, by: &str| {
        key = format!("REGEXP_REPLACE({key}, {}, {})", sql.text(pattern), sql.text(by));
    };
    for same in all.iter().filter(|same| same.rule.sub_domain && !same.with_below.is_empty()) {
        let above = one_of(same.with_below.iter());
        replace(&format!("^[^@]+@(?!{listed}$)([^.@]+)\\.({above})$"), "\\1@\\2");
    }
    for same in &all {
        let at = format!("@(?:{})$", domains(same, &listed));
        if let Some(tag) = same.rule.tag {
            let tag = escaped(tag.into());
            replace(&format!("^([^@{tag}]+){tag}[^@]*({at})"), "\\1\\2");
        }
        let ignored: String = (0..128_u8)
            .filter(|&byte| same.rule.ignored >> byte & 1 == 1)
            .map(|byte| escaped(byte.into()))
            .collect();
        if !ignored.is_empty() {
            // Where nothing else stands there, it is all there is of it.
            replace(&format!("(?<!^)[{ignored}](?=[^@]*{at})|^[{ignored}]+(?=[^@{ignored}][^@]*{at})"), "");
        }
        if let Some((from, to)) = same.rule.same {
            let to = char::from(to).to_string();
            replace(&format!("{}(?=[^@]*{at})", escaped(from.into())), &to);
        }
        if same.joined {
            replace(&at, &format!("@{}", same.rule.name_space));
        }
    }
    // A local part in quotes stays as it is.
    format!("IF({lower} LIKE '\"%', {lower}, {key})")
}

/// The domains of a rule as a pattern; those below come in where no rule lists them.
fn domains(same: &MailboxDomains, listed: &str) -> String {
    let own = one_of(same.domains.iter());
    match same.with_below.is_empty() {
        true => own,
        false => format!("{own}|(?!{listed}$)[^@]+\\.{}", one_of(same.with_below.iter())),
    }
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
