//! One thing that an entry has to fulfil.

use crate::entry_rule::alternatives::{alternatives, escaped};
use crate::model::codes::Code;

/// One thing that an entry has to fulfil. What does not is refused with its finding.
#[derive(Clone, Debug)]
pub struct Condition {
    /// The finding of what does not.
    pub code: Code,
    /// A name in kebab-case, different for every condition of a rule.
    pub name: String,
    /// What is said about an entry that does not fulfil it.
    pub sentence: String,
    /// What is asked.
    pub demand: Demand,
}

/// What a condition asks of an entry. Regular expressions are in the syntax of the crate `regex` and may match anywhere.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Demand {
    /// The expression matches.
    Matches(String),
    /// The expression does not match.
    Never(String),
    /// Where the first expression matches, the second does as well.
    Where(String, String),
    /// The local part, without a tag behind a plus sign, is none of these words, in lower case.
    NotNamed(Vec<String>),
    /// So many bytes at most.
    AtMost(Length, usize),
    /// The domain is one of these names or lies below one: lower-case, A-labels and their letters.
    Below(Vec<String>),
    /// The domain is none of these, unless it is one of the names behind them or lies below one.
    NotAt(Vec<ListedDomain>, Vec<String>),
}

/// What is measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Length {
    /// The whole entry.
    Whole,
    /// What stands before the last @.
    LocalPart,
}

/// A domain of a list, in lower-case A-labels.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct ListedDomain {
    /// The domain.
    pub name: String,
    /// Every domain below it is meant as well.
    pub below: bool,
}

impl Demand {
    /// The same as expressions alone; lengths are then counted in characters.
    ///
    /// ```
    /// use ypogram_core::entry_rule::{Demand, Length};
    /// let demand = Demand::AtMost(Length::LocalPart, 64).as_expressions();
    /// assert_eq!(demand, Demand::Never("^(?s:.){65,}@[^@]*$".to_owned()));
    /// ```
    pub fn as_expressions(&self) -> Demand {
        match self {
            Demand::AtMost(Length::Whole, bytes) => Demand::Never(format!("^(?s:.){{{}}}", bytes + 1)),
            Demand::AtMost(Length::LocalPart, bytes) => {
                // In quotes there may be another @.
                Demand::Never(format!("^(?s:.){{{},}}@[^@]*$", bytes + 1))
            }
            Demand::NotNamed(words) => Demand::Never(format!("^{}(?:\\+[^@]*)?@", alternatives(words))),
            Demand::Below(names) => Demand::Matches(below(names)),
            Demand::NotAt(listed, but) => {
                let of = |below: bool| {
                    let names = listed.iter().filter(|domain| domain.below == below);
                    names.map(|domain| domain.name.clone()).collect::<Vec<_>>()
                };
                let (with_below, alone) = (of(true), of(false));
                let ways = [
                    (!alone.is_empty()).then(|| format!("@{}$", alternatives(&alone))),
                    (!with_below.is_empty()).then(|| below(&with_below)),
                ];
                let refused = ways.into_iter().flatten().collect::<Vec<_>>().join("|");
                if but.is_empty() { Demand::Never(refused) } else { Demand::Where(refused, below(but)) }
            }
            expressions => expressions.clone(),
        }
    }
}

/// What matches an entry whose domain is one of `names` or lies below one.
fn below(names: &[String]) -> String {
    format!("[@.]{}$", alternatives(names))
}

/// What matches an entry at `domain`.
pub(super) fn at(domain: &str) -> String {
    format!("@{}$", escaped(domain))
}
