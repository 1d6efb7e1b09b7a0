//! The house's own words: what people read in the place of a built-in sentence or label. Codes stay what they are.

use hashbrown::HashMap;

use crate::model::codes::Code;

/// What a word is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum WordOf {
    /// The sentence of a finding.
    Finding,
    /// The sentence of a pattern.
    Pattern,
    /// The label of an outcome.
    Outcome,
    /// The label of a class.
    Class,
    /// The label of a kind of finding.
    Kind,
}

impl WordOf {
    /// All of them.
    pub const ALL: [WordOf; 5] =
        [WordOf::Finding, WordOf::Pattern, WordOf::Outcome, WordOf::Class, WordOf::Kind];

    /// What it is called in the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            WordOf::Finding => "finding",
            WordOf::Pattern => "pattern",
            WordOf::Outcome => "outcome",
            WordOf::Class => "class",
            WordOf::Kind => "kind",
        }
    }
}

/// Own words, by what they are of and the code that they stand for.
///
/// ```
/// use ypogram_core::{Code, WordOf, Words};
/// let mut words = Words::default();
/// words.set(WordOf::Outcome, "kept", "ready to use");
/// assert_eq!(words.label(WordOf::Outcome, "kept"), "ready to use");
/// assert_eq!(words.label(WordOf::Outcome, "review"), "review");
/// assert_eq!(words.sentence(Code::DoubleDot), Code::DoubleDot.info().sentence);
/// ```
#[derive(Clone, Debug, Default)]
pub struct Words(HashMap<(WordOf, String), String>);

impl Words {
    /// Says `text` in the place of the word or sentence of `code`.
    pub fn set(&mut self, of: WordOf, code: &str, text: &str) {
        self.0.insert((of, code.to_owned()), text.to_owned());
    }

    /// The house's own text, where it has one.
    pub fn own(&self, of: WordOf, code: &str) -> Option<&str> {
        // Most have none, and need no key made.
        if self.0.is_empty() { None } else { self.0.get(&(of, code.to_owned())).map(String::as_str) }
    }

    /// The label of a code: the house's own, else the code itself.
    pub fn label<'w>(&'w self, of: WordOf, code: &'w str) -> &'w str {
        self.own(of, code).unwrap_or(code)
    }

    /// The sentence of a finding: the house's own, else the built-in one.
    pub fn sentence(&self, code: Code) -> &str {
        self.own(WordOf::Finding, code.name()).unwrap_or(code.info().sentence)
    }
}
