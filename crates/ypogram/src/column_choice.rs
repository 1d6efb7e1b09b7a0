//! Which columns come out and by which rows are sorted, as `--columns` and `--sort-by` say it.

use ypogram_io::{Error, Result};
use ypogram_io::{RowSpec, SortBy};
use ypogram_jobs::{day_first_key, quoted_list};

/// A column that is named.
struct Named {
    /// A hyphen stands in front of it.
    hyphen: bool,
    name: String,
    /// Its new name.
    shown: Option<String>,
}

/// How rows are arranged that have the columns `chosen`, each as `NAME`, `NAME=NEW NAME` or `-NAME`, and are sorted by others, with
/// so many bytes of memory for that.
///
/// # Errors
/// Where a column has no name, or some are chosen and others left out.
pub(crate) fn row_spec(
    chosen: &[String],
    sort_by: &[String],
    memory: usize,
    guard_formulas: bool,
) -> Result<RowSpec> {
    let chosen = chosen.iter().map(|item| read(item, "--columns")).collect::<Result<Vec<_>>>()?;
    let left_out = chosen.iter().filter(|named| named.hyphen).count();
    if left_out > 0 && left_out < chosen.len() {
        return Err(Error::unusable(
            "--columns: some columns are named to come out and others to be left out",
            "name those that come out, or with a hyphen those that do not: --columns '-notes,-phone'",
        ));
    }
    let mut projection = RowSpec { memory, guard_formulas, ..RowSpec::default() };
    for Named { hyphen, name, shown } in chosen {
        match hyphen {
            true => projection.left_out.push(name),
            false => projection.columns.push((name.clone(), shown.unwrap_or(name))),
        }
    }
    for item in sort_by {
        let Named { hyphen, name, .. } = read(item, "--sort-by")?;
        projection.sort_by.push(SortBy { column: name, downwards: hyphen, key: day_first_key });
    }
    Ok(projection)
}

/// The items of every time that an option was given.
pub(crate) fn items(given: &[String]) -> Vec<String> {
    given.iter().flat_map(|text| quoted_list::items(text)).map(str::to_owned).collect()
}

fn read(item: &str, option: &str) -> Result<Named> {
    let item = item.trim();
    let (hyphen, rest) = item.strip_prefix('-').map_or((false, item), |rest| (true, rest));
    let (name, shown) = match end_of_quoted(rest) {
        Some(end) => (&rest[..end], rest[end..].trim_start().strip_prefix('=')),
        None => rest.split_once('=').map_or((rest, None), |(name, shown)| (name, Some(shown))),
    };
    let (name, shown) =
        (quoted_list::unquoted(name.trim()), shown.map(|shown| quoted_list::unquoted(shown.trim())));
    if name.is_empty() || shown.as_ref().is_some_and(String::is_empty) || hyphen && shown.is_some() {
        return Err(Error::unusable(
            format!("{option}: ‘{item}’ names no column"),
            "write NAME, NAME=NEW NAME or -NAME, and a name with a comma in double quotes",
        ));
    }
    Ok(Named { hyphen, name, shown })
}

/// Where a quoted name ends that the item starts with.
fn end_of_quoted(item: &str) -> Option<usize> {
    let inner = item.strip_prefix('"')?;
    let mut from = 0;
    loop {
        let quote = from + inner[from..].find('"')?;
        if !inner[quote + 1..].starts_with('"') {
            return Some(quote + 2);
        }
        from = quote + 2;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_as_they_are_written() {
        let columns =
            |text: &str| row_spec(&items(&[text.to_owned()]), &[], 0, false).map(|a| (a.columns, a.left_out));
        let chosen = |pairs: &[(&str, &str)]| -> Vec<(String, String)> {
            pairs.iter().map(|(name, shown)| ((*name).to_owned(), (*shown).to_owned())).collect()
        };
        assert_eq!(columns("a, b=B C").unwrap().0, chosen(&[("a", "a"), ("b", "B C")]));
        assert_eq!(
            columns(r#""Name, first"="First ""name""","a=b",c"#).unwrap().0,
            chosen(&[("Name, first", "First \"name\""), ("a=b", "a=b"), ("c", "c")])
        );
        assert_eq!(columns(r#"-timestamp,-"a, b""#).unwrap().1, ["timestamp", "a, b"]);
        assert_eq!(columns(r#""-x""#).unwrap().0, chosen(&[("-x", "-x")]));
        for wrong in ["a,", "=b", "a=", "-a=b", "a,-b", "-"] {
            assert!(columns(wrong).is_err(), "{wrong}");
        }
    }
}
