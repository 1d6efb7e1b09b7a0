//! Where the password comes from: `PGPASSWORD`, else the password file, as PostgreSQL's own programs have it.

use std::path::PathBuf;

/// Whose password is looked for.
pub(super) struct Who<'a> {
    pub(super) host: &'a str,
    pub(super) port: u16,
    pub(super) database: &'a str,
    pub(super) user: &'a str,
}

/// The password; none where there is none.
pub(super) fn find(who: &Who<'_>) -> Option<String> {
    if let Ok(password) = std::env::var("PGPASSWORD") {
        return Some(password);
    }
    let of_home = || Some(PathBuf::from(std::env::var_os("HOME")?).join(".pgpass"));
    let file = std::env::var_os("PGPASSFILE").map(PathBuf::from).or_else(of_home)?;
    in_lines(&std::fs::read_to_string(file).ok()?, who)
}

/// The password of the first line that is about them: `host:port:database:user:password`, where `*` is anything.
fn in_lines(text: &str, who: &Who<'_>) -> Option<String> {
    let port = who.port.to_string();
    let wanted = [who.host, &port, who.database, who.user];
    let lines = text.lines().filter(|line| !line.starts_with('#')).map(fields);
    let is_about = |fields: &[String]| {
        fields.len() == 5 && fields.iter().zip(wanted).all(|(field, wanted)| field == "*" || field == wanted)
    };
    lines.into_iter().find(|fields| is_about(fields)).map(|mut fields| fields.swap_remove(4))
}

/// The fields of a line; a backslash takes the meaning from the character behind it.
fn fields(line: &str) -> Vec<String> {
    let (mut fields, mut chars) = (vec![String::new()], line.chars());
    while let Some(c) = chars.next() {
        match c {
            ':' if fields.len() < 5 => fields.push(String::new()),
            '\\' => fields.last_mut().expect("one at least").extend(chars.next()),
            c => fields.last_mut().expect("one at least").push(c),
        }
    }
    fields
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_line_that_fits() {
        let text =
            "# hosts\nother:5432:*:ada:no\ndb.example:*:list:ada:pass\\:word\\\\1\n*:*:*:*:rest\nshort:1:2\n";
        let of = |host, user| in_lines(text, &Who { host, port: 5432, database: "list", user });
        assert_eq!(of("db.example", "ada").as_deref(), Some("pass:word\\1"));
        assert_eq!(of("db.example", "bo").as_deref(), Some("rest"));
        assert_eq!(in_lines("", &Who { host: "a", port: 1, database: "b", user: "c" }), None);
    }
}
