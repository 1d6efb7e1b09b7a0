//! The pattern of a whole cell, written so that a person reads it at once: `mailto:‹address›`, `word word ‹address›`.

use crate::characters::bytes;
use crate::characters::shown::shown;
use crate::model::span::Span;

/// The shape of a cell that is an address and nothing else.
pub const ADDRESS: &str = "‹address›";

/// How much of a shape is shown, in characters.
const MOST: usize = 60;

/// Appends the shape of `cell`, in which addresses stand at `addresses` (in order, without overlap), to `out`. With `fine`
/// every letter and digit is shown for itself, addresses too.
///
/// ```
/// use ypogram_core::{Span, shape};
/// let mut out = String::new();
/// shape::write(b"mailto:ada@fernhollow.org", &[Span::new(7, 25)], false, &mut out);
/// assert_eq!(out, "mailto:‹address›");
/// ```
pub fn write(cell: &[u8], addresses: &[Span], fine: bool, out: &mut String) {
    let start = out.len();
    let text = String::from_utf8_lossy(cell);
    if fine {
        for c in text.chars() {
            push_fine(c, out);
        }
    } else {
        let mut at = 0;
        let mut tokens = Vec::new();
        for address in addresses {
            push_tokens(&String::from_utf8_lossy(&cell[at..address.start]), &mut tokens);
            tokens.push(Token::Address);
            at = address.end;
        }
        push_tokens(&String::from_utf8_lossy(&cell[at..]), &mut tokens);
        mark_edges(&mut tokens);
        write_tokens(&tokens, out);
    }
    if out[start..].chars().count() > MOST {
        let cut = out[start..].char_indices().nth(MOST).map_or(out.len(), |(at, _)| start + at);
        out.truncate(cut);
        out.push('…');
    }
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Token {
    Address,
    Word,
    Number,
    /// Letters and digits in one.
    Code,
    Space,
    /// White space at an edge of the cell, which nobody would see otherwise.
    EdgeSpace,
    /// `mailto`, which is no word like others.
    Mailto,
    Candidate(char),
}

fn push_tokens(text: &str, tokens: &mut Vec<Token>) {
    let mut chars = text.char_indices().peekable();
    while let Some((at, c)) = chars.next() {
        if c.is_alphanumeric() {
            let (mut letters, mut digits) = (c.is_alphabetic(), c.is_numeric());
            let mut end = at + c.len_utf8();
            // An apostrophe belongs to the word that goes on behind it.
            while let Some(&(next, c)) = chars.peek() {
                let inside = matches!(c, '\'' | '’')
                    && text[next + c.len_utf8()..].starts_with(char::is_alphabetic)
                    && letters;
                if !c.is_alphanumeric() && !inside && !is_mark(c) {
                    break;
                }
                letters |= c.is_alphabetic();
                digits |= c.is_numeric();
                end = next + c.len_utf8();
                chars.next();
            }
            let is_mailto = text[at..end].eq_ignore_ascii_case("mailto") && text[end..].starts_with(':');
            tokens.push(match (letters, digits) {
                _ if is_mailto => Token::Mailto,
                (true, true) => Token::Code,
                (false, true) => Token::Number,
                _ => Token::Word,
            });
        } else if bytes::is_space_char(c) {
            if tokens.last() != Some(&Token::Space) {
                tokens.push(Token::Space);
            }
        } else {
            tokens.push(Token::Candidate(c));
        }
    }
}

fn is_mark(c: char) -> bool {
    unicode_normalization::char::is_combining_mark(c)
}

fn mark_edges(tokens: &mut [Token]) {
    let last = tokens.len().saturating_sub(1);
    for edge in [0, last] {
        if let Some(token @ Token::Space) = tokens.get_mut(edge) {
            *token = Token::EdgeSpace;
        }
    }
}

/// Writes the tokens; four words or more in a row are `words`.
fn write_tokens(tokens: &[Token], out: &mut String) {
    let mut at = 0;
    while let Some(token) = tokens.get(at) {
        let words = words_from(&tokens[at..]);
        if words >= 4 {
            out.push_str("words");
            at += words * 2 - 1;
            continue;
        }
        match token {
            Token::Address => out.push_str(ADDRESS),
            Token::Word => out.push_str("word"),
            Token::Number => out.push_str("number"),
            Token::Code => out.push_str("code"),
            Token::Space => out.push(' '),
            Token::EdgeSpace => out.push('␣'),
            Token::Mailto => out.push_str("mailto"),
            Token::Candidate(c) => push_sign(*c, out),
        }
        at += 1;
    }
}

/// How many words stand at the start, each parted from the next by a space.
fn words_from(tokens: &[Token]) -> usize {
    let mut words = 0;
    while tokens.get(words * 2) == Some(&Token::Word) {
        words += 1;
        if tokens.get(words * 2 - 1) != Some(&Token::Space) {
            break;
        }
    }
    words
}

fn push_fine(c: char, out: &mut String) {
    match c {
        c if c.is_uppercase() => out.push('A'),
        c if c.is_alphabetic() => out.push('a'),
        c if c.is_numeric() => out.push('9'),
        ' ' => out.push(' '),
        c => push_sign(c, out),
    }
}

/// A sign as it is; one that would not show, by its code.
fn push_sign(c: char, out: &mut String) {
    if c.is_control() || bytes::is_invisible(c) || bytes::is_bidi_control(c) {
        out.push_str(&format!("‹U+{:04X}›", c as u32));
    } else if c.is_whitespace() {
        out.push(' ');
    } else {
        out.push_str(&shown(c.encode_utf8(&mut [0; 4]).as_bytes()));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shapes() {
        for (cell, address, shape, fine) in [
            ("ada@b.org", Some("ada@b.org"), "‹address›", "aaa@a.aaa"),
            ("MAILTO:ada@b.org", Some("ada@b.org"), "mailto:‹address›", "AAAAAA:aaa@a.aaa"),
            (
                "\"O'Neil, Bea\" <bea@b.org>",
                Some("bea@b.org"),
                "\"word, word\" <‹address›>",
                "\"A'Aaaa, Aaa\" <aaa@a.aaa>",
            ),
            (" ada@b.org", Some("ada@b.org"), "␣‹address›", " aaa@a.aaa"),
            ("ada@@b..org", None, "word@@word..word", "aaa@@a..aaa"),
            ("01632 960413", None, "number number", "99999 999999"),
            ("FH1001/b", None, "code/word", "AA9999/a"),
            ("please write to the other one", None, "words", "aaaaaa aaaaa aa aaa aaaaa aaa"),
            ("one two three", None, "word word word", "aaa aaa aaaaa"),
            ("", None, "", ""),
        ] {
            let spans: Vec<Span> = address
                .map(|a| cell.find(a).map(|at| Span::new(at, at + a.len())).expect("it is there"))
                .into_iter()
                .collect();
            let of = |fine| {
                let mut out = String::new();
                write(cell.as_bytes(), &spans, fine, &mut out);
                out
            };
            assert_eq!((of(false).as_str(), of(true).as_str()), (shape, fine), "{cell}");
        }
    }
}
