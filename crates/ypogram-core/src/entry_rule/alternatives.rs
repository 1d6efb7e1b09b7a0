//! Names as one expression, in whatever letter case.

/// What matches each of `names` and nothing else, with what they begin with written once; letters of ASCII in either case.
pub(super) fn alternatives(names: &[String]) -> String {
    let mut sorted: Vec<Vec<char>> = names.iter().map(|name| name.chars().collect()).collect();
    sorted.sort_unstable();
    sorted.dedup();
    let slices: Vec<&[char]> = sorted.iter().map(Vec::as_slice).collect();
    let text = tree(&slices);
    if slices.len() > 1 && !text.starts_with("(?:") { format!("(?:{text})") } else { text }
}

/// The expression for `names`, sorted.
fn tree(names: &[&[char]]) -> String {
    let is_end = names.first().is_some_and(|name| name.is_empty());
    let longer = if is_end { &names[1..] } else { names };
    let mut ways = Vec::new();
    for group in longer.chunk_by(|one, other| one[0] == other[0]) {
        let behind: Vec<&[char]> = group.iter().map(|name| &name[1..]).collect();
        ways.push(format!("{}{}", either_case(group[0][0]), tree(&behind)));
    }
    match (&ways[..], is_end) {
        ([], _) => String::new(),
        ([only], false) => only.clone(),
        (_, false) => format!("(?:{})", ways.join("|")),
        (_, true) => format!("(?:{})?", ways.join("|")),
    }
}

/// `text` in whatever letter case.
pub(super) fn escaped(text: &str) -> String {
    text.chars().map(either_case).collect()
}

fn either_case(c: char) -> String {
    match c {
        'a'..='z' | 'A'..='Z' => format!("[{}{}]", c.to_ascii_uppercase(), c.to_ascii_lowercase()),
        c => regex_syntax::escape(c.encode_utf8(&mut [0; 4])),
    }
}

#[cfg(test)]
mod tests {
    use regex::Regex;

    use super::*;

    #[test]
    fn names_match_and_nothing_else() {
        let names = ["com", "co", "c", "net", "a.b", "пр"].map(str::to_owned);
        let regex = Regex::new(&format!("^{}$", alternatives(&names))).unwrap();
        for name in &names {
            assert!(regex.is_match(name) && regex.is_match(&name.to_ascii_uppercase()), "{name}");
        }
        for other in ["", "ne", "nett", "axb", "comco"] {
            assert!(!regex.is_match(other), "{other}");
        }
        assert_eq!(alternatives(&["co".to_owned()]), "[Cc][Oo]");
    }
}
