//! A house's own patterns: one stored library of them, under names.

use std::sync::{Arc, OnceLock};

use regex::bytes::{Captures, Regex, RegexBuilder};
use regex_automata::nfa::thompson::Compiler;
use regex_automata::util::syntax;

use crate::model::span::Span;
use crate::policy::pattern_miss::{Automaton, PatternMiss};

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
    automaton: Automaton,
    /// What finds it inside a text, made when it is first asked for.
    finder: Arc<OnceLock<Option<Regex>>>,
}

/// Bytes that a pattern may take once it is compiled.
const LARGEST: usize = 1 << 20;

/// Steps that holding it against one value may take: a second or two.
const MOST_STEPS: usize = 1 << 30;

/// Where a pattern stands in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PatternMatch {
    /// All of it.
    pub span: Span,
    /// What its groups take, in their order; none for one that takes no part.
    pub groups: Vec<Option<Span>>,
}

impl PatternMatch {
    fn of(captures: &Captures<'_>) -> Self {
        let mut spans = captures.iter().map(|group| group.map(|group| Span::new(group.start(), group.end())));
        let span = spans.next().flatten().unwrap_or_default();
        PatternMatch { span, groups: spans.collect() }
    }
}

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
        let (automaton, finder) = Default::default();
        let (name, written) = (name.to_owned(), written.to_owned());
        Ok(Pattern { name, written, whole, ignore_case, regex, longest, automaton, finder })
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
    /// assert!(!loan.fits(b"see OBS/0117/b"));
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

    /// How far a `value` that it does not fit fits, and what was expected there. A pattern that may fit anywhere in a value fits no part of
    /// one that it misses.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/\d{4}/[a-z]", true, false).unwrap();
    /// let miss = loan.miss(b"OBS/0117-b");
    /// assert_eq!((miss.fits_up_to, &*miss.expected), (8, "‘/’"));
    /// assert_eq!(miss.sentence(b"OBS/0117-b"), "fits up to ‘OBS/0117’, then ‘/’ was expected, not ‘-b’");
    /// ```
    pub fn miss(&self, value: &[u8]) -> PatternMiss {
        match self.whole {
            true => self.automaton.miss(&self.written, self.ignore_case, value),
            false => PatternMiss::default(),
        }
    }

    /// Where it stands in `text`, a line at most, from left to right and without overlaps, each with what its groups take. One that has to fit
    /// a whole value has to be a whole word here: no letter, digit or underscore touches it. A text that is too long has none.
    ///
    /// ```
    /// use ypogram_core::Pattern;
    /// let loan = Pattern::new("loan", r"OBS/(\d{4})/[a-z]", true, false).unwrap();
    /// let text = b"OBS/0117/b and OBS/0118/c, not xOBS/0119/a";
    /// let numbers: Vec<&[u8]> = loan.find_all(text).map(|found| found.groups[0].unwrap().of(text)).collect();
    /// assert_eq!(numbers, [b"0117", b"0118"]);
    /// ```
    pub fn find_all(&self, text: &[u8]) -> impl Iterator<Item = PatternMatch> {
        let build = || {
            let source = match self.whole {
                true => format!(r"\b{{start-half}}(?:{})\b{{end-half}}", self.written),
                false => self.written.clone(),
            };
            RegexBuilder::new(&source).case_insensitive(self.ignore_case).size_limit(2 * LARGEST).build().ok()
        };
        let finder = self.finder.get_or_init(build).as_ref().filter(|_| !self.is_too_long(text.len()));
        finder
            .into_iter()
            .flat_map(move |finder| finder.captures_iter(text))
            .map(|captures| PatternMatch::of(&captures))
    }
}
