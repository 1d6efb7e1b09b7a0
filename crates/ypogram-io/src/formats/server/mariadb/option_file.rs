//! The option file `~/.my.cnf`: user, password and place of the server, as MariaDB's own programs read them from its group `[client]`.

use std::collections::HashMap;
use std::path::PathBuf;

/// The options of clients; none where there is no such file.
pub(super) fn client_options() -> HashMap<String, String> {
    let file = std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".my.cnf"));
    file.and_then(|file| std::fs::read_to_string(file).ok())
        .map_or_else(HashMap::new, |text| options_in(&text))
}

/// The options in the groups of clients; the last one counts.
fn options_in(text: &str) -> HashMap<String, String> {
    let (mut options, mut is_of_clients) = (HashMap::new(), false);
    for line in text.lines().map(str::trim) {
        if let Some(group) = line.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
            is_of_clients = matches!(group, "client" | "client-server" | "client-mariadb");
        } else if let (true, false, Some((name, value))) =
            (is_of_clients, line.starts_with(['#', ';']), line.split_once('='))
        {
            options.insert(name.trim().replace('_', "-"), meant(value.trim()));
        }
    }
    options
}

/// What a value says: quotes around it are left out, and what stands behind a `#`; a backslash makes a special character.
fn meant(value: &str) -> String {
    let quoted = ['"', '\''].iter().find_map(|quote| {
        let rest = value.strip_prefix(*quote)?;
        rest.rfind(*quote).map(|end| &rest[..end])
    });
    let value = quoted.unwrap_or_else(|| value.split_once(" #").map_or(value, |(value, _)| value.trim_end()));
    let (mut meant, mut chars) = (String::new(), value.chars());
    while let Some(c) = chars.next() {
        match (c, c == '\\') {
            (_, true) => match chars.next() {
                Some('n') => meant.push('\n'),
                Some('t') => meant.push('\t'),
                Some('r') => meant.push('\r'),
                Some('b') => meant.push('\u{8}'),
                Some('s') => meant.push(' '),
                Some('\\') | None => meant.push('\\'),
                Some(other) => meant.extend(['\\', other]),
            },
            (c, false) => meant.push(c),
        }
    }
    meant
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn groups_quotes_and_escapes() {
        let text = "[mysqld]\npassword=no\n[client]\n# password=old\nuser = ada # who\npassword=\"a#b\\\\c\\sd\"\n\
                    [client-mariadb]\nssl_ca='x y'\nskip-ssl\n";
        let mut options: Vec<(String, String)> = options_in(text).into_iter().collect();
        options.sort();
        let expected = [("password", "a#b\\c d"), ("ssl-ca", "x y"), ("user", "ada")];
        assert_eq!(options, expected.map(|(name, value)| (name.to_owned(), value.to_owned())));
    }
}
