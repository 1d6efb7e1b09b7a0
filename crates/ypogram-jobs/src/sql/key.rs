//! What two addresses share when they reach the same mailbox, as an expression of SQL.
//!
//! The expression works on one plain address of ASCII characters, whatever its letter case and the white space around it, and gives what
//! [`Examination::key`](ypogram_core::Examination::key) gives. It is NULL for what has no `@` behind its first character. It does not
//! unwrap `Ada <ada@mill.example>`, brings no domain of other scripts to its A-labels, and folds no letters beyond ASCII.

use ypogram_core::providers::MailboxRule;
use ypogram_core::{MailboxDomains, Policy, SameMailbox};
use ypogram_io::SqlDialect;

use crate::sql::functions::SqlFunctions as _;
use crate::sql::patterns;

/// The key of the address that the expression `operand` gives, under the policy's rule: functions that are allowed in a generated column,
/// and no query. For SQLite from 3.31 on, PostgreSQL from 12 and MariaDB from 10.3.
pub(crate) fn expression(sql: SqlDialect, operand: &str, policy: &Policy) -> String {
    let address = sql.trimmed(&sql.exactly(operand));
    let at = sql.find("'@'", &address);
    let written = format!("substr({address}, 1, {at} - 1)");
    let local = format!("lower({written})");
    let domain = format!("lower(substr({address}, {at} + 1))");
    let key = match policy.same {
        SameMailbox::Exact => sql.joined(&[&written, "'@'", &domain]),
        SameMailbox::Case => format!("lower({address})"),
        SameMailbox::Everywhere => everywhere(sql, &local, &domain),
        SameMailbox::Provider if sql == SqlDialect::MariaDb => {
            patterns::by_provider(&format!("lower({address})"), policy)
        }
        SameMailbox::Provider => by_provider(sql, &local, &domain, policy),
    };
    let length = sql.length(&address);
    format!("CASE WHEN {at} > 1 AND {length} > {at} THEN {key} END")
}

/// A column of that name, in quotes, that the database keeps filled with the key `key`.
pub(crate) fn generated_column(sql: SqlDialect, name: &str, key: &str) -> String {
    let (kind, kept) = match sql {
        SqlDialect::Sqlite => ("TEXT", "VIRTUAL"),
        SqlDialect::Postgres => ("text", "STORED"),
        SqlDialect::MariaDb => ("varchar(700) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin", "VIRTUAL"),
    };
    format!("{name} {kind} GENERATED ALWAYS AS (\n  {key}\n) {kept}")
}

/// Without dots and tags at every domain.
fn everywhere(sql: SqlDialect, local: &str, domain: &str) -> String {
    let tag = sql.find("'+'", &sql.joined(&[local, "'+'"]));
    let cut = format!("substr({local}, 1, {tag} - 1)");
    let bare = format!("replace({cut}, '.', '')");
    let local = format!("(CASE WHEN {local} LIKE '\"%' OR {bare} = '' THEN {local} ELSE {bare} END)");
    sql.joined(&[&local, "'@'", domain])
}

/// As the domain's provider has it.
fn by_provider(sql: SqlDialect, local: &str, domain: &str, policy: &Policy) -> String {
    let all = policy.mailbox_domains();
    let plain = sql.joined(&[local, "'@'", domain]);
    let result = |same: &MailboxDomains| {
        let of = if same.joined { sql.text(&same.rule.name_space) } else { domain.to_owned() };
        sql.joined(&[&format!("({})", base(sql, local, &same.rule)), "'@'", &of])
    };
    let mut of_listed = "CASE".to_owned();
    let mut of_below = "CASE".to_owned();
    for same in &all {
        let is_listed = sql.is_one_of(domain, same.domains.iter());
        of_listed.push_str(&format!(" WHEN {is_listed} THEN {}", result(same)));
    }
    for same in all.iter().filter(|same| !same.with_below.is_empty()) {
        if same.rule.sub_domain {
            let dot = sql.find("'.'", domain);
            let above = format!("substr({domain}, {dot} + 1)");
            let is_below = sql.is_one_of(&above, same.with_below.iter());
            let address = sql.joined(&[&format!("substr({domain}, 1, {dot} - 1)"), "'@'", &above]);
            of_below.push_str(&format!(" WHEN {is_below} THEN {address}"));
        }
        let is_below =
            same.with_below.iter().map(|above| format!("{domain} LIKE {}", sql.text(&format!("%.{above}"))));
        let is_below = is_below.collect::<Vec<_>>().join(" OR ");
        of_below.push_str(&format!(" WHEN {is_below} THEN {}", result(same)));
    }
    // Most addresses are at none of these domains and below none: one look each says so. Domains below others come last, since some of
    // them have rules of their own.
    let any = sql.is_one_of(domain, all.iter().flat_map(|same| &same.domains));
    format!(
        "CASE WHEN {any} THEN {of_listed} END WHEN {domain} LIKE '%.%.%' THEN {of_below} ELSE {plain} END ELSE {plain} END"
    )
}

