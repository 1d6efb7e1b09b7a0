//! A house's own patterns: one stored library of them, under names.

use regex_automata::Input;
use regex_automata::dfa::Automaton;
use regex_automata::dfa::dense::{Builder, Config, DFA};
use regex_automata::nfa::thompson::Compiler;
use regex_automata::util::syntax;

use regex::bytes::{Captures, Regex, RegexBuilder};

/// A named pattern.
#[derive(Clone, Debug)]
pub struct Pattern {
    /// Its name in the rulebook.
    pub name: String,
    /// What was written there.
    pub written: String,
    whole: bool,
    ignore_case: bool,
    regex: Regex,
    /// Bytes of the longest value it is held against.
    longest: usize,
}

/// Bytes that a pattern may take once it is compiled.
const LARGEST: usize = 1 << 20;

/// Steps that holding it against one value may take: a second or two.
const MOST_STEPS: usize = 1 << 30;

impl Pattern {
    /// The pattern `written`, which has to fit a whole value where `whole` is set.
    ///
    /// # Errors
    /// A sentence, where it is no regular expression, and where it is larger than 1 MiB once it is compiled, as with counts of counts.
    pub fn new(name: &str, written: &str, whole: bool, ignore_case: bool) -> Result<Self, String> {
        let source = if whole { format!("^(?:{written})$") } else { written.to_owned() };
        let builder = RegexBuilder::new(&source).case_insensitive(ignore_case).size_limit(LARGEST).build();
        let regex = builder.map_err(|error| {
            if let regex::Error::CompiledTooBig(_) = error {
                return format!("the pattern ‘{name}’ is too large: what it repeats takes more than 1 MiB");
            }
            let text = error.to_string();
            let last =
                text.lines().last().unwrap_or("it cannot be read").trim_start_matches("error: ").to_owned();
            format!("the pattern ‘{name}’ cannot be read: {last}")
        })?;
        let states = Compiler::new()
            .syntax(syntax::Config::new().case_insensitive(ignore_case).utf8(false))
            .build(&source)
            .map_or(LARGEST, |nfa| nfa.states().len());
        let longest = MOST_STEPS / states.max(1);
        Ok(Pattern { name: name.to_owned(), written: written.to_owned(), whole, ignore_case, regex, longest })
    }

    /// Whether it has to fit a whole value.
    pub fn is_whole(&self) -> bool {
        self.whole
    }

    /// Whether letter case does not count.
    pub fn ignores_case(&self) -> bool {
        self.ignore_case
    }

    /// Whether a value of so many bytes is too long for it: a match takes a step for each byte and state at worst, and more than 2^30 are
    /// too many. Such a value does not fit.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/\d{4}/[a-z]", true, false).unwrap();
    /// assert!(!loan.is_too_long(1 << 20) && loan.is_too_long(1 << 30));
    /// ```
    pub fn is_too_long(&self, bytes: usize) -> bool {
        bytes > self.longest
    }

    /// Whether it fits `value`.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/\d{4}/[a-z]", true, false).unwrap();
    /// assert!(loan.fits(b"OBS/0117/b"));
    /// assert_eq!(loan.fits_up_to(b"OBS/0117-b"), 8);
    /// ```
    pub fn fits(&self, value: &[u8]) -> bool {
        !self.is_too_long(value.len()) && self.regex.is_match(value)
    }

    /// What it takes from `value`: what its first group fits, else all that it fits.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/(\d{4})/[a-z]", true, false).unwrap();
    /// assert_eq!(loan.taken(b"OBS/0117/b"), Some(&b"0117"[..]));
    /// assert_eq!(loan.taken(b"0117"), None);
    /// ```
    pub fn taken<'v>(&self, value: &'v [u8]) -> Option<&'v [u8]> {
        let groups = self.captures(value)?;
        groups.get(1).or_else(|| groups.get(0)).map(|group| group.as_bytes())
    }

    /// What its group `group`, a name or a number from 1, takes from `value`; none where it does not fit.
    pub fn group<'v>(&self, value: &'v [u8], group: &str) -> Option<&'v [u8]> {
        let groups = self.captures(value)?;
        let taken = groups.name(group).or_else(|| group.parse().ok().and_then(|number| groups.get(number)));
        taken.map(|group| group.as_bytes())
    }

    fn captures<'v>(&self, value: &'v [u8]) -> Option<Captures<'v>> {
        if self.is_too_long(value.len()) { None } else { self.regex.captures(value) }
    }

    /// The groups that it has: their names, or numbers from 1.
    pub fn groups(&self) -> Vec<String> {
        let names = self.regex.capture_names().enumerate().skip(1);
        names.map(|(number, name)| name.map_or_else(|| number.to_string(), str::to_owned)).collect()
    }

    /// How many bytes of `value` fit before nothing that could follow would make it fit. For a pattern that may fit
    /// anywhere this is 0.
    pub fn fits_up_to(&self, value: &[u8]) -> usize {
        if !self.whole {
            return 0;
        }
        let Some(automaton) = self.automaton() else { return 0 };
        let Ok(mut state) =
            automaton.start_state_forward(&Input::new(value).anchored(regex_automata::Anchored::Yes))
        else {
            return 0;
        };
        for (at, &byte) in value.iter().enumerate() {
            state = automaton.next_state(state, byte);
            if automaton.is_dead_state(state) || automaton.is_quit_state(state) {
                return at;
            }
        }
        value.len()
    }

    fn automaton(&self) -> Option<DFA<Vec<u32>>> {
        Builder::new()
            .configure(Config::new().dfa_size_limit(Some(8 << 20)).determinize_size_limit(Some(8 << 20)))
            .syntax(syntax::Config::new().case_insensitive(self.ignore_case))
            .build(&self.written)
            .ok()
    }
}
