//! Columns put together from fields, parts, cuts and texts, by a sentence: `Whole name = given " " family`.

use ypogram_io::{Error, Result};

use crate::plan::sentence::{Word, joined, words_of};

/// A column that is put together.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Composed {
    /// Its name.
    pub column: String,
    pub(crate) pieces: Vec<Piece>,
}

/// What a column is put together of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Piece {
    /// The value of what has that name: a field, a part of the address, or another column.
    Named(String),
    Text(String),
}

const FORM: &str =
    "write it as in: Whole name = given \" \" family; a name of several words as field \"lent on\"";

impl Composed {
    /// Reads `COLUMN = NAME "text" field "lent on" …`.
    ///
    /// ```
    /// use ypogram_jobs::Composed;
    /// assert_eq!(Composed::read(r#"Whole name = given " " field "family name""#).unwrap().column, "Whole name");
    /// assert!(Composed::read("given").is_err());
    /// ```
    ///
    /// # Errors
    /// Where it is no such sentence.
    pub fn read(sentence: &str) -> Result<Self> {
        let wrong = |what: &str| Error::unusable(format!("--compose ‘{sentence}’: {what}"), FORM);
        let words = words_of(sentence).ok_or_else(|| wrong("a quotation mark is not closed"))?;
        let equals = words.iter().position(|word| word.is("="));
        let (column, rest) = match equals {
            Some(equals) if equals > 0 => (joined(&words[..equals]), &words[equals + 1..]),
            _ => return Err(wrong("there is no column with an equals sign behind it")),
        };
        let pieces = pieces_of(rest);
        if !pieces.iter().any(|piece| matches!(piece, Piece::Named(_))) {
            return Err(wrong("it names nothing to put together"));
        }
        Ok(Composed { column, pieces })
    }
}

fn pieces_of(words: &[Word]) -> Vec<Piece> {
    let mut pieces = Vec::new();
    let mut words = words.iter().peekable();
    while let Some(word) = words.next() {
        let quoted_name = words.next_if(|next| word.is("field") && next.quoted);
        pieces.push(match quoted_name {
            Some(name) => Piece::Named(name.text.clone()),
            None if word.quoted => Piece::Text(word.text.clone()),
            None => Piece::Named(word.text.clone()),
        });
    }
    pieces
}

/// Puts values and texts together. A value that is empty takes the text before it along; a text at the end stands behind a value alone.
pub(crate) fn put_together(
    pieces: &[Piece],
    mut value: impl FnMut(usize) -> Option<Vec<u8>>,
    out: &mut Vec<u8>,
) {
    // Texts since the last value, and whether that stands.
    let (mut texts, mut stands, mut any_before) = (Vec::new(), false, false);
    let mut named = 0;
    for piece in pieces {
        match piece {
            Piece::Text(text) => texts.extend_from_slice(text.as_bytes()),
            Piece::Named(_) => {
                let value = value(named).filter(|value| !value.trim_ascii().is_empty());
                named += 1;
                if let Some(value) = &value {
                    // In front of the first value there is nothing that a text would divide it from, unless it begins the sentence.
                    if any_before || named == 1 {
                        out.extend_from_slice(&texts);
                    }
                    out.extend_from_slice(value.trim_ascii());
                    any_before = true;
                }
                stands = value.is_some();
                texts.clear();
            }
        }
    }
    if stands {
        out.extend_from_slice(&texts);
    }
}
