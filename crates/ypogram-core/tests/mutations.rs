//! One slip in a valid address, put into a cell: whatever is accepted is the address itself, or was written exactly so.

use proptest::strategy::{Strategy as _, ValueTree as _};
use proptest::test_runner::{Config, RngAlgorithm, TestRng, TestRunner};
use ypogram_core::{Grammar, Policy, Verdict, cell, examine, is_well_formed};

const ADDRESSES: [&str; 16] = [
    "anna@fernhollow.org",
    "anna.lovell@fernhollow.org",
    "a.lovell@hillside-optics.com",
    "anna_lovell@kelp.co.uk",
    "anna-lovell77@gmail.com",
    "annalovell@tidewharf.com",
    "anna+club@web.de",
    "o'neil@fernhollow.org",
    "night.owl.orrery@mail.quarryfarm.net",
    "zoe@obs.co",
    "m.van.der.berg@westmere.gov.uk",
    "jo@x-works.io",
    "42.moons@starpath.info",
    "bea.ashgrove@hotmail.com",
    "anna.anna@annas.org",
    "info@fernhollow.org",
];

/// CandidateScanner that are typed by mistake, or left behind by an export.
const SIGNS: &[char] = &[
    ' ', ' ', ' ', '.', ',', ';', ':', '-', '_', '\'', '"', '(', ')', '<', '>', '[', ']', '/', '\\', '|',
    '@', '!', '?', '*', '=', '+', '%', '&', '#', 'x', 'E', '7', '\u{A0}', '\u{200B}', '\n', '\t', '’', '…',
    'é',
];

/// What stands around it in the cell.
const AROUND: &[(&str, &str)] = &[
    ("", ""),
    ("", ""),
    ("", ""),
    (" ", " "),
    ("<", ">"),
    ("Anna Lovell <", ">"),
    ("mailto:", ""),
    ("E-mail: ", ""),
    ("", "; bea@fernhollow.org"),
    ("\"", "\""),
    ("", " (Anna)"),
    ("Anna ", ""),
    ("", ", 01632 960413"),
];

fn mutated(address: &str, kind: usize, place: usize, sign: char) -> String {
    let chars: Vec<char> = address.chars().collect();
    let at = place % (chars.len() + 1);
    let (before, behind) = chars.split_at(at);
    let text = |chars: &[char]| chars.iter().collect::<String>();
    match (kind % 5, behind.split_first()) {
        (0, _) => text(before) + &sign.to_string() + &text(behind),
        (1, Some((_, rest))) => text(before) + &text(rest),
        (2, Some((_, rest))) => text(before) + &sign.to_string() + &text(rest),
        (3, Some((first, rest))) if !rest.is_empty() => {
            text(before) + &text(&[rest[0], *first]) + &text(&rest[1..])
        }
        _ => text(before) + " " + &text(behind),
    }
}

#[test]
fn what_is_accepted_was_written() {
    let policy = Policy::default();
    let mut strict = Policy::default();
    strict.as_typed = true;
    let mut runner =
        TestRunner::new_with_rng(Config::default(), TestRng::deterministic_rng(RngAlgorithm::ChaCha));
    let strategy = (0..ADDRESSES.len(), 0..5_usize, 0..64_usize, 0..SIGNS.len(), 0..AROUND.len());
    let (mut accepted, mut guessed) = (0, Vec::new());
    for _ in 0..20_000 {
        let (address, kind, place, sign, around) = strategy.new_tree(&mut runner).unwrap().current();
        let original = ADDRESSES[address];
        let typed = mutated(original, kind, place, SIGNS[sign]);
        let (before, behind) = AROUND[around];
        let value = format!("{before}{typed}{behind}");
        let mut found = Vec::new();
        cell::read(value.as_bytes(), &policy, &mut found);
        for one in &found {
            let examined = examine(&one.text, &policy);
            if policy.verdict(examined.codes.union(one.codes)) != Verdict::Accept {
                continue;
            }
            let address = &examined.standard.as_ref().expect("it is accepted").address;
            accepted += 1;
            // As it stands in the cell from its first byte to its last, or what was to be there in the first place.
            let (written, text) = (without_blanks(&value), String::from_utf8_lossy(&one.text).to_lowercase());
            let is_written =
                written.match_indices(&text).any(|(at, _)| stands_apart(&written, at, at + text.len()));
            let is_meant = [original, "bea@fernhollow.org"].contains(&address.as_str());
            let is_encoded = before == "mailto:" && typed.contains('%');
            if !is_written && !is_meant && !is_encoded {
                guessed.push(format!("{value:?} gives {address}"));
            }
            let repairs = examined.repairs.union(one.repairs);
            let as_typed = strict.faults_as_typed(repairs, is_well_formed(value.as_bytes(), Grammar::Smtp));
            if as_typed.is_empty() && !is_well_formed(value.as_bytes(), Grammar::Smtp) {
                guessed.push(format!("{value:?} is accepted as typed"));
            }
        }
    }
    assert!(accepted > 5_000, "{accepted}");
    guessed.sort();
    guessed.dedup();
    assert!(guessed.is_empty(), "{} guesses:\n{}", guessed.len(), guessed.join("\n"));
}

/// In lower case, without what shows nothing and without white space beside an @.
fn without_blanks(value: &str) -> String {
    let visible: String = value.to_lowercase().chars().filter(|&c| c != '\u{200B}').collect();
    let is_blank = |c: char| matches!(c, ' ' | '\t' | '\u{A0}');
    let mut parts = visible.split('@').map(str::to_owned).collect::<Vec<_>>();
    for nth in 0..parts.len() {
        if nth > 0 {
            parts[nth] = parts[nth].trim_start_matches(is_blank).to_owned();
        }
        if nth + 1 < parts.len() {
            parts[nth] = parts[nth].trim_end_matches(is_blank).to_owned();
        }
    }
    parts.join("@")
}

/// Whether nothing that may belong to an address touches it on either side, but for a sign at its end.
fn stands_apart(text: &str, start: usize, end: usize) -> bool {
    let touches = |c: char| c.is_alphanumeric() || "._-+'&%#=*!?@\\\"(".contains(c);
    let before = text[..start].chars().next_back();
    let behind: Vec<char> = text[end..].chars().take(2).collect();
    let behind_touches = match behind[..] {
        [] => false,
        [sign] => sign.is_alphanumeric(),
        [sign, next, ..] => touches(sign) && touches(next) || sign.is_alphanumeric(),
    };
    // A single quotation mark in front is an opening that was never closed.
    let before_touches = before.is_some_and(|c| touches(c) && c != '"');
    !before_touches && !behind_touches
}
