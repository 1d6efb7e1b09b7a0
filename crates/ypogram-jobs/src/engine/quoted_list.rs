//! Lists on the command line whose items are separated by commas and, where one is in them, quoted as in CSV.

/// The items, cut at the commas outside double quotes, as they stand.
///
/// ```
/// use ypogram_jobs::quoted_list::{items, unquoted};
/// assert_eq!(items(r#"a,"b, c""#), ["a", r#""b, c""#]);
/// assert_eq!(unquoted(r#""b, c""#), "b, c");
/// ```
pub fn items(text: &str) -> Vec<&str> {
    let (mut items, mut start, mut quoted) = (Vec::new(), 0, false);
    for (at, c) in text.char_indices() {
        match c {
            '"' => quoted = !quoted,
            ',' if !quoted => {
                items.push(text[start..at].trim_start());
                start = at + 1;
            }
            _ => {}
        }
    }
    items.push(text[start..].trim_start());
    items
}

/// An item without its quotes.
pub fn unquoted(item: &str) -> String {
    match item.trim().strip_prefix('"').and_then(|item| item.strip_suffix('"')) {
        Some(inner) => inner.replace("\"\"", "\""),
        None => item.to_owned(),
    }
}

/// An item as it can stand in a list.
pub fn quoted(item: &str) -> String {
    let plain = !item.contains([',', '"', '=']) && !item.starts_with('-') && item.trim() == item;
    if plain { item.to_owned() } else { format!("\"{}\"", item.replace('"', "\"\"")) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn items_and_quotes() {
        assert_eq!(items("a=b, c=\"d, \"\"e\"\"\",f=g"), ["a=b", "c=\"d, \"\"e\"\"\"", "f=g"]);
        for value in ["plain", "with, comma", "with \"quotes\"", " edges ", "-a", "a=b"] {
            assert_eq!(unquoted(&quoted(value)), value);
        }
    }
}
