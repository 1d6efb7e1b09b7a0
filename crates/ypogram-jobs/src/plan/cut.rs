//! Cuts values that are delimited otherwise, such as loan numbers, by a sentence: `loan at "/": 2 as number, last as copy`.

use ypogram_core::Pattern;
use ypogram_io::{Error, Result};

use crate::plan::sentence::{Word, joined, words_of};

/// How the cells of one field are cut, and the columns that come of it.
#[derive(Clone, Debug)]
pub struct Cut {
    /// The field, part of the address, or column of an earlier cut.
    pub field: String,
    how: How,
    picks: Vec<(Pick, String)>,
}

#[derive(Clone, Debug)]
enum How {
    /// At each of these.
    At(Vec<String>),
    /// By the groups of this pattern.
    By(Box<Pattern>),
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Pick {
    /// From the one part to the other, with what stands between.
    Run(Place, Place),
    Group(String),
}

/// A part, counted from 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Place {
    FromStart(usize),
    FromEnd(usize),
}

const FORM: &str = "write it as in: loan at \"/\": 2 as number, last as copy";

impl Cut {
    /// Reads a sentence, which gives a cut for each field that it names.
    ///
    /// `FIELD at SEPARATOR or SEPARATOR: PARTS as COLUMN, …` counts parts as `1`, `2`, `last`, `last but 1`, and runs as
    /// `2 to last`; the separators `space` and `tab` are called so. `FIELD by PATTERN: GROUP as COLUMN, …` takes groups of a named pattern.
    /// Fields, separators and columns can stand in double quotes. For several fields, `home, work at …`, the name of the field stands
    /// before that of each column: `home number`.
    ///
    /// # Errors
    /// Where it is no such sentence, or the pattern that `pattern` is asked for has no such group.
    pub fn read(sentence: &str, pattern: impl Fn(&str) -> Result<Pattern>) -> Result<Vec<Self>> {
        let words = words_of(sentence).ok_or_else(|| wrong(sentence, "a quotation mark is not closed"))?;
        let colon = words.iter().position(|word| word.is(":"));
        let (head, tail) = match colon {
            Some(colon) => (&words[..colon], &words[colon + 1..]),
            None => return Err(wrong(sentence, "there is no colon before the parts")),
        };
        let joint = head.iter().rposition(|word| word.is("at") || word.is("by"));
        let Some(joint) = joint.filter(|&joint| joint > 0 && joint + 1 < head.len()) else {
            return Err(wrong(sentence, "it does not say where to cut"));
        };
        let fields: Vec<String> = head[..joint].split(|word| word.is(",")).map(joined).collect();
        if fields.iter().any(String::is_empty) {
            return Err(wrong(sentence, "a comma stands there without a field before or behind it"));
        }
        let rest = &head[joint + 1..];
        let how = match &*head[joint].text {
            "at" => How::At(
                rest.split(|word| word.is("or"))
                    .map(separator)
                    .collect::<Option<_>>()
                    .ok_or_else(|| wrong(sentence, "a separator is missing"))?,
            ),
            _ => How::By(Box::new(pattern(&joined(rest))?)),
        };
        let mut picks = Vec::new();
        for pick in tail.split(|word| word.is(",")) {
            let joint = pick.iter().rposition(|word| word.is("as"));
            let Some(joint) = joint.filter(|&joint| joint > 0 && joint + 1 < pick.len()) else {
                return Err(wrong(sentence, "each part needs a column: PART as COLUMN"));
            };
            let (part, column) = (joined(&pick[..joint]), joined(&pick[joint + 1..]));
            let pick = match &how {
                How::At(_) => Pick::read(&part).ok_or_else(|| {
                    wrong(
                        sentence,
                        &format!("‘{part}’ is not a part; parts are 1, 2, last, last but 1, or 2 to last"),
                    )
                })?,
                How::By(pattern) => {
                    let groups = pattern.groups();
                    if !groups.contains(&part) {
                        let there = if groups.is_empty() { "none".into() } else { groups.join(", ") };
                        let message =
                            format!("the pattern ‘{}’ has no group ‘{part}’; it has {there}", pattern.name);
                        return Err(wrong(sentence, &message));
                    }
                    Pick::Group(part)
                }
            };
            picks.push((pick, column));
        }
        Ok(match <[String; 1]>::try_from(fields) {
            Ok([field]) => vec![Cut { field, how, picks }],
            Err(fields) => {
                let named = |field: &str, column: &str| format!("{field} {column}");
                let picks_of = |field: &String| {
                    picks.iter().map(|(pick, column)| (pick.clone(), named(field, column))).collect()
                };
                let cut =
                    |field: &String| Cut { field: field.clone(), how: how.clone(), picks: picks_of(field) };
                fields.iter().map(cut).collect()
            }
        })
    }

    /// The columns that come of it, in order.
    pub fn columns(&self) -> impl Iterator<Item = &str> {
        self.picks.iter().map(|(_, column)| &**column)
    }