/// The local part without what does not count by `rule`.
fn base(sql: SqlDialect, local: &str, rule: &MailboxRule) -> String {
    let byte = |byte: u8| sql.text(&char::from(byte).to_string());
    let mut base = local.to_owned();
    if let Some(tag) = rule.tag {
        let tag = sql.find(&byte(tag), local);
        base = format!("CASE WHEN {tag} > 1 THEN substr({local}, 1, {tag} - 1) ELSE {local} END");
    }
    for ignored in (0..128_u8).filter(|&byte| rule.ignored >> byte & 1 == 1) {
        base = format!("replace({base}, {}, '')", byte(ignored));
    }
    if let Some((from, to)) = rule.same {
        base = format!("replace({base}, {}, {})", byte(from), byte(to));
    }
    match base == local {
        true => base,
        // A local part in quotes stays as it is, and so does one of nothing but what does not count.
        false => format!("CASE WHEN {local} LIKE '\"%' OR {base} = '' THEN {local} ELSE {base} END"),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rusqlite::Connection;
    use ypogram_core::examine;
    use ypogram_io::SqlDialect;

    use super::*;

    fn policies() -> impl Iterator<Item = Policy> {
        SameMailbox::ALL.into_iter().map(|same| {
            let mut policy = Policy::default();
            policy.same = same;
            policy.trust_name("example").unwrap();
            policy.host_at("mill.example", "google").unwrap();
            policy.set_mailbox_rule("dome.example", false, Some('-')).unwrap();
            policy.set_alias("dome.org.example", "dome.example").unwrap();
            policy
        })
    }

    /// The key that SQLite makes of a value.
    fn by_database(engine: &Connection, policy: &Policy, value: &str) -> Option<String> {
        engine
            .query_row(&format!("SELECT {}", expression(SqlDialect::Sqlite, "?1", policy)), [value], |row| {
                row.get(0)
            })
            .unwrap()
    }

    #[test]
    fn what_is_no_address_has_no_key() {
        let engine = Connection::open_in_memory().unwrap();
        for policy in policies() {
            for value in ["", " ", "n/a", "@mill.example", "ada@", "\tada@ "] {
                assert_eq!(by_database(&engine, &policy, value), None, "{value:?}");
            }
            let null = format!("SELECT {}", expression(SqlDialect::Sqlite, "NULL", &policy));
            assert_eq!(engine.query_row(&null, [], |row| row.get::<_, Option<String>>(0)).unwrap(), None);
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

        /// Whatever plain address the program has a key of, the database makes the same of it.
        #[test]
        fn the_database_makes_the_same_key(
            local in "[a-cA-C0-2]{1,4}([._+-][a-cA-C+.-]{0,3}){0,3}|\"[a. +]{1,4}\"|[+.-]{1,3}",
            domain in prop::sample::select(vec![
                "gmail.com", "GoogleMail.com", "yandex.ru", "ya.ru", "proton.me", "outlook.com", "fastmail.com", "ada.fastmail.com",
                "a.b.fastmail.com", "mill.example", "dome.example", "Dome.org.example", "mailbox.org", "secure.mailbox.org", "yopmail.com",
                "bo.addy.io", "example.net",
            ]),
            around in prop::sample::select(vec![("", ""), (" ", ""), ("\t", " \r\n")]),
        ) {
            let engine = Connection::open_in_memory().unwrap();
            for policy in policies() {
                let address = format!("{local}@{domain}");
                let examined = examine(address.as_bytes(), &policy);
                let Some(key) = examined.key(policy.same, &policy) else { continue };
                // The standard form takes quotes away that need not be.
                let stands = examined.standard.map(|standard| standard.address).unwrap_or_default();
                prop_assume!(stands.eq_ignore_ascii_case(&address));
                let made = by_database(&engine, &policy, &format!("{}{address}{}", around.0, around.1));
                prop_assert_eq!(made, Some(key), "{}", policy.same.word());
            }
        }
    }
}
