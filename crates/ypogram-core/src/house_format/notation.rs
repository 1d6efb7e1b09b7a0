//! The notation of a house format, read:
//!
//! ```text
//! format      = alternative *( "or" alternative )
//! alternative = 1*( item [ "?" ] )
//! item        = literal / part / "(" format ")"
//! literal     = DQUOTE *character DQUOTE
//! part        = ( "given" / "family" / "number" / "digits" ) [ "(" count ")" ] / "field" literal
//! count       = 1*DIGIT [ "+" / "-" 1*DIGIT ]
//! ```

use crate::house_format::error::FormatError;
use crate::house_format::part::{Count, NameOf, Piece};

/// An item of the notation.
#[derive(Clone, Debug)]
pub(super) enum Node {
    Piece(Piece),
    Group(Vec<Vec<Node>>),
    Optional(Box<Node>),
}

/// What the notation says: its alternatives, and the fields that it names.
pub(super) struct Notation {
    pub(super) alternatives: Vec<Vec<Node>>,
    pub(super) fields: Vec<String>,
}

/// The words of parts.
const PARTS: [&str; 6] = ["given", "family", "number", "digits", "field", "or"];

/// Reads `text`.
///
/// # Errors
/// Where it is no such notation, with the place.
pub(super) fn read(text: &str) -> Result<Notation, FormatError> {
    let mut reader = Reader { text, at: 0, fields: Vec::new() };
    let alternatives = reader.alternatives()?;
    match reader.peek() {
        None => Ok(Notation { alternatives, fields: reader.fields }),
        Some(')') => Err(reader.error(reader.at..reader.at + 1, "this parenthesis was never opened")),
        Some(_) => Err(reader.error(reader.at..text.len(), "this cannot be read")),
    }
}

struct Reader<'t> {
    text: &'t str,
    at: usize,
    fields: Vec<String>,
}

impl Reader<'_> {
    fn error(&self, span: std::ops::Range<usize>, message: impl Into<String>) -> FormatError {
        FormatError { span, message: message.into() }
    }

    /// The next character that is no white space.
    fn peek(&mut self) -> Option<char> {
        let rest = &self.text[self.at..];
        self.at += rest.len() - rest.trim_start().len();
        self.text[self.at..].chars().next()
    }

    fn word(&self) -> &str {
        let rest = &self.text[self.at..];
        let end = rest.find(|c: char| !c.is_alphanumeric() && c != '_' && c != '-').unwrap_or(rest.len());
        &rest[..end]
    }

    fn alternatives(&mut self) -> Result<Vec<Vec<Node>>, FormatError> {
        let mut all = Vec::new();
        loop {
            let start = self.at;
            let mut items = Vec::new();
            while let Some(item) = self.item()? {
                items.push(item);
            }
            if items.is_empty() {
                let end = self.text.len().min(self.at + 1).max(start);
                return Err(self.error(self.at.min(end)..end, "a part or a text in quotes is missing here"));
            }
            all.push(items);
            match self.peek() {
                Some('o') if self.word() == "or" => self.at += 2,
                _ => return Ok(all),
            }
        }
    }

    fn item(&mut self) -> Result<Option<Node>, FormatError> {
        let node = match self.peek() {
            None | Some(')') => return Ok(None),
            Some('"') => Node::Piece(Piece::Literal(self.literal()?)),
            Some('(') => {
                let open = self.at;
                self.at += 1;
                let inside = self.alternatives()?;
                if self.peek() != Some(')') {
                    return Err(self.error(open..open + 1, "this parenthesis is never closed"));
                }
                self.at += 1;
                Node::Group(inside)
            }
            Some(c) if c.is_alphabetic() => match self.word() {
                "or" => return Ok(None),
                _ => Node::Piece(self.part()?),
            },
            Some('?') => {
                return Err(self.error(self.at..self.at + 1, "nothing stands before this question mark"));
            }
            Some('.' | '_' | '@') => {
                let end =
                    self.text[self.at..].find([' ', '"', '(']).map_or(self.text.len(), |end| self.at + end);
                return Err(self.error(self.at..end, "a text stands in quotes, as in \".\""));
            }
            Some(c) => {
                return Err(self
                    .error(self.at..self.at + c.len_utf8(), "this is neither a part nor a text in quotes"));
            }
        };
        if self.peek() == Some('?') {
            self.at += 1;
            return Ok(Some(Node::Optional(Box::new(node))));
        }
        Ok(Some(node))
    }

    fn literal(&mut self) -> Result<String, FormatError> {
        let start = self.at + 1;
        let Some(len) = self.text[start..].find('"') else {
            return Err(self.error(self.at..self.text.len(), "this quotation mark is never closed"));
        };
        self.at = start + len + 1;
        match len {
            0 => Err(self.error(start - 1..self.at, "nothing stands between the quotation marks")),
            _ => Ok(self.text[start..start + len].to_lowercase()),
        }
    }

    fn part(&mut self) -> Result<Piece, FormatError> {
        let word = self.word().to_owned();
        let span = self.at..self.at + word.len();
        self.at += word.len();
        match &*word {
            "field" => {
                if self.peek() != Some('"') {
                    return Err(
                        self.error(span, "the name of the field is missing, as in field \"staff no\"")
                    );
                }
                let start = self.at + 1;
                self.literal()?;
                let name = self.text[start..self.at - 1].to_owned();
                let known = self.fields.iter().position(|field| *field == name);
                Ok(Piece::Field(known.unwrap_or_else(|| {
                    self.fields.push(name);
                    self.fields.len() - 1
                })))
            }
            "given" => Ok(Piece::Name(NameOf::Given, self.count()?)),
            "family" => Ok(Piece::Name(NameOf::Family, self.count()?)),
            "number" | "digits" => Ok(Piece::Digits(self.count()?.unwrap_or(Count::ANY))),
            word => {
                let like = PARTS.iter().find(|part| is_slip_of(part, word));
                let like = like.map_or(String::new(), |like| format!("; did you mean {like}?"));
                Err(self.error(span, format!("there is no part ‘{word}’{like}")))
            }
        }
    }

    fn count(&mut self) -> Result<Option<Count>, FormatError> {
        if !self.text[self.at..].starts_with('(') {
            return Ok(None);
        }
        let open = self.at;
        let Some(len) = self.text[open..].find(')') else {
            return Err(self.error(open..open + 1, "this parenthesis is never closed"));
        };
        self.at = open + len + 1;
        let inside = self.text[open + 1..open + len].trim();
        let number = |text: &str| text.trim().parse::<usize>().ok().filter(|count| (1..=64).contains(count));
        let count = match (inside.strip_suffix('+'), inside.split_once('-')) {
            (Some(least), _) => number(least).map(|least| Count { least, most: None }),
            (None, Some((least, most))) => number(least)
                .zip(number(most))
                .filter(|(least, most)| least <= most)
                .map(|(least, most)| Count { least, most: Some(most) }),
            (None, None) => number(inside).map(|count| Count { least: count, most: Some(count) }),
        };
        let wrong =
            || self.error(open..open + len + 1, "this is no count from 1 to 64, such as (2), (2+) or (1-2)");
        count.map(Some).ok_or_else(wrong)
    }
}

/// Whether a word is a slip of another.
fn is_slip_of(known: &str, word: &str) -> bool {
    let word = word.to_lowercase();
    strsim::damerau_levenshtein(known, &word) < 3 && known.bytes().next() == word.bytes().next()
        || known.starts_with(&word) && word.len() > 2
        || word.starts_with(known)
}