    /// What the column at place `column` takes from `cell`; none where it does not fit.
    ///
    /// ```
    /// # use ypogram_jobs::Cut;
    /// # use ypogram_io::Error;
    /// let none = |_: &str| Err(Error::unusable("", ""));
    /// let cut = &Cut::read("loan at /: 2 as loan, last as copy, 4 as more", none).unwrap()[0];
    /// assert_eq!(cut.take(b"OBS/0117/b", 0), Some(&b"0117"[..]));
    /// assert_eq!(cut.take(b"OBS/0117/b", 1), Some(&b"b"[..]));
    /// assert_eq!(cut.take(b"OBS/0117/b", 2), None);
    /// ```
    pub fn take<'c>(&self, cell: &'c [u8], column: usize) -> Option<&'c [u8]> {
        match (&self.how, &self.picks[column].0) {
            (How::By(pattern), Pick::Group(group)) => pattern.group(cell, group),
            (How::At(separators), Pick::Run(from, to)) => {
                let parts = parts_of(cell, separators);
                let place = |place: &Place| match *place {
                    Place::FromStart(at) => Some(at).filter(|&at| at < parts.len()),
                    Place::FromEnd(at) => parts.len().checked_sub(at + 1),
                };
                let (from, to) = (place(from)?, place(to)?);
                // A cell without any of the separators has no parts to take.
                (from <= to && parts.len() > 1).then(|| &cell[parts[from].0..parts[to].1])
            }
            _ => unreachable!("a cut at separators takes runs, one by a pattern groups"),
        }
    }
}

impl Pick {
    fn read(text: &str) -> Option<Self> {
        match text.split_once(" to ") {
            Some((from, to)) => Some(Pick::Run(Place::read(from)?, Place::read(to)?)),
            None => Place::read(text).map(|place| Pick::Run(place, place)),
        }
    }
}

impl Place {
    fn read(text: &str) -> Option<Self> {
        match text.trim() {
            "first" => Some(Place::FromStart(0)),
            "last" => Some(Place::FromEnd(0)),
            other => match other.strip_prefix("last but ") {
                Some(number) => number.parse().ok().map(Place::FromEnd),
                None => other.parse::<usize>().ok()?.checked_sub(1).map(Place::FromStart),
            },
        }
    }
}

/// The separator that these words are; none where there are none.
fn separator(words: &[Word]) -> Option<String> {
    match words {
        [only] if only.is("space") => Some(" ".to_owned()),
        [only] if only.is("tab") => Some("\t".to_owned()),
        words => Some(joined(words)).filter(|separator| !separator.is_empty()),
    }
}

/// Where the parts of `cell` start and end.
fn parts_of(cell: &[u8], separators: &[String]) -> Vec<(usize, usize)> {
    let mut parts = Vec::new();
    let (mut start, mut at) = (0, 0);
    while at < cell.len() {
        let here =
            separators.iter().map(String::as_bytes).filter(|separator| cell[at..].starts_with(separator));
        match here.map(<[u8]>::len).max() {
            Some(len) => {
                parts.push((start, at));
                at += len;
                start = at;
            }
            None => at += 1,
        }
    }
    parts.push((start, cell.len()));
    parts
}

fn wrong(sentence: &str, what: &str) -> Error {
    Error::unusable(format!("--cut ‘{sentence}’: {what}"), FORM)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pattern(name: &str) -> Result<Pattern> {
        Pattern::new(name, r"(?P<house>[A-Z]+)/(\d{4})/([a-z])", true, false)
            .map_err(|message| Error::unusable(message, ""))
    }

    #[test]
    fn sentences_and_what_they_take() {
        for (sentence, cell, taken) in [
            ("loan at /: 2 as loan, last as copy", "OBS/0117/b", "0117|b"),
            ("loan at /: first as a, last but 1 as b, 2 to last as c", "OBS/0117/b", "OBS|0117|0117/b"),
            ("loan at /: 1 to 2 as a, 4 as b, last but 3 as c", "OBS/0117/b", "OBS/0117|-|-"),
            ("\"loan at\" at / or -: 3 as a", "OBS/0117-b", "b"),
            ("phone at \" \": 1 as a, 2 as b", "01632 960413", "01632|960413"),
            ("x at \",\" or \":\": 2 as \"b, c\"", "p:q,r", "q"),
            ("x at ->: last as b", "p->q", "q"),
            ("x at - or --: 2 as b", "p--q", "q"),
            ("x at /: 1 as a", "nothing to cut", "-"),
            ("x at /: 1 as a, 2 as b", "/", "|"),
            ("x by loan: house as a, 2 as b, 3 as c", "OBS/0117/b", "OBS|0117|b"),
            ("x by loan: house as a", "obs/0117/b", "-"),
            ("x at ü: 2 as a", "küche", "che"),
        ] {
            let cut = &Cut::read(sentence, pattern).unwrap()[0];
            let takes = (0..cut.picks.len()).map(|column| cut.take(cell.as_bytes(), column));
            let text =
                |taken: Option<&[u8]>| taken.map_or("-".into(), |t| String::from_utf8_lossy(t).into_owned());
            assert_eq!(takes.map(text).collect::<Vec<_>>().join("|"), taken, "{sentence} on {cell}");
        }
        let cut = &Cut::read("\"loan at\" at / or -: 3 as a, 1 as \"b, c\"", pattern).unwrap()[0];
        assert_eq!((&*cut.field, cut.columns().collect::<Vec<_>>()), ("loan at", vec!["a", "b, c"]));
        for (sentence, told) in [
            ("loan at / 2 as x", "no colon"),
            ("loan: 2 as x", "where to cut"),
            ("loan at /: 0 as x", "‘0’ is not a part"),
            ("loan at /: 2", "needs a column"),
            ("loan at \"/: 2 as x", "not closed"),
            ("loan by loan: 9 as x", "no group ‘9’; it has house, 2, 3"),
        ] {
            let error = Cut::read(sentence, pattern).unwrap_err();
            assert!(error.message.contains(told), "{sentence}: {}", error.message);
        }
    }
}
