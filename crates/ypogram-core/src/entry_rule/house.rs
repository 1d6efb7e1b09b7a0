//! The conditions of the house: its address formats and its patterns.

use crate::entry_rule::alternatives::escaped;
use crate::entry_rule::condition::{Demand, at};
use crate::entry_rule::syntax::never_typed;
use crate::house_format::{Count, HouseFormat, Piece};
use crate::policy::pattern::Pattern;

/// Addresses at the domains of `formats` are built as one of them says; where `everyone` is set, there are no others.
pub(super) fn formats(formats: &[HouseFormat], everyone: bool) -> Vec<Demand> {
    let mut domains: Vec<&str> = formats.iter().flat_map(HouseFormat::domains).collect();
    domains.sort_unstable();
    domains.dedup();
    let mut demands = Vec::new();
    if everyone && !domains.is_empty() {
        let all: Vec<String> = domains.iter().map(|domain| at(domain)).collect();
        demands.push(Demand::Matches(all.join("|")));
    }
    for domain in domains {
        // The first format that has the domain counts.
        let format = formats.iter().find(|format| format.domains().any(|own| own == domain));
        let ways = format.into_iter().flat_map(|format| format.locals_at(domain)).map(local);
        let ways: Vec<String> = ways.collect();
        demands.push(Demand::Where(at(domain), format!("^(?:{}){}", ways.join("|"), at(domain))));
    }
    demands
}

/// A local part that is made of `pieces`, of whatever names.
fn local(pieces: &[Piece]) -> String {
    pieces.iter().map(piece).collect()
}

fn piece(piece: &Piece) -> String {
    let letter = format!("[^\\x00-\\x7F{}]", never_typed());
    let class = |ascii: &str, count: Count| {
        let Count { least, most } = count;
        let most = most.map_or_else(String::new, |most| most.to_string());
        format!("[{ascii}{letter}]{{{least},{most}}}")
    };
    match piece {
        Piece::Literal(text) => escaped(text),
        Piece::Name(_, count) => class(r"A-Za-z\-'", count.unwrap_or(Count::ANY)),
        Piece::Digits(Count { least, most: None }) => format!("[0-9]{{{least},}}"),
        Piece::Digits(Count { least, most: Some(most) }) => format!("[0-9]{{{least},{most}}}"),
        Piece::Field(_) => class(r"A-Za-z0-9\-", Count::ANY),
    }
}

/// One of `patterns` fits.
pub(super) fn patterns<'p>(patterns: impl Iterator<Item = &'p Pattern>) -> Option<Demand> {
    let one = |pattern: &Pattern| {
        let flags = if pattern.ignores_case() { "(?i:" } else { "(?:" };
        if pattern.is_whole() {
            format!("^{flags}{})$", pattern.written)
        } else {
            format!("{flags}{})", pattern.written)
        }
    };
    let ways: Vec<String> = patterns.map(one).collect();
    (!ways.is_empty()).then(|| Demand::Matches(ways.join("|")))
}
