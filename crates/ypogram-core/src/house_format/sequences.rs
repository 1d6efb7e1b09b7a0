//! The notation as plain sequences of pieces: every way to build an address, the usual one first.

use crate::house_format::error::FormatError;
use crate::house_format::notation::{Node, Notation};
use crate::house_format::part::{Piece, Sequence};

/// Ways to build an address, at most.
const MOST: usize = 64;

/// Every way that `notation` allows; `text` is what was written.
///
/// # Errors
/// Where there are too many, one has no domain or no local part, or the domain is none.
pub(super) fn of(notation: &Notation, text: &str) -> Result<Vec<Sequence>, FormatError> {
    let whole = |message: String| FormatError { span: 0..text.len(), message };
    let mut ways: Vec<(Vec<Piece>, Option<String>)> = Vec::new();
    for alternative in &notation.alternatives {
        for pieces in ways_of(alternative).ok_or_else(|| too_many(text))? {
            ways.push(cut(pieces).map_err(whole)?);
        }
    }
    if ways.len() > MOST {
        return Err(too_many(text));
    }
    // An alternative without a domain shares the one behind it.
    let mut behind: Option<String> = None;
    let mut sequences = Vec::new();
    for (local, domain) in ways.into_iter().rev() {
        let domain = match domain {
            Some(domain) => domain,
            None => behind.clone().ok_or_else(|| {
                whole("there is no domain; write it behind an @, as in \"@fernhollow.example\"".to_owned())
            })?,
        };
        behind = Some(domain.clone());
        if local.is_empty() {
            return Err(whole("nothing stands before the @".to_owned()));
        }
        let ascii =
            idna::domain_to_ascii_strict(&domain).map_err(|_| whole(format!("‘{domain}’ is no domain")))?;
        sequences.push(Sequence { local: joined(local), domain: ascii });
    }
    sequences.reverse();
    let mut distinct: Vec<Sequence> = Vec::new();
    for sequence in sequences {
        if !distinct.contains(&sequence) {
            distinct.push(sequence);
        }
    }
    Ok(distinct)
}

fn too_many(text: &str) -> FormatError {
    FormatError {
        span: 0..text.len(),
        message: format!("it allows more than {MOST} ways to build an address; make two formats of it"),
    }
}

/// The ways to read a row of items; none where there are too many.
fn ways_of(items: &[Node]) -> Option<Vec<Vec<Piece>>> {
    let mut ways: Vec<Vec<Piece>> = vec![Vec::new()];
    for item in items {
        let of_item = ways_of_item(item)?;
        let both = ways.iter().flat_map(|way| of_item.iter().map(|more| [&way[..], more].concat()));
        ways = both.collect();
        if ways.len() > MOST {
            return None;
        }
    }
    Some(ways)
}

fn ways_of_item(item: &Node) -> Option<Vec<Vec<Piece>>> {
    Some(match item {
        Node::Piece(piece) => vec![vec![piece.clone()]],
        Node::Optional(inside) => {
            let mut ways = vec![Vec::new()];
            ways.extend(ways_of_item(inside)?);
            ways
        }
        Node::Group(alternatives) => {
            let mut ways = Vec::new();
            for alternative in alternatives {
                ways.extend(ways_of(alternative)?);
            }
            ways
        }
    })
}

/// The local part and the domain, where there is an @.
fn cut(pieces: Vec<Piece>) -> Result<(Vec<Piece>, Option<String>), String> {
    let has_at = |piece: &Piece| matches!(piece, Piece::Literal(text) if text.contains('@'));
    let Some(at) = pieces.iter().position(has_at) else { return Ok((pieces, None)) };
    let mut domain = String::new();
    for piece in &pieces[at..] {
        match piece {
            Piece::Literal(text) => domain.push_str(text),
            _ => return Err("behind the @ stand texts in quotes alone".to_owned()),
        }
    }
    let (before, domain) = domain.split_once('@').unwrap_or_default();
    if domain.contains('@') {
        return Err("there is more than one @".to_owned());
    }
    let mut local = pieces[..at].to_vec();
    if !before.is_empty() {
        local.push(Piece::Literal(before.to_owned()));
    }
    Ok((local, Some(domain.to_owned())))
}

/// With neighbouring texts as one.
fn joined(pieces: Vec<Piece>) -> Vec<Piece> {
    let mut out: Vec<Piece> = Vec::new();
    for piece in pieces {
        match (out.last_mut(), piece) {
            (Some(Piece::Literal(before)), Piece::Literal(text)) => before.push_str(&text),
            (_, piece) => out.push(piece),
        }
    }
    out
}
