//! Where a value stops fitting a pattern, and what was expected there.

use std::fmt::Write as _;
use std::sync::{Arc, OnceLock};

use regex_automata::dfa::Automaton as _;
use regex_automata::dfa::dense::{Builder, Config, DFA};
use regex_automata::util::primitives::StateID;
use regex_automata::util::syntax;
use regex_automata::{Anchored, Input, MatchKind};

use crate::characters::shown::shown;

/// How far a value fits a pattern that it misses.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PatternMiss {
    /// Bytes from the start after which something could follow that would make it fit. Never inside a character.
    pub fits_up_to: usize,
    /// What was expected there, in plain words; empty where that is not known.
    pub expected: String,
}

/// The automaton of a pattern, made when it is first asked for; none where it would be too large.
#[derive(Clone, Debug, Default)]
pub(super) struct Automaton(Arc<OnceLock<Option<DFA<Vec<u32>>>>>);

/// Bytes that the automaton of a pattern may take.
const LARGEST: usize = 8 << 20;

/// As many signs are listed one by one.
const LISTED: usize = 6;

impl Automaton {
    fn of(&self, written: &str, ignore_case: bool) -> Option<&DFA<Vec<u32>>> {
        // Every alternative counts, also those that a shorter match would have ended.
        let config = Config::new()
            .match_kind(MatchKind::All)
            .dfa_size_limit(Some(LARGEST))
            .determinize_size_limit(Some(LARGEST));
        let build = || {
            let syntax = syntax::Config::new().case_insensitive(ignore_case);
            Builder::new().configure(config).syntax(syntax).build(written).ok()
        };
        self.0.get_or_init(build).as_ref()
    }

    /// How far a value fits the pattern `written`, whose automaton it is.
    pub(super) fn miss(&self, written: &str, ignore_case: bool, value: &[u8]) -> PatternMiss {
        let input = Input::new(value).anchored(Anchored::Yes);
        let automaton = self.of(written, ignore_case);
        let Some((automaton, mut state)) =
            automaton.and_then(|dfa| Some((dfa, dfa.start_state_forward(&input).ok()?)))
        else {
            return PatternMiss::default();
        };
        // Where the character in hand began.
        let (mut fits_up_to, mut reached) = (value.len(), state);
        for (at, &byte) in value.iter().enumerate() {
            if is_border(value, at) {
                (fits_up_to, reached) = (at, state);
            }
            state = automaton.next_state(state, byte);
            if !is_alive(automaton, state) {
                return PatternMiss { fits_up_to, expected: expected(automaton, reached) };
            }
        }
        PatternMiss { fits_up_to: value.len(), expected: expected(automaton, state) }
    }
}

impl PatternMiss {
    /// The miss of `value` as a sentence without a subject.
    pub fn sentence(&self, value: &[u8]) -> String {
        let (fitting, rest) = value.split_at(self.fits_up_to.min(value.len()));
        let expected = match &*self.expected {
            "" => String::new(),
            expected => format!("{expected} was expected"),
        };
        match (fitting.is_empty(), rest.is_empty(), expected.is_empty()) {
            (true, true, true) | (true, false, true) => "does not fit".to_owned(),
            (true, true, false) => format!("is empty; {expected}"),
            (true, false, false) => format!("does not fit from the start; {expected}"),
            (false, true, true) => "fits as far as it goes; something is missing at the end".to_owned(),
            (false, true, false) => format!("fits as far as it goes, then {expected}"),
            (false, false, _) => {
                let then = if expected.is_empty() { ",".to_owned() } else { format!(", then {expected},") };
                format!("fits up to ‘{}’{then} not ‘{}’", shown(fitting), shown(rest))
            }
        }
    }
}

/// Whether a character begins at `at`, or bytes stand there that are none of UTF-8.
fn is_border(value: &[u8], at: usize) -> bool {
    value[at] & 0xC0 != 0x80
}

/// Whether something may follow in that state, or the value may end there. The automaton notices a match one byte late, so a state behind the
/// last match is not dead yet.
fn is_alive(automaton: &DFA<Vec<u32>>, state: StateID) -> bool {
    let is_over = |state| automaton.is_dead_state(state) || automaton.is_quit_state(state);
    let goes_on = |byte| !is_over(automaton.next_state(state, byte));
    !is_over(state)
        && (may_end(automaton, state)
            || automaton.byte_classes().representatives(..).filter_map(|unit| unit.as_u8()).any(goes_on))
}

fn may_end(automaton: &DFA<Vec<u32>>, state: StateID) -> bool {
    automaton.is_match_state(automaton.next_eoi_state(state))
}

/// What may follow in that state, in plain words.
fn expected(automaton: &DFA<Vec<u32>>, state: StateID) -> String {
    let classes = automaton.byte_classes();
    let alive: Vec<u8> = classes
        .representatives(..)
        .filter_map(|unit| unit.as_u8())
        .filter(|&byte| is_alive(automaton, automaton.next_state(state, byte)))
        .map(|byte| classes.get(byte))
        .collect();
    let goes_on = |byte: u8| alive.contains(&classes.get(byte));
    let mut all: Vec<u8> = (0x20..0x7F).filter(|&byte| goes_on(byte)).collect();
    let mut kinds: Vec<String> = Vec::new();
    let beyond_ascii = (0xC2..0xF5).any(goes_on);
    let has_all =
        |range: std::ops::RangeInclusive<u8>, all: &[u8]| range.into_iter().all(|byte| all.contains(&byte));
    if all.len() >= 0x5E {
        all.clear();
        kinds.push("any character".to_owned());
    } else {
        // What else may follow is a digit of another script.
        let only_digits = all.len() == 10 && has_all(b'0'..=b'9', &all);
        if has_all(b'0'..=b'9', &all) {
            all.retain(|byte| !byte.is_ascii_digit());
            kinds.push("a digit".to_owned());
        }
        if has_all(b'a'..=b'z', &all) && has_all(b'A'..=b'Z', &all) {
            all.retain(|byte| !byte.is_ascii_alphabetic());
            kinds.push("a letter".to_owned());
        } else if beyond_ascii && !only_digits {
            kinds.push("another letter or sign".to_owned());
        }
        kinds.extend(ranges(&all));
    }
    if may_end(automaton, state) {
        kinds.push("the end".to_owned());
    }
    match kinds.split_last() {
        None => String::new(),
        Some((last, [])) => last.clone(),
        Some((last, others)) => format!("{} or {last}", others.join(", ")),
    }
}

/// Signs in plain words: ranges of letters and digits as such, others one by one, and their number where they are many.
fn ranges(bytes: &[u8]) -> Vec<String> {
    let mut ranges: Vec<(u8, u8)> = Vec::new();
    for &byte in bytes {
        match ranges.last_mut() {
            Some((_, to))
                if *to + 1 == byte
                    && byte.is_ascii_alphanumeric()
                    && to.is_ascii_alphanumeric()
                    && byte.is_ascii_digit() == to.is_ascii_digit() =>
            {
                *to = byte;
            }
            _ => ranges.push((byte, byte)),
        }
    }
    if ranges.len() > LISTED {
        return vec![format!("one of {} other signs", bytes.len())];
    }
    let mut words = Vec::new();
    for (from, to) in ranges {
        let mut word = String::new();
        let _ = match (from, to) {
            (b' ', _) => write!(word, "a space"),
            (from, to) if from == to => write!(word, "‘{}’", char::from(from)),
            (from, to) => write!(word, "one of {} to {}", char::from(from), char::from(to)),
        };
        words.push(word);
    }
    words
}
